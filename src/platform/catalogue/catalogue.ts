import type { Alike, Change, Edit, Followed, Pull, Sound, TableName, Tag } from '@core/library';
import { applyChange, byFile, changeOf, fieldOf, invert, TRAY } from '@core/library';
import type { Facet, FacetCount, FolderCount, SoundTable } from '@core/search';
import { nearWords, useCategories, type OwnCategory } from '@core/suggest';
import type { Table } from 'dexie';
import { heardDays, type HeardDay } from '../finding/heard';
import { idsOfPlaces, type Place } from '../finding/places';
import { EDITS, Searcher, type Counted, type FirstAnswer, type Search, type SearchRest } from '../finding/searcher';
import type { SnapshotFile } from '../finding/snapshots';
import type { FactsRecord, PeaksRecord, Play, RootRecord, Touched } from '../store/store';
import { FACTS_VERSION, Store, stepsOf, type JournalEntry } from '../store/store';

/** What changed, for whoever shows it. */
export interface Changed {
  tables: TableName[];
  soundIds: number[];
}

export interface UndoState {
  undo?: string;
  redo?: string;
}

/** Tables that the window holds whole; they are small. */
export type SmallTable = Exclude<TableName, 'sounds'>;

const CHANNEL = 'cormorant-changes';
const KEPT_ENTRIES = 2000;
/** Tables whose names searching goes by. */
const WORDS: ReadonlySet<TableName> = new Set(['tags', 'categories', 'alikes']);

/**
 * The catalogue: the store, its journal and the search index, living in a worker. All changes come through
 * {@link Catalogue.apply}; a Web Lock and one transaction per edit keep several tabs from crossing each other.
 */
export class Catalogue {
  private readonly store = new Store();
  private readonly index: Searcher;
  private readonly channel = new BroadcastChannel(CHANNEL);
  private listener: (changed: Changed) => void = () => undefined;

  /** @param snapshot where the index is kept; in the browser's private file system when absent */
  constructor(snapshot?: SnapshotFile) {
    this.index = new Searcher(this.store, snapshot);
  }

  /** Opens the store and the index. @returns how many sounds there are */
  async open(): Promise<number> {
    await this.store.open();
    if (!(await this.store.pulls.get(TRAY))) {
      const tray: Pull = { id: TRAY, name: 'Tray', soundIds: [], created: Date.now() };
      await this.apply({
        label: 'Set up the tray',
        at: Date.now(),
        undoable: false,
        changes: [{ table: 'pulls', id: TRAY, after: { ...tray } }],
      });
    }
    await this.index.open((await this.store.tags.toArray()) as Tag[]);
    await this.readWords();
    this.channel.onmessage = (event: MessageEvent<Changed>) => void this.follow(event.data);
    // What another tab did while nobody listened.
    await navigator.locks.request(EDITS, () => this.index.catchUp());
    return this.index.size;
  }

  /** Calls back after every change, be it from this tab or another one. */
  subscribe(listener: (changed: Changed) => void): void {
    this.listener = listener;
  }

  /** Hands tags, own categories and words alike to the index; sounds know tags by identity, so nothing else changes with a name. */
  private async readWords(): Promise<void> {
    this.index.setTags((await this.store.tags.toArray()) as Tag[]);
    useCategories((await this.store.categories.toArray()) as OwnCategory[]);
    const own = ((await this.store.alikes.toArray()) as Alike[]).map((a) => a.words);
    this.index.setAlike([...own, ...nearWords]);
  }

  /** Another tab changed the store: take over what it did. */
  private async follow(changed: Changed): Promise<void> {
    if (changed.tables.some((t) => WORDS.has(t))) await this.readWords();
    if (changed.soundIds.length > 0) await navigator.locks.request(EDITS, () => this.index.catchUp());
    this.listener(changed);
  }

  private table(name: TableName): Table<{ id: number }, number> {
    return this.store.table(name);
  }

  /** Fresh ids for records about to be made. */
  async newIds(table: TableName, count: number): Promise<number[]> {
    return this.store.transaction('rw', this.store.counters, async () => {
      // The tray has id 1 in every catalogue; everything else is counted from 2.
      const next = (await this.store.counters.get(table))?.next ?? TRAY + 1;
      await this.store.counters.put({ name: table, next: next + count });
      return Array.from({ length: count }, (_, i) => next + i);
    });
  }

