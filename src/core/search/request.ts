import type { FieldValue, Folder } from '@core/library';
import type { BandStart } from './band';
import type { PlainWord } from './loosen';
import type { Query } from './query';

/** What to list and how. */
export interface Request {
  query: Query;
  /** The words of the query where it says no more than them, see `plainWords`: some may be given up, or be heard instead of read. */
  words?: readonly PlainWord[];
  /** How far from what the words say results may lie: only those with the very words; all that is meant, but for every word; most of them, when absent. */
  reach?: 'words' | 'meant';
  /** Only these sounds, in this order when nothing else sorts them: a pull, the tray, the nearest by ear. */
  within?: readonly number[];
  /** Only what one run of taking in brought. */
  intakeId?: number;
  /** Only what lies in a folder of a root, or below it. */
  under?: Folder;
  /** Sounds that are left out. */
  leave?: readonly number[];
  /** Results of earlier requests inside of which this one looks: the steps of a trail. */
  inside?: readonly Request[];
  /** Chosen facet values by field key; several of one field are alternatives. */
  facets?: Readonly<Record<string, readonly string[]>>;
  /** Facet values by field key that results must not have. */
  without?: Readonly<Record<string, readonly string[]>>;
  /** Chosen parts of histograms by field key: from, included, to, not included. */
  ranges?: Readonly<Record<string, readonly [number, number]>>;
  /** A field key; by relevance, then stars and use, then by time of intake, when absent. */
  sort?: { key: string; down: boolean };
  /** Takes of one sound stand as one row, its best placed one; those of the groups given here stand all. */
  fold?: { opened: readonly string[] };
}

export interface FacetCount {
  value: string;
  count: number;
}

/** A sound as the index takes it: tags as their ids. */
export interface IndexedSound {
  id: number;
  /** The run of taking in that brought it. */
  intakeId?: number;
  /** The root that it lies in. */
  rootId?: number;
  fields: Readonly<Record<string, FieldValue>>;
}

/** A request answered in one go. */
export interface Result {
  /** Sound ids in order. */
  ids: Uint32Array;
  /** How many results each row stands for, itself included; 1 everywhere when nothing is folded. */
  takes: Uint32Array;
  /** Where bands begin, in order; none where all results have the words themselves. */
  bands: BandStart[];
  /** Most frequent first, by field key; each counted as if nothing of its own field were chosen. */
  facets: Record<string, FacetCount[]>;
  /** Sounds per bin of `lengthBins`. */
  lengths: number[];
}

/** The values of a field among the results. */
export interface Facet {
  /** Most frequent first, as many as were asked for. */
  values: FacetCount[];
  /** How many different values there are in all. */
  distinct: number;
}

/** How many results have a number in each of some spans. */
export interface Histogram {
  /** Where each span begins; the last ends where the last entry says. One more than there are counts. */
  edges: number[];
  counts: number[];
}
