import type FFT from 'fft.js';
import { fftOf, onceEach } from './spectrum';

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
  private readonly fft: FFT;
  private readonly spectrum: number[];
  private readonly back: number[];
  private readonly padded: Float64Array;
  private readonly nsdf: Float64Array;

  /** @param size samples a frame, a power of two; @param rate Hz */
  constructor(
    readonly size: number,
    private readonly rate: number,
  ) {
    this.fft = fftOf(size * 2);
    this.spectrum = this.fft.createComplexArray();
    this.back = this.fft.createComplexArray();
    this.padded = new Float64Array(size * 2);
    this.nsdf = new Float64Array(size / 2);
  }

  /** @returns period-based pitch and clarity (0..1) of one frame; undefined for silence and noise */
  of(frame: ArrayLike<number>): { hz: number; clarity: number } | undefined {
    this.difference(frame);
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

  private difference(frame: ArrayLike<number>): void {
    const { size, padded, spectrum, back, nsdf } = this;
    let mean = 0;
    for (let i = 0; i < size; i++) mean += frame[i] / size;
    let energy = 0;
    for (let i = 0; i < size; i++) {
      padded[i] = frame[i] - mean;
      energy += padded[i] * padded[i];
    }
    this.fft.realTransform(spectrum, padded);
    this.fft.completeSpectrum(spectrum);
    for (let k = 0; k < spectrum.length; k += 2) {
      spectrum[k] = spectrum[k] ** 2 + spectrum[k + 1] ** 2;
      spectrum[k + 1] = 0;
    }
    this.fft.inverseTransform(back, spectrum);
    let m = 2 * energy;
    for (let lag = 0; lag < nsdf.length; lag++) {
      nsdf[lag] = m > 1e-9 ? (2 * back[2 * lag]) / m : 0;
      m -= padded[lag] ** 2 + padded[size - 1 - lag] ** 2;
    }
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
  frames.forEach((frame, i) => {
    if (energies[i] < loudest * 1e-4) return;
    const weight = Math.sqrt(energies[i]);
    all += weight;
    const pitch = finder.of(frame);
    if (pitch) found.push({ ...pitch, weight });
  });
  const near = (a: number, b: number) => Math.abs(Math.log2(a / b)) < 1 / 24;
  const support = (hz: number) => found.reduce((sum, f) => sum + (near(f.hz, hz) ? f.weight * f.clarity : 0), 0);
  const best = found.map((f) => ({ hz: f.hz, support: support(f.hz) })).sort((a, b) => b.support - a.support)[0];
  if (!best) return undefined;
  const own = found.filter((f) => near(f.hz, best.hz)).sort((a, b) => a.hz - b.hz);
  let half = own.reduce((sum, f) => sum + f.weight, 0) / 2;
  const middle = own.find((f) => (half -= f.weight) <= 0) ?? own[0];
  return { hz: middle.hz, confidence: Math.min(1, best.support / all) };
}
