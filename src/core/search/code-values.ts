import { grown } from './grown';
import { hashOf } from './word-table';

/** What the codes of a column stand for, where a code is not one value: lists, or texts of which equal ones have several codes. */
export interface CodeValues {
  /** How many different values there are. */
  readonly length: number;
  /** The text of a value. */
  text(value: number): string;
  /** How often each value occurs, from how often each code does. */
  totals(counts: Uint32Array): Uint32Array;
}

/** Codes looked at before others have a turn. */
const STEP = 8192;

/** Lists: each code stands for several values. Codes are only ever added, so what was cut up once stays. */
export class ListValues implements CodeValues {
  private readonly known = new Map<string, number>();
  private readonly texts: string[] = [];
  private starts: Uint32Array = new Uint32Array(1024);
  private flat: Uint32Array = new Uint32Array(1024);
  private done = 0;

  /** @param cut the values of a code */
  constructor(private readonly cut: (code: number) => string[]) {}

  get length(): number {
    return this.texts.length;
  }

  text(value: number): string {
    return this.texts[value];
  }

  /** Cuts up the codes below `count` that were not yet, in steps of a few milliseconds. */
  *extend(count: number): Generator<void> {
    this.starts = grown(this.starts, count + 1);
    for (; this.done < count; this.done++) {
      if (this.done % STEP === STEP - 1) yield;
      let at = this.starts[this.done];
      for (const text of this.cut(this.done)) {
        let value = this.known.get(text);
        if (value === undefined) {
          value = this.texts.push(text) - 1;
          this.known.set(text, value);
        }
        this.flat = grown(this.flat, at + 1);
        this.flat[at++] = value;
      }
      this.starts[this.done + 1] = at;
    }
  }

  totals(counts: Uint32Array): Uint32Array {
    const totals = new Uint32Array(this.length);
    const { starts, flat } = this;
    for (let code = 0; code < counts.length; code++) {
      const count = counts[code];
      if (count === 0) continue;
      for (let i = starts[code]; i < starts[code + 1]; i++) totals[flat[i]] += count;
    }
    return totals;
  }
}

/**
 * Texts of which nearly all differ: a value is known by the first code that stands for it. Found by open addressing over FNV-1a
 * hashes, without a string being kept for each.
 */
export class SingleValues implements CodeValues {
  private first: Uint32Array = new Uint32Array(1024);
  /** Codes plus one by hash; 0 where nothing is. */
  private table: Uint32Array = new Uint32Array(4096);
  private done = 0;

  /** @param text of a code */
  constructor(readonly text: (code: number) => string) {}

  get length(): number {
    return this.done;
  }

  /** Finds equal texts among the codes below `count`, in steps of a few milliseconds. */
  *extend(count: number): Generator<void> {
    this.first = grown(this.first, count);
    while (count * 2 > this.table.length) this.widen();
    for (; this.done < count; this.done++) {
      if (this.done % STEP === STEP - 1) yield;
      this.first[this.done] = this.place(this.done);
    }
  }

  private place(code: number): number {
    const text = this.text(code);
    const mask = this.table.length - 1;
    for (let at = hashOf(text) & mask; ; at = (at + 1) & mask) {
      const there = this.table[at];
      if (there === 0) {
        this.table[at] = code + 1;
        return code;
      }
      if (this.text(there - 1) === text) return there - 1;
    }
  }

  private widen(): void {
    this.table = new Uint32Array(this.table.length * 2);
    for (let code = 0; code < this.done; code++) if (this.first[code] === code) this.place(code);
  }

  totals(counts: Uint32Array): Uint32Array {
    const totals = new Uint32Array(counts.length);
    for (let code = 0; code < counts.length; code++) if (counts[code] > 0) totals[this.first[code]] += counts[code];
    return totals;
  }
}