  /** Carries out an edit: all of it or nothing, together with its journal entry. */
  async apply(edit: Edit): Promise<void> {
    if (edit.changes.length === 0) return;
    await this.run(edit.changes, async () => {
      // What the program did by itself can be done again by itself: its journal entry stays out.
      if (!edit.undoable) return;
      const undone = await this.store.journal.where('state').equals('undone').primaryKeys();
      const { changes, ...entry } = edit;
      const seq = (await this.store.journal.add({
        ...entry,
        state: 'done',
        count: changes.length,
      } as JournalEntry)) as number;
      const old = await this.store.journal
        .where('seq')
        .belowOrEqual(seq - KEPT_ENTRIES)
        .primaryKeys();
      const gone = [...undone, ...old];
      if (gone.length > 0) {
        await this.store.journal.bulkDelete(gone);
        await this.store.steps.where('seq').anyOf(gone).delete();
      }
      await this.store.steps.bulkPut(stepsOf(seq, changes));
    });
  }

  private async run(changes: Change[], journal: () => Promise<void>): Promise<void> {
    const names = [...new Set(changes.map((c) => c.table))];
    const before = new Map<number, Sound>();
    const after = new Map<number, Sound | undefined>();
    const changed: Changed = { tables: names, soundIds: [] };
    await navigator.locks.request(EDITS, async () => {
      let rev: number | undefined;
      await this.store.transaction('rw', [...names, 'journal', 'steps', 'touched'], async () => {
        for (const name of names)
          await this.runTable(
            name,
            changes.filter((c) => c.table === name),
            before,
            after,
          );
        changed.soundIds = [...after.keys()];
        if (after.size > 0) rev = await this.store.touched.add({ ids: Uint32Array.from(after.keys()) } as Touched);
        await journal();
      });
      // The index is as far as the store whenever the lock is free.
      this.updateIndex(before, after);
      if (rev !== undefined) this.index.saw(rev);
    });
    if (names.some((t) => WORDS.has(t))) await this.readWords();
    this.channel.postMessage(changed);
    this.listener(changed);
  }

  private async runTable(
    name: TableName,
    changes: Change[],
    before: Map<number, Sound>,
    after: Map<number, Sound | undefined>,
  ): Promise<void> {
    const table = this.table(name);
    const ids = [...new Set(changes.filter((c) => c.before).map((c) => c.id))];
    const rows = new Map<number, object | undefined>((await table.bulkGet(ids)).map((row, i) => [ids[i], row]));
    if (name === 'sounds') for (const [id, row] of rows) if (row) before.set(id, row as Sound);
    const touched = new Map<number, object | undefined>();
    for (const change of changes) {
      const next = applyChange(rows.get(change.id), change);
      rows.set(change.id, next);
      touched.set(change.id, next);
    }
    const puts = [...touched.values()].filter((row) => row !== undefined);
    const gone = [...touched].filter(([, row]) => row === undefined).map(([id]) => id);
    if (puts.length > 0) await table.bulkPut(puts as { id: number }[]);
    if (gone.length > 0) await table.bulkDelete(gone);
    if (name === 'sounds') for (const [id, row] of touched) after.set(id, row as Sound | undefined);
  }

  private updateIndex(before: Map<number, Sound>, after: Map<number, Sound | undefined>): void {
    const put: Sound[] = [];
    for (const [id, sound] of after) {
      if (!sound) {
        this.index.remove([id]);
        continue;
      }
      const old = before.get(id);
      const keys = old
        ? Object.keys({ ...old.fields, ...sound.fields }).filter((k) => old.fields[k] !== sound.fields[k])
        : undefined;
      // Hearing a sound is the commonest change of all; it must not cost a new slot.
      if (old?.hidden === sound.hidden && keys?.every((k) => fieldOf(k).weight === 0))
        for (const k of keys) this.index.setValue(id, k, sound.fields[k]);
      else put.push(sound);
    }
    this.index.put(put);
  }

  /** Takes the newest edit back. @returns its label, undefined when there is nothing to take back */
  undo(): Promise<string | undefined> {
    return this.turn('done', 'undone');
  }

  /** Does again what was taken back last. */
  redo(): Promise<string | undefined> {
    return this.turn('undone', 'done');
  }

  private async turn(from: 'done' | 'undone', to: 'done' | 'undone'): Promise<string | undefined> {
    const entries = this.store.journal.where('state').equals(from);
    const entry = from === 'done' ? await entries.last() : await entries.first();
    if (!entry) return undefined;
    const steps = await this.store.steps.where('seq').equals(entry.seq).toArray();
    const made = { ...entry, changes: steps.sort((a, b) => a.block - b.block).flatMap((s) => s.changes) };
    const { changes } = from === 'done' ? invert(made) : made;
    await this.run(changes, () => this.store.journal.update(entry.seq, { state: to }).then(() => undefined));
    return entry.label;
  }

