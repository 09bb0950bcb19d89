import { fold } from '@core/naming';
import { allSteps, argsortNumbers, sortedTexts } from './argsort';
import { ListValues, SingleValues, type CodeValues } from './code-values';
import { grown, roomFor } from './grown';
import { argsort } from './sweep';
import { TextPool } from './text-pool';

/** Parts a list of slots: those for which `has` says true keep their order and come first. @returns how many they are */
function parted(slots: Uint32Array, has: (slot: number) => boolean): number {
  let at = 0;
  // Where all have one, which is the rule, nothing moves.
  while (at < slots.length && has(slots[at])) at++;
  const without: number[] = [];
  for (let i = at; i < slots.length; i++) {
    const slot = slots[i];
    if (has(slot)) slots[at++] = slot;
    else without.push(slot);
  }
  for (let i = 0; i < without.length; i++) slots[at + i] = without[i];
  return at;
}

/** The numbers of one field by slot; NaN where there is none. */
export class NumberColumn {
  values: Float64Array = new Float64Array(0);
  /** Rises whenever a value becomes another. */
  changes = 0;

  set(slot: number, value: unknown): void {
    // A field that nobody has costs nothing: slots beyond the array count as empty.
    if (typeof value !== 'number' && slot >= this.values.length) return;
    const { length } = this.values;
    this.values = grown(this.values, slot + 1);
    if (this.values.length > length) this.values.fill(NaN, length);
    const number = typeof value === 'number' ? value : NaN;
    if (Object.is(this.values[slot], number)) return;
    this.values[slot] = number;
    this.changes++;
  }

  /** The number of a slot; NaN where there is none. */
  at(slot: number): number {
    return slot < this.values.length ? this.values[slot] : NaN;
  }

  /** Sorts slots in place, stably, those without a number last. */
  sort(slots: Uint32Array, down: boolean): void {
    const count = parted(slots, (slot) => !Number.isNaN(this.at(slot)));
    argsortNumbers(slots.subarray(0, count), this.values, down);
  }
}

/** A text by which texts are put in order: folded, numbers in it by their value. */
export function sortKey(text: string): string {
  return fold(text).replace(/0*(\d+)/g, (_, digits: string) => String.fromCharCode(48 + digits.length) + digits);
}

const letter = /[\p{L}\p{M}\p{N}]/u;
/** Whether the sign at a place belongs to a word; outside of the text none does. */
function inWord(text: string, at: number): boolean {
  const code = text.charCodeAt(at);
  if (code < 128) return (code >= 97 && code <= 122) || (code >= 48 && code <= 57);
  if (Number.isNaN(code)) return false;
  // Half of a pair is looked at together with the other half.
  const low = code >= 0xdc00 && code < 0xe000;
  return letter.test(String.fromCodePoint(text.codePointAt(low ? at - 1 : at)!));
}

/** Whether words follow each other in a folded text, with nothing but signs between them. @param begun the last may go on */
function follows(text: string, words: readonly string[], begun = false): boolean {
  for (let from = text.indexOf(words[0]); from >= 0; from = text.indexOf(words[0], from + 1)) {
    if (inWord(text, from - 1)) continue;
    let at = from + words[0].length;
    let fits = true;
    for (let w = 1; w < words.length && fits; w++) {
      const gap = at;
      while (at < text.length && !inWord(text, at)) at++;
      fits = at > gap && text.startsWith(words[w], at);
      at += words[w].length;
    }
    if (fits && (begun || !inWord(text, at))) return true;
  }
  return false;
}

/** From so many different texts on, a column where most are different stops looking for equal ones. */
const MANY = 20_000;
/** Texts that are looked at before others have a turn. */
const STEP = 8192;
/** New texts up to this share are put between the sorted ones one by one. */
const FEW = 0.05;

/** The texts of one field by slot; code 0 is "none". */
export class TextColumn {
  codes: Uint32Array = new Uint32Array(0);
  /** Rises whenever a text becomes another. */
  changes = 0;
  protected pool = new TextPool();
  /** Each text's code; undefined where nearly all texts differ. */
  private known: Map<string, number> | undefined = new Map([['', 0]]);
  private given = 0;
  private cut: ListValues | SingleValues | undefined;
  private ranks: Uint32Array = new Uint32Array(0);
  private order: Uint32Array = new Uint32Array(0);

  /** @param list whether a text is several words, parted by `, ` */
  constructor(readonly list = false) {
    this.pool.push('');
  }

  set(slot: number, value: unknown): void {
    const text = value === undefined ? '' : Array.isArray(value) ? value.join(', ') : String(value);
    if (text === '' && slot >= this.codes.length) return;
    this.codes = grown(this.codes, slot + 1);
    const code = text === '' ? 0 : this.codeOf(text);
    if (this.codes[slot] === code) return;
    this.codes[slot] = code;
    this.changes++;
  }

