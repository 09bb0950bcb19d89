import { fold } from '@core/naming';

function grown<T extends Float64Array | Uint32Array>(array: T, slot: number): T {
  if (slot < array.length) return array;
  const made = new (array.constructor as new (n: number) => T)(Math.max(1024, slot + 1, array.length * 2));
  if (made instanceof Float64Array) made.fill(NaN);
  made.set(array as never);
  return made;
}

/** The numbers of one field by slot; NaN where there is none. */
export class NumberColumn {
  values = new Float64Array(0);

  set(slot: number, value: unknown): void {
    // A field that nobody has costs nothing: slots beyond the array count as empty.
    if (typeof value !== 'number' && slot >= this.values.length) return;
    this.values = grown(this.values, slot);
    this.values[slot] = typeof value === 'number' ? value : NaN;
  }

  /** Sort key of a slot; what is missing comes last. */
  rank(slot: number): number {
    const value = this.values[slot];
    return value === undefined || Number.isNaN(value) ? Infinity : value;
  }
}

const collator = new Intl.Collator('en', { numeric: true, sensitivity: 'base' });

/** The texts of one field by slot, each different text kept once; code 0 is "none". */
export class TextColumn {
  codes = new Uint32Array(0);
  readonly texts: string[] = [''];
  private readonly known = new Map<string, number>([['', 0]]);
  private folded: string[] = [];
  private ranks: Uint32Array | undefined;

  set(slot: number, value: unknown): void {
    const text = value === undefined ? '' : Array.isArray(value) ? value.join(', ') : String(value);
    let code = this.known.get(text);
    if (code === undefined) {
      code = this.texts.push(text) - 1;
      this.known.set(text, code);
      this.ranks = undefined;
    }
    this.codes = grown(this.codes, slot);
    this.codes[slot] = code;
  }

  /** The text of a code as it is shown. */
  shown(code: number): string {
    return this.texts[code];
  }

  /** Forgets what was made of the shown texts: they are others now. */
  protected renew(): void {
    this.folded = [];
    this.ranks = undefined;
  }

  /** The text of a code as it is compared: folded, anything but letters and digits a single space, spaces around. */
  plain(code: number): string {
    return (this.folded[code] ??= ` ${fold(this.shown(code))
      .replace(/[^\p{L}\p{M}\p{N}]+/gu, ' ')
      .trim()} `);
  }

  /** The codes whose text satisfies a test. */
  codesWhere(test: (code: number) => boolean): Uint8Array {
    return Uint8Array.from(this.texts, (_, code) => (test(code) ? 1 : 0));
  }

  /** Sort key of a slot: alphabetical, numbers in names by value, what is missing last. */
  rank(slot: number): number {
    if (!this.ranks) {
      const order = this.texts.map((_, code) => code).sort((a, b) => collator.compare(this.shown(a), this.shown(b)));
      const ranks = new Uint32Array(order.length);
      order.forEach((code, place) => (ranks[code] = place));
      ranks[0] = order.length;
      this.ranks = ranks;
    }
    return this.ranks[this.codes[slot]];
  }
}

/** Tags by slot: kept as their ids, shown and compared by their names, so that renaming one touches no sound. */
export class TagColumn extends TextColumn {
  private names: ReadonlyMap<string, string> = new Map();

  setNames(names: ReadonlyMap<string, string>): void {
    this.names = names;
    this.renew();
  }

  override shown(code: number): string {
    const text = this.texts[code];
    return (
      text &&
      text
        .split(', ')
        .map((id) => this.names.get(id) ?? id)
        .join(', ')
    );
  }
}

export type Column = NumberColumn | TextColumn;
