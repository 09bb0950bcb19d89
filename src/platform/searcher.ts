import type { Sound, Tag } from '@core/library';
import { fold } from '@core/naming';
import {
  differencesHeard,
  likenessOf,
  parseQuery,
  SoundIndex,
  type Facet,
  type FacetCount,
  type Finding,
  type Histogram,
  type QueryFault,
  type Request,
  type SoundTable,
} from '@core/search';
import { catIdsMeant } from '@core/suggest';
import { privateSnapshot, type SnapshotFile } from './snapshots';
import type { Store } from './store';

/** What the interface asks of the index. */
export interface Search extends Omit<Request, 'query' | 'within' | 'inside'> {
  text: string;
  /** A pull whose sounds alone are listed. */
  pullId?: number;
  /** Only the sounds that are most like this one, nearest first. */
  nearId?: number;
  /** Earlier searches inside of whose results this one looks. */
  inside?: readonly Search[];
}

/** What is counted beside the rows. */
export interface Counted {
  /** Fields whose values are counted. */
  facetKeys: readonly string[];
  /** Numbers that are counted by spans. */
  histogramKeys: readonly string[];
}

/** The first rows, at once. */
export interface FirstAnswer {
  /** By which the rest is asked for. */
  turn: number;
  /** The first rows in order. */
  ids: Uint32Array;
  /** Results in all. */
  count: number;
  faults: QueryFault[];
  /** Sounds in the whole catalogue. */
  total: number;
  /** Milliseconds that the index took. */
  took: number;
}

/** All rows, and what is counted beside them. */
export interface SearchRest {
  ids: Uint32Array;
  /** How many results each row stands for. */
  takes: Uint32Array;
  facets: Record<string, Facet>;
  histograms: Record<string, Histogram>;
}

/** The lock under which the store is changed. */
export const EDITS = 'cormorant-edits';
/** Rows of the first answer: more than any screen shows. */
const FIRST = 300;
/** Values of a facet that are listed at once. */
const LISTED = 60;
/** So many sounds changed since the snapshot make a new one worth while, or this share of all. */
const [CHANGED, SHARE] = [2000, 0.05];
/** Rows read from the store at once. */
const ROWS = 5000;
const QUIET = 4000;
/** Nearest sounds that are listed. */
const NEAREST = 200;
/** Sounds compared before others have a turn; before somebody who waits is answered; in one quiet while. */
const [COMPARED, SOON, MOST_COMPARED] = [100, 2000, 100_000];

/** Lets messages in that wait already: a newer search among them makes the one at hand needless. */
const turnOver = () => new Promise<void>((done) => setTimeout(done));

