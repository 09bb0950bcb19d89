import { fieldOf, isField, type Sound, type Tag } from '@core/library';
import { fold } from '@core/naming';

import {
  type BandStart,
  differencesHeard,
  likenessOf,
  loosened,
  parseQuery,
  plainWords,
  likeCode,
  readLikeCode,
  SoundIndex,
  voiceWeights,
  type Facet,
  type FacetCount,
  type FolderCount,
  type Finding,
  type Histogram,
  type QueryFault,
  type Reason,
  type Request,
  type SoundTable,
} from '@core/search';
import { catIdsMeant } from '@core/suggest';
import { closerTo } from './closer';
import { heardFor, heardOnDay } from './heard';
import { searchLexicon } from './lexicon';
import { neighboursOf } from './neighbours';
import type { Counted, FirstAnswer, Search, SearchRest } from './questions';
import { privateSnapshot, type SnapshotFile } from './snapshots';
import { identify } from '../store/identity';
import { EDITS, underLock } from '../store/locks';
import type { Room } from '../store/room';
import type { Store } from '../store/store';

/** Rows of the first answer: more than any screen shows. */
const FIRST = 300;
/** Values of a facet that are listed at once. */
const LISTED = 60;
/** So many sounds changed since the snapshot make a new one worth while, or this share of all. */
const [CHANGED, SHARE] = [2000, 0.05];
/** Rows read from the store at once. */
const ROWS = 5000;
const QUIET = 4000;
/** Milliseconds without a search after which work that nobody waits for goes on. */
const CALM = 400;
/** Nearest sounds that are listed, and how many a closer look chooses them from. */
const [NEAREST, LOOKED] = [200, 300];
/** Sounds compared before others have a turn; before somebody who waits is answered; in one quiet while. */
const [COMPARED, SOON, MOST_COMPARED] = [100, 2000, 100_000];

/** Lets messages in that wait already: a newer search among them makes the one at hand needless. */
const pause = (ms = 0) => new Promise<void>((done) => setTimeout(done, ms));

/** The search index beside the store: opened from its snapshot, kept up with edits, asked in two steps. */
export class Searcher {
  private readonly lexicon = searchLexicon();
  private index = new SoundIndex(catIdsMeant, this.lexicon);
  private searchId = 0;
  private asked: Request | undefined;
  private finding: Finding | undefined;
  private changed = 0;
  private askedAt = -Infinity;
  /** Every revision up to here is in the index, and of the later ones those that are noted. */
  private rev = 0;
  private readonly later = new Set<number>();
  private quiet: ReturnType<typeof setTimeout> | undefined;
  private ended = false;

  private readonly file: SnapshotFile | undefined;
  private tags: readonly Tag[] = [];
  private alike: readonly (readonly string[])[] = [];

  constructor(
    private readonly store: Store,
    private readonly around: {
      /** Where the index is kept; in the browser's private file system when absent. */
      file?: SnapshotFile;
      room?: Room;
      /** Leaves out sounds that cannot be used, and sets them aside. */
      sift?: (rows: Sound[]) => Promise<Sound[]>;
    } = {},
  ) {
    this.file = around.file ?? privateSnapshot('sounds');
  }

  /** Ends what waits for a quiet while, and what is done in one. */
  close(): void {
    this.ended = true;
    clearTimeout(this.quiet);
    this.quiet = undefined;
  }

  get size(): number {
    return this.index.size;
  }

  /** Opens the snapshot and what changed since, or reads all rows when there is no good one. */
  async open(tags: readonly Tag[]): Promise<void> {
    this.index.setTags(tags);
    if (!(await this.fromSnapshot())) await this.fromRows();
    this.setTags(tags);
    this.whenQuiet();
  }

  private async sift(rows: Sound[]): Promise<Sound[]> {
    return this.around.sift ? this.around.sift(rows) : rows;
  }

  private async fromRows(): Promise<void> {
    this.index = new SoundIndex(catIdsMeant, searchLexicon());
    this.later.clear();
    this.rev = await this.newest();
    for (let after = -Infinity; ;) {
      const rows = await this.store.sounds.where('id').above(after).limit(ROWS).toArray();
      if (rows.length === 0) break;
      after = rows[rows.length - 1].id;
      this.put(await this.sift(rows));
    }
    this.changed = Infinity;
  }

  /** Makes the index anew from the rows: it was found to be wrong, or the store is another one. */
  async rebuild(): Promise<void> {
    await this.fromRows();
    this.setTags(this.tags);
    this.setAlike(this.alike);
  }

