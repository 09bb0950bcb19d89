import { Frames, logBands } from './spectrum';

/** Bands of {@link SpectralCollector}. */
export const BANDS = 24;
/** Analysis frames a second. */
export const FRAME_RATE = 100;

/** Stretches of {@link SpectralCollector.course}: the first eight seconds. */
export const COURSE = 32;

/** Between two looks at the full band, for brightness; onsets look at half of it, eight times as often. */
const FULL_RATE = 12.5;

/** What successive spectra of a sound say: levels by band for onsets, and how bright and how noisy it is. */
export class SpectralCollector {
  /** Levels of the bands per frame, in hundredths of a decibel relative to full scale. */
  private levels = new Int16Array(BANDS * 1024);
  private frames = 0;
  private readonly borders: Int32Array;
  private readonly onsetFrames: Frames;
  private readonly fullSize: number;
  private readonly fullBorders: Int32Array;
  private readonly fullFrames: Frames;
  private weight = 0;
  private centroidSum = 0;
  private flatnessSum = 0;

  /** @param rate Hz of the full signal; @param low Hz of the one whose rate was halved */
  constructor(
    private readonly rate: number,
    low: number,
  ) {
    const size = 2 ** Math.round(Math.log2(low / 46));
    this.borders = logBands(BANDS, 60, low * 0.45, low, size);
    this.onsetFrames = new Frames(size, Math.round(low / FRAME_RATE), (power) => this.onsetFrame(power));
    this.fullSize = 2 ** Math.round(Math.log2(rate / 46));
    this.fullBorders = logBands(BANDS, 60, Math.min(20_000, rate * 0.45), rate, this.fullSize);
    this.fullFrames = new Frames(this.fullSize, Math.round(rate / FULL_RATE), (power) => this.fullFrame(power));
  }

  /** Takes the next block of the mono sum, at its own and at the halved rate. */
  push(mono: Float32Array, low: Float32Array): void {
    this.fullFrames.push(mono);
    this.onsetFrames.push(low);
  }

  private onsetFrame(power: Float64Array): void {
    if ((this.frames + 1) * BANDS > this.levels.length) {
      const grown = new Int16Array(this.levels.length * 2);
      grown.set(this.levels);
      this.levels = grown;
    }
    const { borders } = this;
    for (let b = 0; b < BANDS; b++) {
      let sum = 1e-12;
      for (let k = borders[b]; k < borders[b + 1]; k++) sum += power[k];
      this.levels[this.frames * BANDS + b] = 1000 * Math.log10(sum);
    }
    this.frames++;
  }

  private fullFrame(power: Float64Array): void {
    const { fullBorders: borders } = this;
    let total = 0;
    let moment = 0;
    let logs = 0;
    let means = 0;
    for (let b = 0; b < BANDS; b++) {
      let sum = 0;
      for (let k = borders[b]; k < borders[b + 1]; k++) {
        sum += power[k];
        moment += k * power[k];
      }
      const mean = sum / Math.max(1, borders[b + 1] - borders[b]);
      logs += Math.log(mean + 1e-16);
      means += mean;
      total += sum;
    }
    if (total < 1e-11) return;
    this.weight += total;
    this.centroidSum += moment * (this.rate / this.fullSize);
    this.flatnessSum += (total * Math.exp(logs / BANDS)) / (means / BANDS);
  }

  /** Levels of the bands in one frame of {@link FRAME_RATE}, in hundredths of a decibel; empty behind the last one. */
  levelsAt(frame: number): Int16Array {
    return frame < this.frames ? this.levels.subarray(frame * BANDS, (frame + 1) * BANDS) : new Int16Array(0);
  }

  /** Ends the sound: frames that were not full yet are counted with silence behind. */
  finish(): void {
    this.onsetFrames.finish();
    this.fullFrames.finish();
  }

  /** Where the spectrum balances, Hz: the mean frequency weighted by power, over the whole sound. NaN for silence. */
  get centroid(): number {
    return this.centroidSum / this.weight;
  }

  /** Geometric by arithmetic mean of band powers (Wiener entropy), 0 tone-like to 1 noise-like. NaN for silence. */
  get flatness(): number {
    return this.flatnessSum / this.weight;
  }