  private codeOf(text: string): number {
    this.given++;
    const code = this.known?.get(text);
    if (code !== undefined) return code;
    const made = this.pool.push(text);
    this.known?.set(text, made);
    if (this.known && made > MANY && made > this.given * 0.5) this.known = undefined;
    return made;
  }

  /** How many codes there are. */
  get length(): number {
    return this.pool.length;
  }

  /** Whether no two codes stand for the same text. */
  get interned(): boolean {
    return this.known !== undefined;
  }

  /** The code of a slot. */
  at(slot: number): number {
    return slot < this.codes.length ? this.codes[slot] : 0;
  }

  /** What a code stands for, as it was set. */
  text(code: number): string {
    return this.pool.get(code);
  }

  /** All texts by code. */
  texts(): string[] {
    return Array.from({ length: this.length }, (_, code) => this.text(code));
  }

  /** The text of a code as it is shown. */
  shown(code: number): string {
    return this.text(code);
  }

  /** The values of a code: its words where the field is a list. */
  values(code: number): string[] {
    const text = this.text(code);
    return this.list && text !== '' ? text.split(', ') : [text];
  }

  /** Marks the codes whose folded text contains a part and satisfies a test. */
  codesWith(part: string, test: (folded: string) => boolean = () => true): Uint8Array {
    const good = new Uint8Array(this.length);
    this.pool.containing(part, (code) => {
      if (code > 0 && test(this.pool.foldedAt(code))) good[code] = 1;
    });
    return good;
  }

  /** Marks the codes that have one of the values. */
  codesOf(values: ReadonlySet<string>): Uint8Array {
    const good = new Uint8Array(this.length);
    if (this.known && !this.list) {
      for (const value of values) {
        const code = this.known.get(value);
        if (code !== undefined) good[code] = 1;
      }
      return good;
    }
    for (let code = 0; code < good.length; code++) if (this.values(code).some((v) => values.has(v))) good[code] = 1;
    return good;
  }

  /** Marks the codes in whose text words follow each other. */
  codesWithPhrase(words: readonly string[], begun = false): Uint8Array {
    const longest = words.reduce((a, b) => (b.length > a.length ? b : a));
    return this.codesWith(longest, (folded) => follows(folded, words, begun));
  }

  /** Whether words follow each other in the text of a code. */
  hasPhrase(code: number, words: readonly string[]): boolean {
    return code > 0 && follows(fold(this.shown(code)), words);
  }

  /** Forgets the order of the shown texts: they are others now. */
  protected renew(): void {
    this.changes++;
    this.ranks = new Uint32Array(0);
  }

  /** The place of each code in the order of texts; equal texts share one. */
  private ranked(): Uint32Array {
    allSteps(this.rank());
    return this.ranks;
  }

  /** Works out the order of texts in steps of a few milliseconds; texts that come meanwhile are left for the next time. */
  *rank(): Generator<void> {
    const count = this.length;
    const old = this.ranks;
    let had = old.length;
    if (had === count) return;
    if (count - had > count * FEW) had = 0;
    const fresh: string[] = [];
    for (let code = had; code < count; code++) {
      fresh.push(sortKey(this.shown(code)));
      if (code % STEP === 0) yield;
    }
    const key = (code: number) => (code >= had ? fresh[code - had] : sortKey(this.shown(code)));
    const sorted = (yield* sortedTexts(fresh)).map((i) => i + had);
    const order = had === 0 ? sorted : this.between(sorted, key);
    const same = (a: number, b: number) => (a < had && b < had ? old[a] === old[b] : key(a) === key(b));
    const ranks = new Uint32Array(count);
    for (let i = 1, rank = 0; i < count; i++) {
      if (!same(order[i - 1], order[i])) rank++;
      ranks[order[i]] = rank;
    }
    // Texts that were given other names meanwhile are put in order by whoever asks next.
    if (old !== this.ranks) return;
    this.order = order;
    this.ranks = ranks;
  }

  /** Puts sorted new codes between the sorted old ones. */
  private between(fresh: Uint32Array, key: (code: number) => string): Uint32Array {
    const merged = new Uint32Array(this.order.length + fresh.length);
    let from = 0;
    let at = 0;
    for (const code of fresh) {
      let low = from;
      let high = this.order.length;
      const own = key(code);
      while (low < high) {
        const middle = (low + high) >>> 1;
        if (key(this.order[middle]) <= own) low = middle + 1;
        else high = middle;
      }
      merged.set(this.order.subarray(from, low), at);
      at += low - from;
      merged[at++] = code;
      from = low;
    }
    merged.set(this.order.subarray(from), at);
    return merged;
  }

  /** Sorts slots in place, stably: alphabetical, numbers in names by value, what is missing last. */
  sort(slots: Uint32Array, down: boolean): void {
    const ranks = this.ranked();
    const count = parted(slots, (slot) => this.at(slot) !== 0);
    const part = slots.subarray(0, count);
    const keys = new Uint32Array(count);
    for (let i = 0; i < count; i++) keys[i] = down ? ~ranks[this.codes[part[i]]] : ranks[this.codes[part[i]]];
    argsort(part, keys);
  }