  /** Takes over what an edit made of sounds. */
  change(before: ReadonlyMap<number, Sound>, after: ReadonlyMap<number, Sound | undefined>): void {
    const put: Sound[] = [];
    for (const [id, sound] of after) {
      if (!sound) {
        this.remove([id]);
        continue;
      }
      const old = before.get(id);
      const keys = old
        ? Object.keys({ ...old.fields, ...sound.fields }).filter((k) => isField(k) && old.fields[k] !== sound.fields[k])
        : undefined;
      // Hearing a sound is the commonest change of all; it must not cost a new slot.
      if (old?.hidden === sound.hidden && keys?.every((k) => fieldOf(k).weight === 0))
        for (const k of keys) this.setValue(id, k, sound.fields[k]);
      else put.push(sound);
    }
    this.put(put);
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
      if (store !== (await identify(this.store)) || typeof rev !== 'number' || rev > (await this.newest()))
        return false;
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
    this.put(await this.sift(rows.filter((r) => r !== undefined)));
    this.remove(ids.filter((_, i) => rows[i] === undefined));
  }

  setTags(tags: readonly Tag[]): void {
    this.tags = tags;
    this.index.setTags(tags);
  }

  setAlike(groups: readonly (readonly string[])[]): void {
    this.alike = groups;
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
      await pause();
    }
    return found;
  }

  /** What a sound is compared by, as a text that others understand; see {@link likeCode}. Undefined where it was not measured yet. */
  codeOf(id: number): string | undefined {
    const vector = this.index.vectorOf(id);
    return vector && likeCode(vector);
  }

  /** How sounds differ from one, in words. @param of a sound's id, or what {@link likeCode} made */
  differences(of: number | string, others: readonly number[]): string[][] {
    const from = typeof of === 'number' ? this.index.vectorOf(of) : readLikeCode(of)?.vector;
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
    if (this.file && !this.ended) this.quiet = setTimeout(() => void this.settle(), QUIET);
  }

  /** Lets others have their turn, and whoever is typing all of them. */
  private async calm(): Promise<void> {
    do await pause();
    while (performance.now() - this.askedAt < CALM && (await pause(CALM / 4), true));
  }

  private async settle(): Promise<void> {
    const { quiet } = this;
    try {
      for (const _ of this.index.prepare()) {
        await this.calm();
        if (quiet !== this.quiet) return;
      }
      // Made once, it is kept as an edit is; the next quiet while goes on with the rest.
      const compared = await this.compare(MOST_COMPARED);
      if (compared > 0) this.touch(compared);
      if (this.changed > Math.max(CHANGED, this.index.size * SHARE)) await this.save();
    } catch (error) {
      // A store that is closed in the middle of it has nothing to say.
      if (!this.ended) throw error;
    }
  }

  /** Writes a snapshot, and forgets the changes that it holds. While it is made, nobody may edit. */
  async save(): Promise<void> {
    if (!this.file) return;
    const store = await identify(this.store);
    let rev = 0;
    try {
      const pieces = await underLock(EDITS, async () => {
        await this.catchUp();
        ({ rev } = this);
        const steps = this.index.save({ store, rev });
        for (;;) {
          const { done, value } = steps.next();
          if (done) return value;
          await this.calm();
        }
      });
      // What the database needs for its own house-keeping is left to it.
      await this.around.room?.need(pieces.reduce((sum, p) => sum + p.byteLength, 0));
      const { version } = this.index;
      const next = () => this.calm().then(() => version === this.index.version);
      // Edited meanwhile, it is written once all is quiet again.
      if (!(await this.file.write(pieces, next))) return;
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
    for (const step of search.inside ?? []) {
      const { request } = await this.narrowed(step, inside);
      inside.push({ ...request, inside: [...inside] });
    }
    const { request, faults } = await this.narrowed(search, inside);
    return { request: { ...request, inside }, faults };
  }

  /** The sounds that a list of the library is limited to, in its order; undefined for all. */
  private async members({ pullId, heardOn, asOf }: Search): Promise<Pick<Request, 'within' | 'under'>> {
    const pull = pullId === undefined ? undefined : await this.store.pulls.get(pullId);
    const ids = pullId === undefined || pull?.live ? undefined : (pull?.soundIds ?? []);
    const heard = heardOn === undefined ? undefined : await heardOnDay(this.store, heardOn, asOf);
    const inPull = new Set(ids);
    return { within: ids && heard ? heard.filter((id) => inPull.has(id)) : (heard ?? ids), under: pull?.live };
  }

  /** A search as the index takes it, without the trail. */
  private async narrowed(
    search: Search,
    trail: readonly Request[],
  ): Promise<{ request: Request; faults: QueryFault[] }> {
    const { text, pullId: _pull, nearId, like, heardOn: _day, unheardIn, asOf, inside: _, ...rest } = search;
    const { query, faults } = parseQuery(text);
    const words = faults.length > 0 ? [] : plainWords(query, text);
    const { within, under = rest.under } = await this.members(search);
    const leave = unheardIn === undefined ? undefined : await heardFor(this.store, unheardIn, asOf);
    const request: Request = { ...rest, query: loosened(query), words, within, under, leave };
    if (nearId === undefined && like === undefined) return { request, faults };
    await this.compare(SOON);
    const code = like === undefined ? undefined : readLikeCode(like);
    const vector = nearId === undefined ? code?.vector : this.index.vectorOf(nearId);
    const among = { ...request, inside: [...trail], sort: undefined, fold: undefined };
    const weights = code?.voice ? voiceWeights : undefined;
    const found = vector ? this.index.nearest(vector, among, nearId === undefined ? NEAREST : LOOKED, weights) : [];
    const near =
      nearId === undefined ? found : (await closerTo(this.index, this.store, nearId, found)).slice(0, NEAREST);
    return { request: { ...request, within: near }, faults };
  }

  /** The first rows of a search; undefined when a newer one came meanwhile. */
  async first(search: Search): Promise<FirstAnswer | undefined> {
    const searchId = ++this.searchId;
    this.askedAt = performance.now();
    await pause();
    if (searchId !== this.searchId) return undefined;
    const { request, faults } = await this.request(search);
    if (searchId !== this.searchId) return undefined;
    const started = performance.now();
    const finding = (this.finding = this.index.find(request));
    this.asked = request;
    // Of folded takes it is not known how many rows there are before all are folded.
    const rows = request.fold && finding.rows();
    const ids = rows?.ids.slice(0, FIRST) ?? finding.first(FIRST);
    const bands = rows?.bands ?? finding.starts;
    const took = performance.now() - started;
    const count = rows?.ids.length ?? finding.count;
    return { searchId, ids, count, bands, faults, total: this.index.size, took };
  }

  /** What goes beyond the first rows; undefined when a newer search came meanwhile. */
  async rest(searchId: number, { facetKeys, histogramKeys }: Counted): Promise<SearchRest | undefined> {
    await pause();
    if (searchId !== this.searchId || !this.finding || !this.asked) return undefined;
    // Somebody else searched meanwhile.
    if (!this.finding.current) this.finding = this.index.find(this.asked);
    const { finding } = this;
    const facets: Record<string, Facet> = {};
    for (const key of facetKeys) facets[key] = finding.facet(key, LISTED);
    const histograms: Record<string, Histogram> = {};
    for (const key of histogramKeys) histograms[key] = finding.histogram(key);
    return { ...finding.rows(), facets, histograms };
  }

  /** Words that mean as much as others, or nearly: first those that people paired, then the nearest of the lexicon. */
  nearWords(words: readonly string[]): Map<string, string[]> {
    const paired = (word: string) => this.alike.filter((group) => group.includes(word)).flat();
    const near = (word: string) => [...paired(word), ...this.lexicon.of(word).map((n) => n.word)];
    return new Map(words.map((word) => [word, near(word).filter((other) => other !== word)]));
  }

  /** Why a sound is among the results of a search, by the words of its query. */
  async why(search: Search, id: number): Promise<Reason[]> {
    const { request } = await this.request(search);
    return this.index.why(request, id);
  }

  /** All rows of a search that is not the one on screen, and where bands begin among them. */
  async rows(search: Search): Promise<{ ids: Uint32Array; bands: BandStart[] }> {
    const { request } = await this.request(search);
    const { ids, bands } = this.index.find(request).rows();
    return { ids, bands };
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

  /** Values of some fields of the results of a search. */
  async tableOf(search: Search, keys: readonly string[]): Promise<SoundTable | undefined> {
    const { request } = await this.request(search);
    return this.index.table(keys, request);
  }

  folders(): FolderCount[] {
    return this.index.folders();
  }

  /** Words that stand beside a word in the same sounds more often than elsewhere, the closest first. */
  neighbours(word: string, most: number): Promise<FacetCount[]> {
    return neighboursOf(this.index, this.store, word, most);
  }

  counts(key: string): Record<string, number> {
    return this.index.counts(key);
  }

  tagCounts(): [tagId: number, count: number][] {
    return this.index.tagCounts();
  }
}
