import { stem } from '@core/naming';
import { allSteps, sortedTexts } from './argsort';
import { grown } from './grown';
import { TextPool } from './text-pool';
import { WordTable } from './word-table';

/** The plain data of a segment, as a snapshot holds it. */
export interface SegmentParts {
  words: TextPool;
  /** Where the occurrences of each word begin; one more entry than there are words. */
  starts: Uint32Array;
  /** The slot of each occurrence. */
  slots: Uint32Array;
  /** Numbers of field sets, see `MaskTable`. */
  masks: Uint16Array;
}

/**
 * An unchanging part of the index: its words in order, and for each word where it stands. Words are found by binary
 * search, beginnings as a run of neighbours, other forms of a word through its stem.
 *
 * A slot's words may stand in a newer segment instead; whoever reads occurrences checks that (see `SoundIndex`).
 */
export class Segment {
  /** Words that differ from their stem, by stem. */
  private stems: Map<string, number[]> | undefined;
  /** Words that were typed as one, by the stems of what they are made of. */
  private joined: Map<string, number[]> | undefined;

  constructor(readonly parts: SegmentParts) {}

  /** Occurrences of all words together. */
  get size(): number {
    return this.parts.slots.length;
  }

  get wordCount(): number {
    return this.parts.words.length;
  }

  word(i: number): string {
    return this.parts.words.get(i);
  }

  /** Occurrences of words `from` to `to`. */
  occurrences(from: number, to = from + 1): number {
    return this.parts.starts[to] - this.parts.starts[from];
  }

  private lowerBound(word: string): number {
    let low = 0;
    let high = this.wordCount;
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (this.word(middle) < word) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  /** The run of words that begin with `text`; words never hold the highest code unit. */
  begun(text: string): [from: number, to: number] {
    return [this.lowerBound(text), this.lowerBound(`${text}\uffff`)];
  }

  /** The number of a word; -1 when it does not occur. */
  numberOf(word: string): number {
    const at = this.lowerBound(word);
    return at < this.wordCount && this.word(at) === word ? at : -1;
  }

  /** Whether a word occurs, or where `begun` any that begins with it. */
  has(word: string, begun: boolean): boolean {
    const at = this.lowerBound(word);
    if (at >= this.wordCount) return false;
    return begun ? this.word(at).startsWith(word) : this.word(at) === word;
  }

  /** Words of the same stem, whatever their ending or spelling. */
  forms(root: string): readonly number[] {
    if (!this.stems) allSteps(this.prepare());
    const same = this.numberOf(root);
    const others = this.stems!.get(root) ?? [];
    return same >= 0 && stem(root) === root ? [same, ...others] : others;
  }

  /** Words that hold one of this stem: `latchclick` holds click. */
  holding(root: string, parts: WordParts): readonly number[] {
    if (!this.joined) allSteps(this.takeApart(parts));
    return this.joined!.get(root) ?? [];
  }

  private *takeApart(parts: WordParts): Generator<void> {
    const joined = new Map<string, number[]>();
    for (let i = 0; i < this.wordCount; i++) {
      if (i % TAKEN === TAKEN - 1) yield;
      const word = this.word(i);
      if (word.length < JOINED || word.charCodeAt(word.length - 1) < LETTERS) continue;
      for (const root of new Set(parts(word)?.map(stem))) {
        const list = joined.get(root);
        if (list) list.push(i);
        else joined.set(root, [i]);
      }
    }
    this.joined = joined;
  }

  /** Finds the stems of all words and what they are made of, in steps of a few milliseconds. */
  *prepare(parts?: WordParts): Generator<void> {
    if (parts && !this.joined) yield* this.takeApart(parts);
    if (this.stems) return;
    const stems = new Map<string, number[]>();
    for (let i = 0; i < this.wordCount; i++) {
      if (i % STEP === STEP - 1) yield;
      const word = this.word(i);
      // Most words of a large library are numbers, which have no other forms.
      if (word.charCodeAt(word.length - 1) < LETTERS) continue;
      const own = stem(word);
      if (own === word) continue;
      const list = stems.get(own);
      if (list) list.push(i);
      else stems.set(own, [i]);
    }
    this.stems = stems;
  }
}

/** What a folded word is made of that was typed as one; undefined for any other. */
export type WordParts = (word: string) => readonly string[] | undefined;

/** No shorter word is taken apart. */
const JOINED = 6;
/** Words that are looked at before others have a turn. */
const STEP = 4096;
/** The same where they are taken apart. */
const TAKEN = 128;
const LETTERS = 'a'.charCodeAt(0);

/** Collects where words stand, sound by sound with rising slots, and makes a segment of it. */
export class SegmentBuilder {
  private readonly table = new WordTable();
  private entry = new Uint32Array(4096);
  private slot = new Uint32Array(4096);
  private mask = new Uint32Array(4096);
  private count = 0;
  /** The last occurrence of each word, so that a word in two fields of a sound is one. */
  private last = new Uint32Array(1024);

