import { allows, listEdit, pullFrom, sharedOf, type HereOf, type ThereOf } from '@core/elsewhere';
import { changeOf, EditConflict, type Pull, type Sound } from '@core/library';
import type { TeamList, TeamNoteConflict } from '@core/schemas';
import type { SharedLibraries } from '../elsewhere/team';
import type { Progress } from '../labelling/desk';
import { underLock } from '../store/locks';
import type { RootRecord, Store } from '../store/store';
import type { Follower, TeamCatalogue } from './follower';

/** What came of following a list. */
export interface FollowedList {
  /** The list is not there any more, or not for one: it goes on as a list of this catalogue. */
  lost: boolean;
  /** Whether something was told there. */
  told: boolean;
  /** Sounds of it that are in no library of the team: they stay here. */
  own: number;
  /** Changes that were made here and not told, as one may not change the list. */
  kept: boolean;
  /** Notes that somebody else changed meanwhile: theirs stay. */
  conflicts: TeamNoteConflict[];
}

const lock = (pullId: number) => `cormorant-team-list-${pullId}`;
const keyOf = (library: number, sound: number) => `${library}/${sound}`;

/** Follows lists of a team: each is a pull here. */
export class ListFollower {
  constructor(
    private readonly store: Store,
    private readonly catalogue: TeamCatalogue,
    private readonly follower: Follower,
  ) {}

  /** Which sounds here are which there: libraries that are followed whole go before what is heard by the list alone. */
  private async places(list: TeamList | undefined, pull: Pull): Promise<{ there: ThereOf; here: HereOf }> {
    const roots = ((await this.store.roots.toArray()) as RootRecord[]).filter(
      (r) => r.kind === 'team' && r.team && !r.removed && (r.team.list === undefined || r.team.list === list?.id),
    );
    const ordered = roots.sort((a, b) => Number(a.team!.list ?? 0) - Number(b.team!.list ?? 0));
    const byRoot = new Map(ordered.map((r) => [r.id, r.team!.library]));
    const there = new Map<number, { library: number; sound: number }>();
    for (const sound of (await this.store.sounds.bulkGet([...pull.soundIds])) as (Sound | undefined)[]) {
      const library = sound && byRoot.get(sound.rootId);
      if (sound?.team && library !== undefined) there.set(sound.id, { library, sound: sound.team.id });
    }
    const here = new Map<string, number>();
    const members = [...(list?.members ?? []), ...(pull.team?.was.members ?? [])];
    for (const root of ordered) {
      const ids = members.flatMap((m) => (m.library === root.team!.library ? [[root.id, m.sound]] : []));
      for (const sound of (await this.store.sounds.where('[rootId+team.id]').anyOf(ids).toArray()) as Sound[]) {
        const key = keyOf(root.team!.library, sound.team!.id);
        if (!here.has(key)) here.set(key, sound.id);
      }
    }
    return { there: (id) => there.get(id), here: ({ library, sound }) => here.get(keyOf(library, sound)) };
  }

  /**
   * Brings a list and its pull together.
   * @throws Elsewhere where the server cannot be reached: what was changed here waits
   */
  follow(team: SharedLibraries, pullId: number, progress: Progress): Promise<FollowedList> {
    return underLock(lock(pullId), async () => {
      const outcome: FollowedList = { lost: false, told: false, own: 0, kept: false, conflicts: [] };
      for (let turn = 0; ; turn++)
        try {
          return await this.once(team, pullId, progress, outcome);
        } catch (error) {
          // Somebody edits the pull meanwhile.
          if (!(error instanceof EditConflict || (error as Error).name === 'EditConflict') || turn === 5) throw error;
        }
    });
  }

  private async once(
    team: SharedLibraries,
    pullId: number,
    progress: Progress,
    outcome: FollowedList,
  ): Promise<FollowedList> {
    const pull = (await this.store.pulls.get(pullId)) as Pull | undefined;
    if (!pull?.team) return outcome;
    let list = (await team.lists()).find((l) => l.id === pull.team!.list);
    if (!list) {
      await this.apply(pull, { team: undefined });
      return { ...outcome, lost: true };
    }
    const { there, here } = await this.places(list, pull);
    const edit = listEdit(pull.team.was, sharedOf(pull, there, here));
    if (edit && !allows(list.right, 'add')) outcome.kept = true;
    else if (edit) {
      const said = await team.editList(list.id, edit);
      list = said.list;
      outcome.told = true;
      outcome.conflicts.push(...said.conflicts);
    }
    await this.bring(team, list, progress);
    // What was brought is found now.
    const places = await this.places(list, pull);
    outcome.own = pull.soundIds.filter((id) => !places.there(id)).length;
    // What one may not tell there stays as it is here.
    if (outcome.kept) return outcome;
    const next = pullFrom(pull, list, places.there, places.here);
    await this.apply(pull, { ...next, notes: next.notes });
    return outcome;
  }

  private async apply(pull: Pull, after: Record<string, unknown>): Promise<void> {
    const change = changeOf('pulls', pull, after);
    if (!change) return;
    const label = `Follow ${pull.name}`;
    await this.catalogue.apply({
      ...{ label, at: Date.now(), by: 'team', changes: [change], undoable: false, precondition: 'match' },
    });
  }

  /** Takes over sounds of libraries that are not followed here, as far as the list lets one hear them. */
  private async bring(team: SharedLibraries, list: TeamList, progress: Progress): Promise<void> {
    const roots = ((await this.store.roots.toArray()) as RootRecord[]).filter((r) => r.kind === 'team' && !r.removed);
    const whole = new Set(roots.flatMap((r) => (r.team && r.team.list === undefined ? [r.team.library] : [])));
    for (const library of new Set(list.members.map((m) => m.library))) {
      if (whole.has(library)) continue;
      let root = roots.find((r) => r.team?.list === list.id && r.team.library === library);
      if (!root) {
        const [id] = await this.catalogue.newIds('roots', 1);
        root = {
          ...{ id, name: list.name, kind: 'team', base: team.filesOf(library, list.id), added: Date.now() },
          team: { library, list: list.id, revision: 0, right: list.right },
        };
        const changes = [{ table: 'roots' as const, id, after: { ...root } }];
        await this.catalogue.apply({ label: `Hear ${list.name}`, at: Date.now(), changes, undoable: false });
      }
      await this.follower.follow(team, root.id, [], progress);
      await this.follower.measure(team, root.id, undefined, progress);
    }
  }
}