  /**
   * The shape of the spectrum over time, for comparing sounds: {@link COURSE} stretches, the first of 20 ms and each following one
   * longer by an eighth, from where the sound comes within 40 dB of its loudest; in each the level of every band against the loudest of
   * all, in half decibels from -127 to 0. Stretches behind the end are as quiet as can be.
   */
  course(): Int8Array {
    const { levels, frames } = this;
    const made = new Int8Array(COURSE * BANDS).fill(-127);
    let top = -12_000;
    for (let i = 0; i < frames * BANDS; i++) if (levels[i] > top) top = levels[i];
    let from = 0;
    const loud = (n: number) => levels.subarray(n * BANDS, (n + 1) * BANDS).some((l) => l > top - 4000);
    while (from < frames && !loud(from)) from++;
    let length = 0.02 * FRAME_RATE;
    let at = from;
    for (let s = 0; s < COURSE && at < frames; s++, length *= 1.125) {
      const to = Math.min(frames, Math.max(Math.floor(at) + 1, Math.round(at + length)));
      for (let b = 0; b < BANDS; b++) {
        let power = 0;
        for (let n = Math.floor(at); n < to; n++) power += 10 ** ((levels[n * BANDS + b] - top) / 1000);
        made[s * BANDS + b] = Math.max(-127, Math.round(20 * Math.log10(power / (to - Math.floor(at)) + 1e-9)));
      }
      at = to;
    }
    return made;
  }

  /**
   * Onset strength per frame: the rise of band levels in dB over two frames, averaged over bands. Levels count from 50 dB
   * under the loudest band on. After the maximum-filtered spectral flux of Böck and Widmer (DAFx 2013).
   */
  strength(): Float32Array {
    const { levels, frames } = this;
    let top = -12_000;
    for (let i = 0; i < frames * BANDS; i++) if (levels[i] > top) top = levels[i];
    const floor = top - 5000;
    const out = new Float32Array(frames);
    // Two frames earlier: each band and its neighbours, whichever is highest, with room at either end.
    const before = new Int16Array(BANDS + 2).fill(floor);
    for (let n = 0; n < frames; n++) {
      const own = n * BANDS;
      const earlier = own - 2 * BANDS;
      if (earlier >= 0) for (let b = 0; b < BANDS; b++) before[b + 1] = Math.max(floor, levels[earlier + b]);
      let sum = 0;
      for (let b = 0; b < BANDS; b++) {
        const rise = levels[own + b] - Math.max(before[b], before[b + 1], before[b + 2]);
        if (rise > 0) sum += rise;
      }
      out[n] = sum / (100 * BANDS);
    }
    return out;
  }
}

/** Energies in short spans, as `EnergyCollector` collects them. */
export interface Energies {
  energies: readonly number[];
  /** Frames a span. */
  span: number;
}

/** Two onsets are at least this far apart, seconds. */
const APART = 0.05;

/**
 * Finds the starts of events in a sound: local maxima of the onset strength that stand out of their surroundings, moved to
 * where the energy rises most steeply.
 * @param strength per frame of {@link FRAME_RATE}
 * @returns frames of the sound, rising
 */
export function findOnsets(strength: Float32Array, energy: Energies, rate: number): number[] {
  const { energies, span } = energy;
  let loudest = 0;
  for (const e of energies) if (e > loudest) loudest = e;
  const onsets: number[] = [];
  if (loudest < 1e-10) return onsets;
  for (let n = 0; n < strength.length; n++) {
    const s = strength[n];
    if (s < 1.6) continue;
    let best = true;
    let sum = 0;
    let count = 0;
    for (let k = Math.max(0, n - 12); k <= Math.min(strength.length - 1, n + 8); k++) {
      if (Math.abs(k - n) <= 3 && (strength[k] > s || (strength[k] === s && k < n))) best = false;
      sum += strength[k];
      count++;
    }
    if (!best || s < 1.3 + (1.5 * sum) / count) continue;
    const frame =
      steepest(energies, Math.round(((n / FRAME_RATE) * rate) / span), Math.round((0.03 * rate) / span)) * span;
    const level = meanOf(energies, frame / span, frame / span + Math.round((0.03 * rate) / span));
    if (level < loudest * 1e-4) continue;
    const last = onsets[onsets.length - 1];
    if (last === undefined || frame - last >= APART * rate) onsets.push(frame);
  }
  return onsets;
}

function meanOf(values: readonly number[], from: number, to: number): number {
  let sum = 0;
  let count = 0;
  for (let i = Math.max(0, from); i < Math.min(values.length, to); i++, count++) sum += values[i];
  return count === 0 ? 0 : sum / count;
}

/** The span near `centre` at which energy rises by the largest factor. */
function steepest(energies: readonly number[], centre: number, reach: number): number {
  let best = Math.max(0, Math.min(energies.length - 1, centre));
  let most = 0;
  let local = 1e-12;
  for (let i = Math.max(0, centre - reach); i <= Math.min(energies.length - 1, centre + reach); i++)
    local = Math.max(local, energies[i]);
  for (let i = Math.max(0, centre - reach); i <= Math.min(energies.length - 1, centre + reach); i++) {
    const before = meanOf(energies, i - 5, i);
    const after = meanOf(energies, i, i + 3);
    const rise = Math.log((after + local * 1e-3) / (before + local * 1e-3));
    if (rise > most) {
      most = rise;
      best = i;
    }
  }
  return best;
}
