import type { Field, FieldValue, Tag } from '@core/library';
import { fields, translated } from '@core/library';
import { searchWords } from '@core/naming';
import { Bitset } from './bitset';
import type { Column } from './columns';
import { NumberColumn, TagColumn, TextColumn } from './columns';
import { Evaluation, type Indexed } from './evaluate';
import { Finding, usualFacets, type FacetCount, type Request } from './finding';
import { fieldBit, MaskTable } from './masks';
import { merged, SegmentBuilder, type Segment } from './segment';

/** A sound as the index takes it: tags as their ids. */
export interface IndexedSound {
  id: number;
  fields: Readonly<Record<string, FieldValue>>;
}

/** A request answered in one go. */
export interface Result {
  /** Sound ids in order. */
  ids: Uint32Array;
  /** How many results each row stands for, itself included; 1 everywhere when nothing is folded. */
  takes: Uint32Array;
  /** Most frequent first, by field key; each counted as if nothing of its own field were chosen. */
  facets: Record<string, FacetCount[]>;
  /** Sounds per bin of `lengthBins`. */
  lengths: number[];
}

interface Part {
  segment: Segment;
  serial: number;
  /** Whether some of its slots have their words in a newer segment. */
  stale: boolean;
}

const MOST_SERIALS = 60_000;
const isNumeric = (f: Field) => f.type === 'number' || f.type === 'stars' || f.type === 'date';
const newColumn = (f: Field): Column =>
  isNumeric(f) ? new NumberColumn() : f.type === 'tags' ? new TagColumn() : new TextColumn(f.type === 'list');

const grown = <T extends Uint32Array | Uint16Array | Uint8Array>(array: T, size: number): T => {
  if (size <= array.length) return array;
  const made = new (array.constructor as new (n: number) => T)(Math.max(1024, size, array.length * 2));
  made.set(array as never);
  return made;
};

/** Words of values that many sounds share, cut up once a put. */
const SHORT = 60;

/**
 * The searchable catalogue in memory: word segments and one column per field.
 *
 * A sound keeps its slot for good. Its words stand in the segment that `owner` names; a put gives the sound's words to a
 * new segment, so that segments never change, and segments of like size are merged. Values without words, such as stars,
 * go into their columns in place.
 */
export class SoundIndex {
  private readonly columns = new Map<string, Column>(fields.map((f) => [f.key, newColumn(f)]));
  private readonly masks = new MaskTable();
  private parts: Part[] = [];
  private serial = 0;
  private owner = new Uint16Array(0);
  private ids = new Uint32Array(0);
  private merits = new Uint8Array(0);
  private slots = 0;
  /** Slots up to here have rising ids; ids that came out of order are looked up apart. */
  private rising = 0;
  private readonly strays = new Map<number, number>();
  private live = new Bitset(0);
  private sounds = 0;
  private tagWords: { id: number; words: string[] }[] = [];
  private alike: ReadonlyMap<string, readonly string[]> = new Map();
  private version = 0;
  private readonly trail = new Map<string, Bitset>();

  /** @param meant CatIDs that a word means in whatever language, `prefix` when it may be only begun */
  constructor(private readonly meant: (word: string, prefix: boolean) => readonly string[] = () => []) {}

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

  /** Takes words that a user declared to mean the same, folded: each finds what the others find, behind its own. */
  setAlike(groups: readonly (readonly string[])[]): void {
    this.version++;
    const alike = new Map<string, string[]>();
    for (const group of groups)
      for (const word of group)
        alike.set(word, [...(alike.get(word) ?? []), ...group.filter((other) => other !== word)]);
    this.alike = alike;
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
    this.owner = grown(this.owner, room);
    this.merits = grown(this.merits, room);
    if (room > this.live.size) this.live = this.live.copy(Math.max(room, this.live.size * 2));
    const builder = new SegmentBuilder();
    const cut = new Map<string, number[]>();
    const serial = this.nextSerial();
    const taken = new Map<number, Part>(this.parts.map((p) => [p.serial, p]));
    // Of a sound that stands here twice the last counts.
    const last = new Map(sounds.map((s) => [s.id, s]));
    for (const sound of last.size === sounds.length ? sounds : last.values()) {
      let slot = this.slotOf(sound.id);
      if (slot === undefined) {
        slot = this.newSlot(sound.id);
        for (const key in sound.fields) this.columns.get(key)?.set(slot, sound.fields[key]);
      } else {
        const before = taken.get(this.owner[slot]);
        if (before) before.stale = true;
        for (const [key, column] of this.columns) column.set(slot, sound.fields[key]);
      }
      if (!this.live.has(slot)) {
        this.live.add(slot);
        this.sounds++;
      }
      this.owner[slot] = serial;
      this.merit(slot);
      this.addWords(builder, cut, sound, slot);
    }
    const segment = builder.build((mask) => this.masks.code(mask));
    this.parts.push({ segment, serial, stale: false });
    this.merge();
  }