  /** A folded word stands in a slot, in the fields of `bit`. */
  word(word: string, slot: number, bit: number): void {
    this.add(this.table.number(word), slot, bit);
  }

  /** All words of a text stand in a slot. */
  text(text: string, slot: number, bit: number): void {
    const count = this.table.cut(text);
    const { found } = this.table;
    for (let i = 0; i < count; i++) this.add(found[i], slot, bit);
  }

  /** The numbers of a text's words, for texts that stand in many slots. */
  cut(text: string): Uint32Array {
    const count = this.table.cut(text);
    return this.table.found.slice(0, count);
  }

  /** A word, by its number, stands in a slot, in the fields of `bit`. */
  add(word: number, slot: number, bit: number): void {
    this.last = grown(this.last, word + 1);
    const before = this.last[word];
    if (before > 0 && this.slot[before - 1] === slot) {
      this.mask[before - 1] |= bit;
      return;
    }
    if (this.count === this.entry.length) {
      // What does not last may take more room, and is copied seldom.
      this.entry = grown(this.entry, this.entry.length * 2);
      this.slot = grown(this.slot, this.slot.length * 2);
      this.mask = grown(this.mask, this.mask.length * 2);
    }
    this.entry[this.count] = word;
    this.slot[this.count] = slot;
    this.mask[this.count] = bit;
    this.last[word] = ++this.count;
  }

  /** @param code numbers a set of field bits */
  build(code: (mask: number) => number): Segment {
    const spelled = this.table.words;
    const order = allSteps(sortedTexts(spelled));
    const place = new Uint32Array(order.length);
    order.forEach((n, i) => (place[n] = i));
    const starts = new Uint32Array(order.length + 1);
    for (let i = 0; i < this.count; i++) starts[place[this.entry[i]] + 1]++;
    for (let w = 0; w < order.length; w++) starts[w + 1] += starts[w];
    const at = starts.slice();
    const slots = new Uint32Array(this.count);
    const masks = new Uint16Array(this.count);
    for (let i = 0; i < this.count; i++) {
      const to = at[place[this.entry[i]]]++;
      slots[to] = this.slot[i];
      masks[to] = code(this.mask[i]);
    }
    const words = new TextPool();
    for (const n of order) words.push(spelled[n]);
    words.pack();
    return new Segment({ words, starts, slots, masks });
  }
}

/**
 * One segment out of several.
 * @param holds whether a slot's words in the `i`th segment still count
 */
export function merged(segments: readonly Segment[], holds: (i: number, slot: number) => boolean): Segment {
  const total = segments.reduce((sum, s) => sum + s.size, 0);
  const slots = new Uint32Array(total);
  const masks = new Uint16Array(total);
  const words = new TextPool();
  const starts: number[] = [];
  const heads = segments.map(() => 0);
  const current = segments.map((s) => (s.wordCount > 0 ? s.word(0) : undefined));
  let at = 0;
  for (;;) {
    let least: string | undefined;
    for (const word of current) if (word !== undefined && (least === undefined || word < least)) least = word;
    if (least === undefined) break;
    const from = at;
    segments.forEach(({ parts }, i) => {
      if (current[i] !== least) return;
      const w = heads[i]++;
      current[i] = heads[i] < parts.words.length ? parts.words.get(heads[i]) : undefined;
      for (let p = parts.starts[w]; p < parts.starts[w + 1]; p++) {
        if (!holds(i, parts.slots[p])) continue;
        slots[at] = parts.slots[p];
        masks[at++] = parts.masks[p];
      }
    });
    if (at === from) continue;
    words.push(least);
    starts.push(from);
  }
  words.pack();
  starts.push(at);
  return new Segment({ words, starts: Uint32Array.from(starts), slots: slots.slice(0, at), masks: masks.slice(0, at) });
}
