import { fields, type Field } from '@core/library';
import { baseName } from '@core/naming';

/** Fields whose words are searched unless a query names others. */
export const searched = fields.filter((f) => f.weight > 0);
const bitOf = new Map(searched.map((f, i) => [f.key, 1 << i]));
const weights = searched.map((f) => f.weight);

/** The bit of a searched field; undefined for one whose words are not indexed. */
export const fieldBit = (key: string): number | undefined => bitOf.get(key);

/** What of a field's text is searched: the ending of a file says what it is, not what sounds in it. */
export const searchedText = (key: string, text: string): string => (key === 'file' ? baseName(text) : text);

/** The field of a set of bits that counts most. @param only the one field that counts, if any */
export function fieldOfMask(mask: number, only?: Field): string | undefined {
  const inIt = searched.filter((f) => mask & bitOf.get(f.key)! && (!only || only.key === f.key));
  return inIt.sort((a, b) => b.weight - a.weight)[0]?.key;
}

const FULL = 0xffff;

/**
 * Sets of fields in which a word stands, each different set kept once: there are few, so that an occurrence needs two
 * bytes for its set, and what a set is worth to a query is worked out once a set instead of once an occurrence.
 */
export class MaskTable {
  readonly masks: number[];
  private readonly codes: Map<number, number>;

  /** @param known sets that were numbered before */
  constructor(known: Iterable<number> = [0]) {
    this.masks = Array.from(known, (mask) => mask | 0);
    this.codes = new Map(this.masks.map((mask, code) => [mask, code]));
  }

  /** The number of a set of field bits. */
  code(mask: number): number {
    let code = this.codes.get(mask);
    if (code === undefined) {
      // Tens of thousands of different sets do not occur; should they, the rest counts as standing everywhere.
      if (this.masks.length === FULL) return FULL - 1;
      code = this.masks.length === FULL - 1 ? this.masks.push(-1) - 1 : this.masks.push(mask) - 1;
      this.codes.set(mask, code);
    }
    return code;
  }

  /** What each set is worth when a word may stand in `field`, or anywhere: the highest weight, 0 when it does not count. */
  worth(field?: Field): Uint8Array {
    const wanted = field ? (bitOf.get(field.key) ?? 0) : -1;
    return Uint8Array.from(this.masks, (mask) =>
      weights.reduce((most, w, i) => (mask & wanted & (1 << i) ? Math.max(most, w) : most), 0),
    );
  }

  /** Marks the sets that hold one field. */
  only(key: string): Uint8Array {
    const bit = bitOf.get(key) ?? 0;
    return Uint8Array.from(this.masks, (mask) => (mask & bit ? 1 : 0));
  }
}
