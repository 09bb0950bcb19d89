import type { BandStart, Facet, Histogram, QueryFault, Request } from '@core/search';

/** What the interface asks of the index. */
export interface Search extends Omit<Request, 'query' | 'words' | 'within' | 'inside'> {
  text: string;
  /** A pull whose sounds alone are listed. */
  pullId?: number;
  /** Only the sounds that are most like this one, nearest first. */
  nearId?: number;
  /** The same for what is no sound of the library: see {@link likeCode}. */
  like?: string;
  /** Only what was heard on a day, `2026-03-14` by the clock on the wall, newest first. */
  heardOn?: string;
  /** Only what was not heard while a scene was worked on. */
  unheardIn?: number;
  /** What was heard from then on changes neither of these: a list stays as it is while one listens. Milliseconds since 1970. */
  asOf?: number;
  /** Earlier searches inside of whose results this one looks. */
  inside?: readonly Search[];
}

/** What is counted beside the rows. */
export interface Counted {
  /** Fields whose values are counted. */
  facetKeys: readonly string[];
  /** Numbers that are counted by spans. */
  histogramKeys: readonly string[];
}

/** The first rows, at once. */
export interface FirstAnswer {
  /** By which the rest is asked for. */
  searchId: number;
  /** The first rows in order. */
  ids: Uint32Array;
  /** Results in all. */
  count: number;
  /** Where bands begin, see {@link BandStart}. */
  bands: BandStart[];
  faults: QueryFault[];
  /** Sounds in the whole catalogue. */
  total: number;
  /** Milliseconds that the index took. */
  took: number;
}

/** All rows, and what is counted beside them. */
export interface SearchRest {
  ids: Uint32Array;
  /** How many results each row stands for. */
  takes: Uint32Array;
  bands: BandStart[];
  facets: Record<string, Facet>;
  histograms: Record<string, Histogram>;
}
