/** A set of small whole numbers, one bit each. All sets that meet in an operation have the same size. */
export class Bitset {
  readonly words: Uint32Array;

  constructor(readonly size: number) {
    this.words = new Uint32Array((size + 31) >>> 5);
  }

  add(i: number): void {
    this.words[i >>> 5] |= 1 << (i & 31);
  }

  delete(i: number): void {
    this.words[i >>> 5] &= ~(1 << (i & 31));
  }

  has(i: number): boolean {
    return (this.words[i >>> 5] & (1 << (i & 31))) !== 0;
  }

  /** A copy, with room for `size` numbers. */
  copy(size = this.size): Bitset {
    const made = new Bitset(size);
    made.words.set(this.words.subarray(0, made.words.length));
    return made;
  }

  /** What is in both of two sets. */
  static and(a: Bitset, b: Bitset): Bitset {
    const made = new Bitset(a.size);
    const [to, as, bs] = [made.words, a.words, b.words];
    for (let i = 0; i < to.length; i++) to[i] = as[i] & bs[i];
    return made;
  }

  /** What is in either of two sets. */
  static or(a: Bitset, b: Bitset): Bitset {
    return a.copy().or(b);
  }

  /** Keeps what is in both. */
  and(other: Bitset): this {
    const [own, others] = [this.words, other.words];
    for (let i = 0; i < own.length; i++) own[i] &= others[i];
    return this;
  }

  /** Adds what is in the other. */
  or(other: Bitset): this {
    const [own, others] = [this.words, other.words];
    for (let i = 0; i < own.length; i++) own[i] |= others[i];
    return this;
  }

  /** Takes out what is in the other. */
  andNot(other: Bitset): this {
    const [own, others] = [this.words, other.words];
    for (let i = 0; i < own.length; i++) own[i] &= ~others[i];
    return this;
  }

  /** Whether nothing is in the set. */
  get empty(): boolean {
    const { words } = this;
    for (let i = 0; i < words.length; i++) if (words[i] !== 0) return false;
    return true;
  }

  /** The numbers of the set, rising. */
  list(): Uint32Array {
    const list = new Uint32Array(this.count());
    const { words } = this;
    let at = 0;
    for (let w = 0; w < words.length; w++) {
      for (let bits = words[w]; bits !== 0; bits &= bits - 1) list[at++] = (w << 5) + 31 - Math.clz32(bits & -bits);
    }
    return list;
  }

  /** The first so many numbers of the set, rising. */
  first(most: number): Uint32Array {
    const taken = new Uint32Array(most);
    let count = 0;
    for (let w = 0; w < this.words.length && count < most; w++)
      for (let bits = this.words[w]; bits !== 0 && count < most; bits &= bits - 1)
        taken[count++] = (w << 5) + 31 - Math.clz32(bits & -bits);
    return taken.subarray(0, count);
  }

  /** How many are in the set. */
  count(): number {
    let total = 0;
    for (let i = 0; i < this.words.length; i++) {
      let w = this.words[i];
      w -= (w >>> 1) & 0x55555555;
      w = (w & 0x33333333) + ((w >>> 2) & 0x33333333);
      total += Math.imul((w + (w >>> 4)) & 0x0f0f0f0f, 0x01010101) >>> 24;
    }
    return total;
  }

  /** Calls `visit` with each number in rising order. */
  each(visit: (i: number) => void): void {
    for (let w = 0; w < this.words.length; w++) {
      let bits = this.words[w];
      while (bits !== 0) {
        const low = bits & -bits;
        visit((w << 5) + 31 - Math.clz32(low));
        bits ^= low;
      }
    }
  }
}

/**
 * What at least so many of some sets of one size hold, at most 15 sets. Counted for 32 numbers at a time, each binary digit of the
 * counts in a word of its own.
 */
export function inAtLeast(sets: readonly Bitset[], least: number): Bitset {
  const { size } = sets[0];
  const made = new Bitset(size);
  for (let w = 0; w < made.words.length; w++) {
    const digits = [0, 0, 0, 0];
    for (const { words } of sets) {
      let carry = words[w];
      for (let d = 0; carry !== 0 && d < digits.length; d++) {
        const both = digits[d] & carry;
        digits[d] ^= carry;
        carry = both;
      }
    }
    let more = 0;
    let equal = -1;
    for (let d = digits.length - 1; d >= 0; d--) {
      if ((least >> d) & 1) equal &= digits[d];
      else {
        more |= equal & digits[d];
        equal &= ~digits[d];
      }
    }
    made.words[w] = more | equal;
  }
  return made;
}
