/** What kind of sound is stretched: hits, tones, or both at once. */
export type Texture = 'percussive' | 'mixed' | 'tonal';
export const textures: readonly Texture[] = ['percussive', 'mixed', 'tonal'];

/** Length and pitch changed apart from each other. */
export interface Stretch {
  /** Times as long. */
  length: number;
  /** Semitones higher. */
  pitch: number;
  texture: Texture;
}

/** Bounds of the length and of the pitch. */
export const LENGTHS = { least: 1 / 8, most: 8 } as const;
export const PITCHES = { least: -24, most: 24 } as const;

/** Seconds of the spectra by which each kind is stretched, and between them: short ones keep attacks, long ones keep tones. */
export const stretchBlocks: Record<Texture, { block: number; interval: number }> = {
  percussive: { block: 0.045, interval: 0.011 },
  mixed: { block: 0.1, interval: 0.025 },
  tonal: { block: 0.18, interval: 0.036 },
};

/** What a shape changes of length and pitch apart; undefined when nothing. */
export function stretchOf(shape: Stretch | undefined): Stretch | undefined {
  if (!shape || (shape.length === 1 && shape.pitch === 0)) return undefined;
  return { length: shape.length, pitch: shape.pitch, texture: shape.texture };
}

/** How many frames a sound has once it is stretched. */
export const stretchedFrames = (frames: number, stretch: Stretch | undefined): number =>
  stretch ? Math.max(Math.min(1, frames), Math.round(frames * stretch.length)) : frames;

/** A part of a sound where it lies once the sound is stretched; frames. */
export const stretchedRegion = (region: { start: number; end: number }, stretch: Stretch | undefined) => ({
  start: stretch ? Math.round(region.start * stretch.length) : region.start,
  end: stretchedFrames(region.end, stretch),
});
