/** Renders auditions and scenes into blocks of samples. */
export { CHUNK, Material } from './material';
export { BLOCK, type Audition } from './voice';
export {
  channelsOf,
  directions,
  fadeForms,
  fadeGain,
  isPlain,
  plainShape,
  SPEEDS,
  type ChannelPick,
  type Direction,
  type FadeForm,
  type Shape,
} from './shape';
export { renderExcerpt } from './excerpt';
export { cueSpan, renderMix, type Mix, type MixCue } from './mix';
export { Engine, type Command, type Status } from './engine';
