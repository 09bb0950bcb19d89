import type { Alike, Binned, Change, Patch, Pull, SavedSearch, Sound, Stamp, TableName, Tag } from '@core/library';
import { binChanges, changeOf, TRAY } from '@core/library';
import type { Recipe, ShortName } from '@core/naming';
import { useCategories, type OwnCategory } from '@core/suggest';
import type {
  AsideRecord,
  Changed,
  Intake,
  Loadable,
  Loss,
  PeaksRecord,
  Problem,
  RootRecord,
  SmallTable,
  Turned,
  UndoState,
} from '@platform/index';
import { rootLock, underLock, underLocks, whyNotWritten, WRITING } from '@platform/index';
import { useThrottleFn } from '@vueuse/core';
import { proxy } from 'comlink';
import { defineStore } from 'pinia';
import { computed, ref, shallowReactive, shallowRef } from 'vue';
import { things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { turnFiles } from './file-work';
import { catalogue, fileWriter } from './workers';

/** Where the tab's name is kept while it is loaded anew, and where the library is remembered. */
const [TAB, KNOWN] = ['cormorant-tab', 'cormorant-library'];

/** Tables that hold scenes. */
const ofScenes: readonly TableName[] = ['scenes', 'tracks', 'effects', 'cues', 'markers', 'versions'];

/** The window's view of the catalogue: small tables whole, sounds and contours as they are looked at. */
export const useLibrary = defineStore('library', () => {
  const ready = ref(false);
  /** Rises with every change of the library, for whoever lists sounds: what is done in scenes changes none. */
  const revision = ref(0);
  /** Rises with every change of anything. */
  const changes = ref(0);
  const roots = shallowRef<RootRecord[]>([]);
  const tags = shallowRef<Tag[]>([]);
  const pulls = shallowRef<Pull[]>([]);
  const intakes = shallowRef<Intake[]>([]);
  const problems = shallowRef<Problem[]>([]);
  const undoState = ref<UndoState>({});
  const scope = ref('library');
  /** What became of the library that was here before; nothing when it is all there. */
  const loss = shallowRef<Loss>();
  /** Records that cannot be used. */
  const aside = shallowRef<AsideRecord[]>([]);
  const sounds = shallowReactive(new Map<number, Sound>());
  const peaks = shallowReactive(new Map<number, PeaksRecord>());
  /** Sounds whose rows are on screen. */
  const shown = shallowRef<readonly number[]>([]);
  const asked = new Set<number>();
  const stamps = shallowRef<Stamp[]>([]);
  const recipes = shallowRef<Recipe[]>([]);
  const shortNames = shallowRef<ShortName[]>([]);
  const ownCategories = shallowRef<OwnCategory[]>([]);
  const bin = shallowRef<Binned[]>([]);
  const searches = shallowRef<SavedSearch[]>([]);
  const alikes = shallowRef<Alike[]>([]);
  const held = {
    ...{ roots, tags, pulls, intakes, problems, stamps, recipes, shortNames, searches, alikes, bin },
    categories: ownCategories,
  };
  const listeners = new Set<(tables: TableName[], ids: Changed['ids']) => void>();

  /** When what stands in a table here was asked for: an answer to an earlier question comes too late. */
  const answered = new Map<string, number>();
  let questions = 0;

  async function refresh(tables: readonly TableName[]): Promise<void> {
    await Promise.all(
      Object.entries(held).map(async ([name, rows]) => {
        if (!tables.includes(name as TableName)) return;
        const question = ++questions;
        const fresh = await catalogue.all(name as SmallTable);
        if ((answered.get(name) ?? 0) > question) return;
        answered.set(name, question);
        // The list is in use before anything that shows it is drawn anew.
        if (name === 'categories') useCategories(fresh as OwnCategory[]);
        rows.value = fresh as never;
      }),
    );
  }

  /** Of each question for records that is on its way, the sounds that changed since. */
  const underway = new Set<Set<number>>();

  /** Records as they are when they come: those that changed on the way are asked for again. */
  async function records(ids: readonly number[]): Promise<Sound[]> {
    const overtaken = new Set<number>();
    underway.add(overtaken);
    const rows = await catalogue.sounds([...ids]).finally(() => underway.delete(overtaken));
    const again = ids.filter((id) => overtaken.has(id));
    if (again.length === 0) return rows;
    return [...rows.filter((s) => !overtaken.has(s.id)), ...(await records(again))];
  }

  /** @returns how many sounds there are */
  async function open(): Promise<number> {
    const opened = await catalogue.open(
      sessionStorage.getItem(TAB) ?? undefined,
      localStorage.getItem(KNOWN) ?? undefined,
    );
    sessionStorage.setItem(TAB, opened.tab);
    loss.value = opened.loss;
    aside.value = await catalogue.setAside();
    if (!opened.loss) localStorage.setItem(KNOWN, JSON.stringify(opened.identity));
    await refresh(Object.keys(held) as TableName[]);
    undoState.value = await catalogue.undoState(scope.value);
    await catalogue.subscribe(
      proxy(async ({ tables, ids, journal, lost }) => {
        if (lost) loss.value = await catalogue.lost();
        for (const overtaken of underway) for (const id of ids.sounds ?? []) overtaken.add(id);
        const held = (ids.sounds ?? []).filter((id) => sounds.has(id));
        const fresh = new Map((await records(held)).map((s) => [s.id, s]));
        for (const id of held) {
          const next = fresh.get(id);
          // Another file under the old name has another contour.
          if (next?.quickHash !== sounds.get(id)?.quickHash) peaks.delete(id);
          if (next) sounds.set(id, next);
          else sounds.delete(id);
        }
        await refresh(tables);
        if (journal) undoState.value = await catalogue.undoState(scope.value);
        changes.value++;
        if (tables.some((t) => !ofScenes.includes(t))) revision.value++;
        for (const listener of listeners) listener(tables, ids);
        remember();
      }),
    );
    ready.value = true;
    return opened.size;
  }

  /** Carries out changes as one edit. Failures are told; nothing is half done. */
  async function edit(
    label: string,
    changes: (Change | undefined)[],
    undoable = true,
    by?: string,
    of?: string,
  ): Promise<boolean> {
    const real = changes.filter((c) => c !== undefined);
    if (real.length === 0) return false;
    try {
      await catalogue.apply({ label, at: Date.now(), by, changes: real, undoable, ...(of ? { scope: of } : {}) });
      return true;
    } catch (error) {
      tell.error(`${label} could not be kept: ${(error as Error).message}`);
      return false;
    }
  }

  async function turned(turn: Promise<Turned | undefined>, done: string, none: string): Promise<void> {
    try {
      const made = await turn;
      if (!made) return tell.info(none);
      const others = made.kept === 1 ? '1 record was' : `${made.kept} records were`;
      tell.info(
        `${done}: ${made.label}${made.kept > 0 ? `. ${others} changed since, and ${made.kept === 1 ? 'stays' : 'stay'} so.` : ''}`,
      );
    } catch (error) {
      tell.error(`This could not be taken back: ${(error as Error).message}`);
    }
  }

  /** Files of an edit that wrote some are turned first: what the catalogue says of them follows. */
  async function withFiles(
    to: 'undone' | 'done',
    turn: (job?: number) => Promise<Turned | undefined>,
  ): Promise<Turned | undefined> {
    let done = await turn();
    // Where somebody pressed twice, the first step is taken by now, and the next one may have files of its own.
    while (done?.files !== undefined) {
      const job: number = done.files;
      const writer = await fileWriter();
      const ids = await writer.rootsOf(job);
      // A browser that asks does so while the key is still warm.
      for (const id of ids) {
        const root = roots.value.find((r) => r.id === id);
        if (root?.kind === 'picked') await whyNotWritten(root, 'asking');
      }
      // Nobody writes or looks through these folders until the library knows again of what lies in them.
      const { after, failed, stopped } = await underLock(WRITING, () =>
        underLocks(ids.map(rootLock), async () => {
          const outcome = await turnFiles(job, to);
          const turned = await turn(job);
          await writer.follow(job);
          return { ...outcome, after: turned };
        }),
      );
      const [first] = failed;
      if (first)
        tell.error(
          `${things(failed.length, 'file')} could not be turned and ${failed.length === 1 ? 'stays' : 'stay'} as written: ${first.path}: ${stopped ?? first.reason}`,
        );
      done = after;
    }
    return done;
  }
  const undo = () =>
    turned(
      withFiles('undone', (job) => catalogue.undo(scope.value, job)),
      'Taken back',
      'There is nothing to take back',
    );
  const redo = () =>
    turned(
      withFiles('done', (job) => catalogue.redo(scope.value, job)),
      'Done again',
      'There is nothing to do again',
    );

  /** What undo takes back: edits of the library, or of the scene that is worked on. */
  async function undoIn(name: string): Promise<void> {
    scope.value = name;
    if (ready.value) undoState.value = await catalogue.undoState(name);
  }

  /** Outside of the database it is remembered what it is: one that vanishes is missed. */
  const remember = useThrottleFn(
    async () => {
      if (!loss.value) localStorage.setItem(KNOWN, JSON.stringify(await catalogue.known()));
    },
    2000,
    true,
  );

  /** Goes on with the library as it is. */
  async function acceptLoss(): Promise<void> {
    await catalogue.accept();
    loss.value = undefined;
    await remember();
  }

  async function mend(ids: readonly number[]): Promise<number> {
    const done = await catalogue.mend([...ids]);
    aside.value = await catalogue.setAside();
    return done.length;
  }

  async function forgetAside(ids: readonly number[]): Promise<void> {
    await catalogue.forgetAside([...ids]);
    aside.value = await catalogue.setAside();
  }

  /** Fetches the records of sounds that are not here yet. */
  async function need(ids: readonly number[]): Promise<Sound[]> {
    const missing = ids.filter((id) => !sounds.has(id));
    if (missing.length > 0) for (const sound of await records(missing)) sounds.set(sound.id, sound);
    return ids.flatMap((id) => sounds.get(id) ?? []);
  }

  /** The same, with all that they were made of here, and what those were. */
  async function needOrigins(ids: readonly number[]): Promise<Sound[]> {
    const found = new Map<number, Sound>();
    for (let next = [...new Set(ids)]; next.length > 0;) {
      for (const sound of await need(next)) found.set(sound.id, sound);
      const named = next.flatMap((id) => found.get(id)?.built?.of ?? []);
      next = [...new Set(named)].filter((id) => !found.has(id));
    }
    return [...found.values()];
  }

  /** Fetches contours that are not here yet; those not measured stay missing until they are. */
  async function needPeaks(ids: readonly number[]): Promise<void> {
    const missing = ids.filter((id) => !peaks.has(id) && !asked.has(id));
    if (missing.length === 0) return;
    for (const id of missing) asked.add(id);
    for (const record of await catalogue.peaks(missing)) peaks.set(record.id, record);
    for (const id of missing) asked.delete(id);
  }

  /** Where sounds lie that are heard without being in the library, by the id of their root. */
  const loose = shallowReactive(new Map<number, RootRecord>());
  /** Roots that are folders on a disk, into which files may be put. */
  const folders = computed(() => roots.value.filter((r) => !r.removed && r.kind !== 'copied' && r.kind !== 'team'));
  const rootById = computed(() => new Map(roots.value.map((r) => [r.id, r])));

  /** A sound together with where it lies; undefined when its root is gone. */
  function loadable(sound: Sound): Loadable | undefined {
    const root = rootById.value.get(sound.rootId) ?? loose.get(sound.rootId);
    return root && { sound: { id: sound.id, path: sound.path, size: sound.size, format: sound.format }, root };
  }

  /** Roots that cannot be read now. */
  const outOfReach = shallowRef<ReadonlySet<number>>(new Set());
  /** Folders that cannot be read, by root. */
  const closedFolders = computed(() => {
    const byRoot = new Map<number, string[]>();
    for (const { rootId, path, folder } of problems.value)
      if (folder) byRoot.set(rootId, [...(byRoot.get(rootId) ?? []), `${path}/`]);
    return byRoot;
  });

  /** Why a sound cannot be heard now: its file is gone, or its folder is out of reach; undefined when it can. */
  function absence({
    fields,
    rootId,
    path,
  }: Pick<Sound, 'fields' | 'rootId' | 'path'>): 'Missing' | 'Unreachable' | undefined {
    if (loose.has(rootId)) return undefined;
    if (outOfReach.value.has(rootId) || !rootById.value.has(rootId)) return 'Unreachable';
    if (closedFolders.value.get(rootId)?.some((folder) => path.startsWith(folder))) return 'Unreachable';
    return fields.state === 'Missing' ? 'Missing' : undefined;
  }

  const tray = computed(() => pulls.value.find((p) => p.id === TRAY));

  /** Changes a record by dotted paths, as one edit. */
  function patch(
    label: string,
    table: TableName,
    row: { id: number },
    after: Patch,
    undoable = true,
    of?: string,
  ): Promise<boolean> {
    return edit(label, [changeOf(table, row, after)], undoable, undefined, of);
  }

  /**
   * Deletes a record into the bin.
   * @param more changes that belong to it
   * @param along what is kept with it there
   */
  async function discard(
    table: TableName,
    record: { id: number; name?: string },
    more: (Change | undefined)[] = [],
    along: Pick<Binned, 'soundIds' | 'rows'> = {},
  ): Promise<boolean> {
    const [binId] = await catalogue.newIds('bin', 1);
    const changes = binChanges(table, JSON.parse(JSON.stringify(record)) as typeof record, binId, Date.now(), along);
    return edit(`Delete ${record.name ?? 'a record'}`, [...more, ...changes]);
  }

  /** Removes ids from, or adds them to, a pull. */
  function setPull(pull: Pull, soundIds: number[], label: string): Promise<boolean> {
    return patch(label, 'pulls', pull, { soundIds });
  }

  /** Adds sounds to the end of a pull, each once. */
  function addToPull(pull: Pull, ids: readonly number[], label: string): Promise<boolean> {
    return setPull(pull, [...new Set([...pull.soundIds, ...ids])], label);
  }

  /** Calls back with the tables of every change. */
  function onChange(listener: (tables: TableName[], ids: Changed['ids']) => void): void {
    listeners.add(listener);
  }

  return {
    ready,
    revision,
    changes,
    roots,
    tags,
    pulls,
    intakes,
    problems,
    stamps,
    recipes,
    shortNames,
    ownCategories,
    bin,
    searches,
    alikes,
    undoState,
    undoIn,
    loss,
    acceptLoss,
    aside,
    mend,
    forgetAside,
    sounds,
    peaks,
    shown,
    tray,
    rootById,
    folders,
    outOfReach,
    absence,
    loose,
    open,
    edit,
    undo,
    redo,
    need,
    needOrigins,
    needPeaks,
    loadable,
    patch,
    discard,
    setPull,
    addToPull,
    onChange,
  };
});