  /** What codes stand for, where a code is not a value by itself; undefined where it is. */
  codeValues(): CodeValues | undefined {
    if (!this.list && this.interned) return undefined;
    allSteps(this.cutUp());
    return this.cut;
  }

  /** Works out {@link codeValues} in steps of a few milliseconds. */
  *cutUp(): Generator<void> {
    if (this.list) this.cut ??= new ListValues((code) => this.values(code));
    else if (this.interned) return;
    else if (!(this.cut instanceof SingleValues)) this.cut = new SingleValues((code) => this.text(code));
    yield* this.cut!.extend(this.length);
  }

  /** The text of a value as it is shown. */
  shownValue(value: string): string {
    return value;
  }

  /** The column as parts of a snapshot; its order goes along, since it takes longest to make. */
  parts(): { codes: Uint32Array; bytes: Uint8Array; starts: Uint32Array; ranks: Uint32Array } {
    const ranks = this.ranked();
    return { codes: this.codes, ...this.pool.parts(), ranks };
  }

  /** Takes over what {@link parts} gave. @throws Error when the parts do not fit each other */
  load(parts: { codes: Uint32Array; bytes: Uint8Array; starts: Uint32Array; ranks: Uint32Array }): void {
    this.pool = TextPool.from(parts.bytes, parts.starts);
    this.cut = undefined;
    const { length } = this.pool;
    if (parts.ranks.length !== length || length === 0) throw new Error('texts and their order differ');
    for (const code of parts.codes) if (code >= length) throw new Error('a text is missing');
    this.codes = parts.codes;
    this.ranks = parts.ranks;
    const slots = Uint32Array.from({ length }, (_, code) => code);
    argsort(slots, parts.ranks.slice());
    this.order = slots;
    this.given = parts.codes.length;
    this.known = length > MANY && length > this.given * 0.5 ? undefined : new Map();
    if (this.known) for (let code = 0; code < length; code++) this.known.set(this.text(code), code);
  }
}

/** Tags by slot: kept as their ids, shown and compared by their names, so that renaming one touches no sound. */
export class TagColumn extends TextColumn {
  private names: ReadonlyMap<string, string> = new Map();

  constructor() {
    super(true);
  }

  setNames(names: ReadonlyMap<string, string>): void {
    this.names = names;
    this.renew();
  }

  override shown(code: number): string {
    const text = this.text(code);
    return (
      text &&
      text
        .split(', ')
        .map((id) => this.names.get(id) ?? id)
        .join(', ')
    );
  }

  override shownValue(value: string): string {
    return this.names.get(value) ?? value;
  }

  override codesWith(part: string, test: (folded: string) => boolean = () => true): Uint8Array {
    return Uint8Array.from({ length: this.length }, (_, code) => {
      const folded = fold(this.shown(code));
      return code > 0 && folded.includes(part) && test(folded) ? 1 : 0;
    });
  }
}

export type Column = NumberColumn | TextColumn;

/** A short vector of small numbers by slot. */
export class VectorColumn {
  values = new Int8Array(0);
  /** 1 for each slot that has a vector. */
  known = new Uint8Array(0);

  /** @param size numbers in a vector */
  constructor(readonly size: number) {}

  set(slot: number, vector: Int8Array | undefined): void {
    if (slot >= this.known.length) {
      if (!vector) return;
      const room = roomFor(slot + 1, this.known.length);
      const [values, known] = [new Int8Array(room * this.size), new Uint8Array(room)];
      values.set(this.values);
      known.set(this.known);
      Object.assign(this, { values, known });
    }
    this.known[slot] = vector ? 1 : 0;
    if (vector) this.values.set(vector, slot * this.size);
  }

  has(slot: number): boolean {
    return slot < this.known.length && this.known[slot] === 1;
  }

  /** What a snapshot keeps of the first slots. */
  parts(slots: number): { vectors: Uint8Array; compared: Uint8Array } {
    const compared = this.known.subarray(0, slots);
    const { buffer, byteOffset } = this.values;
    return { vectors: new Uint8Array(buffer, byteOffset, compared.length * this.size), compared };
  }

  /** Takes over what {@link parts} gave. @throws Error when the parts do not fit each other */
  load({ vectors, compared }: { vectors: Uint8Array; compared: Uint8Array }): void {
    if (vectors.length !== compared.length * this.size) throw new Error('vectors are missing');
    this.values = new Int8Array(vectors.buffer as ArrayBuffer, vectors.byteOffset, vectors.length);
    this.known = compared as Uint8Array<ArrayBuffer>;
  }

  /** A copy of the vector of a slot that has one. */
  at(slot: number): Int8Array {
    return this.values.slice(slot * this.size, (slot + 1) * this.size);
  }
}
