import { ReelCollector, type ReelKind } from '@core/suggest';
import { Random } from '@core/synth';
import { made } from './creatures';
import { noise } from './signals';

export const RATE = 48_000;

/** What reels are made of here: takes of one kind, and how soon they are under way. */
const stuff = {
  percussive: ['box', 'bar', 'plate', 'bark'],
  sustained: ['growl', 'scream', 'purr', 'call'],
  mixed: ['pebbles', 'plate', 'call', 'box'],
} as const satisfies Record<ReelKind, readonly unknown[]>;

export interface MadeReel {
  samples: Float32Array;
  /** Frames at which takes begin. */
  begins: number[];
}

/** A reel in a room that is not silent: takes of uneven level at uneven distances. */
export function madeReel(kind: ReelKind, seed: number): MadeReel {
  const random = new Random(900 + seed);
  const between = (low: number, high: number) => low + (high - low) * random.next();
  const of = stuff[kind][seed % 4];
  const count = 8 + Math.floor(between(0, 14));
  const takes = Array.from({ length: count }, (_, i) => made(of, i));
  const gap = between(0.5, 2.5);
  const begins: number[] = [];
  let at = between(0.2, 1.5) * RATE;
  for (const take of takes) {
    begins.push(Math.round(at));
    at += take.length + gap * between(0.7, 1.6) * RATE;
  }
  const samples = noise(Math.round(at), 10 ** (-between(58, 75) / 20), seed);
  takes.forEach((take, i) => {
    const gain = 10 ** (between(-8, 4) / 20);
    take.forEach((x, k) => (samples[begins[i] + k] += gain * x));
  });
  // A take begins with what is heard of it.
  return { samples, begins: begins.map((b, i) => b + takes[i].findIndex((x) => Math.abs(x) > 0.01)) };
}

/** Measures a reel as the slicer does. */
export function measuredReel(samples: Float32Array, rate = RATE): ReelCollector {
  const reel = new ReelCollector(rate);
  for (let i = 0; i < samples.length; i += 65_536) reel.push([samples.subarray(i, i + 65_536)]);
  reel.finish();
  return reel;
}

/** How many of the true instants were found, and how many found ones are true: F-measure. @param within frames */
export function fMeasure(found: readonly number[], truth: readonly number[], within: number): number {
  const left = [...found];
  let right = 0;
  for (const t of truth) {
    let best = -1;
    left.forEach((f, i) => {
      if (Math.abs(f - t) <= within && (best < 0 || Math.abs(f - t) < Math.abs(left[best] - t))) best = i;
    });
    if (best < 0) continue;
    left.splice(best, 1);
    right++;
  }
  return (2 * right) / Math.max(1, found.length + truth.length);
}
