import { Weighing } from './blocks';
import { kaiser } from './kaiser';
import { toDb } from './level';
import { onceEach } from './once';
import { Between, GROUP, groupPeaks } from './transform';

/** Loudness of a sound after ITU-R BS.1770-4, EBU R 128 and EBU Tech 3342. */
export interface Loudness {
  /** Gated, LUFS; -Infinity for silence. A sound under 0.4 s counts as one block. */
  integrated: number;
  /** The loudest 3 s, LUFS; of shorter sounds their whole. */
  shortTerm: number;
  /** The loudest 0.4 s, LUFS. */
  momentary: number;
  /** Loudness range, LU; 0 for sounds of less than 3 s. */
  range: number;
  /** Momentary loudness every 0.1 s, LUFS. */
  curve: Float32Array;
}

/** Weights of BS.1770: surround channels count 1.41 times, the low-frequency channel not at all. */
export function channelWeights(channels: number): number[] {
  const tables: Record<number, number[]> = {
    4: [1, 1, 1.41, 1.41],
    5: [1, 1, 1, 1.41, 1.41],
    6: [1, 1, 1, 0, 1.41, 1.41],
    7: [1, 1, 1, 0, 1.41, 1.41, 1.41],
    8: [1, 1, 1, 0, 1.41, 1.41, 1.41, 1.41],
  };
  return tables[channels] ?? Array.from({ length: channels }, () => 1);
}

/** The two filters of BS.1770's K-weighting, worked out for any rate from their analogue prototypes. */
function kFilters(rate: number): { shelf: number[]; high: number[] } {
  const k1 = Math.tan((Math.PI * 1681.974450955533) / rate);
  const vh = 10 ** (3.999843853973347 / 20);
  const vb = vh ** 0.4996667741545416;
  const q1 = 0.7071752369554196;
  const n1 = 1 + k1 / q1 + k1 * k1;
  const k2 = Math.tan((Math.PI * 38.13547087602444) / rate);
  const q2 = 0.5003270373238773;
  const n2 = 1 + k2 / q2 + k2 * k2;
  return {
    shelf: [
      (vh + (vb * k1) / q1 + k1 * k1) / n1,
      (2 * (k1 * k1 - vh)) / n1,
      (vh - (vb * k1) / q1 + k1 * k1) / n1,
      (2 * (k1 * k1 - 1)) / n1,
      (1 - k1 / q1 + k1 * k1) / n1,
    ],
    high: [(2 * (k2 * k2 - 1)) / n2, (1 - k2 / q2 + k2 * k2) / n2],
  };
}

const lufs = (energy: number) => -0.691 + 10 * Math.log10(energy);
const ABSOLUTE_GATE = 10 ** ((-70 + 0.691) / 10);

function mean(values: readonly number[]): number {
  return values.length === 0 ? 0 : values.reduce((sum, v) => sum + v, 0) / values.length;
}

/** Energies above -70 LUFS and above `relative` dB under the mean of those. */
function gated(energies: readonly number[], relative: number): number[] {
  const loud = energies.filter((e) => e > ABSOLUTE_GATE);
  const gate = mean(loud) * 10 ** (relative / 10);
  return loud.filter((e) => e > gate);
}

/** Measures loudness from successive blocks of a sound. */
export class LoudnessMeter {
  /** Weighted mean square per 0.1 s. */
  private readonly energies: number[] = [];
  private readonly step: number;
  private readonly weights: number[];
  /** Pairs of channels; one that is left over stands beside itself. */
  private readonly pairs: { first: number; second: number; weighing: Weighing }[];
  private sum = 0;
  private count = 0;

  /** @param rate Hz */
  constructor(rate: number, channels: number) {
    this.step = Math.round(rate / 10);
    this.weights = channelWeights(channels);
    const counted = this.weights.flatMap((w, c) => (w > 0 ? [c] : []));
    const { shelf, high } = kFilters(rate);
    this.pairs = counted.flatMap((first, i) =>
      i % 2 === 0 ? [{ first, second: counted[i + 1] ?? first, weighing: new Weighing([...shelf, ...high]) }] : [],
    );
  }

  /** Takes the next block: one array per channel, full scale -1..1. */
  push(planes: readonly Float32Array[]): void {
    const length = planes[0].length;
    if (length === 0) return;
    const ends: number[] = [];
    for (let end = this.step - this.count; end < length; end += this.step) ends.push(end);
    ends.push(length);
    const sums = new Float64Array(ends.length);
    for (const { first, second, weighing } of this.pairs)
      weighing.push(planes[first], planes[second], ends).forEach(([a, b], i) => {
        sums[i] += this.weights[first] * a + (second === first ? 0 : this.weights[second] * b);
      });
    ends.forEach((end, i) => {
      this.sum += sums[i];
      this.count += end - (ends[i - 1] ?? 0);
      if (this.count < this.step) return;
      this.energies.push(this.sum / this.step);
      this.sum = 0;
      this.count = 0;
    });
  }

