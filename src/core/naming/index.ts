/** Words of names and paths; file names after a pattern; recipes over texts. */
export * from './words';
export { irregularForms } from './irregular';
export { stem } from './stem';
export * from './ucs';
export * from './takes';
export * from './case';
export * from './pattern';
export * from './short-names';
export * from './recipe';
export { starters } from './starters';
