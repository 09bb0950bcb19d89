import { allows, choicesOf, chosen, type TeamChoice } from '@core/elsewhere';
import { additionOf, type Pull } from '@core/library';
import type { TeamDeed, TeamLibrary, TeamList, TeamMe, TeamMember, TeamRight } from '@core/schemas';
import { Elsewhere, Team, type Followed, type LeftOut, type SharedLibraries, type TeamPlace } from '@platform/index';
import { useDebounceFn } from '@vueuse/core';
import { proxy } from 'comlink';
import { defineStore } from 'pinia';
import { computed, reactive, ref, shallowReactive, shallowRef } from 'vue';
import { things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useLibrary } from './library';
import { useServices } from './services';
import { TeamStream, type Heard } from './team-stream';
import { catalogue, sharer } from './workers';

/** After an edit, how long one waits for the next before it is sent; milliseconds. */
const SETTLES = 700;
/** After that long, a server that did not answer is asked again; milliseconds. */
const AGAIN = 3000;

/** A label of a sound that somebody has to choose. */
export interface OpenChoice extends TeamChoice {
  soundId: number;
}

/** A team: its libraries and lists as roots and pulls of this catalogue, kept in step both ways. */
export const useTeam = defineStore('team', () => {
  const library = useLibrary();
  const services = useServices();
  /** The address of its server; nothing where none is known. */
  const base = ref('');
  const name = ref('The team');
  const me = shallowRef<TeamMe>();
  /** Whether it does not answer now. */
  const away = ref(false);
  const libraries = shallowRef<TeamLibrary[]>([]);
  const lists = shallowRef<TeamList[]>([]);
  const failure = ref('');
  let team: SharedLibraries | undefined;
  const known = computed(() => base.value !== '');

  const roots = computed(() => library.roots.filter((r) => r.kind === 'team' && r.team && !r.removed));
  /** The root that a library is here; undefined for one that was not taken in. */
  const rootOf = (id: number) => roots.value.find((r) => r.team!.library === id && r.team!.list === undefined);
  const pullOf = (list: number) => library.pulls.find((p) => p.team?.list === list);
  const may = (id: number, needed: TeamRight): boolean =>
    allows(libraries.value.find((l) => l.id === id)?.right, needed);

  /** Looks once whether there is one, and follows what of it is here. */
  let looked: Promise<void> | undefined;
  const look = (): Promise<void> => (looked ??= lookNow());
  async function lookNow(): Promise<void> {
    const { team: address } = await services.look();
    if (address === undefined) return;
    const url = new URL(address, location.href).href;
    team = new Team(url);
    await meet();
    base.value = url;
    library.onChange((tables, ids) => {
      if (tables.includes('sounds')) touch(ids.sounds ?? []);
      if (tables.includes('pulls')) for (const id of ids.pulls ?? []) touchedPulls.add(id);
      if (tables.includes('pulls')) void pullsLater();
    });
  }
  /** Whoever has a library or a list of a team here follows it from the beginning. */
  async function begin(): Promise<void> {
    if (roots.value.length > 0 || library.pulls.some((p) => p.team)) await look();
  }

  /** Learns who one is and what one may see. */
  async function meet(): Promise<void> {
    try {
      const about = await team!.about();
      name.value = about.name;
      me.value = await team!.me();
      away.value = false;
      if (me.value) await seen();
    } catch (error) {
      failure.value = (error as Error).message;
      lost();
      return;
    }
    failure.value = '';
    if (me.value) stream.listen(team!.events);
  }
  /** What one may see, noted with what of it is here. */
  async function rights(): Promise<void> {
    [libraries.value, lists.value] = await Promise.all([team!.libraries(), team!.lists()]);
    for (const root of roots.value) {
      const { library: id, list } = root.team!;
      const right =
        list === undefined
          ? libraries.value.find((l) => l.id === id)?.right
          : lists.value.find((l) => l.id === list)?.right;
      const at = team!.filesOf(id, list);
      if (root.base !== at || root.team!.right !== right)
        await library.patch(
          `Note what may be done with ${root.name}`,
          'roots',
          root,
          { base: at, 'team.right': right },
          false,
        );
    }
  }
  /** The same, and all of it that is here brought up to date. */
  async function seen(): Promise<void> {
    await rights();
    for (const root of roots.value) void follow(root.id);
    for (const pull of library.pulls) if (pull.team) void followPull(pull.id);
  }
  /** It does not answer: it is asked again by itself. */
  function lost(): void {
    away.value = true;
    void again();
  }
  const again = useDebounceFn(() => meet(), AGAIN);
  const stream = new TeamStream({
    heard: (told) => void heard(told),
    lost,
    refused: () => void again(),
    isWanted: () => me.value !== undefined,
  });
  async function heard({ of, id }: Heard): Promise<void> {
    if (!me.value) return;
    // What cannot be asked now is asked again once the server answers.
    await rights().catch(() => undefined);
    const pull = of === 'list' ? pullOf(Number(id)) : undefined;
    if (pull) void followPull(pull.id);
    if (of === 'library') for (const root of roots.value) if (root.team!.library === Number(id)) void follow(root.id);
  }

  // Who one is
  async function signed(task: (of: SharedLibraries) => Promise<TeamMe>): Promise<void> {
    me.value = await task(team!);
    await meet();
  }
  const enter = (person: string, password: string) => signed((t) => t.enter(person, password));
  const join = (invitation: string, person: string, password: string) =>
    signed((t) => t.join(invitation.trim(), person, password));
  const password = (old: string, fresh: string) => signed((t) => t.password(old, fresh));
  async function leave(): Promise<void> {
    await team!.leave();
    stream.end();
    me.value = undefined;
    [libraries.value, lists.value] = [[], []];
  }

  // Following
  /** How far it is with a library that is being followed, by root. */
  const following = reactive(new Map<number, { share: number; what: string }>());
  /** What came of it the last time, and why it failed. */
  const followed = shallowReactive(new Map<number, Partial<Followed> & { failure?: string }>());
  const touched = new Map<number, Set<number>>();
  const asked = new Set<number>();

  function touch(ids: readonly number[]): void {
    if (roots.value.length === 0) return;
    for (const root of roots.value) {
      const own = touched.get(root.id) ?? new Set();
      touched.set(root.id, own);
      for (const id of ids) own.add(id);
    }
    void later();
  }
  const later = useDebounceFn(() => {
    for (const root of roots.value) if ((touched.get(root.id)?.size ?? 0) > 0) void follow(root.id);
  }, SETTLES);

  /** Brings a library and its root together; asked again meanwhile, once more. */
  async function follow(rootId: number): Promise<void> {
    if (!me.value || !team) return;
    if (following.has(rootId)) return void asked.add(rootId);
    following.set(rootId, { share: 0, what: '' });
    const ids = [...(touched.get(rootId) ?? [])];
    touched.delete(rootId);
    try {
      const report = proxy((share: number, what: string) => void following.set(rootId, { share, what }));
      const told = await (await sharer()).follow(base.value || addressNow(), rootId, ids, report, me.value.name);
      followed.set(rootId, told);
      if (told.unmeasured?.length !== 0) void measure(rootId, told.unmeasured);
      if (told.added + told.sent > 0) libraries.value = await team.libraries().catch(() => libraries.value);
      away.value = false;
    } catch (error) {
      // What was changed here waits.
      touched.set(rootId, new Set([...ids, ...(touched.get(rootId) ?? [])]));
      const { message, name: kind } = error as Error;
      if (kind === 'Elsewhere' && /cannot be reached/.test(message)) lost();
      followed.set(rootId, { ...followed.get(rootId), failure: message });
    } finally {
      following.delete(rootId);
    }
    if (asked.delete(rootId)) void follow(rootId);
  }
  /** Share of a library of which what was measured is here, while that is being fetched, by root. */
  const measuring = reactive(new Map<number, number>());
  async function measure(rootId: number, ids: readonly number[] | undefined): Promise<void> {
    measuring.set(rootId, 0);
    try {
      const report = proxy((share: number) => void measuring.set(rootId, share));
      await (await sharer()).measure(base.value || addressNow(), rootId, ids && [...ids], report);
    } catch {
      // It is asked for again with the next page; labels are here all the same.
    } finally {
      measuring.delete(rootId);
    }
  }
  const addressNow = (): string => new URL(services.known.team!, location.href).href;

  /** Takes a library in: it is searched together with one's own from then on. */
  async function takeIn({ id, name: called, right }: TeamLibrary): Promise<void> {
    const before = library.roots.find((r) => r.removed && r.team?.library === id && r.team.list === undefined);
    if (before) {
      await catalogue.takeOut(before.id, undefined);
      return follow(before.id);
    }
    const [rootId] = await catalogue.newIds('roots', 1);
    const root = {
      ...{ id: rootId, name: called, kind: 'team' as const, base: team!.filesOf(id), added: Date.now() },
      team: { library: id, revision: 0, right },
    };
    if (await library.edit(`Take in ${called}`, [additionOf('roots', root)], false)) await follow(rootId);
  }

  // Choosing
  const open = shallowRef<OpenChoice[]>([]);
  const conflicts = computed(() => [...new Set([...followed.values()].flatMap((f) => f.conflicts ?? []))]);
  async function showChoices(): Promise<void> {
    const tags = new Map(library.tags.map((t) => [t.id, t.name]));
    const sounds = await catalogue.sounds([...conflicts.value]);
    open.value = sounds.flatMap((s) => choicesOf(s, tags).map((c) => ({ soundId: s.id, ...c })));
  }
  async function choose(choices: readonly OpenChoice[], which: 'mine' | 'theirs'): Promise<void> {
    const keys = new Map<number, string[]>();
    for (const { soundId, key } of choices) keys.set(soundId, [...(keys.get(soundId) ?? []), key]);
    const ids = new Map(library.tags.map((t) => [t.name.trim().toLocaleLowerCase(), t.id]));
    const sounds = await catalogue.sounds([...keys.keys()]);
    const changes = sounds.map((s) =>
      chosen(s, keys.get(s.id)!, which, (tag) => ids.get(tag.trim().toLocaleLowerCase())),
    );
    if (!(await library.edit(`Choose ${things(choices.length, 'label')}`, changes))) return;
    for (const root of roots.value) if (sounds.some((s) => s.rootId === root.id)) await follow(root.id);
    await showChoices();
  }

  // Work that takes its time: adding and fetching
  const work = ref<{ what: string; share: number; current: string; ending: boolean }>();
  const outcome = shallowRef<{ message: string; left: LeftOut[] }>();
  async function working<T>(
    what: string,
    task: (report: (share: number, current: string) => void) => Promise<T>,
  ): Promise<T | undefined> {
    if (work.value) return undefined;
    work.value = { what, share: 0, current: '', ending: false };
    outcome.value = undefined;
    try {
      return await task(
        proxy((share: number, current: string) => {
          if (work.value) work.value = { ...work.value, share, current };
        }),
      );
    } catch (error) {
      tell.error(`${what} did not come to its end: ${(error as Error).message}`);
      return undefined;
    } finally {
      work.value = undefined;
    }
  }
  async function end(): Promise<void> {
    if (work.value) work.value = { ...work.value, ending: true };
    await (await sharer()).end();
  }
  /** Adds sounds to a library. @returns their ids there, by those here */
  async function add(to: TeamLibrary, ids: readonly number[]): Promise<Map<number, number> | undefined> {
    const told = await working(`Adding to ${to.name}`, async (report) =>
      (await sharer()).add(base.value, to.id, [...ids], report),
    );
    libraries.value = await team!.libraries().catch(() => libraries.value);
    if (!told) return undefined;
    const parts = [
      `${things(told.added.length, 'sound')} ${told.added.length === 1 ? 'is' : 'are'} in ${to.name}`,
      `${(told.bytes / 1e6).toFixed(1)} MB were sent`,
    ];
    outcome.value = {
      message: `${parts.join('; ')}${told.ended ? '; ended before all of it was sent' : ''}`,
      left: told.left,
    };
    return new Map(told.added.map((a) => [a.id, a.there]));
  }
  async function fetchFiles(what: string, ids: readonly number[]): Promise<void> {
    const told = await working(`Fetching ${what}`, async (report) => (await sharer()).fetch([...ids], report));
    if (!told) return;
    outcome.value = {
      message: `${things(told.fetched, 'file')} fetched, ${told.here} were here already: they are heard without the server`,
      left: told.left,
    };
  }
  async function dropFiles(of: TeamLibrary): Promise<void> {
    const count = await (await sharer()).drop(base.value, of.id);
    tell.done(`${things(count, 'file')} of ${of.name} let go of; they are heard from the server again`);
  }

  // Lists
  const touchedPulls = new Set<number>();
  const pullsLater = useDebounceFn(() => {
    for (const id of touchedPulls) if (library.pulls.find((p) => p.id === id)?.team) void followPull(id);
    touchedPulls.clear();
  }, SETTLES);
  const pullsRunning = new Set<number>();
  const pullsAsked = new Set<number>();
  /** What came of following a list, in words, by pull. */
  const pullWords = reactive(new Map<number, string>());
  async function followPull(id: number): Promise<void> {
    if (!me.value || !team) return;
    if (pullsRunning.has(id)) return void pullsAsked.add(id);
    pullsRunning.add(id);
    const called = library.pulls.find((p) => p.id === id)?.name ?? 'The list';
    try {
      const told = await (
        await sharer()
      ).followList(
        base.value || addressNow(),
        id,
        proxy(() => undefined),
      );
      if (told.lost) tell.info(`${called} is not shared with you any more; it stays here as a list of your own`);
      for (const { theirs, mine } of told.conflicts)
        tell.error(`In ${called}, somebody changed a note meanwhile. Theirs stays: “${theirs}”. Yours was: “${mine}”`);
      const words = [
        told.own > 0
          ? `${things(told.own, 'sound')} of it ${told.own === 1 ? 'is in no library of the team, and stays' : 'are in no library of the team, and stay'} here`
          : '',
        told.kept ? 'you may not change it there: what you changed stays here' : '',
      ];
      pullWords.set(id, words.filter(Boolean).join('; '));
      if (told.told) lists.value = await team.lists().catch(() => lists.value);
    } catch (error) {
      pullWords.set(id, (error as Error).message);
    } finally {
      pullsRunning.delete(id);
    }
    if (pullsAsked.delete(id)) void followPull(id);
  }
  /** Keeps a list of the team as a pull here, in step from then on. */
  async function takeList({ id, name: called }: TeamList): Promise<void> {
    const [pullId] = await catalogue.newIds('pulls', 1);
    const was = { name: called, members: [] };
    const pull: Pull = { id: pullId, name: called, soundIds: [], created: Date.now(), team: { list: id, was } };
    if (await library.edit(`Keep the list ${called}`, [additionOf('pulls', pull)], false)) await followPull(pullId);
  }
  /** Shares a pull as a list, which it is from then on; sounds that are in no library of the team are added to one before. */
  async function share(pull: Pull, into: TeamLibrary | undefined): Promise<void> {
    const sounds = await catalogue.sounds([...pull.soundIds]);
    const own = sounds.filter((s) => !s.team || !rootOfSound(s.rootId));
    const members = new Map(sounds.flatMap((s) => memberOf(s.id, s.rootId, s.team?.id)));
    if (own.length > 0 && into) {
      const added = await add(
        into,
        own.map((s) => s.id),
      );
      if (!added) return;
      for (const [id, there] of added) members.set(id, { library: into.id, sound: there });
    }
    const list = await team!.makeList(pull.name);
    const placed = sounds.flatMap((s) => members.get(s.id) ?? []);
    const noted = sounds.flatMap((s) => {
      const member = members.get(s.id);
      const note = pull.notes?.[s.id];
      return member && note ? [{ ...member, was: '', is: note }] : [];
    });
    const first = await team!.editList(list.id, { add: placed });
    const { list: made } = noted.length > 0 ? await team!.editList(list.id, { notes: noted }) : first;
    lists.value = await team!.lists();
    // From now on its sounds are those of the team; what went to no library of it stays as it is.
    const left = pull.soundIds.filter((id) => !members.has(id));
    const notes = Object.fromEntries(left.flatMap((id) => (pull.notes?.[id] ? [[id, pull.notes[id]]] : [])));
    const after = { soundIds: left, notes, team: { list: list.id, was: { name: pull.name, members: [] } } };
    if (await library.patch(`Share ${pull.name}`, 'pulls', pull, after)) await followPull(pull.id);
    tell.done(`${made.name} is shared with ${things(made.members.length, 'sound')}. Say who may see it`);
  }
  const rootOfSound = (rootId: number) => roots.value.find((r) => r.id === rootId);
  function memberOf(
    id: number,
    rootId: number,
    there: number | undefined,
  ): [number, { library: number; sound: number }][] {
    const root = rootOfSound(rootId);
    return root?.team && there !== undefined ? [[id, { library: root.team.library, sound: there }]] : [];
  }

  // Rights
  const people = (of: TeamPlace): Promise<TeamMember[]> => team!.people(of);
  const grant = (of: TeamPlace, person: string, right: TeamRight | null): Promise<TeamMember[]> =>
    team!.grant(of, person, right);
  const invite = (grants: readonly (TeamPlace & { right: TeamRight })[], owner: boolean): Promise<string> =>
    team!.invite(grants, owner);
  const deeds = (of: number): Promise<TeamDeed[]> => team!.deeds(of);
  async function make(called: string): Promise<void> {
    await team!.make(called);
    libraries.value = await team!.libraries();
  }
  /** Takes sounds out of a library for everybody. */
  async function removeThere(of: TeamLibrary, ids: readonly number[]): Promise<void> {
    await team!.remove(of.id, ids);
    const root = rootOf(of.id);
    if (root) await follow(root.id);
  }

  /** Says in words why something was not done. */
  const wordsOf = (error: unknown): string =>
    error instanceof Elsewhere || error instanceof Error ? error.message : String(error);

  return {
    ...{ base, known, name, me, away, failure, libraries, lists, roots, rootOf, pullOf, may, wordsOf },
    ...{ look, begin, meet, enter, join, password, leave, following, followed, measuring, follow, takeIn },
    ...{ conflicts, open, showChoices, choose, work, outcome, add, end, fetchFiles, dropFiles, touch },
    ...{ pullWords, takeList, share, people, grant, invite, deeds, make, removeThere },
  };
});
