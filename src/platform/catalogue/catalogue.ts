import type { Alike, Change, Edit, KnownFile, Pull, Sound, TableName, Tag } from '@core/library';
import { byFile, changeOf, TRAY } from '@core/library';
import type { Facet, FacetCount, FolderCount, SoundTable } from '@core/search';
import { nearWords, useCategories, type OwnCategory } from '@core/suggest';
import type { Table } from 'dexie';
import { heardDays, type HeardDay } from '../finding/heard';
import { idsOfPlaces, type Place } from '../finding/places';
import type { Counted, FirstAnswer, Search, SearchRest } from '../finding/questions';
import { Searcher } from '../finding/searcher';
import type { SnapshotFile } from '../finding/snapshots';
import { EDITS, underLock } from '../store/locks';
import { Room } from '../store/room';
import type { AsideRecord, FactsRecord, PeaksRecord, Play, RootRecord } from '../store/store';
import { FACTS_VERSION, Store, type JournalEntry } from '../store/store';
import { Aside } from './aside';
import { History, type HistoryEntry } from './history';
import { privateMemory, type Identity, type Loss, type Memory } from '../store/identity';
import { Keeper } from './keeper';
import { RootCounts } from './root-counts';
import { Journal, LIBRARY, nameTab, type UndoState } from './journal';
import { takeOutEdit } from './take-out';
import { Writer, type Committed, type Measurements, type Turned } from './writer';

/** What changed, for whoever shows it. */
export interface Changed {
  tables: TableName[];
  /** Ids of the records that changed, by table. */
  ids: Partial<Record<TableName, number[]>>;
  /** Whether it changed what can be taken back. */
  journal?: boolean;
  /** The database is not the one any more that it was. */
  lost?: boolean;
}

/** What opening the catalogue found. */
export interface Opened {
  /** How many sounds can be found. */
  size: number;
  /** What this tab is called; it wishes for the same name when it is loaded anew. */
  tab: string;
  /** What became of the library that was here before. */
  loss?: Loss;
  /** Records that were set aside just now. */
  aside: number;
  identity: Identity;
}

/** What a catalogue lives on; each has a usual one in the browser. */
export interface Surroundings {
  /** Where the index is kept. */
  snapshot?: SnapshotFile;
  room?: Room;
  /** What remembers the catalogue outside of its database. */
  memory?: Memory;
}

/** Tables that the window holds whole; they are small. */
export type SmallTable = Exclude<TableName, 'sounds'>;

const CHANNEL = 'cormorant-changes';
/** Tables whose names searching goes by. */
const WORDS: ReadonlySet<TableName> = new Set(['tags', 'categories', 'alikes']);

/**
 * The catalogue: the store, its journal and the search index, living in a worker. All changes come through
 * {@link Catalogue.apply}; a Web Lock and one transaction per edit keep several tabs from crossing each other.
 */
export class Catalogue {
  private readonly store: Store;
  private readonly index: Searcher;
  private readonly journalOf: Journal;
  private readonly aside: Aside;
  private readonly past: History;
  private readonly writer: Writer;
  private readonly keeper: Keeper;
  private readonly channel = new BroadcastChannel(CHANNEL);
  private listener: (changed: Changed) => void = () => undefined;
  private ended = false;
  private opening: Promise<unknown> | undefined;
  private readonly counts: RootCounts;

  constructor({ snapshot, room = new Room(), memory = privateMemory() }: Surroundings = {}) {
    this.store = new Store(room);
    this.journalOf = new Journal(this.store);
    this.aside = new Aside(this.store);
    this.past = new History(this.store);
    this.counts = new RootCounts(this.store);
    this.keeper = new Keeper(this.store, memory, () => this.index.size);
    this.index = new Searcher(this.store, { file: snapshot, room, sift: (rows) => this.aside.sift(rows) });
    this.writer = new Writer(this.store, this.journalOf, room, (done) => this.takeOver(done));
  }

  /** Begins to open the store, for whoever will soon ask for all of it. What goes wrong is told then. */
  begin(): void {
    this.opening ??= Promise.resolve(this.store.open());
    this.opening.catch(() => undefined);
  }

  /**
   * Opens the store and the index. One record that cannot be used keeps nobody out: it is set aside.
   * @param tab what this tab was called before it was loaded anew
   * @param remembered what the window remembers of the catalogue
   */
  async open(tab?: string, remembered?: string): Promise<Opened> {
    this.begin();
    await this.opening;
    await this.keeper.open(remembered);
    ({ name: this.journalOf.tab, leave: this.journalOf.leave } = await nameTab(tab));
    this.store.returned = () => void this.returned();
    const aside = await underLock(EDITS, () => this.aside.sweep());
    if (!(await this.store.pulls.get(TRAY))) {
      const tray: Pull = { id: TRAY, name: 'Tray', soundIds: [], created: Date.now() };
      const changes: Change[] = [{ table: 'pulls', id: TRAY, after: { ...tray } }];
      await this.apply({ label: 'Set up the tray', at: Date.now(), undoable: false, changes });
    }
    await this.index.open((await this.store.tags.toArray()) as Tag[]);
    await this.readWords();
    this.channel.onmessage = (event: MessageEvent<Changed>) =>
      void this.follow(event.data).catch((error: unknown) => {
        // A page that is left while it follows need not.
        if (!this.ended) throw error;
      });
    // What another tab did while nobody listened.
    await underLock(EDITS, () => this.index.catchUp());
    await this.keeper.settle();
    const { loss, identity } = this.keeper;
    return { size: this.index.size, tab: this.journalOf.tab, loss, aside, identity };
  }

