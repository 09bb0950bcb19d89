import type { Bitset } from './bitset';

/**
 * Why results belong together, from what was asked for to what is farthest from it: they have the words themselves, other forms of
 * them, words that mean them; they sound as the words say; they lack one of the words; they have some of them.
 */
export type BandKind = 'words' | 'forms' | 'meant' | 'heard' | 'without' | 'some';

/** Results of one kind; a sound stands in one band only. */
export interface Band {
  kind: BandKind;
  set: Bitset;
  /** The word that is lacking. */
  word?: string;
  /** How many of the words are there at least. */
  least?: number;
}

/** Where a band begins in a list, and how many sounds it holds. */
export interface BandStart {
  kind: BandKind;
  word?: string;
  least?: number;
  /** The first row of the band. */
  at: number;
  count: number;
}
