import { fold } from '@core/naming';

/** Stands between the texts of a pool; a search that spans it is noticed by the borders, not by this sign. */
const GAP = '\u0000';
/** Texts that are kept apart before they are packed into the one string: at least so many, or so large a share of all. */
const [LOOSE, SHARE] = [4096, 1 / 8];

interface Packed {
  text: string;
  /** Where each text begins; one more entry than there are texts. */
  starts: Uint32Array;
}

const none: Packed = { text: '', starts: new Uint32Array(1) };

function packedOf(texts: readonly string[]): Packed {
  const starts = new Uint32Array(texts.length + 1);
  let at = 0;
  for (let i = 0; i < texts.length; i++) {
    starts[i] = at;
    at += texts[i].length + 1;
  }
  starts[texts.length] = at;
  return { text: texts.length === 0 ? '' : texts.join(GAP) + GAP, starts };
}

function joined(a: Packed, b: Packed): Packed {
  if (a.starts.length === 1) return b;
  const starts = new Uint32Array(a.starts.length + b.starts.length - 1);
  starts.set(a.starts);
  const shift = a.text.length;
  for (let i = 1; i < b.starts.length; i++) starts[a.starts.length - 1 + i] = b.starts[i] + shift;
  return { text: a.text + b.text, starts };
}

/**
 * A growing list of texts held in one string, which takes a fraction of the memory of as many strings, is written and
 * read in one piece, and is searched for parts of words at the speed of the engine's own `indexOf`.
 */
export class TextPool {
  private base = none;
  private loose: string[] = [];
  /** The packed texts folded; made when first asked for. */
  private folded: Packed | undefined;

  get length(): number {
    return this.base.starts.length - 1 + this.loose.length;
  }

  /** Adds a text. @returns its number */
  push(text: string): number {
    this.loose.push(text);
    if (this.loose.length >= Math.max(LOOSE, this.length * SHARE)) this.pack();
    return this.length - 1;
  }

  get(i: number): string {
    const { text, starts } = this.base;
    const count = starts.length - 1;
    return i < count ? text.slice(starts[i], starts[i + 1] - 1) : this.loose[i - count];
  }

  /** Puts loose texts into the one string. */
  pack(): void {
    if (this.loose.length === 0) return;
    const fresh = packedOf(this.loose);
    if (this.folded) this.folded = joined(this.folded, this.foldedOf(fresh));
    this.base = joined(this.base, fresh);
    this.loose = [];
  }

  private foldedOf(packed: Packed): Packed {
    // Lower case keeps the length of plain ASCII, so that all of it can be folded at once.
    if (/^[\x00-\x7f]*$/.test(packed.text)) return { text: packed.text.toLowerCase(), starts: packed.starts };
    const { text, starts } = packed;
    return packedOf(
      Array.from({ length: starts.length - 1 }, (_, i) => fold(text.slice(starts[i], starts[i + 1] - 1))),
    );
  }

  private get plain(): Packed {
    this.pack();
    return (this.folded ??= this.foldedOf(this.base));
  }

  /** A text as it is compared: folded. */
  foldedAt(i: number): string {
    const { text, starts } = this.plain;
    return text.slice(starts[i], starts[i + 1] - 1);
  }

  /**
   * Calls `visit` with the number of each text that contains a part, once each, in order.
   * @param part folded, not empty
   */
  containing(part: string, visit: (i: number) => void): void {
    const { text, starts } = this.plain;
    let i = 0;
    for (let at = text.indexOf(part); at >= 0;) {
      i = textAt(starts, at, i);
      if (at + part.length < starts[i + 1]) {
        visit(i);
        at = text.indexOf(part, starts[i + 1]);
      } else at = text.indexOf(part, at + 1);
    }
  }

  /** The pool as two parts of a snapshot. */
  parts(): { bytes: Uint8Array; starts: Uint32Array } {
    this.pack();
    return { bytes: new TextEncoder().encode(this.base.text), starts: this.base.starts };
  }

  /** The inverse of {@link parts}. @throws Error when the parts do not fit each other */
  static from(bytes: Uint8Array, starts: Uint32Array): TextPool {
    const pool = new TextPool();
    const text = new TextDecoder().decode(bytes);
    if (starts[starts.length - 1] !== text.length) throw new Error('texts and their borders differ');
    pool.base = { text, starts };
    return pool;
  }
}

/** The text in which a position lies, looked for from the `from`th on: nearby in steps that double. */
function textAt(starts: Uint32Array, at: number, from: number): number {
  let low = from;
  let step = 1;
  while (low + step < starts.length && starts[low + step] <= at) {
    low += step;
    step *= 2;
  }
  let high = Math.min(low + step, starts.length - 1);
  while (high - low > 1) {
    const middle = (low + high) >>> 1;
    if (starts[middle] <= at) low = middle;
    else high = middle;
  }
  return low;
}