  /** Lets go of everything; for a page that is left, and for tests. */
  close(): void {
    this.ended = true;
    this.keeper.close();
    this.index.close();
    this.channel.close();
    this.journalOf.leave();
    this.store.close();
  }

  /** The browser closed the database by itself: whether it is still the same one is seen before anything else is done. */
  private async returned(): Promise<void> {
    if (this.ended || !(await this.keeper.again())) return;
    // No index answers for another store.
    await this.index.rebuild();
    this.listener({ tables: ['sounds'], ids: {}, lost: true });
  }

  /** What became of the library that was here, if that was not accepted yet. */
  lost(): Loss | undefined {
    return this.keeper.loss;
  }

  /** Goes on with the library as it is now. */
  async accept(): Promise<void> {
    this.keeper.loss = undefined;
    await this.keeper.settle();
  }

  /** How the catalogue is known, for whoever remembers it outside of its database. */
  known(): Identity {
    return this.keeper.identity;
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
    if (this.ended) return;
    if (changed.tables.some((t) => WORDS.has(t))) await this.readWords();
    if (changed.ids.sounds) {
      this.counts.forget();
      await underLock(EDITS, () => this.index.catchUp());
    }
    this.listener(changed);
  }

  private readonly table = (name: TableName): Table<{ id: number }, number> => this.store.table(name);

  /** Makes sure that there is room for any edit at all, before much is read for one. @throws NoRoom */
  async enough(): Promise<void> {
    await this.writer.enough();
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

  /** Carries out an edit: all of it or nothing, together with its journal entry. @throws EditConflict, NoRoom */
  async apply(edit: Edit): Promise<void> {
    if (edit.changes.length > 0) await this.tell(await this.writer.apply(edit), edit.undoable);
  }

  /** The same, together with what was measured: derived data, which is no edit, and the fields made from it. */
  async applyMeasured(edit: Edit, measured: Measurements): Promise<void> {
    this.index.forgetVectors(measured.facts.map((f) => f.id));
    await this.tell(await this.writer.apply(edit, measured));
  }

  /** Puts into the index what changed, while nobody else can edit. A kept edit is never called a failure: what throws is made anew. */
  private async takeOver({ before, after, rev, revision }: Committed): Promise<void> {
    this.keeper.identity = { ...this.keeper.identity, revision };
    try {
      this.counts.change(before, after);
      this.index.change(before, after);
      if (rev !== undefined) this.index.saw(rev);
    } catch {
      this.counts.forget();
      await this.index.rebuild();
    }
  }

  private async tell(done: Committed | undefined, journal = false): Promise<void> {
    if (!done) return;
    const { tables, ids } = done;
    this.keeper.remember();
    if (tables.some((t) => WORDS.has(t))) await this.readWords();
    const changed: Changed = { tables, ids, ...(journal ? { journal } : {}) };
    this.channel.postMessage(changed);
    this.listener(changed);
  }

  /** Takes the newest edit of a scope back that is this tab's own. @param job whose files were turned already @returns undefined when there is nothing to take back */
  undo(scope = LIBRARY, job?: number): Promise<Turned | undefined> {
    return this.turned('undone', scope, job);
  }

  /** Does again what was taken back last. */
  redo(scope = LIBRARY, job?: number): Promise<Turned | undefined> {
    return this.turned('done', scope, job);
  }

  private async turned(to: 'done' | 'undone', scope: string, job?: number): Promise<Turned | undefined> {
    const turned = await this.writer.turn(to, scope, job);
    if (!turned || turned.files !== undefined) return turned;
    await this.tell(turned.done ?? { tables: [], ids: {}, before: new Map(), after: new Map(), revision: 0 }, true);
    return { label: turned.label, kept: turned.kept };
  }

  /** How many files were being written when that was broken off. */
  unfinishedWrites(): Promise<number> {
    return this.store.writes.where('state').anyOf('writing', 'done').count();
  }

  /** What undo and redo would do now. */
  undoState(scope = LIBRARY): Promise<UndoState> {
    return this.journalOf.undoState(scope);
  }

  /** The first rows of a search; undefined when a newer one came meanwhile. */
  first(search: Search): Promise<FirstAnswer | undefined> {
    return this.index.first(search);
  }

  /** What goes beyond the first rows; undefined when a newer search came meanwhile. */
  rest(searchId: number, counted: Counted): Promise<SearchRest | undefined> {
    return this.index.rest(searchId, counted);
  }

  /** The sounds that a search finds, in order; for whoever is not the list on screen. */
  async ids(search: Search): Promise<Uint32Array> {
    return (await this.index.rows(search)).ids;
  }

  /** The same, and where bands begin among them. */
  readonly rows: Searcher['rows'] = (search) => this.index.rows(search);

  /** See `Searcher.nearWords`. */
  nearWords(words: readonly string[]): Map<string, string[]> {
    return this.index.nearWords(words);
  }

  /** Why a sound is among the results of a search. */
  readonly why: Searcher['why'] = (search, id) => this.index.why(search, id);

  /** Values of a field among the results of a search, the most frequent first. @param part only values that contain it */
  values(search: Search, key: string, part: string, most: number): Promise<Facet> {
    return this.index.values(search, key, part, most);
  }

  /** How sounds differ to the ear from one. @param id or what `likeCode` made of a region, a file or a voice */
  readonly differences: Searcher['differences'] = (id, others) => this.index.differences(id, others);

  /** What a sound is compared by, as a text; see `likeCode`. */
  readonly likeOf: Searcher['codeOf'] = (id) => this.index.codeOf(id);

  /** Words of the library that begin with a text, the most frequent first. */
  readonly words: Searcher['words'] = (part, most) => this.index.words(part, most);

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
    return this.aside.sift((await this.store.sounds.bulkGet(ids)).filter((s) => s !== undefined));
  }

