import type { Change, Sound } from '@core/library';
import type { TeamSound } from '@core/schemas';
import { Team } from '@platform/elsewhere/team';
import { Store, type RootRecord } from '@platform/store/store';
import { Follower } from '@platform/team/follower';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Desk } from './desk';
import { teamSound, TestTeam } from './team';

const top = mkdtempSync(join(tmpdir(), 'cormorant-follow-'));
export const teams: { close: () => void }[] = [];
export const desks: Desk[] = [];
export const stores: Store[] = [];
let count = 0;
/** Ends all that was begun here. */
export function endTeams(): void {
  for (const team of teams) team.close();
  for (const desk of desks) desk.close();
  for (const store of stores) store.close();
  rmSync(top, { recursive: true, force: true });
}
/** A folder of its own for one more team. */
export const teamFolder = (): string => join(top, String(count++));

export const PASSWORD = 'kelp and copper';
export const quiet = (): undefined => undefined;

/** Two people of one team, and a library of three sounds: one of them follows it, the other one works there directly. */
export async function begun(right: 'hear' | 'add' = 'add') {
  const team = new TestTeam(teamFolder());
  teams.push(team);
  const [door, other] = [await team.door(), await team.door()];
  const owner = new Team(other.base);
  await owner.join(team.invitation, 'Maren', PASSWORD);
  const library = await owner.make('Yard');
  const mine = new Team(door.base);
  await mine.join(await owner.invite([{ of: 'library', id: library.id, right }], false), 'Idris', PASSWORD);
  const put = async (to: number, path: string, own: Partial<TeamSound> = {}): Promise<number> => {
    const sound = teamSound(path, path, own);
    const file = { sha256: sound.file, size: sound.size };
    await owner.send(to, file, await owner.sent(to, file), path);
    return (await owner.add(to, [sound]))[0];
  };
  const add = (path: string, own: Partial<TeamSound> = {}) => put(library.id, path, own);
  const desk = new Desk();
  desks.push(desk);
  await desk.fresh();
  const store = new Store();
  stores.push(store);
  await store.open();
  const root: RootRecord = {
    ...{ id: 7, name: 'Yard', kind: 'team', base: mine.filesOf(library.id), added: 0 },
    team: { library: library.id, revision: 0, right },
  };
  await desk.put('Add', [{ table: 'roots', id: 7, after: { ...root } }], false);
  const follower = new Follower(store, desk.catalogue);
  let touched: number[] | undefined;
  const follow = (ids = touched) => follower.follow(mine, 7, ids, quiet);
  const here = async (path: string): Promise<Sound> => {
    const sound = (await desk.catalogue.soundsOf(7)).find((s) => s.path === path);
    if (!sound) throw new Error(`${path} is not here`);
    return sound;
  };
  const edit = async (path: string, after: Change['after'], undoable = true): Promise<number> => {
    const { id } = await here(path);
    await desk.put('Edit', [{ table: 'sounds', id, before: {}, after }], undoable);
    return id;
  };
  const there = async (path: string) => {
    const { changed } = await owner.changes(library.id, 0);
    return changed.find((r) => r.path === path)!;
  };
  return { team, door, owner, mine, library, add, put, desk, store, follow, here, edit, there };
}