  /** What undo and redo would do now. */
  async undoState(): Promise<UndoState> {
    const [done, undone] = await Promise.all([
      this.store.journal.where('state').equals('done').last(),
      this.store.journal.where('state').equals('undone').first(),
    ]);
    return { undo: done?.label, redo: undone?.label };
  }

  /** The first rows of a search; undefined when a newer one came meanwhile. */
  first(search: Search): Promise<FirstAnswer | undefined> {
    return this.index.first(search);
  }

  /** What goes beyond the first rows; undefined when a newer search came meanwhile. */
  rest(turn: number, counted: Counted): Promise<SearchRest | undefined> {
    return this.index.rest(turn, counted);
  }

  /** The sounds that a search finds, in order; for whoever is not the list on screen. */
  ids(search: Search): Promise<Uint32Array> {
    return this.index.ids(search);
  }

  /** Values of a field among the results of a search, the most frequent first. @param part only values that contain it */
  values(search: Search, key: string, part: string, most: number): Promise<Facet> {
    return this.index.values(search, key, part, most);
  }

  /** How sounds differ to the ear from one. @param id or what `likeCode` made of a region, a file or a voice */
  differences(id: number | string, others: readonly number[]): string[][] {
    return this.index.differences(id, others);
  }

  /** Words of the library that begin with a text, the most frequent first. */
  words(part: string, most: number): FacetCount[] {
    return this.index.words(part, most);
  }

  /** Keeps that a sound was heard. */
  async heard(play: Omit<Play, 'seq'>): Promise<void> {
    await this.store.plays.add(play as Play);
  }

  /** What was heard, newest first. @param before only what is older */
  plays(most: number, before = Infinity): Promise<Play[]> {
    return this.store.plays.where('seq').below(before).reverse().limit(most).toArray();
  }

  /** The days on which something was heard, newest first. */
  heardDays(): Promise<HeardDay[]> {
    return heardDays(this.store);
  }

  /** Forgets all that was heard, and takes the marks off the sounds. */
  async forgetPlays(): Promise<void> {
    await this.store.plays.clear();
    for (let after = -Infinity; ;) {
      const rows = await this.store.sounds.where('id').above(after).limit(2000).toArray();
      if (rows.length === 0) return;
      after = rows[rows.length - 1].id;
      const changes = rows.flatMap(
        (s) => changeOf('sounds', s, { 'fields.heard': undefined, 'from.heard': undefined }) ?? [],
      );
      await this.apply({ label: 'Forget what was heard', at: Date.now(), changes, undoable: false });
    }
  }

  /** The sounds at some places; undefined for a place that has none. */
  async idsOfPlaces(places: readonly Place[]): Promise<(number | undefined)[]> {
    return idsOfPlaces(this.store, this.index.table(['folder', 'file'])!, places);
  }

  /** Folders of all roots that have sounds right in them. */
  folders(): FolderCount[] {
    return this.index.folders();
  }

  /** Words that stand beside a word in the same sounds, the closest first. */
  neighbours(word: string, most: number): Promise<FacetCount[]> {
    return this.index.neighbours(word, most);
  }

  /** Some fields of the results of a search; undefined for a field that searching does not know. */
  tableOf(search: Search, keys: readonly string[]): Promise<SoundTable | undefined> {
    return this.index.tableOf(search, keys);
  }

  /** The records of some sounds, in the order asked for; those that are gone are left out. */
  async sounds(ids: number[]): Promise<Sound[]> {
    return (await this.store.sounds.bulkGet(ids)).filter((s) => s !== undefined);
  }

  /** All sounds of a root. */
  soundsOf(rootId: number): Promise<Sound[]> {
    return this.store.sounds.where('rootId').equals(rootId).toArray();
  }

  /** A whole small table. */
  all(table: SmallTable): Promise<unknown[]> {
    return this.table(table).toArray();
  }

  /** The server root of this id, if it was added before. */
  rootByServerId(serverId: string): Promise<RootRecord | undefined> {
    return this.store.roots.where('serverId').equals(serverId).first();
  }

  /** Contours of some sounds; those not measured yet are left out. */
  async peaks(ids: number[]): Promise<PeaksRecord[]> {
    return (await this.store.peaks.bulkGet(ids)).filter((p) => p !== undefined);
  }

