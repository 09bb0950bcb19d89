/** Finding: the query grammar, and the index that answers it with order and facets. */
export { parseQuery, type ParsedQuery, type Query, type QueryFault } from './query';
export {
  SoundIndex,
  lengthBins,
  type FacetCount,
  type IndexedSound,
  type Request,
  type Result,
} from './index-of-sounds';