  private windows(length: number): number[] {
    const means: number[] = [];
    let sum = 0;
    this.energies.forEach((e, i) => {
      sum += e - (i >= length ? this.energies[i - length] : 0);
      if (i >= length - 1) means.push(Math.max(0, sum) / length);
    });
    return means;
  }

  /** Short-term loudness every 0.1 s, of the three seconds before or as many as there were. LUFS, at least -100 */
  course(): Float32Array {
    let sum = 0;
    return Float32Array.from(this.energies, (energy, i) => {
      sum += energy - (i >= 30 ? this.energies[i - 30] : 0);
      return Math.max(-100, lufs(Math.max(0, sum) / Math.min(30, i + 1)));
    });
  }

  /** The loudness of what was pushed. */
  done(): Loudness {
    const blocks = this.windows(4);
    const whole = () =>
      (mean(this.energies) * this.energies.length * this.step + this.sum) /
      Math.max(1, this.energies.length * this.step + this.count);
    const momentary = blocks.length > 0 ? Math.max(...range(blocks)) : whole();
    const threes = this.windows(30);
    const integrated = blocks.length > 0 ? mean(gated(blocks, -10)) : whole();
    const spread = gated(threes, -20).sort((a, b) => a - b);
    const at = (share: number) => spread[Math.round((spread.length - 1) * share)];
    return {
      integrated: lufs(integrated),
      shortTerm: lufs(threes.length > 0 ? Math.max(...range(threes)) : whole()),
      momentary: lufs(momentary),
      range: spread.length > 1 ? 10 * Math.log10(at(0.95) / at(0.1)) : 0,
      curve: Float32Array.from(blocks, (e) => Math.max(-100, lufs(e))),
    };
  }
}

/** Smallest and largest value; a spread call would overflow on hours of sound. */
function range(values: readonly number[]): [number, number] {
  let low = Infinity;
  let high = -Infinity;
  for (const v of values) {
    low = Math.min(low, v);
    high = Math.max(high, v);
  }
  return [low, high];
}

const HALF = 12;
/** How far a wave rises above the samples beside its top at the most; the square root of two at a quarter of the rate. */
const STEEPEST = 1.6;

/** Phases of a windowed-sinc interpolator (Kaiser, beta 8) of 24 samples: `times` - 1 positions between the middle two. */
export const phases = onceEach((times: number): Float64Array[] => {
  return Array.from({ length: times - 1 }, (_, p) =>
    Float64Array.from({ length: 2 * HALF }, (_, k) => {
      const t = k - HALF + 1 - (p + 1) / times;
      const window = kaiser(t / HALF, 8);
      return (Math.sin(Math.PI * t) / (Math.PI * t)) * window;
    }),
  );
});

const betweenOf = onceEach((times: number) => new Between(phases(times)));

/**
 * Measures the true peak after ITU-R BS.1770-4 annex 2: the highest value between samples too, by oversampling to at
 * least 192 kHz. Stretches that could not hold a new peak, whatever lies between their samples, are passed over.
 */
export class TruePeakMeter {
  private readonly filter: Between;
  /** What the interpolator can give at the most for samples of 1. */
  private readonly bound: number;
  private readonly carried: Float32Array[];
  private top = 0;

  /** @param rate Hz */
  constructor(rate: number, channels: number) {
    const times = rate >= 88_000 ? 2 : 4;
    this.filter = betweenOf(times);
    this.bound = Math.max(...phases(times).map((f) => f.reduce((sum, h) => sum + Math.abs(h), 0)));
    this.carried = Array.from({ length: channels }, () => new Float32Array(2 * HALF));
  }

  /** Takes the next block: one array per channel. */
  push(planes: readonly Float32Array[]): void {
    planes.forEach((plane, c) => {
      const x = new Float32Array(plane.length + 2 * HALF);
      x.set(this.carried[c]);
      x.set(plane, 2 * HALF);
      this.scan(x);
      this.carried[c] = x.slice(x.length - 2 * HALF);
    });
  }

  private scan(x: Float32Array): void {
    const peaks = groupPeaks(x);
    const groups = peaks.length - 1;
    for (let g = 0; g < groups; g++) if (peaks[g] > this.top) this.top = peaks[g];
    for (let g = 0; g < groups; g++) {
      const near = Math.max(peaks[g], peaks[g + 1], g > 0 ? peaks[g - 1] : 0);
      if (Math.min(near * this.bound, Math.max(peaks[g], peaks[g + 1]) * STEEPEST) > this.top)
        this.top = Math.max(
          this.top,
          this.filter.peak(Math.max(HALF - 1, g * GROUP), Math.min(x.length - HALF, (g + 1) * GROUP)),
        );
    }
  }

  /** The true peak, dBTP; -Infinity for silence. */
  done(): number {
    this.push(this.carried.map(() => new Float32Array(HALF)));
    return toDb(this.top);
  }
}
