import { LIKENESS_SIZE } from './likeness';

/** What a closer look compares, beside the vector of `likenessOf`. Facts are missing where they do not apply. */
export interface Closely {
  vector: Int8Array;
  /** See `SpectralCollector.course`. */
  course: Int8Array;
  /** Seconds. */
  decay?: number;
  /** dB. */
  trend?: number;
  unrest?: number;
}

const BANDS = 24;
/** Stretches of a course by which one may run ahead of the other. */
const AHEAD = 2;
/** What a step of the vector, a half decibel of the course and the facts count, so that each adds about as much to what tells takes of one sound from others. */
const COUNTS = { vector: 1 / 20, course: 1 / 4, level: 0.3, decay: 0.5, trend: 0.4, unrest: 0.3 };
/** In what a fact differs counts up to here. */
const FAR = 3;

/** A stretch of a course: its loudest band, and the others against that. */
interface Shape {
  top: number;
  bands: Int8Array;
}

function shapesOf(course: Int8Array): Shape[] {
  return Array.from({ length: course.length / BANDS }, (_, s) => {
    const own = course.subarray(s * BANDS, (s + 1) * BANDS);
    const top = own.reduce((most, l) => Math.max(most, l), -127);
    return { top, bands: own.map((l) => l - top) };
  });
}

/** How two stretches differ: the shape of their spectra, the more the louder they are, and their levels. */
function between(a: Shape, b: Shape): number {
  let sum = 0;
  for (let i = 0; i < BANDS; i++) {
    const d = a.bands[i] - b.bands[i];
    sum += d * d;
  }
  const loud = Math.max(0, 1 + Math.max(a.top, b.top) / 100);
  return loud * Math.sqrt(sum / BANDS) + COUNTS.level * Math.abs(a.top - b.top);
}

/** Dynamic time warping (Sakoe and Chiba 1978) in a band of {@link AHEAD} stretches. */
function aligned(a: readonly Shape[], b: readonly Shape[]): number {
  const size = a.length;
  // Nothing is known of the course of one of them.
  if (size === 0 || b.length !== size) return 0;
  let before = new Float64Array(size).fill(Infinity);
  for (let i = 0; i < size; i++) {
    const now = new Float64Array(size).fill(Infinity);
    for (let j = Math.max(0, i - AHEAD); j <= Math.min(size - 1, i + AHEAD); j++) {
      const best =
        i === 0 && j === 0 ? 0 : Math.min(before[j], j > 0 ? now[j - 1] : Infinity, j > 0 ? before[j - 1] : Infinity);
      now[j] = best + between(a[i], b[j]);
    }
    before = now;
  }
  return before[size - 1] / size;
}

function apart(a: number | undefined, b: number | undefined, unit: number): number {
  if (a === undefined && b === undefined) return 0;
  if (a === undefined || b === undefined) return 1;
  return Math.min(FAR, Math.abs(a - b) / unit);
}

const octaves = (seconds: number | undefined) =>
  seconds === undefined ? undefined : Math.log2(Math.max(1e-3, seconds));

/**
 * Puts sounds into the order of a closer look than that of `nearest`: how their spectra go on in time, aligned, how they die away, and how
 * their level moves.
 * @param own what they are compared with
 * @returns their places, nearest first
 */
export function closer(own: Closely, others: readonly Closely[]): number[] {
  const shapes = shapesOf(own.course);
  const far = others.map((other) => {
    let sum = 0;
    for (let i = 0; i < LIKENESS_SIZE; i++) sum += (own.vector[i] - other.vector[i]) ** 2;
    return (
      COUNTS.vector * Math.sqrt(sum) +
      COUNTS.course * aligned(shapes, shapesOf(other.course)) +
      COUNTS.decay * apart(octaves(own.decay), octaves(other.decay), 1) +
      COUNTS.trend * apart(own.trend, other.trend, 6) +
      COUNTS.unrest * apart(own.unrest, other.unrest, 4)
    );
  });
  return [...far.keys()].sort((a, b) => far[a] - far[b] || a - b);
}
