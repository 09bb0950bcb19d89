/** Proposals: categories by any word, and anchors by ear. */
export * from './categories';
export { suggestAnchor } from './anchor';
