import type { Cue } from '@core/scene';
import fc from 'fast-check';

/** Any cue at 48 kHz of one of two sounds on one of two tracks, heard from its first frame on. */
export const anyCue = (gain: fc.Arbitrary<number>, names: readonly string[]): fc.Arbitrary<Cue> =>
  fc
    .record({
      trackId: fc.constantFrom(1, 2),
      soundId: fc.constantFrom(7, 8),
      at: fc.integer({ min: 200_000, max: 2_000_000_000 }),
      start: fc.integer({ min: 0, max: 90_000 }),
      length: fc.integer({ min: 1, max: 90_000 }),
      gain,
      mute: fc.boolean(),
      name: fc.constantFrom(...names),
    })
    .map(({ length, ...c }) => ({
      ...{ id: 1, sceneId: 5, rate: 48_000, fadeIn: 0.25, fadeOut: 0, made: 7 },
      ...c,
      ...{ anchor: c.start, end: c.start + length },
    }));

/** A cue of 0.2 s of the second track, whose anchor is its attack. */
export function cueOf(more: Partial<Cue> = {}): Cue {
  return {
    id: 1,
    sceneId: 5,
    trackId: 2,
    soundId: 9,
    name: 'Clack',
    at: 96000,
    anchor: 1200,
    start: 0,
    end: 9600,
    rate: 48_000,
    gain: 0,
    mute: false,
    fadeIn: 0,
    fadeOut: 0,
    ...more,
  };
}
