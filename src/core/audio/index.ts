/** Measuring PCM: contours, levels, loudness, onsets, pitch, tempo, fingerprints. */
export * from './peaks';
export * from './level';
export * from './loudness';
export * from './onsets';
export * from './pitch';
export * from './tempo';
export * from './print';
export * from './facts';
export { envelopeFacts, type EnvelopeFacts } from './envelope';
export { Frames, Halver, hann, logBands, Spectrum } from './spectrum';
export * from './match';
export * from './voice';
export * from './shape';
export * from './stretch';
export { dithered } from './dither';
export { Transform, transformOf } from './transform';
export * from './view';
export { againstClick, AROUND } from './clicked';