/** The search index beside the store: opened from its snapshot, kept up with edits, asked in two steps. */
export class Searcher {
  private index = new SoundIndex(catIdsMeant);
  private turn = 0;
  private asked: Request | undefined;
  private finding: Finding | undefined;
  private changed = 0;
  /** Every revision up to here is in the index, and of the later ones those that are noted. */
  private rev = 0;
  private readonly later = new Set<number>();
  private quiet: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly store: Store,
    private readonly file: SnapshotFile | undefined = privateSnapshot('sounds'),
  ) {}

  get size(): number {
    return this.index.size;
  }

  /** Opens the snapshot and what changed since, or reads all rows when there is no good one. */
  async open(tags: readonly Tag[]): Promise<void> {
    this.index.setTags(tags);
    if (!(await this.fromSnapshot())) {
      this.index = new SoundIndex(catIdsMeant);
      this.rev = await this.newest();
      for (let after = -Infinity; ;) {
        const rows = await this.store.sounds.where('id').above(after).limit(ROWS).toArray();
        if (rows.length === 0) break;
        after = rows[rows.length - 1].id;
        this.put(rows);
      }
      this.changed = Infinity;
    }
    this.index.setTags(tags);
    this.whenQuiet();
  }

  private async newest(): Promise<number> {
    return (await this.store.touched.orderBy('rev').last())?.rev ?? 0;
  }

  private async fromSnapshot(): Promise<boolean> {
    const buffer = await this.file?.read();
    if (!buffer) return false;
    try {
      const { store, rev } = this.index.load(buffer) as { store?: string; rev?: number };
      // Of another catalogue under the same name, or ahead of this one: nothing in it can be relied on.
      if (store !== (await this.identity()) || typeof rev !== 'number' || rev > (await this.newest())) return false;
      const since = await this.store.touched.where('rev').above(rev).first();
      // Another tab kept a newer snapshot meanwhile, and forgot what this one lacks.
      if (since && since.rev !== rev + 1) return false;
      this.rev = rev;
      await this.catchUp();
      return true;
    } catch {
      return false;
    }
  }

  /**
   * Takes over what the store says was changed and this index has not heard of: by another tab, or before it was opened.
   * Nobody may edit meanwhile, as rows are read and put apart.
   */
  async catchUp(): Promise<void> {
    const rows = await this.store.touched.where('rev').above(this.rev).toArray();
    const ids = [...new Set(rows.filter((r) => !this.later.has(r.rev)).flatMap((r) => [...r.ids]))];
    for (let from = 0; from < ids.length; from += ROWS) await this.renew(ids.slice(from, from + ROWS));
    for (const { rev } of rows) this.saw(rev);
  }

  /** Notes that a revision is in the index. */
  saw(rev: number): void {
    this.later.add(rev);
    while (this.later.delete(this.rev + 1)) this.rev++;
  }

  /** What this store is known by, for as long as it is there. */
  private async identity(): Promise<string> {
    const kept = await this.store.marks.get('store');
    if (kept) return kept.value;
    const value = crypto.randomUUID();
    await this.store.marks.put({ name: 'store', value });
    return value;
  }

  /** Takes sounds as they are now; hidden ones are taken out. */
  put(sounds: readonly Sound[]): void {
    this.index.remove(sounds.filter((s) => s.hidden).map((s) => s.id));
    this.index.put(sounds.filter((s) => !s.hidden));
    this.touch(sounds.length);
  }

  remove(ids: readonly number[]): void {
    this.index.remove(ids);
    this.touch(ids.length);
  }

  setValue(...args: Parameters<SoundIndex['setValue']>): void {
    this.index.setValue(...args);
    this.touch(1);
  }

  /** Reads sounds again, from the store. */
  private async renew(ids: readonly number[]): Promise<void> {
    const rows = await this.store.sounds.bulkGet([...ids]);
    this.put(rows.filter((r) => r !== undefined));
    this.remove(ids.filter((_, i) => rows[i] === undefined));
  }

  setTags(tags: readonly Tag[]): void {
    this.index.setTags(tags);
  }

  setAlike(groups: readonly (readonly string[])[]): void {
    this.index.setAlike(groups);
  }

  private touch(count: number): void {
    this.changed += count;
    this.whenQuiet();
  }

  /** Works out what measured sounds are compared by. @param most sounds at once @returns how many were worked out */
  private async compare(most: number): Promise<number> {
    let found = 0;
    const ids = this.index.withoutVector(most);
    for (let from = 0; from < ids.length; from += COMPARED) {
      const part = ids.slice(from, from + COMPARED);
      const [rows, facts, peaks] = await Promise.all([
        this.store.sounds.bulkGet(part),
        this.store.facts.bulkGet(part),
        this.store.peaks.bulkGet(part),
      ]);
      part.forEach((id, i) => {
        const [sound, fact, peak] = [rows[i], facts[i], peaks[i]];
        if (!sound || !fact || !peak) return;
        const { noisiness, pitch, pitchSure } = sound.fields as Record<string, number | undefined>;
        const heard = { rate: sound.format.rate, ...peak, ...fact, noisiness, pitch, pitchSure };
        this.index.setVector(id, likenessOf(heard));
        found++;
      });
      await turnOver();
    }
    return found;
  }

  /** How sounds differ from one, in words. */
  differences(id: number, others: readonly number[]): string[][] {
    const from = this.index.vectorOf(id);
    return others.map((other) => {
      const to = this.index.vectorOf(other);
      return from && to ? differencesHeard(from, to) : [];
    });
  }

  /** Lets go of what sounds are compared by: their audio is another now. */
  forgetVectors(ids: readonly number[]): void {
    for (const id of ids) this.index.setVector(id, undefined);
  }

  /** Once nothing changed for a while: prepares what will be asked for, and keeps the index if that is worth it. */
  private whenQuiet(): void {
    clearTimeout(this.quiet);
    if (this.file) this.quiet = setTimeout(() => void this.settle(), QUIET);
  }

  private async settle(): Promise<void> {
    const { quiet } = this;
    for (const _ of this.index.prepare()) {
      await turnOver();
      if (quiet !== this.quiet) return;
    }
    // Made once, it is kept as an edit is; the next quiet while goes on with the rest.
    const compared = await this.compare(MOST_COMPARED);
    if (compared > 0) this.touch(compared);
    if (this.changed > Math.max(CHANGED, this.index.size * SHARE)) await this.save();
  }

  /** Writes a snapshot, and forgets the changes that it holds. While it is made, nobody may edit. */
  async save(): Promise<void> {
    if (!this.file) return;
    const store = await this.identity();
    let rev = 0;
    try {
      const pieces = await navigator.locks.request(EDITS, async () => {
        await this.catchUp();
        ({ rev } = this);
        return this.index.save({ store, rev });
      });
      await this.file.write(pieces);
    } catch {
      // A full disk, say: the rows are there, and the next opening reads them.
      return;
    }
    this.changed = 0;
    // The newest stays, so that the count goes on from it.
    await this.store.touched.where('rev').below(rev).delete();
  }

  private async request(search: Search): Promise<{ request: Request; faults: QueryFault[] }> {
    const inside: Request[] = [];
    // What is nearest depends on what came before it in the trail.
    for (const step of search.inside ?? []) inside.push((await this.narrowed(step, inside)).request);
    const { request, faults } = await this.narrowed(search, inside);
    return { request: { ...request, inside }, faults };
  }

  /** A search as the index takes it, without the trail. */
  private async narrowed(
    search: Search,
    trail: readonly Request[],
  ): Promise<{ request: Request; faults: QueryFault[] }> {
    const { text, pullId, nearId, inside: _, ...rest } = search;
    const { query, faults } = parseQuery(text);
    const within = pullId === undefined ? undefined : ((await this.store.pulls.get(pullId))?.soundIds ?? []);
    const request: Request = { ...rest, query, within };
    if (nearId === undefined) return { request, faults };
    await this.compare(SOON);
    const vector = this.index.vectorOf(nearId);
    const among = { ...request, inside: [...trail], sort: undefined, fold: undefined };
    return { request: { ...request, within: vector ? this.index.nearest(vector, among, NEAREST) : [] }, faults };
  }

  /** The first rows of a search; undefined when a newer one came meanwhile. */
  async first(search: Search): Promise<FirstAnswer | undefined> {
    const turn = ++this.turn;
    await turnOver();
    if (turn !== this.turn) return undefined;
    const { request, faults } = await this.request(search);
    if (turn !== this.turn) return undefined;
    const started = performance.now();
    this.asked = request;
    this.finding = this.index.find(request);
    // Of folded takes it is not known how many rows there are before all are folded.
    const rows = request.fold && this.finding.rows().ids;
    const ids = rows?.slice(0, FIRST) ?? this.finding.first(FIRST);
    const took = performance.now() - started;
    return { turn, ids, count: rows?.length ?? this.finding.count, faults, total: this.index.size, took };
  }

  /** What goes beyond the first rows; undefined when a newer search came meanwhile. */
  async rest(turn: number, { facetKeys, histogramKeys }: Counted): Promise<SearchRest | undefined> {
    await turnOver();
    if (turn !== this.turn || !this.finding || !this.asked) return undefined;
    // Somebody else searched meanwhile.
    if (!this.finding.current) this.finding = this.index.find(this.asked);
    const { finding } = this;
    const facets: Record<string, Facet> = {};
    for (const key of facetKeys) facets[key] = finding.facet(key, LISTED);
    const histograms: Record<string, Histogram> = {};
    for (const key of histogramKeys) histograms[key] = finding.histogram(key);
    return { ...finding.rows(), facets, histograms };
  }

  /** All rows of a search that is not the one on screen. */
  async ids(search: Search): Promise<Uint32Array> {
    const { request } = await this.request(search);
    return this.index.find(request).rows().ids;
  }

  /** Values of a field that contain a text, among the results of a search. */
  async values(search: Search, key: string, part: string, most: number): Promise<Facet> {
    const { request } = await this.request({ ...search, sort: undefined, fold: undefined });
    return this.index.find(request).facet(key, most, fold(part));
  }

  /** Words of the library that begin with a text. */
  words(part: string, most: number): FacetCount[] {
    return this.index.words(part, most);
  }

  table(keys: readonly string[]): SoundTable | undefined {
    return this.index.table(keys);
  }

  counts(key: string): Record<string, number> {
    return this.index.counts(key);
  }

  tagCounts(): [tagId: number, count: number][] {
    return this.index.tagCounts();
  }
}
