import type { FieldValue, Tag } from '@core/library';
import { fields, languageOf, translated } from '@core/library';
import { searchWords } from '@core/naming';
import { AlikeWords } from './alike';
import { earOf, findInBands, type Around } from './bands';
import { Bitset } from './bitset';
import { BUILT, newColumn } from './built';
import type { Column } from './columns';
import { NumberColumn, type TagColumn, TextColumn, VectorColumn } from './columns';
import { Evaluation, type Indexed, type WordLexicon } from './evaluate';
import { Finding, usualFacets } from './finding';
import { foldersOf, keepEqual, keepUnder, type FolderCount } from './folders';
import { roomFor } from './grown';
import { LIKENESS_SIZE, nearest, type Weights } from './likeness';
import { fieldBit, searchedText } from './masks';
import { KeptOrders } from './orders';
import { Postings } from './postings';
import type { FacetCount, IndexedSound, Request, Result } from './request';
import type { SegmentBuilder } from './segment';
import { tableOf, type SoundTable } from './sound-table';
import { Slots } from './slots';
import { Sweep } from './sweep';
import { hasWords } from './query';
import { reasonsFor, type Reason } from './why';
import { openSnapshot, packSnapshot, type Part } from './snapshot';

/** Columns of fewer texts than this are taken for ones whose texts many sounds share. */
const SHARED = 5000;

interface Plan {
  column: Column | undefined;
  bit: number | undefined;
  tags: boolean;
  file: boolean;
}
/** Words of texts that were cut up already, by column and code. */
type Cut = Map<Column, Uint32Array[]>;

/**
 * The searchable catalogue in memory: word segments and one column per field.
 *
 * A sound keeps its slot for good. Its words stand in the segment that `owner` names; a put gives the sound's words to a
 * new segment, so that segments never change, and segments of like size are merged. Values without words, such as stars,
 * go into their columns in place.
 */
export class SoundIndex {
  private readonly columns = new Map<string, Column>(fields.map((f) => [f.key, newColumn(f)]));
  private readonly intakes = new NumberColumn();
  private readonly roots = new NumberColumn();
  private readonly vectors = new VectorColumn(LIKENESS_SIZE);
  private readonly postings = new Postings();
  private readonly orders = new KeptOrders();
  private readonly plans = new Map<string, Plan>();
  private readonly slots = new Slots();
  private readonly sweep = new Sweep();
  private live = new Bitset(0);
  private sounds = 0;
  private tagWords: { id: number; words: string[] }[] = [];
  private alike = new AlikeWords();
  /** Another number after every change. */
  version = 0;
  /** Rises with every search: scores are those of the newest. */
  private turn = 0;
  private readonly trail = new Map<string, Bitset>();

  /**
   * @param meant CatIDs that a word means in whatever language, `prefix` when it may be only begun
   * @param lexicon what words mean beside that; without one, words of one stem are forms of one word
   */
  constructor(
    private readonly meant: (word: string, prefix: boolean) => readonly string[] = () => [],
    private readonly lexicon: WordLexicon = { of: () => [], sameWord: () => true },
  ) {}

  /** Sounds in the index. */
  get size(): number {
    return this.sounds;
  }

  /** Takes the names of tags. Sounds have tags by their ids, so a new name touches none of them. */
  setTags(tags: readonly Tag[]): void {
    this.version++;
    this.tagWords = tags.map((t) => ({ id: t.id, words: searchWords(t.name) }));
    (this.columns.get('tags') as TagColumn).setNames(new Map(tags.map((t) => [String(t.id), t.name])));
  }

  /** Takes words that mean the same, folded: each, in any form, finds what the others find, behind its own. */
  setAlike(groups: readonly (readonly string[])[]): void {
    this.version++;
    this.alike = new AlikeWords(groups);
  }

  /** How many sounds have each tag. */
  tagCounts(): [tagId: number, count: number][] {
    return Object.entries(this.counts('tags')).map(([id, count]) => [Number(id), count]);
  }

  /** How many sounds have each value of a field. */
  counts(key: string): Record<string, number> {
    const { values } = this.find({ query: { kind: 'all' } }).facet(key, Infinity);
    return Object.fromEntries(values.filter((v) => v.value !== '').map((v) => [v.value, v.count]));
  }

