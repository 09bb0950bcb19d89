/**
 * Phases of a kernel; between two of them it is interpolated, which leaves an error of about -120 dB. A multiple of 160, so
 * that between the usual rates, which are to each other as 147 to 160, each position falls on one.
 */
const PHASES = 1280;
/** Nearer to a phase than this share of their distance, the next one adds nothing that could be heard. */
const NEAR = 1e-4;
/** Taps on either side of a position where nothing is taken out of the band, and at the most. */
const REACH = 32;
const FURTHEST = 512;
/** Where the filter is at half, as a share of the lower of the two bands: it passes 0.85 of it and stops what would alias. */
const CUTOFF = 0.95;
/** Of the Kaiser window: about 100 dB of stop band. */
const BETA = 10;

/** Modified Bessel function of the first kind, order 0, by its series. */
function bessel(x: number): number {
  let sum = 1;
  let term = 1;
  for (let k = 1; term > sum * 1e-12; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}

/** A windowed-sinc filter by phase: `rows` holds `2 * reach` taps for each of the places between two frames. */
export interface Kernel {
  reach: number;
  rows: Float32Array;
}

/** Kaiser's window on a sinc; rows sum to one, so that a level stays as it is. */
function makeKernel(cutoff: number, reach: number): Kernel {
  const width = 2 * reach;
  const rows = new Float32Array((PHASES + 1) * width);
  const peak = bessel(BETA);
  for (let phase = 0; phase <= PHASES; phase++) {
    let sum = 0;
    for (let tap = 0; tap < width; tap++) {
      const x = tap - reach + 1 - phase / PHASES;
      const window = Math.abs(x) >= reach ? 0 : bessel(BETA * Math.sqrt(1 - (x / reach) ** 2)) / peak;
      const sinc = x === 0 ? 1 : Math.sin(Math.PI * cutoff * x) / (Math.PI * cutoff * x);
      sum += rows[phase * width + tap] = sinc * window;
    }
    for (let tap = 0; tap < width; tap++) rows[phase * width + tap] /= sum;
  }
  return { reach, rows };
}

const kernels = new Map<number, Kernel>();

/** The kernel for reading with this step: where several frames are passed at once, as much narrower in band and longer in time. */
export function kernelFor(step: number): Kernel {
  const slower = Math.ceil(Math.max(1, Math.abs(step)) * 32) / 32;
  let kernel = kernels.get(slower);
  if (!kernel) {
    kernel = makeKernel(CUTOFF / slower, Math.min(FURTHEST, Math.ceil(REACH * slower)));
    kernels.set(slower, kernel);
  }
  return kernel;
}

/** Whether frames are read as they are, forward or backward. */
export const isExact = (position: number, step: number): boolean => Math.abs(step) === 1 && Number.isInteger(position);

/** Frames that must be there to read `count` of them: the first, and how many. */
export function spanRead(position: number, step: number, count: number): { base: number; span: number } {
  const last = position + (count - 1) * step;
  const [low, high] = step < 0 ? [last, position] : [position, last];
  if (isExact(position, step)) return { base: low, span: count };
  const { reach } = kernelFor(step);
  const base = Math.floor(low) - reach;
  return { base, span: Math.floor(high) + reach + 2 - base };
}

/**
 * Reads samples at fractional positions, of all channels alike (J. O. Smith, "Digital Audio Resampling").
 * @param sources frames by channel; `sources[c][i]` is the frame `base + i`, see {@link spanRead}
 * @param position of the first output, in frames of the source
 * @param step frames per output sample; backward when negative
 */
export function interpolate(
  sources: readonly Float32Array[],
  base: number,
  position: number,
  step: number,
  outs: readonly Float32Array[],
  count: number,
): void {
  if (isExact(position, step)) {
    for (let c = 0; c < sources.length; c++)
      for (let i = 0, at = position - base; i < count; i++, at += step) outs[c][i] = sources[c][at];
    return;
  }
  const { reach, rows } = kernelFor(step);
  const width = 2 * reach;
  if (between.length < width) between = new Float32Array(width);
  for (let i = 0; i < count; i++) {
    const at = position + i * step;
    const whole = Math.floor(at);
    const place = (at - whole) * PHASES;
    const near = Math.round(place);
    // A position just below a frame is rounded onto it.
    const low = Math.min(PHASES - 1, Math.floor(place));
    const share = place - low;
    let taps = rows;
    let from = near * width;
    if (Math.abs(place - near) > NEAR) {
      taps = between;
      from = 0;
      for (let tap = 0, row = low * width; tap < width; tap++, row++)
        between[tap] = rows[row] + share * (rows[row + width] - rows[row]);
    }
    const first = whole - base - reach + 1;
    for (let c = 0; c < sources.length; c++) {
      const source = sources[c];
      let sum = 0;
      let other = 0;
      // Two sums at a time need not wait for each other; a kernel's width is even.
      for (let tap = 0; tap < width; tap += 2) {
        sum += taps[from + tap] * source[first + tap];
        other += taps[from + tap + 1] * source[first + tap + 1];
      }
      outs[c][i] = sum + other;
    }
  }
}

/** Taps between two phases; made once, as the engine must not make garbage. */
let between = new Float32Array(2 * REACH);
