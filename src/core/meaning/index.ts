/**
 * What words mean: a cut-down WordNet (Miller 1995, Fellbaum 1998), made by `scripts/lexicon.ts`. It takes some megabytes, so only
 * workers load it.
 */
export { bases, Meaning, meaning, type Kinship, type NearWord } from './meaning';
