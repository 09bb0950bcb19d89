import type { Alike, Binned, Change, Patch, Pull, SavedSearch, Sound, Stamp, TableName, Tag } from '@core/library';
import { binChanges, changeOf, TRAY } from '@core/library';
import type { Recipe, ShortName } from '@core/naming';
import { useCategories, type OwnCategory } from '@core/suggest';
import type { Intake, Loadable, PeaksRecord, Problem, RootRecord, SmallTable, UndoState } from '@platform/index';
import { proxy } from 'comlink';
import { defineStore } from 'pinia';
import { computed, ref, shallowReactive, shallowRef } from 'vue';
import { tell } from '../shell/notice';
import { catalogue } from './workers';

/** The window's view of the catalogue: small tables whole, sounds and contours as they are looked at. */
export const useLibrary = defineStore('library', () => {
  const ready = ref(false);
  /** Rises with every change, for whoever lists sounds. */
  const revision = ref(0);
  const roots = shallowRef<RootRecord[]>([]);
  const tags = shallowRef<Tag[]>([]);
  const pulls = shallowRef<Pull[]>([]);
  const intakes = shallowRef<Intake[]>([]);
  const problems = shallowRef<Problem[]>([]);
  const undoState = ref<UndoState>({});
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
  const listeners = new Set<(tables: TableName[]) => void>();

  async function refresh(tables: readonly TableName[]): Promise<void> {
    await Promise.all(
      Object.entries(held).map(async ([name, rows]) => {
        if (!tables.includes(name as TableName)) return;
        const fresh = await catalogue.all(name as SmallTable);
        // The list is in use before anything that shows it is drawn anew.
        if (name === 'categories') useCategories(fresh as OwnCategory[]);
        rows.value = fresh as never;
      }),
    );
  }

  async function open(): Promise<void> {
    await catalogue.open();
    await refresh(Object.keys(held) as TableName[]);
    undoState.value = await catalogue.undoState();
    await catalogue.subscribe(
      proxy(async ({ tables, soundIds }) => {
        const held = soundIds.filter((id) => sounds.has(id));
        const fresh = new Map((await catalogue.sounds(held)).map((s) => [s.id, s]));
        for (const id of held) {
          const next = fresh.get(id);
          // Another file under the old name has another contour.
          if (next?.trace !== sounds.get(id)?.trace) peaks.delete(id);
          if (next) sounds.set(id, next);
          else sounds.delete(id);
        }
        await refresh(tables);
        undoState.value = await catalogue.undoState();
        revision.value++;
        for (const listener of listeners) listener(tables);
      }),
    );
    ready.value = true;
  }

  /** Carries out changes as one edit. Failures are told; nothing is half done. */
  async function edit(label: string, changes: (Change | undefined)[], undoable = true, by?: string): Promise<boolean> {
    const real = changes.filter((c) => c !== undefined);
    if (real.length === 0) return false;
    try {
      await catalogue.apply({ label, at: Date.now(), by, changes: real, undoable });
      return true;
    } catch (error) {
      tell.error(`${label} could not be kept: ${(error as Error).message}`);
      return false;
    }
  }

  async function undo(): Promise<void> {
    const label = await catalogue.undo();
    tell.info(label ? `Taken back: ${label}` : 'There is nothing to take back');
  }

  async function redo(): Promise<void> {
    const label = await catalogue.redo();
    tell.info(label ? `Done again: ${label}` : 'There is nothing to do again');
  }

  /** Fetches the records of sounds that are not here yet. */
  async function need(ids: readonly number[]): Promise<Sound[]> {
    const missing = ids.filter((id) => !sounds.has(id));
    if (missing.length > 0) for (const sound of await catalogue.sounds(missing)) sounds.set(sound.id, sound);
    return ids.flatMap((id) => sounds.get(id) ?? []);
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
  const rootById = computed(() => new Map(roots.value.map((r) => [r.id, r])));

  /** A sound together with where it lies; undefined when its root is gone. */
  function loadable(sound: Sound): Loadable | undefined {
    const root = rootById.value.get(sound.rootId) ?? loose.get(sound.rootId);
    return root && { sound: { id: sound.id, path: sound.path, size: sound.size, format: sound.format }, root };
  }

  const tray = computed(() => pulls.value.find((p) => p.id === TRAY));

  /** Changes a record by dotted paths, as one edit. */
  function patch(
    label: string,
    table: TableName,
    row: { id: number },
    after: Patch,
    undoable = true,
  ): Promise<boolean> {
    return edit(label, [changeOf(table, row, after)], undoable);
  }

  /** Deletes a record into the bin. @param more changes that belong to it */
  async function discard(
    table: TableName,
    record: { id: number; name?: string },
    more: (Change | undefined)[] = [],
    soundIds?: number[],
  ): Promise<boolean> {
    const [binId] = await catalogue.newIds('bin', 1);
    const changes = binChanges(table, JSON.parse(JSON.stringify(record)) as typeof record, binId, Date.now(), soundIds);
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
  function onChange(listener: (tables: TableName[]) => void): void {
    listeners.add(listener);
  }

  return {
    ready,
    revision,
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
    sounds,
    peaks,
    shown,
    tray,
    rootById,
    loose,
    open,
    edit,
    undo,
    redo,
    need,
    needPeaks,
    loadable,
    patch,
    discard,
    setPull,
    addToPull,
    onChange,
  };
});
