import { onceEach } from './once';
import { transformOf, type Transform } from './transform';

/** A pitch and how sure it is. */
export interface Pitch {
  /** Hz */
  hz: number;
  /** 0 to 1: how periodic the sound is, times the share of it that agrees on this pitch. */
  confidence: number;
}

const LOWEST = 32;
const HIGHEST = 5000;

/**
 * Pitch of single frames by the normalised square difference of McLeod and Wyvill (ICMC 2005), by FFT. The period found is
 * made finer at its highest multiple inside the frame.
 */
export class PitchFinder {
  private readonly transform: Transform;
  private readonly nsdf: Float64Array;
  private readonly other: Float64Array;

  /** @param size samples a frame, a power of two; @param rate Hz */
  constructor(
    readonly size: number,
    private readonly rate: number,
  ) {
    this.transform = transformOf(size * 2);
    this.nsdf = new Float64Array(size / 2);
    this.other = new Float64Array(size / 2);
  }

  /** Pitch and clarity of two frames at the price of one; see {@link PitchFinder.of}. */
  pair(first: ArrayLike<number>, second: ArrayLike<number> | undefined) {
    this.differences(first, second);
    const a = this.found();
    if (!second) return [a, undefined] as const;
    this.nsdf.set(this.other);
    return [a, this.found()] as const;
  }

  /** @returns period-based pitch and clarity (0..1) of one frame; undefined for silence and noise */
  of(frame: ArrayLike<number>): { hz: number; clarity: number } | undefined {
    return this.pair(frame, undefined)[0];
  }

  private found(): { hz: number; clarity: number } | undefined {
    const { nsdf, rate } = this;
    const least = Math.max(2, Math.floor(rate / HIGHEST));
    const most = Math.min(nsdf.length - 2, Math.ceil(rate / LOWEST));
    const tops: number[] = [];
    let at = 1;
    while (at < most && nsdf[at] > 0) at++;
    for (; at < most; at++) {
      if (nsdf[at] <= 0) continue;
      let top = at;
      while (at < most && nsdf[at] > 0) {
        if (nsdf[at] > nsdf[top]) top = at;
        at++;
      }
      if (top >= least) tops.push(top);
    }
    if (tops.length === 0) return undefined;
    const highest = Math.max(...tops.map((t) => nsdf[t]));
    if (highest < 0.5) return undefined;
    const first = tops.find((t) => nsdf[t] >= highest * 0.93)!;
    let period = this.summit(first);
    for (let k = 2; k * period < nsdf.length - 2; k++) {
      const near = Math.round(k * period);
      let top = near;
      for (let i = near - 2; i <= near + 2; i++) if (i > 0 && i < nsdf.length - 1 && nsdf[i] > nsdf[top]) top = i;
      if (nsdf[top] < nsdf[first] * 0.85) break;
      period = this.summit(top) / k;
    }
    return { hz: rate / period, clarity: Math.min(1, nsdf[first]) };
  }

  /** The place of a maximum between samples, by a parabola through three of them. */
  private summit(i: number): number {
    const [a, b, c] = [this.nsdf[i - 1], this.nsdf[i], this.nsdf[i + 1]];
    const bend = a - 2 * b + c;
    return bend === 0 ? i : i + (0.5 * (a - c)) / bend;
  }

  /**
   * The normalised differences of two frames. They are transformed as real and imaginary part of one: the autocorrelation is the transform
   * of the power spectrum, which is even, so that forward and backward are the same.
   */
  private differences(first: ArrayLike<number>, second: ArrayLike<number> | undefined): void {
    const { size, transform, nsdf, other } = this;
    const means = [first, second].map((frame) => {
      let sum = 0;
      if (frame) for (let i = 0; i < size; i++) sum += frame[i];
      return sum / size;
    });
    const { input } = transform;
    input.fill(0, 2 * size);
    const energies = [0, 0];
    for (let i = 0; i < size; i++) {
      const a = first[i] - means[0];
      const b = second ? second[i] - means[1] : 0;
      input[2 * i] = a;
      input[2 * i + 1] = b;
      energies[0] += a * a;
      energies[1] += b * b;
    }
    transform.run();
    const [one, two] = transform.powers();
    const again = transform.input;
    // The powers are four times those of the frames.
    const scale = 1 / (8 * size);
    for (let k = 0; k <= size; k++) {
      again[2 * k] = one[k] * scale;
      again[2 * k + 1] = two[k] * scale;
    }
    for (let k = 1; k < size; k++) {
      again[2 * (2 * size - k)] = again[2 * k];
      again[2 * (2 * size - k) + 1] = again[2 * k + 1];
    }
    const correlated = transform.run();
    const differ = (into: Float64Array, frame: ArrayLike<number>, mean: number, energy: number, part: 0 | 1) => {
      let m = 2 * energy;
      for (let lag = 0; lag < into.length; lag++) {
        into[lag] = m > 1e-9 ? (2 * correlated[2 * lag + part]) / m : 0;
        m -= (frame[lag] - mean) ** 2 + (frame[size - 1 - lag] - mean) ** 2;
      }
    };
    differ(nsdf, first, means[0], energies[0], 0);
    if (second) differ(other, second, means[1], energies[1], 1);
  }
}

const finderOf = onceEach((key: string) => {
  const [size, rate] = key.split('/').map(Number);
  return new PitchFinder(size, rate);
});

/**
 * The pitch of a sound from frames spread over it: the one on which most of its energy agrees within half a semitone.
 * @returns undefined when there is none
 */
export function pitchOf(frames: readonly Float32Array[], rate: number): Pitch | undefined {
  if (frames.length === 0) return undefined;
  const finder = finderOf(`${frames[0].length}/${rate}`);
  const energies = frames.map((f) => f.reduce((sum, x) => sum + x * x, 0));
  const loudest = Math.max(...energies);
  if (loudest < 1e-6) return undefined;
  const found: { hz: number; clarity: number; weight: number }[] = [];
  let all = 0;
  const heard = frames.flatMap((frame, i) =>
    energies[i] < loudest * 1e-4 ? [] : [{ frame, weight: Math.sqrt(energies[i]) }],
  );
  for (let i = 0; i < heard.length; i += 2) {
    const pair = finder.pair(heard[i].frame, heard[i + 1]?.frame);
    heard.slice(i, i + 2).forEach(({ weight }, k) => {
      all += weight;
      const pitch = pair[k];
      if (pitch) found.push({ ...pitch, weight });
    });
  }
  const near = (a: number, b: number) => Math.abs(Math.log2(a / b)) < 1 / 24;
  const support = (hz: number) => found.reduce((sum, f) => sum + (near(f.hz, hz) ? f.weight * f.clarity : 0), 0);
  const best = found.map((f) => ({ hz: f.hz, support: support(f.hz) })).sort((a, b) => b.support - a.support)[0];
  if (!best) return undefined;
  const own = found.filter((f) => near(f.hz, best.hz)).sort((a, b) => a.hz - b.hz);
  let half = own.reduce((sum, f) => sum + f.weight, 0) / 2;
  const middle = own.find((f) => (half -= f.weight) <= 0) ?? own[0];
  return { hz: middle.hz, confidence: Math.min(1, best.support / all) };
}
