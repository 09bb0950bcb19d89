/** Proposals: categories by any word, and anchors by ear. */
export * from './categories';
export * from './category-sheet';
export * from './classify';
export * from './languages';
export * from './propose';
export { abbreviations, materials, perspectives, plain as plainWords } from './trade-words';
export { nearWords } from './near-words';
export { anchorReasons, suggestAnchor, type AnchorKind, type SuggestedAnchor } from './anchor';
export {
  anchorIn,
  findSlices,
  ReelCollector,
  sliceSettings,
  type ReelKind,
  type Slice,
  type SliceSettings,
} from './slices';
