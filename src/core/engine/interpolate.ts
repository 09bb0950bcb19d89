import { kaiser } from '@core/audio';
import { CHUNK, claim, floats, memory, readBetween } from './room';

/**
 * Phases of a kernel; between two of them a straight line is off by about -110 dB. A multiple of 160, so that between the usual
 * rates, which are to each other as 147 to 160, each position falls on one.
 */
const PHASES = 640;
/** Taps on either side of a position where nothing is taken out of the band, and at the most. */
const REACH = 32;
const FURTHEST = 512;
/** Where the filter is at half, as a share of the lower of the two bands: it passes 0.85 of it and stops what would alias. */
const CUTOFF = 0.95;
/** Of the Kaiser window: about 100 dB of stop band. */
const BETA = 10;
/** Points of the window that are kept; between them a straight line is right to 1e-8. */
const POINTS = 8192;

/** Kaiser's window from its middle to its end. */
const half = Float64Array.from({ length: POINTS + 2 }, (_, i) => (i >= POINTS ? 0 : kaiser(i / POINTS, BETA)));
function windowAt(share: number): number {
  const place = Math.min(POINTS, Math.abs(share) * POINTS);
  const low = Math.floor(place);
  return half[low] + (place - low) * (half[low + 1] - half[low]);
}

/** A windowed-sinc filter by phase: rows of `2 * reach` taps for each of the places between two frames. */
export interface Kernel {
  reach: number;
  phases: number;
  /** Where its rows lie. */
  at: number;
}

/** Kaiser's window on a sinc; rows sum to one, so that a level stays as it is. */
function makeKernel(slower: number): Kernel {
  // Eight taps are read at once.
  const reach = Math.min(FURTHEST, 4 * Math.ceil((REACH * slower) / 4));
  // A wide filter is as much smoother.
  const phases = Math.ceil(PHASES / slower);
  const width = 2 * reach;
  const at = claim((phases + 1) * width * 4);
  const rows = new Float32Array(memory.buffer, at, (phases + 1) * width);
  const turn = (Math.PI * CUTOFF) / slower;
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
  for (let phase = 0; phase <= phases; phase++) {
    let x = 1 - reach - phase / phases;
    // The sine of each tap is that of the one before, turned on: much sooner than asking for it anew.
    let [s, c] = [Math.sin(turn * x), Math.cos(turn * x)];
    let sum = 0;
    for (let tap = phase * width; tap < (phase + 1) * width; tap++, x++) {
      sum += rows[tap] = (Math.abs(x) < 1e-9 ? 1 : s / (turn * x)) * windowAt(x / reach);
      [s, c] = [s * cos + c * sin, c * cos - s * sin];
    }
    for (let tap = phase * width; tap < (phase + 1) * width; tap++) rows[tap] /= sum;
  }
  return { reach, phases, at };
}

const none: Kernel = { reach: 0, phases: 0, at: 0 };

/** By how many 32nds the band is narrowed. */
const kernels: Kernel[] = [];

/** The kernel for reading with this step: where several frames are passed at once, as much narrower in band and longer in time. */
export function kernelFor(step: number): Kernel {
  const slower = Math.ceil(Math.max(1, Math.abs(step)) * 32);
  return (kernels[slower] ??= makeKernel(slower / 32));
}

/** Whether frames are read as they are, forward or backward. */
export const isExact = (position: number, step: number): boolean => Math.abs(step) === 1 && Number.isInteger(position);

/** Frames of a source: the first, and how many. */
export interface Span {
  base: number;
  span: number;
}

/** Frames that must be there to read `count` of them. @param into what is filled and returned */
export function spanRead(position: number, step: number, count: number, into: Span = { base: 0, span: 0 }): Span {
  const last = position + (count - 1) * step;
  const low = step < 0 ? last : position;
  const high = step < 0 ? position : last;
  if (isExact(position, step)) {
    into.base = low;
    into.span = count;
  } else {
    const { reach } = kernelFor(step);
    into.base = Math.floor(low) - reach;
    into.span = Math.floor(high) + reach + 2 - into.base;
  }
  return into;
}

/** What is to be read, asked for in each block. */
const asked: Span = { base: 0, span: 0 };
function reverse(line: Float32Array, from: number, count: number): void {
  for (let i = from, k = from + count - 1; i < k; i++, k--) {
    const swapped = line[i];
    line[i] = line[k];
    line[k] = swapped;
  }
}

/** Where sources and outcome lie in the module's memory, one channel after another. */
let room = { at: 0, bytes: 0 };

/** What frames are read from; beyond its ends lies silence. */
export interface Frames {
  readonly channels: number;
  /** Copies `count` frames of a channel to a place of an array. */
  copy(channel: number, from: number, count: number, into: Float32Array, at: number): void;
  /** Where `count` frames of the first channel lie one after another in {@link floats}, the other channels each {@link CHUNK} behind the one before; -1 where they do not. */
  place?(from: number, count: number): number;
}

/** Samples that were read, of each channel from an index on; good until the next ones are read. */
export interface Read {
  all: Float32Array;
  from: number;
  /** From one channel to the next. */
  stride: number;
}
const got: Read = { all: floats(), from: 0, stride: 0 };

/**
 * Reads samples at fractional positions, of all channels alike (J. O. Smith, "Digital Audio Resampling").
 * @param position of the first output, in frames of the source
 * @param step frames per output sample; backward when negative
 */
export function readAt(source: Frames, position: number, step: number, count: number): Read {
  const { channels } = source;
  const { base, span } = spanRead(position, step, count, asked);
  const exact = isExact(position, step);
  const lies = source.place?.(base, span) ?? -1;
  if (exact && step > 0 && lies >= 0) {
    got.all = floats();
    got.from = lies;
    got.stride = CHUNK;
    return got;
  }
  const bytes = channels * (span + count + 8) * 4;
  if (room.bytes < bytes) room = { at: claim(2 * bytes), bytes: 2 * bytes };
  // Before it is asked for its memory: a new kernel may have it grow.
  const { reach, phases, at } = exact ? none : kernelFor(step);
  const all = floats();
  got.all = all;
  const own = room.at / 4;
  const isCopied = exact || lies < 0;
  const from = isCopied ? own : lies;
  const stride = isCopied ? span + 4 : CHUNK;
  if (isCopied)
    for (let c = 0; c < channels; c++) {
      source.copy(c, base, span, all, own + c * stride);
      if (exact && step < 0) reverse(all, own + c * stride, count);
    }
  got.from = exact || !isCopied ? own : own + channels * stride;
  got.stride = exact ? stride : count;
  if (!exact)
    readBetween(
      at,
      2 * reach * 4,
      phases,
      channels,
      from * 4,
      stride * 4,
      got.from * 4,
      count * 4,
      count,
      position - base - reach + 1,
      step,
    );
  return got;
}

/** The same, into arrays of one's own. @param outs by channel, from their beginning on */
export function interpolate(
  source: Frames,
  position: number,
  step: number,
  outs: readonly Float32Array[],
  count: number,
): void {
  const { all, from, stride } = readAt(source, position, step, count);
  for (let c = 0; c < source.channels; c++) {
    const out = outs[c];
    const at = from + c * stride;
    for (let i = 0; i < count; i++) out[i] = all[at + i];
  }
}
