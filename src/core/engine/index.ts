/** Renders auditions and scenes into blocks of samples. */
export { RateConverter } from './convert';
export { Material } from './material';
export { CHUNK } from './room';
export { LOOKED, type Audition, type Note } from './voice';
export { BLOCK } from '@core/effects';
export * from './graph';
export * from './keyboard';
export { renderExcerpt } from './excerpt';
export type { GaveWay, Struck, StruckClip } from './strokes';
export { FASTEST } from './shuttle';
export { Engine, type Command, type Status } from './engine';
export { LET_GO } from './notes';
