import { cos as cosine, sin } from './exact';
import type { Random } from './random';

/**
 * Added to what goes into anything that feeds back: far below hearing, yet it keeps dying tails out of the denormal
 * numbers, on which processors are a hundred times slower.
 */
export const HUSH = 1e-18;

type Kind = 'low' | 'high' | 'band';

/** A second-order filter after Robert Bristow-Johnson's cookbook, direct form 2 transposed. */
export class Biquad {
  private b0 = 0;
  private b1 = 0;
  private b2 = 0;
  private a1 = 0;
  private a2 = 0;
  private z1 = 0;
  private z2 = 0;

  /** @param frequency Hz; @param rate Hz */
  constructor(
    private readonly kind: Kind,
    frequency: number,
    q: number,
    private readonly rate: number,
  ) {
    this.tune(frequency, q);
  }

  /** Moves the filter, keeping what rings in it. */
  tune(frequency: number, q: number): void {
    const w = (2 * Math.PI * Math.min(frequency, this.rate * 0.47)) / this.rate;
    const alpha = sin(w) / (2 * q);
    const cos = cosine(w);
    const a0 = 1 + alpha;
    const side = this.kind === 'low' ? (1 - cos) / 2 : this.kind === 'high' ? (1 + cos) / 2 : alpha;
    this.b0 = side / a0;
    this.b1 = this.kind === 'band' ? 0 : ((this.kind === 'low' ? 2 : -2) * side) / a0;
    this.b2 = (this.kind === 'band' ? -side : side) / a0;
    this.a1 = (-2 * cos) / a0;
    this.a2 = (1 - alpha) / a0;
  }

  /** One sample in, one out. */
  step(x: number): number {
    x += HUSH;
    const y = this.b0 * x + this.z1;
    this.z1 = this.b1 * x - this.a1 * y + this.z2;
    this.z2 = this.b2 * x - this.a2 * y;
    return y;
  }
}

/** Chance that drifts: noise at `speed` changes a second, joined by smooth curves. Values in -1..1. */
export class Drift {
  private from: number;
  private to: number;
  private at = 0;

  constructor(
    private readonly random: Random,
    private readonly speed: number,
    private readonly rate: number,
  ) {
    this.from = random.noise();
    this.to = random.noise();
  }

  /** The next sample. */
  step(): number {
    this.at += this.speed / this.rate;
    if (this.at >= 1) {
      this.at -= 1;
      this.from = this.to;
      this.to = this.random.noise();
    }
    const s = this.at * this.at * (3 - 2 * this.at);
    return this.from + (this.to - this.from) * s;
  }
}

/** Pink noise, -3 dB an octave (Paul Kellet's economy filter). */
export class Pink {
  private a = 0;
  private b = 0;
  private c = 0;

  constructor(private readonly random: Random) {}

  /** The next sample, about -1..1. */
  step(): number {
    const white = this.random.noise();
    this.a = 0.99765 * this.a + white * 0.099046;
    this.b = 0.963 * this.b + white * 0.2965164;
    this.c = 0.57 * this.c + white * 1.0526913;
    return (this.a + this.b + this.c + white * 0.1848) * 0.25;
  }
}
