/** Finding: the query grammar, and the index that answers it with order and facets. */
export type { BandKind, BandStart } from './band';
export { begunAt, fieldNames, valueText, type Begun } from './complete';
export {
  comparisonsOf,
  conditionsOf,
  newCondition,
  queryText,
  type Comparison,
  type Condition,
  type ConditionGroup,
} from './conditions';
export { earWords } from './ear';
export type { FolderCount } from './folders';
export { likeCode, readLikeCode } from './like-code';
export {
  differencesHeard,
  likenessOf,
  LIKENESS_SIZE,
  nearest,
  voiceWeights,
  type Heard,
  type Weights,
} from './likeness';
export { closer, type Closely } from './closer';
export { loosened, plainWords, type PlainWord } from './loosen';
export { parseQuery, withoutClause, type Clause, type ParsedQuery, type Query, type QueryFault } from './query';
export { valueIn, type SoundTable } from './sound-table';
export type { Reason } from './why';
export { searchedText } from './masks';
export type { WordLexicon } from './evaluate';
export { SoundIndex } from './index-of-sounds';
export { canFacet, Finding, lengthBins, usualFacets } from './finding';
export type { Facet, FacetCount, Histogram, IndexedSound, Request, Result } from './request';
