/** One occurrence list: the slots that hold a word, rising, each with the fields (as bits) in which it stands. */
export interface Postings {
  slots: Uint32Array;
  masks: Uint32Array;
}

/**
 * An unchanging part of the index: its words in order, and for each word where it stands.
 * Words are found by binary search, beginnings as a run of neighbours.
 */
export class Segment {
  private constructor(
    private readonly words: string[],
    private readonly starts: Uint32Array,
    private readonly slots: Uint32Array,
    private readonly masks: Uint32Array,
  ) {}

  /** Entries in all occurrence lists together. */
  get size(): number {
    return this.slots.length;
  }

  static from(lists: Map<string, { slots: number[]; masks: number[] }>): Segment {
    const words = [...lists.keys()].sort();
    const starts = new Uint32Array(words.length + 1);
    let total = 0;
    words.forEach((word, i) => {
      starts[i] = total;
      total += lists.get(word)!.slots.length;
    });
    starts[words.length] = total;
    const slots = new Uint32Array(total);
    const masks = new Uint32Array(total);
    words.forEach((word, i) => {
      slots.set(lists.get(word)!.slots, starts[i]);
      masks.set(lists.get(word)!.masks, starts[i]);
    });
    return new Segment(words, starts, slots, masks);
  }

  /** One segment out of several that share no slot; slots for which `live` says false are left behind. */
  static merge(parts: Segment[], live: (slot: number) => boolean): Segment {
    const lists = new Map<string, { slots: number[]; masks: number[] }>();
    for (const part of [...parts].sort((a, b) => (a.slots[0] ?? 0) - (b.slots[0] ?? 0))) {
      part.words.forEach((word, w) => {
        for (let i = part.starts[w]; i < part.starts[w + 1]; i++) {
          if (!live(part.slots[i])) continue;
          let list = lists.get(word);
          if (!list) lists.set(word, (list = { slots: [], masks: [] }));
          list.slots.push(part.slots[i]);
          list.masks.push(part.masks[i]);
        }
      });
    }
    return Segment.from(lists);
  }

  private lowerBound(word: string): number {
    let low = 0;
    let high = this.words.length;
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (this.words[middle] < word) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  /** Calls `visit` with the occurrences of a word, and of every word it begins when `prefix`. */
  find(word: string, prefix: boolean, visit: (postings: Postings, exact: boolean) => void): void {
    for (let w = this.lowerBound(word); w < this.words.length; w++) {
      const exact = this.words[w] === word;
      if (!exact && (!prefix || !this.words[w].startsWith(word))) return;
      const [from, to] = [this.starts[w], this.starts[w + 1]];
      visit({ slots: this.slots.subarray(from, to), masks: this.masks.subarray(from, to) }, exact);
    }
  }
}