  /** Adds sounds, or takes their new values. */
  put(sounds: readonly IndexedSound[]): void {
    if (sounds.length === 0) return;
    this.version++;
    const room = this.slots.count + sounds.length;
    this.slots.grow(room);
    this.sweep.grow(room);
    if (room > this.live.size) this.live = this.live.copy(roomFor(room, this.live.size));
    const cut: Cut = new Map();
    const { builder, own } = this.postings.begin(room, this.live, this.slots.count);
    // Of a sound that stands here twice the last counts.
    const last = new Map(sounds.map((s) => [s.id, s]));
    for (const sound of last.size === sounds.length ? sounds : last.values()) {
      let slot = this.slots.of(sound.id);
      if (slot === undefined) {
        slot = this.slots.add(sound.id);
      } else {
        for (const [key, column] of this.columns) if (sound.fields[key] === undefined) column.set(slot, undefined);
      }
      if (!this.live.has(slot)) {
        this.live.add(slot);
        this.sounds++;
      }
      own(slot);
      for (const key in sound.fields) {
        const value = sound.fields[key];
        if (value === undefined) continue;
        const plan = this.plan(key);
        plan.column?.set(slot, value);
        this.addWords(builder, cut, plan, value, slot);
      }
      if (sound.intakeId !== undefined) this.intakes.set(slot, sound.intakeId);
      if (sound.rootId !== undefined) this.roots.set(slot, sound.rootId);
      this.merit(slot);
    }
    this.postings.end(builder, this.live, this.slots.count);
  }

  /** What becomes of the values of a field, worked out once a field. */
  private plan(key: string): Plan {
    let plan = this.plans.get(key);
    if (!plan) {
      const own = languageOf(key).base;
      const translates = own !== key && translated.includes(own);
      plan = {
        column: this.columns.get(key),
        bit: own === key || translates ? fieldBit(own) : undefined,
        tags: key === 'tags',
        file: key === 'file',
      };
      this.plans.set(key, plan);
    }
    return plan;
  }

  private addWords(builder: SegmentBuilder, cut: Cut, plan: Plan, value: FieldValue, slot: number): void {
    const { bit, column } = plan;
    if (bit === undefined) return;
    // No word begins with this sign: it stands for the tag, whatever its name is.
    if (plan.tags) for (const id of value as readonly number[]) builder.word(`#${id}`, slot, bit);
    else if (plan.file) builder.text(searchedText('file', String(value)), slot, bit);
    else if (Array.isArray(value)) for (const item of value as readonly string[]) builder.text(item, slot, bit);
    else if (column instanceof TextColumn && column.length < SHARED) {
      // A text that many sounds share is cut up once.
      let known = cut.get(column);
      if (!known) cut.set(column, (known = []));
      const words = (known[column.at(slot)] ??= builder.cut(String(value)));
      for (let i = 0; i < words.length; i++) builder.add(words[i], slot, bit);
    } else builder.text(String(value), slot, bit);
  }

  /** Stars and use of a slot: what decides between sounds that answer equally well. */
  private merit(slot: number): void {
    const stars = (this.columns.get('stars') as NumberColumn).at(slot);
    const heard = (this.columns.get('heard') as NumberColumn).at(slot);
    this.sweep.merits[slot] =
      (Number.isNaN(stars) ? 0 : Math.max(0, Math.min(7, Math.round(stars)))) * 2 + (Number.isNaN(heard) ? 0 : 1);
  }

  /** Takes sounds out. */
  remove(ids: readonly number[]): void {
    this.version++;
    for (const id of ids) {
      const slot = this.slots.of(id);
      if (slot === undefined || !this.live.has(slot)) continue;
      this.live.delete(slot);
      this.sounds--;
    }
  }

  /** Sets a value that has no words of its own, such as stars. */
  setValue(id: number, key: string, value: FieldValue | undefined): void {
    const slot = this.slots.of(id);
    if (slot === undefined) return;
    this.version++;
    this.columns.get(key)?.set(slot, value);
    if (key === 'stars' || key === 'heard') this.merit(slot);
  }

  /**
   * Values of some fields, as columns: what takes rows a second takes this a moment.
   * @param request whose results are meant; all sounds when absent
   * @returns undefined when a field has no column
   */
  table(keys: readonly string[], request?: Request): SoundTable | undefined {
    const set = request ? this.find(request).results : this.live.copy(this.slots.count);
    return tableOf(set.list(), this.slots.ids, this.columns, keys);
  }

  /** The folders of all roots that have sounds right in them. */
  folders(): FolderCount[] {
    return foldersOf(this.live, this.roots, this.columns.get('folder') as TextColumn);
  }

