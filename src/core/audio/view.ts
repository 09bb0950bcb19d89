import { Spectrum } from './spectrum';

/** A waveform by columns, one entry per column and channel: `low[channel][column]`. */
export interface WaveColumns {
  /** Frames of the sound that the columns cover: the first, and behind the last. */
  from: number;
  to: number;
  low: Float32Array[];
  high: Float32Array[];
  /** Root mean square. */
  rms: Float32Array[];
}

/**
 * The lowest, highest and mean level of each of `count` equal parts of a signal.
 * @param planes one array per channel, all as long
 * @param from the frame of the sound with which they begin
 */
export function waveColumns(planes: readonly Float32Array[], from: number, count: number): WaveColumns {
  const length = planes[0]?.length ?? 0;
  const make = () => planes.map(() => new Float32Array(count));
  const [low, high, rms] = [make(), make(), make()];
  planes.forEach((plane, c) => {
    for (let x = 0; x < count; x++) {
      const start = Math.floor((x * length) / count);
      const end = Math.max(start + 1, Math.floor(((x + 1) * length) / count));
      let least = plane[start] ?? 0;
      let most = least;
      let sum = 0;
      for (let i = start; i < end && i < length; i++) {
        const v = plane[i];
        if (v < least) least = v;
        else if (v > most) most = v;
        sum += v * v;
      }
      low[c][x] = least;
      high[c][x] = most;
      rms[c][x] = Math.sqrt(sum / (end - start));
    }
  });
  return { from, to: from + length, low, high, rms };
}

/** Bounds of a spectrogram: Hz of its lowest row, and what is shown as nothing, dB below a sine of full scale. */
export const LOWEST_HZ = 40;
export const FLOOR_DB = -96;

/** The frequency of a row of a spectrogram, counted from its lowest; each row a same ratio above the one below. Hz. */
export function rowFrequency(row: number, rows: number, rate: number): number {
  return LOWEST_HZ * (rate / 2 / LOWEST_HZ) ** ((row + 0.5) / rows);
}

/** How far up a spectrogram of `rows` rows a frequency stands, in rows from its lower edge; the inverse of {@link rowFrequency}. */
export function frequencyRow(hz: number, rows: number, rate: number): number {
  return (Math.log(hz / LOWEST_HZ) / Math.log(rate / 2 / LOWEST_HZ)) * rows;
}

/** Frames of which spectra of a span are made: enough for its lowest tones, but no more than blurs in time what is seen. */
export function spectrogramSize(frames: number, columns: number): number {
  const wanted = (frames / columns) * 8;
  return Math.max(512, Math.min(4096, 2 ** Math.round(Math.log2(Math.max(1, wanted)))));
}

/**
 * A column of a spectrogram.
 * @param signal `size` samples, centred on the column
 * @param rows how many; the lowest first
 * @returns 0 for {@link FLOOR_DB} and below, 255 for a sine of full scale
 */
export class SpectrogramColumn {
  private readonly spectrum: Spectrum;
  private readonly borders: Float64Array;

  constructor(
    readonly size: number,
    private readonly rows: number,
    rate: number,
  ) {
    this.spectrum = new Spectrum(size);
    this.borders = Float64Array.from({ length: rows + 1 }, (_, r) => (rowFrequency(r - 0.5, rows, rate) * size) / rate);
  }

  of(signal: Float32Array, into: Uint8Array, at = 0): void {
    const power = this.spectrum.of(signal);
    const top = power.length - 1;
    for (let r = 0; r < this.rows; r++) {
      const [low, high] = [this.borders[r], this.borders[r + 1]];
      const first = Math.ceil(low);
      const last = Math.min(top, Math.floor(high));
      let most = 0;
      for (let k = first; k <= last; k++) if (power[k] > most) most = power[k];
      if (first > last) {
        // Rows that lie between two bins take of each what is nearer.
        const centre = Math.min(top, (low + high) / 2);
        const below = Math.floor(centre);
        const share = centre - below;
        most = power[below] * (1 - share) + power[Math.min(top, below + 1)] * share;
      }
      const db = 10 * Math.log10(most + 1e-12);
      into[at + r] = Math.max(0, Math.min(255, Math.round(((db - FLOOR_DB) / -FLOOR_DB) * 255)));
    }
  }
}

/**
 * The place nearest to `at` where a signal crosses zero, so that cutting there makes no click; `at` itself where it never does.
 * Channels are looked at together: their sum.
 * @returns the first frame behind the crossing
 */
export function nearestCrossing(planes: readonly Float32Array[], at: number): number {
  const length = planes[0]?.length ?? 0;
  const sum = (i: number) => planes.reduce((total, p) => total + p[i], 0);
  for (let by = 0; by < length; by++)
    for (const i of [at - by, at + by]) if (i > 0 && i < length && sum(i - 1) <= 0 !== sum(i) <= 0) return i;
  return at;
}
