import { exp, pow, sinTurns, soft } from './exact';
import type { Random } from './random';

/** A frequency so many semitones above another. */
export const above = (frequency: number, semitones: number): number => frequency * pow(2, semitones / 12);

/** Seconds until the fastest step that an edge may have is over: less would click. */
const EDGE = 0.002;

/** 0 to 1 to 0: up within `rise`, then down by 60 dB within `fall`; a thing that is struck or plucked. Seconds */
export function struck(t: number, rise: number, fall: number): number {
  if (t < 0) return 0;
  const up = Math.max(EDGE / 4, rise);
  return t < up ? t / up : exp((-6.91 * (t - up)) / fall);
}

/** 0 to 1 at `rise`, then 1, then to 0 within the last `fall` of `length`: a thing that is held. Seconds */
export function held(t: number, length: number, rise: number, fall: number): number {
  if (t < 0 || t > length) return 0;
  const up = Math.min(1, t / Math.max(EDGE, rise));
  const down = Math.min(1, (length - t) / Math.max(EDGE, fall));
  if (up === 1 && down === 1) return 1;
  return up * up * (3 - 2 * up) * down * down * (3 - 2 * down);
}

/** A step of a wave with edges, rounded so that less of it comes back below as aliases (Välimäki and Huovilainen, 2007). */
function rounded(phase: number, step: number): number {
  if (phase < step) {
    const x = phase / step;
    return x + x - x * x - 1;
  }
  if (phase > 1 - step) {
    const x = (phase - 1) / step;
    return x * x + x + x + 1;
  }
  return 0;
}

/** An oscillator: sine, saw, square, and all that lies between them. */
export class Oscillator {
  constructor(
    private readonly rate: number,
    private phase = 0,
  ) {}

  /** Moves on, and says where in its wave it is, in turns. */
  private move(frequency: number): number {
    const at = this.phase;
    this.phase += frequency / this.rate;
    this.phase -= Math.floor(this.phase);
    return at;
  }

  /** A sine. @param bend turns by which another one bends its phase: frequency modulation */
  sine(frequency: number, bend = 0): number {
    return sinTurns(this.move(frequency) + bend);
  }

  /** A sine that is folded back where it would go beyond 1: the more, the more overtones (West Coast folding). @param folds 0 for none */
  folded(frequency: number, folds: number): number {
    const x = this.sine(frequency) * (1 + folds);
    return folds > 0 ? sinTurns(x / 4) : x;
  }

  /** A saw. */
  saw(frequency: number): number {
    const at = this.move(frequency);
    return 2 * at - 1 - rounded(at, Math.min(0.5, frequency / this.rate));
  }

  /** A pulse. @param width share of a turn that it is high */
  pulse(frequency: number, width = 0.5): number {
    const step = Math.min(0.5, frequency / this.rate);
    const at = this.move(frequency);
    const other = at + 1 - width;
    const back = other - Math.floor(other);
    return (at < width ? 1 : -1) + rounded(at, step) - rounded(back, step);
  }
}

/** A two-pole filter after the state of its integrators (Simper, 2013), which may be moved with each sample. */
export class Sweepable {
  private s1 = 0;
  private s2 = 0;
  private g = 0;
  private k = 1;
  private a = 0;
  band = 0;
  low = 0;
  high = 0;

  constructor(private readonly rate: number) {}

  /** @param frequency Hz @param q 0.5 for no resonance */
  tune(frequency: number, q: number): void {
    const turns = Math.min(0.24, Math.max(5, frequency) / (2 * this.rate));
    this.g = sinTurns(turns) / sinTurns(turns + 0.25);
    this.k = 1 / q;
    this.a = 1 / (1 + this.g * (this.g + this.k));
  }

  /** One sample in; `low`, `band` and `high` are what comes of it. */
  step(x: number): void {
    const v3 = x + 1e-18 - this.s2;
    const v1 = this.a * (this.s1 + this.g * v3);
    const v2 = this.s2 + this.g * v1;
    this.s1 = 2 * v1 - this.s1;
    this.s2 = 2 * v2 - this.s2;
    this.low = v2;
    this.band = this.k * v1;
    this.high = x - this.k * v1 - v2;
  }
}

/** Fewer steps and a slower clock: holds a value, and rounds it. @param bits of the steps */
export class Crusher {
  private value = 0;
  private at = 1;

  constructor(private readonly rate: number) {}

  step(x: number, clock: number, bits: number): number {
    this.at += clock / this.rate;
    if (this.at >= 1) {
      this.at -= Math.floor(this.at);
      const steps = pow(2, bits - 1);
      this.value = Math.floor(x * steps + 0.5) / steps;
    }
    return this.value;
  }
}

/** Two channels of one sound at a place between the ears. @param pan -1 left to 1 right */
export function placed(mono: Float32Array, pan: (i: number) => number): Float32Array[] {
  const left = new Float32Array(mono.length);
  const right = new Float32Array(mono.length);
  let [last, l, r] = [NaN, 0, 0];
  for (let i = 0; i < mono.length; i++) {
    const at = pan(i);
    if (at !== last) {
      last = at;
      l = sinTurns((at + 3) / 8);
      r = sinTurns((at + 1) / 8);
    }
    left[i] = mono[i] * l;
    right[i] = mono[i] * r;
  }
  return [left, right];
}

/** Repeats of a sound that die away, left and right in turn. @param gap seconds @param share of level that each keeps */
export function echoes(planes: Float32Array[], gap: number, share: number, rate: number): void {
  const delay = Math.max(1, Math.round(gap * rate));
  if (share <= 0) return;
  const [left, right] = planes;
  for (let i = delay; i < left.length; i++) {
    const [l, r] = [left[i - delay], right[i - delay]];
    left[i] += share * (0.35 * l + 0.65 * r);
    right[i] += share * (0.65 * l + 0.35 * r);
  }
}

/** Some of a list in an order by chance. */
export function shuffled<T>(list: readonly T[], random: Random): T[] {
  const rest = [...list];
  return list.map(() => rest.splice(Math.floor(random.next() * rest.length), 1)[0]);
}

/** Bends a signal the more the louder it is, and brings it back to the same size. */
export const driven = (x: number, drive: number): number => (drive > 0 ? soft(x * (1 + drive)) / soft(1 + drive) : x);
