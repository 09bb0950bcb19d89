import { start } from '../generated/blocks';

// Loops over every sample, in WebAssembly. Each call copies what it needs into the module's memory, which costs little beside it.

let started: ReturnType<typeof start> | undefined;
const PAGE = 65_536;
/** Factors and states, then sums, then samples. */
const [FACTORS, SUMS, SAMPLES] = [0, 256, 512];
/** In front of samples and behind them, so that loops may look a little beyond. */
const SPARE = 64;

interface Room {
  module: ReturnType<typeof start>;
  buffer: ArrayBuffer;
  /** Addresses of arrays of as many samples as were asked for. */
  at: number[];
}

function room(arrays: number, samples: number): Room {
  const module = (started ??= start());
  const each = Math.ceil((samples * 4 + 2 * SPARE) / 16) * 16;
  const missing = SAMPLES + arrays * each - module.memory.buffer.byteLength;
  if (missing > 0) module.memory.grow(Math.ceil(missing / PAGE));
  const at = Array.from({ length: arrays }, (_, i) => SAMPLES + i * each + SPARE);
  return { module, buffer: module.memory.buffer, at };
}

const put = ({ buffer }: Room, at: number, samples: Float32Array) =>
  new Float32Array(buffer, at, samples.length).set(samples);
/** Sums whose halves lie beside each other. */
const sumsOf = ({ buffer }: Room, count: number) => {
  const halves = new Float64Array(buffer, SUMS, 2 * count);
  return Array.from({ length: count }, (_, i) => halves[2 * i] + halves[2 * i + 1]);
};

/** The sum of some samples, the sum of squared steps from one to the next, and the largest magnitude. @param before the sample before them */
export function scanned(x: Float32Array, before: number): { sum: number; steps: number; top: number } {
  const held = room(1, x.length);
  const [at] = held.at;
  put(held, at, x);
  new Float32Array(held.buffer, at - 4, 1)[0] = before;
  const fours = x.length & ~3;
  let top = held.module.scan(at, fours, SUMS);
  let [sum, steps] = sumsOf(held, 2);
  for (let i = fours; i < x.length; i++) {
    const step = x[i] - (i > 0 ? x[i - 1] : before);
    sum += x[i];
    steps += step * step;
    top = Math.max(top, Math.abs(x[i]));
  }
  return { sum, steps, top };
}

/** The mean of two channels, and sums of squares: of their sum, of their difference, and of each. */
export function mixed(left: Float32Array, right: Float32Array) {
  const held = room(3, left.length);
  const [l, r, m] = held.at;
  put(held, l, left);
  put(held, r, right);
  const fours = left.length & ~3;
  held.module.mix(l, r, m, fours, SUMS);
  const mono = new Float32Array(held.buffer, m, left.length).slice();
  const sums = sumsOf(held, 4);
  for (let i = fours; i < left.length; i++) {
    const [a, b] = [left[i], right[i]];
    mono[i] = (a + b) * 0.5;
    [(a + b) ** 2, (a - b) ** 2, a * a, b * b].forEach((square, k) => (sums[k] += square));
  }
  const [mid, side, l2, r2] = sums;
  return { mono, mid, side, left: l2, right: r2 };
}

/**
 * Every other sample through a half-band filter of 27 taps.
 * @param x with 26 samples in front that belong to what came before
 * @param from of the first of 27 samples that the first outcome looks at
 * @param count of outcomes
 * @param taps the seven of one side that are not zero beside the middle, which is a half; inner one first
 */
export function halved(x: Float32Array, from: number, count: number, taps: readonly number[]): Float32Array {
  if (count === 0) return new Float32Array(0);
  const held = room(4, x.length);
  const [all, even, odd, out] = held.at;
  put(held, all, x);
  new Float32Array(held.buffer, FACTORS, taps.length).set(taps);
  held.module.split(all + 4 * from, even, odd, count + 13);
  held.module.halve(even, odd, out, count, FACTORS);
  return new Float32Array(held.buffer, out, count).slice();
}

/** Adds the sums of squares of successive stretches, of `span` samples each, to those that are in `sums`. @param x as many as stretches hold */
export function addSquares(x: Float32Array, span: number, sums: Float64Array): void {
  const held = room(1, x.length + 2 * sums.length);
  const [at] = held.at;
  put(held, at, x);
  const to = Math.ceil((at + 4 * x.length) / 8) * 8;
  const kept = new Float64Array(held.buffer, to, sums.length);
  kept.set(sums);
  held.module.squares(at, span, sums.length, to);
  sums.set(kept);
}

/** Widens pairs, of a lowest and a highest sample each, by what successive stretches of `span` samples hold. @param x as many as stretches hold */
export function widen(x: Float32Array, span: number, pairs: Float32Array): void {
  const held = room(1, x.length + pairs.length);
  const [at] = held.at;
  put(held, at, x);
  const to = at + 4 * x.length;
  const kept = new Float32Array(held.buffer, to, pairs.length);
  kept.set(pairs);
  held.module.bounds(at, span, pairs.length / 2, to);
  pairs.set(kept);
}

/** Cuts a block into what ends a stretch that was begun, the whole stretches behind it, and what begins another: `visit` gets each. */
export function eachStretch(
  length: number,
  begun: number,
  span: number,
  visit: (from: number, to: number, stretches: number, span: number) => void,
): void {
  const head = begun > 0 ? Math.min(length, span - begun) : 0;
  const whole = Math.floor((length - head) / span);
  const tail = head + whole * span;
  if (head > 0) visit(0, head, 1, head);
  if (whole > 0) visit(head, tail, whole, span);
  if (tail < length) visit(tail, length, 1, length - tail);
}

/** Sends channels, two at a time, through the two filters of K-weighting, and sums up the squares of what comes out. */
export class Weighing {
  private readonly state = new Float64Array(8);

  /** @param factors b0 b1 b2 a1 a2 of the shelf, then a1 a2 of the high pass whose others are 1 -2 1 */
  constructor(private readonly factors: readonly number[]) {}

  /**
   * @param a the next block of one channel, and `b` that of another one, or the same where there is none
   * @param ends where stretches end that have sums of their own, rising
   * @returns for each stretch the sums of both channels
   */
  push(a: Float32Array, b: Float32Array, ends: readonly number[]): [number, number][] {
    const held = room(2, a.length);
    const [first, second] = held.at;
    put(held, first, a);
    put(held, second, b);
    new Float64Array(held.buffer, FACTORS, 7).set(this.factors);
    const state = new Float64Array(held.buffer, FACTORS + 64, 8);
    state.set(this.state);
    const sums = new Float64Array(held.buffer, SUMS, 2);
    let from = 0;
    const found = ends.map((to): [number, number] => {
      sums.fill(0);
      held.module.weigh(first + 4 * from, second + 4 * from, to - from, FACTORS, FACTORS + 64, SUMS);
      from = to;
      return [sums[0], sums[1]];
    });
    this.state.set(state);
    return found;
  }
}
