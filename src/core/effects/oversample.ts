import { kaiser } from '@core/audio';
import { Fir } from './filters';

// Twice the rate and back: what is bent or multiplied in between makes no aliases that are heard.

/** How steep their windows fall (Kaiser). */
const BETA = 9.5;

/** Every second tap of a half-band filter: the others are nothing, but for the middle one, which is a half. */
function halfBand(delay: number): Float64Array {
  const taps = Float64Array.from({ length: delay + 1 }, (_, j) => {
    const t = 2 * j - delay;
    const window = kaiser(t / (delay + 1), BETA);
    return (Math.sin((Math.PI * t) / 2) / (Math.PI * t)) * window;
  });
  const sum = taps.reduce((all, v) => all + v, 0);
  return taps.map((v) => v / (2 * sum));
}

/** Doubles the rate: each sample, and one between it and the next. */
export class Doubling {
  private readonly fir: Fir;
  private readonly past: Float32Array;
  readonly out: Float32Array;

  /** @param most samples at once, of the lower rate */
  constructor(
    private readonly delay: number,
    most: number,
  ) {
    this.fir = new Fir(
      halfBand(delay).map((v) => 2 * v),
      most,
    );
    this.past = new Float32Array((delay - 1) / 2 + most);
    this.out = new Float32Array(2 * most);
  }
  reset(): void {
    this.fir.reset();
    this.past.fill(0);
  }
  run(from: Float32Array, count: number): Float32Array {
    const { past, out } = this;
    const before = (this.delay - 1) / 2;
    for (let i = 0; i < count; i++) past[before + i] = from[i];
    const made = this.fir.run(from, count);
    for (let i = 0; i < count; i++) {
      out[2 * i] = made[i];
      out[2 * i + 1] = past[i];
    }
    past.copyWithin(0, count, count + before);
    return out;
  }
}

/** Halves the rate. */
export class Halving {
  private readonly fir: Fir;
  private readonly past: Float32Array;
  private readonly even: Float32Array;
  readonly out: Float32Array;

  /** @param most samples at once, of the lower rate */
  constructor(
    private readonly delay: number,
    most: number,
  ) {
    this.fir = new Fir(halfBand(delay), most);
    this.past = new Float32Array((delay + 1) / 2 + most);
    this.even = new Float32Array(most);
    this.out = new Float32Array(most);
  }
  reset(): void {
    this.fir.reset();
    this.past.fill(0);
  }
  /** @param count of the higher rate */
  run(from: Float32Array, count: number): Float32Array {
    const { past, even, out } = this;
    const half = count / 2;
    const before = (this.delay + 1) / 2;
    for (let i = 0; i < half; i++) {
      even[i] = from[2 * i];
      past[before + i] = from[2 * i + 1];
    }
    const made = this.fir.run(even, half);
    for (let i = 0; i < half; i++) out[i] = made[i] + 0.5 * past[i];
    past.copyWithin(0, half, half + before);
    return out;
  }
}
