import { addSquares, eachStretch } from './blocks';

/** Natural logarithm of a decibel. */
const DECIBEL = Math.LN10 / 20;

/** A factor for a gain in decibels. */
export function fromDb(db: number): number {
  return Math.exp(db * DECIBEL);
}

/** Decibels relative to full scale of a factor; -Infinity for silence. */
export function toDb(factor: number): number {
  return 20 * Math.log10(factor);
}

/** The highest true peak that making sounds equally loud may lead to, dBTP. */
const CEILING = -1;

/**
 * The gain that brings a sound to a loudness without clipping; 0 where its loudness is not known.
 * @param loudness LUFS, integrated
 * @param truePeak dBTP
 * @param target LUFS
 * @returns dB
 */
export function levellingGain(loudness: number | undefined, truePeak: number | undefined, target: number): number {
  if (loudness === undefined || !Number.isFinite(loudness)) return 0;
  const room = truePeak === undefined || !Number.isFinite(truePeak) ? Infinity : CEILING - truePeak;
  return Math.min(target - loudness, room);
}

/** Collects the energy of a sound in spans of about 2 ms, for finding where it strikes. */
export class EnergyCollector {
  /** Mean square per span, over channels. */
  readonly energies: number[] = [];
  readonly span: number;
  private sum = 0;
  private count = 0;

  /** @param rate sample rate, Hz */
  constructor(rate: number) {
    this.span = Math.max(16, Math.round(rate * 0.002));
  }

  /** Takes the next block: one array per channel. */
  push(planes: readonly Float32Array[]): void {
    eachStretch(planes[0].length, this.count, this.span, (from, to, stretches, span) => {
      const sums = new Float64Array(stretches);
      sums[0] = this.sum;
      for (const plane of planes) addSquares(plane.subarray(from, to), span, sums);
      this.count += span;
      if (this.count < this.span) {
        this.sum = sums[0];
        return;
      }
      for (const sum of sums) this.energies.push(sum / (this.span * planes.length));
      this.sum = 0;
      this.count = 0;
    });
  }
}

/** Above this no sound is meant to be: what is decoded louder is damaged more often than loud. dBTP. */
export const TOO_LOUD = 6;

/** The gain by which a sound is held back where it is heard: to full scale, where it is far above it; none elsewhere. dB */
export const heldBack = (truePeak: number | undefined): number =>
  truePeak !== undefined && truePeak > TOO_LOUD ? -truePeak : Infinity;