  /** How often a word stands in the library, about: words that edits left behind count. */
  occurrences(word: string): number {
    return this.postings.occurrences(word);
  }

  /** Takes what a sound is compared by, see `likenessOf`; nothing when it is to be found anew. */
  setVector(id: number, vector: Int8Array | undefined): void {
    const slot = this.slots.of(id);
    if (slot === undefined) return;
    this.version++;
    this.vectors.set(slot, vector);
  }

  /** What a sound is compared by; undefined while that is not known. */
  vectorOf(id: number): Int8Array | undefined {
    const slot = this.slots.of(id);
    return slot !== undefined && this.vectors.has(slot) ? this.vectors.at(slot) : undefined;
  }

  /** A measured number of a sound; undefined where it has none. */
  numberOf(id: number, key: string): number | undefined {
    const slot = this.slots.of(id);
    const value = slot === undefined ? NaN : (this.columns.get(key) as NumberColumn).at(slot);
    return Number.isNaN(value) ? undefined : value;
  }

  /** Sounds that were measured, but cannot be compared yet. */
  withoutVector(most: number): number[] {
    const measured = this.columns.get('onsets') as NumberColumn;
    const ids: number[] = [];
    for (let slot = 0; slot < this.slots.count && ids.length < most; slot++)
      if (!this.vectors.has(slot) && this.live.has(slot) && !Number.isNaN(measured.at(slot)))
        ids.push(this.slots.ids[slot]);
    return ids;
  }

  /** The results of a request that sound most like a vector, nearest first. */
  nearest(vector: Int8Array, request: Request, most: number, weights?: Weights): number[] {
    const { known, values } = this.vectors;
    const among = this.find(request).results.list();
    let count = 0;
    for (let i = 0; i < among.length; i++) if (known[among[i]] === 1) among[count++] = among[i];
    return Array.from(nearest(vector, values, among.subarray(0, count), most, weights), (slot) => this.slots.ids[slot]);
  }

  private get indexed(): Indexed {
    return {
      slots: this.slots.count,
      live: this.live,
      columns: this.columns,
      segments: this.postings.parts,
      owner: this.postings.owner,
      masks: this.postings.masks,
      tagWords: this.tagWords,
      meant: this.meant,
      alike: (word) => this.alike.of(word),
      lexicon: this.lexicon,
      sweep: this.sweep,
    };
  }

  /**
   * Finds the sounds that a request means; rows, facets and histograms are worked out when they are asked for. Rows by
   * relevance can be asked for until the next search.
   */
  find(request: Request): Finding {
    const steps = (request.inside ?? []).map((step) => this.step(step));
    const { sweep } = this;
    sweep.scores.fill(0, 0, this.slots.count);
    const turn = ++this.turn;
    const scored = hasWords(request.query);
    const scoresNow = () => (turn !== this.turn ? undefined : scored ? sweep.scores : sweep.scores.subarray(0, 0));
    return findInBands(
      request,
      new Evaluation(this.indexed, request.query, request.reach === 'words'),
      this.around(request, steps),
      (bands) =>
        new Finding(request, bands, scoresNow, this.columns, this.slots.ids, this.slots.ordered, sweep, this.orders),
    );
  }

  private around(request: Request, steps: readonly Bitset[]): Around {
    return {
      all: this.live.copy(this.slots.count),
      columns: this.columns,
      scores: this.sweep.scores,
      narrow: (set) => this.narrow(set, request, steps),
    };
  }

  /** Why a sound is among the results of a request, by the words of its query. */
  why(request: Request, id: number): Reason[] {
    const slot = this.slots.of(id);
    if (slot === undefined) return [];
    const { query, words = [] } = request;
    const index = this.indexed;
    // Its scores are nobody’s.
    this.turn++;
    const evaluation = new Evaluation(index, query);
    const steps = (request.inside ?? []).map((step) => this.step(step));
    return reasonsFor(slot, query, words, {
      evaluation,
      index,
      ear: earOf(evaluation, words, this.around(request, steps))?.ear,
    });
  }

  /** Takes out of a set what else narrows a request, in place. */
  private narrow(set: Bitset, request: Request, steps: readonly Bitset[]): void {
    // Where nothing was ever taken out there is nothing to be left out.
    if (this.sounds < this.slots.count) set.and(this.live);
    if (request.within) set.and(this.setOf(request.within));
    if (request.intakeId !== undefined) keepEqual(set, this.intakes, request.intakeId);
    if (request.under) keepUnder(set, this.roots, this.columns.get('folder') as TextColumn, request.under);
    if (request.leave) set.andNot(this.setOf(request.leave));
    for (const step of steps) set.and(step);
  }

