/** Renders auditions and scenes into blocks of samples. */
export { CHUNK, Material } from './material';
export { BLOCK, LOOKED, type Audition, type Note } from './voice';
export * from './keyboard';
export { renderExcerpt } from './excerpt';
export { cueSpan, renderMix, type Mix, type MixCue } from './mix';
export { Engine, type Command, type Status } from './engine';
