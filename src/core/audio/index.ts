/** Measuring PCM: contours and levels. */
export * from './peaks';
export * from './level';