  /**
   * Words of this library that begin with a text, those of the most sounds first, each with how many have it.
   */
  words(part: string, most: number): FacetCount[] {
    return this.postings.words(part, most, this.live);
  }

  /** The results of a step of a trail, kept until something changes. */
  private step(request: Request): Bitset {
    const key = `${this.version} ${JSON.stringify(request)}`;
    let set = this.trail.get(key);
    if (!set) {
      set = this.find(request).results;
      if (this.trail.size > 8) this.trail.clear();
      this.trail.set(key, set);
    }
    return set;
  }

  /** Answers a request whole. */
  search(request: Request): Result {
    const finding = this.find(request);
    return {
      ...finding.rows(),
      facets: Object.fromEntries(usualFacets.map((key) => [key, finding.facet(key, Infinity).values])),
      lengths: finding.histogram('length').counts,
    };
  }

  /**
   * Does what can be done before anybody asks, in steps of a few milliseconds: the order of texts, the stems of words.
   * Edits may come in between.
   */
  *prepare(): Generator<void> {
    for (const column of [...this.columns.values()]) {
      if (!(column instanceof TextColumn)) continue;
      yield* column.rank();
      if (column.list) yield* column.cutUp();
    }
    for (const { segment } of this.postings.parts) yield* segment.prepare(this.lexicon.parts);
  }

  /**
   * The whole index as the pieces of a snapshot file, made in steps between which others may ask, but nobody may edit.
   * @param facts what `load` hands back
   */
  *save(facts: Record<string, unknown>): Generator<void, Uint8Array[]> {
    const parts = new Map<string, Part>();
    parts.set('ids', this.slots.ids.subarray(0, this.slots.count));
    parts.set('merits', this.sweep.merits.subarray(0, this.slots.count));
    parts.set('live', this.live.copy(this.slots.count).words);
    // Room to spare is not written.
    const cut = <T extends Part>(array: T) => array.subarray(0, this.slots.count) as T;
    parts.set('intakes', cut(this.intakes.values));
    parts.set('roots', cut(this.roots.values));
    for (const [name, part] of Object.entries(this.vectors.parts(this.slots.count))) parts.set(name, part);
    this.postings.save(parts, this.live, this.slots.count);
    for (const [key, column] of this.columns) {
      if (column instanceof NumberColumn) parts.set(`numbers ${key}`, cut(column.values));
      else
        for (const [name, part] of Object.entries(column.parts()))
          parts.set(`${name} ${key}`, name === 'codes' ? cut(part) : part);
      yield;
    }
    return yield* packSnapshot(BUILT, { ...facts, rising: this.slots.rising }, parts);
  }

  /**
   * Takes over a snapshot into an empty index.
   * @returns what was given to `save`
   * @throws Error when it is damaged or does not fit; the index must not be used then
   */
  load(buffer: ArrayBuffer): Record<string, unknown> {
    const { facts, parts } = openSnapshot(buffer, BUILT);
    const part = <T extends Part>(name: string): T => {
      const found = parts.get(name);
      if (!found) throw new Error(`${name} is missing`);
      return found as T;
    };
    this.slots.load(part('ids'), Number(facts.rising));
    this.sweep.grow(this.slots.count);
    this.sweep.merits.set(part<Uint8Array>('merits'));
    this.live = new Bitset(this.slots.count);
    this.live.words.set(part<Uint32Array>('live'));
    this.sounds = this.live.count();
    this.intakes.values = part('intakes');
    this.roots.values = part('roots');
    this.vectors.load({ vectors: part('vectors'), compared: part('compared') });
    this.postings.load(part, parts.has('serial'));
    for (const [key, column] of this.columns) {
      if (column instanceof NumberColumn) column.values = part(`numbers ${key}`);
      else
        column.load({
          codes: part(`codes ${key}`),
          bytes: part(`bytes ${key}`),
          starts: part(`starts ${key}`),
          ranks: part(`ranks ${key}`),
        });
    }
    this.version++;
    return facts;
  }

  private setOf(ids: readonly number[]): Bitset {
    const set = new Bitset(this.slots.count);
    for (const id of ids) {
      const slot = this.slots.of(id);
      if (slot !== undefined) set.add(slot);
    }
    return set;
  }
}