  /** All sounds of a root. */
  soundsOf(rootId: number): Promise<Sound[]> {
    return this.store.sounds.where('rootId').equals(rootId).toArray();
  }

  /** A whole small table. */
  all(table: SmallTable): Promise<unknown[]> {
    return this.table(table).toArray();
  }

  /** Rows of a table by their ids; those that are not there are left out. */
  async some(table: SmallTable, ids: readonly number[]): Promise<{ id: number }[]> {
    return (await this.store.table(table).bulkGet([...ids])).filter((r) => r !== undefined) as { id: number }[];
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
  async followed(rootId?: number): Promise<(KnownFile & { rootId: number })[]> {
    const list: (KnownFile & { rootId: number; excerpt: boolean })[] = [];
    const rows =
      rootId === undefined ? this.store.sounds.toCollection() : this.store.sounds.where('rootId').equals(rootId);
    await rows.each(({ id, rootId: root, path, size, modified, quickHash, fields, excerpt }) => {
      const missing = fields.state === 'Missing';
      list.push({ id, rootId: root, path, size, modified, quickHash, missing, excerpt: excerpt !== undefined });
    });
    return byFile(list);
  }

  /** Sounds whose file is missing, of a root or of all. */
  async missing(rootId?: number): Promise<Sound[]> {
    const all = await this.store.sounds.where('fields.state').equals('Missing').toArray();
    return rootId === undefined ? all : all.filter((s) => s.rootId === rootId);
  }

  /** Sounds that are set aside or retired. */
  hidden(): Promise<Sound[]> {
    return this.store.sounds.where('hidden').anyOf('aside', 'retired').toArray();
  }

  /** How many sounds a root has, and which of them wait for being measured. */
  async unmeasured(rootId: number): Promise<{ total: number; waiting: number[] }> {
    const ids = await this.store.sounds.where('rootId').equals(rootId).primaryKeys();
    const there = new Set(await this.store.facts.where('id').anyOf(ids).primaryKeys());
    return { total: ids.length, waiting: ids.filter((id) => !there.has(id)) };
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
  countByRoot(): Promise<[rootId: number, count: number][]> {
    return this.counts.read();
  }

  /** Takes a root out, or puts it back; see {@link takeOutEdit}. @returns how many sounds it has */
  async takeOut(rootId: number, how: RootRecord['removed']): Promise<number> {
    const root = await this.store.roots.get(rootId);
    if (!root) return 0;
    const sounds = await this.soundsOf(rootId);
    await this.apply(takeOutEdit(root, sounds, how));
    return sounds.length;
  }

  /** The newest journal entries that stand, newest first. */
  journal(most = 200): Promise<JournalEntry[]> {
    return this.store.journal.orderBy('seq').reverse().limit(most).toArray();
  }

  /** What became of one sound, newest first: which edit changed what of it, from what to what. */
  history(soundId: number, most = 100): Promise<HistoryEntry[]> {
    return this.past.of(soundId, most);
  }

  /** Records that cannot be used, newest first. */
  setAside(): Promise<AsideRecord[]> {
    return this.aside.list();
  }

  /** Mends records that were set aside, as far as that can be. @returns ids of those that were mended */
  mend(ids: readonly number[]): Promise<number[]> {
    return this.aside.mend(ids, (edit) => this.apply(edit));
  }

  /** Lets go of records that were set aside. */
  forgetAside(ids: readonly number[]): Promise<void> {
    return this.aside.forget(ids);
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