  private nextSerial(): number {
    if (this.serial === MOST_SERIALS) this.mergeFrom(0);
    return ++this.serial;
  }

  private addWords(builder: SegmentBuilder, cut: Map<string, number[]>, sound: IndexedSound, slot: number): void {
    const text = (value: string, bit: number) => {
      let words = value.length < SHORT ? cut.get(value) : undefined;
      if (!words) {
        words = searchWords(value).map((word) => builder.number(word));
        if (value.length < SHORT) cut.set(value, words);
      }
      for (const word of words) builder.add(word, slot, bit);
    };
    for (const key in sound.fields) {
      const value = sound.fields[key];
      const at = key.indexOf('@');
      const own = at > 0 ? key.slice(0, at) : key;
      const bit = fieldBit(own);
      if (bit === undefined || value === undefined || (at > 0 && !translated.includes(own))) continue;
      // No word begins with this sign: it stands for the tag, whatever its name is.
      if (key === 'tags') for (const id of value as readonly number[]) builder.add(builder.number(`#${id}`), slot, bit);
      else if (Array.isArray(value)) for (const item of value as readonly string[]) text(item, bit);
      else text(String(value), bit);
    }
  }

  /** Stars and use of a slot: what decides between sounds that answer equally well. */
  private merit(slot: number): void {
    const stars = (this.columns.get('stars') as NumberColumn).at(slot);
    const heard = (this.columns.get('heard') as NumberColumn).at(slot);
    this.merits[slot] =
      (Number.isNaN(stars) ? 0 : Math.max(0, Math.min(7, Math.round(stars)))) * 2 + (Number.isNaN(heard) ? 0 : 1);
  }

  /** Merges the newest segments while they are of like size, so that there are few and each word is seldom copied. */
  private merge(): void {
    let from = this.parts.length - 1;
    let size = this.parts[from].segment.size;
    while (from > 0 && this.parts[from - 1].segment.size < size * 2) size += this.parts[--from].segment.size;
    if (from < this.parts.length - 1) this.mergeFrom(from);
  }

  private mergeFrom(from: number): void {
    const joined = this.parts.slice(from);
    const first = from === 0 ? 1 : joined[0].serial;
    const holds = (i: number, slot: number) => this.owner[slot] === joined[i].serial && this.live.has(slot);
    const segment = merged(
      joined.map((p) => p.segment),
      holds,
    );
    const serials = new Set(joined.map((p) => p.serial));
    for (let slot = 0; slot < this.slots; slot++) if (serials.has(this.owner[slot])) this.owner[slot] = first;
    this.parts = [...this.parts.slice(0, from), { segment, serial: first, stale: false }];
    if (from === 0) this.serial = 1;
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

  /** Sets a value that is sorted or compared but has no words of its own, such as stars. */
  setValue(id: number, key: string, value: FieldValue | undefined): void {
    const slot = this.slotOf(id);
    if (slot === undefined) return;
    this.version++;
    this.columns.get(key)?.set(slot, value);
    if (key === 'stars' || key === 'heard') this.merit(slot);
  }

  private get indexed(): Indexed {
    return {
      slots: this.slots,
      live: this.live,
      columns: this.columns,
      segments: this.parts,
      owner: this.owner,
      masks: this.masks,
      tagWords: this.tagWords,
      meant: this.meant,
      alike: (word) => this.alike.get(word) ?? [],
    };
  }

  /** Finds the sounds that a request means; rows, facets and histograms are worked out when they are asked for. */
  find(request: Request): Finding {
    const evaluation = new Evaluation(this.indexed);
    const matched = evaluation.set(request.query).and(this.live);
    if (request.within) matched.and(this.setOf(request.within));
    for (const step of request.inside ?? []) matched.and(this.step(step));
    const scores = hasWords(request.query) ? evaluation.scores : evaluation.scores.subarray(0, 0);
    return new Finding(request, matched, scores, this.columns, this.ids, this.strays.size === 0, this.merits);
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

  private setOf(ids: readonly number[]): Bitset {
    const set = new Bitset(this.slots);
    for (const id of ids) {
      const slot = this.slotOf(id);
      if (slot !== undefined) set.add(slot);
    }
    return set;
  }
}

function hasWords(query: Request['query']): boolean {
  if (query.kind === 'and' || query.kind === 'or') return query.parts.some(hasWords);
  return query.kind === 'word' || query.kind === 'phrase';
}
