import type { Field, FieldValue, Tag } from '@core/library';
import { fields, isNumeric, languageOf, translated } from '@core/library';
import { searchWords } from '@core/naming';
import { AlikeWords } from './alike';
import { Bitset } from './bitset';
import type { Column } from './columns';
import { NumberColumn, TagColumn, TextColumn, VectorColumn } from './columns';
import { Evaluation, type Indexed, type WordLexicon } from './evaluate';
import { Finding, usualFacets, type FacetCount, type IndexedSound, type Request, type Result } from './finding';
import { foldersOf, keepEqual, keepUnder, type FolderCount } from './folders';
import { grown, roomFor } from './grown';
import { LIKENESS_SIZE, LIKENESS_VERSION, nearest, type Weights } from './likeness';
import { fieldBit, searchedText } from './masks';
import { KeptOrders } from './orders';
import { Postings } from './postings';
import type { SegmentBuilder } from './segment';
import { tableOf, type SoundTable } from './sound-table';
import { Sweep } from './sweep';
import { hasWords } from './query';
import { openSnapshot, packSnapshot, type Part } from './snapshot';

/** What a snapshot depends on: fields, how they are kept, which are searched, and by a number how words are cut. */
const BUILT = `2 ${fields.map((f) => `${f.key} ${f.type} ${f.weight}`).join()} likeness ${LIKENESS_VERSION}`;
const newColumn = (f: Field): Column =>
  isNumeric(f) ? new NumberColumn() : f.type === 'tags' ? new TagColumn() : new TextColumn(f.type === 'list');

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
  private ids = new Uint32Array(0);
  private readonly sweep = new Sweep();
  private slots = 0;
  /** Slots up to here have rising ids; ids that came out of order are looked up apart. */
  private rising = 0;
  private readonly strays = new Map<number, number>();
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

  private slotOf(id: number): number | undefined {
    let low = 0;
    let high = this.rising;
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (this.ids[middle] < id) low = middle + 1;
      else high = middle;
    }
    return low < this.rising && this.ids[low] === id ? low : this.strays.get(id);
  }

  /** Makes a slot for a new id. */
  private newSlot(id: number): number {
    const slot = this.slots++;
    this.ids[slot] = id;
    if (this.rising === slot && (slot === 0 || this.ids[slot - 1] < id)) this.rising++;
    else this.strays.set(id, slot);
    return slot;
  }

  /** Adds sounds, or takes their new values. */
  put(sounds: readonly IndexedSound[]): void {
    if (sounds.length === 0) return;
    this.version++;
    const room = this.slots + sounds.length;
    this.ids = grown(this.ids, room);
    this.sweep.grow(room);
    if (room > this.live.size) this.live = this.live.copy(roomFor(room, this.live.size));
    const cut: Cut = new Map();
    const { builder, own } = this.postings.begin(room, this.live, this.slots);
    // Of a sound that stands here twice the last counts.
    const last = new Map(sounds.map((s) => [s.id, s]));
    for (const sound of last.size === sounds.length ? sounds : last.values()) {
      let slot = this.slotOf(sound.id);
      if (slot === undefined) {
        slot = this.newSlot(sound.id);
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
    this.postings.end(builder, this.live, this.slots);
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
      const slot = this.slotOf(id);
      if (slot === undefined || !this.live.has(slot)) continue;
      this.live.delete(slot);
      this.sounds--;
    }
  }

  /** Sets a value that has no words of its own, such as stars. */
  setValue(id: number, key: string, value: FieldValue | undefined): void {
    const slot = this.slotOf(id);
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
    const set = request ? this.find(request).results : this.live.copy(this.slots);
    return tableOf(set.list(), this.ids, this.columns, keys);
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
    const slot = this.slotOf(id);
    if (slot === undefined) return;
    this.version++;
    this.vectors.set(slot, vector);
  }

  /** What a sound is compared by; undefined while that is not known. */
  vectorOf(id: number): Int8Array | undefined {
    const slot = this.slotOf(id);
    return slot !== undefined && this.vectors.has(slot) ? this.vectors.at(slot) : undefined;
  }

  /** Sounds that were measured, but cannot be compared yet. */
  withoutVector(most: number): number[] {
    const measured = this.columns.get('onsets') as NumberColumn;
    const ids: number[] = [];
    for (let slot = 0; slot < this.slots && ids.length < most; slot++)
      if (!this.vectors.has(slot) && this.live.has(slot) && !Number.isNaN(measured.at(slot))) ids.push(this.ids[slot]);
    return ids;
  }

  /** The results of a request that sound most like a vector, nearest first. */
  nearest(vector: Int8Array, request: Request, most: number, weights?: Weights): number[] {
    const { known, values } = this.vectors;
    const among = this.find(request).results.list();
    let count = 0;
    for (let i = 0; i < among.length; i++) if (known[among[i]] === 1) among[count++] = among[i];
    return Array.from(nearest(vector, values, among.subarray(0, count), most, weights), (slot) => this.ids[slot]);
  }

  private get indexed(): Indexed {
    return {
      slots: this.slots,
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
    sweep.scores.fill(0, 0, this.slots);
    const evaluation = new Evaluation(this.indexed);
    const matched = evaluation.set(request.query).and(this.live);
    if (request.within) matched.and(this.setOf(request.within));
    if (request.intakeId !== undefined) keepEqual(matched, this.intakes, request.intakeId);
    if (request.under) keepUnder(matched, this.roots, this.columns.get('folder') as TextColumn, request.under);
    if (request.leave) matched.andNot(this.setOf(request.leave));
    for (const step of steps) matched.and(step);
    const turn = ++this.turn;
    const scored = hasWords(request.query);
    return new Finding(
      request,
      matched,
      () => (turn !== this.turn ? undefined : scored ? sweep.scores : sweep.scores.subarray(0, 0)),
      this.columns,
      this.ids,
      this.strays.size === 0,
      sweep,
      this.orders,
    );
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
    for (const { segment } of this.postings.parts) yield* segment.prepare();
  }

  /**
   * The whole index as the pieces of a snapshot file, made in steps between which others may ask, but nobody may edit.
   * @param facts what `load` hands back
   */
  *save(facts: Record<string, unknown>): Generator<void, Uint8Array[]> {
    const parts = new Map<string, Part>();
    parts.set('ids', this.ids.subarray(0, this.slots));
    parts.set('merits', this.sweep.merits.subarray(0, this.slots));
    parts.set('live', this.live.copy(this.slots).words);
    // Room to spare is not written.
    const cut = <T extends Part>(array: T) => array.subarray(0, this.slots) as T;
    parts.set('intakes', cut(this.intakes.values));
    parts.set('roots', cut(this.roots.values));
    for (const [name, part] of Object.entries(this.vectors.parts(this.slots))) parts.set(name, part);
    this.postings.save(parts, this.live, this.slots);
    for (const [key, column] of this.columns) {
      if (column instanceof NumberColumn) parts.set(`numbers ${key}`, cut(column.values));
      else
        for (const [name, part] of Object.entries(column.parts()))
          parts.set(`${name} ${key}`, name === 'codes' ? cut(part) : part);
      yield;
    }
    return yield* packSnapshot(BUILT, { ...facts, rising: this.rising }, parts);
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
    this.ids = part('ids');
    this.slots = this.ids.length;
    this.sweep.grow(this.slots);
    this.sweep.merits.set(part<Uint8Array>('merits'));
    this.live = new Bitset(this.slots);
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
    this.rising = Math.min(this.slots, Number(facts.rising));
    for (let slot = this.rising; slot < this.slots; slot++) this.strays.set(this.ids[slot], slot);
    this.version++;
    return facts;
  }

  private setOf(ids: readonly number[]): Bitset {
    const set = new Bitset(this.slots);
    for (const id of ids) {
      const slot = this.slotOf(id);
      if (slot !== undefined) set.add(slot);
    }
    return set;
  }
}