  /** What following its files needs of the sounds of a root, those of one file as one; of all roots without one. */
  async followed(rootId?: number): Promise<(Followed & { rootId: number })[]> {
    const list: (Followed & { rootId: number; excerpt: boolean })[] = [];
    const rows =
      rootId === undefined ? this.store.sounds.toCollection() : this.store.sounds.where('rootId').equals(rootId);
    await rows.each(({ id, rootId: root, path, size, modified, trace, fields, excerpt }) => {
      const missing = fields.state === 'Missing';
      list.push({ id, rootId: root, path, size, modified, trace, missing, excerpt: excerpt !== undefined });
    });
    return byFile(list);
  }

  /** Sounds whose file is missing, of a root or of all. */
  async missing(rootId?: number): Promise<Sound[]> {
    const rows =
      rootId === undefined ? this.store.sounds.toCollection() : this.store.sounds.where('rootId').equals(rootId);
    return rows.filter((s) => s.fields.state === 'Missing').toArray();
  }

  /** Sounds that are set aside or retired. */
  hidden(): Promise<Sound[]> {
    return this.store.sounds.filter((s) => s.hidden !== undefined).toArray();
  }

  /** How many sounds a root has, and which of them wait for being measured. */
  async unmeasured(rootId: number): Promise<{ total: number; waiting: number[] }> {
    const ids = await this.store.sounds.where('rootId').equals(rootId).primaryKeys();
    const there = new Set(await this.store.facts.where('id').anyOf(ids).primaryKeys());
    return { total: ids.length, waiting: ids.filter((id) => !there.has(id)) };
  }

  /** Keeps what was measured. It is derived data, so no edit; the fields made from it are one. */
  async putMeasured(peaks: PeaksRecord[], facts: FactsRecord[]): Promise<void> {
    this.index.forgetVectors(facts.map((f) => f.id));
    await this.store.transaction('rw', 'peaks', 'facts', async () => {
      await this.store.peaks.bulkPut(peaks);
      await this.store.facts.bulkPut(facts);
    });
  }

  /** Lets go of what was measured of sounds whose audio is another now. */
  async forgetMeasured(ids: number[]): Promise<void> {
    await this.store.transaction('rw', 'peaks', 'facts', async () => {
      await this.store.peaks.bulkDelete(ids);
      await this.store.facts.bulkDelete(ids);
    });
  }

  /** Curves, onsets and fingerprints of some sounds; those not measured yet are left out. */
  async facts(ids: number[]): Promise<FactsRecord[]> {
    return (await this.store.facts.bulkGet(ids)).filter(
      (f) => f !== undefined && f.version === FACTS_VERSION,
    ) as FactsRecord[];
  }

  /** How many sounds each root has. */
  async countByRoot(): Promise<[rootId: number, count: number][]> {
    const roots = await this.store.roots.toCollection().primaryKeys();
    return Promise.all(
      roots.map(async (id): Promise<[number, number]> => [
        id,
        await this.store.sounds.where('rootId').equals(id).count(),
      ]),
    );
  }

  /** The newest journal entries that stand, newest first. */
  async journal(most = 200): Promise<JournalEntry[]> {
    return this.store.journal.orderBy('seq').reverse().limit(most).toArray();
  }

  /** What became of one sound, newest first: which edit changed what of it, from what to what. */
  async history(soundId: number, most = 100): Promise<HistoryEntry[]> {
    const keys = (await this.store.steps.toCollection().primaryKeys())
      .filter(([, , table, first, last]) => table === 'sounds' && first <= soundId && soundId <= last)
      .reverse();
    const found: HistoryEntry[] = [];
    for (const key of keys) {
      if (found.length >= most) break;
      const [step, entry] = await Promise.all([this.store.steps.get(key), this.store.journal.get(key[0])]);
      const changes = step?.changes.filter((c) => c.id === soundId) ?? [];
      if (changes.length > 0 && entry) found.push({ entry, changes });
    }
    return found;
  }

  /** Some fields of all sounds that are not hidden; undefined for a field that searching does not know. */
  soundTable(keys: readonly string[]): SoundTable | undefined {
    return this.index.table(keys);
  }

  /** How many sounds have each tag. */
  tagCounts(): [tagId: number, count: number][] {
    return this.index.tagCounts();
  }

  /** How many sounds have each category. */
  categoryCounts(): Record<string, number> {
    return this.index.counts('catId');
  }

  /** Sounds, hidden ones included, that have one of these tags. */
  tagged(ids: readonly number[]): Promise<Sound[]> {
    const has = (s: Sound) => (s.fields.tags as readonly number[] | undefined)?.some((t) => ids.includes(t)) ?? false;
    return this.store.sounds.filter(has).toArray();
  }
}

/** One edit as it concerns one sound. */
export interface HistoryEntry {
  entry: JournalEntry;
  changes: Change[];
}
