import { mixed, scanned } from './blocks';
import { envelopeFacts, type EnvelopeFacts } from './envelope';
import { EnergyCollector } from './level';
import { LoudnessMeter, TruePeakMeter } from './loudness';
import { findOnsets, SpectralCollector } from './onsets';
import type { Peaks } from './peaks';
import { PeakCollector, spanFor } from './peaks';
import { pitchOf } from './pitch';
import type { Print } from './print';
import { ExactHash, PrintCollector } from './print';
import { Halver, logBands, Spectrum } from './spectrum';
import { tempoOf } from './tempo';

/** What was measured from the audio of a sound. A fact that does not apply, such as the pitch of noise, is undefined. */
export interface Facts extends EnvelopeFacts {
  /** Integrated loudness, LUFS (ITU-R BS.1770-4). Undefined for silence. */
  loudness?: number;
  /** Loudest 3 s, LUFS (EBU Tech 3341); the whole of shorter sounds. */
  shortTerm?: number;
  /** Loudness range, LU (EBU Tech 3342); sounds of 3 s and more. */
  loudnessRange?: number;
  /** dBTP (BS.1770-4 annex 2). Undefined for silence. */
  truePeak?: number;
  /** Level of the quietest twentieth of 50 ms stretches between first and last sound, dBFS (RMS). */
  noiseFloor?: number;
  /** Seconds before the first sample, and after the last one, within 60 dB of the peak. */
  headSilence: number;
  tailSilence: number;
  /** Spectral centroid over power, Hz. */
  brightness?: number;
  /** Wiener entropy in bands of a third of an octave or so, 0 tone-like to 1 noise-like. */
  noisiness?: number;
  /** Fundamental, Hz, where one was found, and how sure it is, 0 to 1. */
  pitch?: number;
  pitchSure?: number;
  /** Onsets, frames from the start. */
  onsets: number[];
  /** Onsets a second; sounds of less than a second count as one. */
  density: number;
  /** Share of the power below 250 Hz, percent. */
  lows?: number;
  /** Level of what differs between left and right against what they share, dB, -60 to 40; stereo only. */
  width?: number;
  /** Beats a minute, where there is a rhythm, and how sure it is, 0 to 1. */
  tempo?: number;
  tempoSure?: number;
  /** Whether the end runs on into the beginning: see {@link FactsCollector}. */
  seamless: boolean;
  /** How hard it hits, 0 to 100: level, rise, density and brightness together. */
  force?: number;
  /** What the channels are: `Mono`, `Stereo`, `Stereo, both sides the same`, `Quad`, `5.1`. */
  layout: string;
  /** Samples in runs of three or more at full scale. */
  clipped: number;
  /** Largest mean of a channel, percent of full scale. */
  dc: number;
}

/** The measuring code's version: facts of an older one are measured again. */
export const FACTS_VERSION = 2;

/** Curves and marks of a sound, for its plots. */
export interface FactCurves {
  /** Momentary loudness every 0.1 s, LUFS. */
  loudness: Float32Array;
  /** Mean level of the bands of {@link spectrumBands}, dB. */
  spectrum: Float32Array;
  /** See {@link SpectralCollector.course}. */
  course: Int8Array;
}

/** All that one pass over a sound gives. */
export interface Measurement {
  facts: Facts;
  curves: FactCurves;
  peaks: Peaks;
  energy: EnergyCollector;
  print: Print;
  /** See {@link ExactHash}. */
  hash: string;
}

/** Middle frequencies of the plotted spectrum, Hz: 48 bands from 25 Hz to 20 kHz, equally wide to the ear. */
export const spectrumBands: readonly number[] = Array.from({ length: 48 }, (_, b) => 25 * 800 ** ((b + 0.5) / 48));

const layouts: Record<number, string> = { 1: 'Mono', 2: 'Stereo', 4: 'Quad', 5: '5.0', 6: '5.1', 8: '7.1' };

/** Frames of the whole that pitch and spectrum look at: as many as keep an hour as cheap as a minute. */
const LOOKS = 16;
/** From here on a sample counts as full scale: -0.1 dBFS. */
const FULL = 0.989;

/** Share of the power that lies below 250 Hz, percent. @param spectrum levels of {@link spectrumBands}, dB */
function lowShare(spectrum: Float32Array): number {
  let [low, all] = [0, 0];
  spectrum.forEach((level, b) => {
    const power = 10 ** (level / 10);
    all += power;
    if (spectrumBands[b] < 250) low += power;
  });
  return (100 * low) / all;
}

function joinedLooks(looks: readonly Float32Array[]): Float32Array {
  const all = new Float32Array(looks.length * looks[0].length);
  looks.forEach((look, i) => all.set(look, i * look.length));
  return all;
}

/**
 * Measures all facts of a sound in one pass over it.
 *
 * Its end runs on into its beginning (`seamless`) when there is no silence at either, both are within 3 dB of each other and
 * 12 dB of the whole, and the step between last and first sample is no larger than steps inside of it.
 */
export class FactsCollector {
  private readonly energy: EnergyCollector;
  private readonly peaks: PeakCollector;
  private readonly loudness: LoudnessMeter;
  private readonly truePeak: TruePeakMeter;
  private readonly halver: Halver;
  private readonly spectral: SpectralCollector;
  private readonly print: PrintCollector;
  private readonly looks: Float32Array[];
  private readonly lookStarts: number[];
  private readonly sums: Float64Array;
  private readonly first: Float64Array;
  private readonly last: Float64Array;
  private readonly runs: Int32Array;
  private clipped = 0;
  private steps = 0;
  private at = 0;
  private mid = 0;
  private side = 0;
  private left = 0;
  private right = 0;

  private constructor(
    private readonly frames: number,
    private readonly rate: number,
    private readonly channels: number,
    private readonly hash: ExactHash,
  ) {
    this.energy = new EnergyCollector(rate);
    this.peaks = new PeakCollector(frames, spanFor(frames, rate));
    this.loudness = new LoudnessMeter(rate, channels);
    this.truePeak = new TruePeakMeter(rate, channels);
    const halvings = Math.max(0, Math.floor(Math.log2(rate / 20_000)));
    this.halver = new Halver(halvings);
    this.spectral = new SpectralCollector(rate, rate / 2 ** halvings);
    this.print = new PrintCollector(rate / 2 ** halvings);
    const size = 2 ** Math.round(Math.log2(rate / 11));
    const count = Math.max(1, Math.min(LOOKS, Math.ceil((2 * frames) / size)));
    const room = Math.max(0, frames - size);
    this.looks = Array.from({ length: count }, () => new Float32Array(size));
    this.lookStarts = this.looks.map((_, i) => (count === 1 ? 0 : Math.round((i * room) / (count - 1))));
    this.sums = new Float64Array(channels);
    this.first = new Float64Array(channels);
    this.last = new Float64Array(channels);
    this.runs = new Int32Array(channels);
  }

  /** @param frames of the whole sound; @param rate Hz */
  static async start(frames: number, rate: number, channels: number): Promise<FactsCollector> {
    return new FactsCollector(frames, rate, channels, await ExactHash.start(rate, channels));
  }

  /** Takes the next block: one array per channel, all as long. Numbers that are none (a damaged float file) become silence. */
  push(planes: readonly Float32Array[]): void {
    const length = planes[0].length;
    if (length === 0) return;
    planes.forEach((plane, c) => this.scan(plane, c));
    const mono = this.mix(planes);
    this.hash.push(planes);
    this.peaks.push(planes as Float32Array[]);
    this.energy.push(planes as Float32Array[]);
    this.loudness.push(planes);
    this.truePeak.push(planes);
    const low = this.halver.push(mono);
    this.spectral.push(mono, low);
    this.print.push(low);
    this.looks.forEach((look, i) => {
      const offset = this.lookStarts[i] - this.at;
      if (offset >= length || offset + look.length <= 0) return;
      look.set(mono.subarray(Math.max(0, offset), Math.min(length, offset + look.length)), Math.max(0, -offset));
    });
    this.at += length;
  }

  private scan(plane: Float32Array, c: number): void {
    const before = this.at === 0 ? plane[0] : this.last[c];
    const { sum, steps, top } = scanned(plane, before);
    // One number that is none spoils the sum: only then is it looked for.
    if (!Number.isFinite(steps)) {
      for (let i = 0; i < plane.length; i++) if (!Number.isFinite(plane[i])) plane[i] = 0;
      return this.scan(plane, c);
    }
    if (top > FULL || this.runs[c] > 0) this.flats(plane, c);
    if (this.at === 0) this.first[c] = plane[0];
    this.last[c] = plane[plane.length - 1];
    this.sums[c] += sum;
    this.steps += steps;
  }

  /** Counts samples at full scale, or next to it, that stay there: a wave that merely touches it is not clipped. */
  private flats(plane: Float32Array, c: number): void {
    let run = this.runs[c];
    let before = this.last[c];
    for (let i = 0; i < plane.length; i++) {
      const x = plane[i];
      if ((x > FULL || x < -FULL) && Math.abs(x - before) < 2e-4) run++;
      else if (run > 0) {
        if (run >= 2) this.clipped += run + 1;
        run = 0;
      }
      before = x;
    }
    this.runs[c] = run;
  }

  private mix(planes: readonly Float32Array[]): Float32Array {
    const [left, right] = planes;
    if (planes.length === 2) {
      const sums = mixed(left, right);
      this.mid += sums.mid;
      this.side += sums.side;
      this.left += sums.left;
      this.right += sums.right;
      return sums.mono;
    }
    const mono = left.slice();
    for (let c = 1; c < planes.length; c++) for (let i = 0; i < mono.length; i++) mono[i] += planes[c][i];
    if (planes.length > 1) for (let i = 0; i < mono.length; i++) mono[i] /= planes.length;
    return mono;
  }

  private layout(): string {
    const name = layouts[this.channels] ?? `${this.channels} channels`;
    if (this.channels !== 2 || this.mid + this.side === 0) return name;
    if (this.side < this.mid * 1e-6) return 'Stereo, both sides the same';
    if (this.mid < this.side * 1e-6) return 'Stereo, one side inverted';
    if (Math.min(this.left, this.right) < Math.max(this.left, this.right) * 1e-6) return 'Stereo, one side silent';
    return name;
  }

  private width(): number | undefined {
    if (this.channels !== 2 || this.mid + this.side === 0) return undefined;
    return Number(Math.max(-60, Math.min(40, 10 * Math.log10(this.side / this.mid))).toFixed(1));
  }

  /** First and last span, and quiet in between. */
  private silences(): { head: number; tail: number; floor?: number } {
    const { energies, span } = this.energy;
    let top = 0;
    for (const e of energies) top = Math.max(top, e);
    if (top < 1e-12) return { head: this.frames / this.rate, tail: 0 };
    const low = top * 1e-6;
    const head = energies.findIndex((e) => e > low);
    const tail = energies.findLastIndex((e) => e > low);
    const means: number[] = [];
    for (let i = head; i + 25 <= tail + 1; i += 12) {
      let sum = 0;
      for (let k = i; k < i + 25; k++) sum += energies[k];
      means.push(sum / 25);
    }
    means.sort((a, b) => a - b);
    const quiet = means[Math.floor(means.length * 0.05)];
    return {
      head: (head * span) / this.rate,
      tail: Math.max(0, this.frames - (tail + 1) * span) / this.rate,
      floor: quiet === undefined || quiet <= 0 ? undefined : 10 * Math.log10(quiet),
    };
  }

  private seamless(head: number, tail: number): boolean {
    const { energies } = this.energy;
    if (this.frames < this.rate || head > 0.005 || tail > 0.005) return false;
    const mean = (from: number, to: number) =>
      energies.slice(from, to).reduce((s, e) => s + e, 0) / Math.max(1, to - from);
    const [start, end, all] = [mean(0, 40), mean(energies.length - 40, energies.length), mean(0, energies.length)];
    const far = (a: number, b: number) => Math.abs(10 * Math.log10((a + 1e-14) / (b + 1e-14)));
    const typical = Math.sqrt(this.steps / (this.frames * this.channels));
    const jump = Math.max(...this.first.map((x, c) => Math.abs(x - this.last[c])));
    return far(start, end) < 3 && far(start, all) < 12 && far(end, all) < 12 && jump < 4 * typical;
  }

  /**
   * Force, 0 to 100: 45 parts the loudest 20 ms (-50 to -3 dBFS), 25 how fast it rises there (100 to 1 ms from a tenth of
   * the energy to the whole), 10 onsets a second (0 to 8), 20 brightness (150 Hz to 6 kHz, by octaves).
   */
  private force(onsets: number, brightness: number): number | undefined {
    const { energies, span } = this.energy;
    const width = Math.max(1, Math.round((0.02 * this.rate) / span));
    let sum = 0;
    let best = 0;
    let at = 0;
    energies.forEach((e, i) => {
      sum += e - (i >= width ? energies[i - width] : 0);
      if (sum > best) {
        best = sum;
        at = i;
      }
    });
    if (best / width < 1e-11) return undefined;
    let peak = Math.max(0, at - width + 1);
    for (let i = peak; i <= at; i++) if (energies[i] > energies[peak]) peak = i;
    let rise = peak;
    while (rise > 0 && energies[rise] > energies[peak] * 0.1) rise--;
    const share = (value: number, low: number, high: number) => Math.max(0, Math.min(1, (value - low) / (high - low)));
    const level = share(10 * Math.log10(best / width), -50, -3);
    const attack = 1 - share(Math.log10((Math.max(1, peak - rise) * span) / this.rate), -3, -1);
    const density = share(onsets / Math.max(0.5, this.frames / this.rate), 0, 8);
    const bright = share(Math.log2(Math.max(1, brightness)), Math.log2(150), Math.log2(6000));
    return Math.round(45 * level + 25 * attack * Math.sqrt(level) + 10 * density + 20 * bright);
  }

  /** Looks that do not lie half over each other: what the spectrum needs for what falls between two windows, pitch does not. */
  private apart(): readonly Float32Array[] {
    const { looks, lookStarts } = this;
    const close = looks.length > 3 && lookStarts[1] - lookStarts[0] < looks[0].length * 0.6;
    return close ? looks.filter((_, i) => i % 2 === 0) : looks;
  }

  private meanSpectrum(): Float32Array {
    const size = this.looks[0].length;
    const spectrum = new Spectrum(size);
    const borders = logBands(spectrumBands.length, 25, 20_000, this.rate, size);
    const sums = new Float64Array(spectrumBands.length);
    // All looks one behind the other, so that two share a transform.
    const { looks } = this;
    const all = joinedLooks(looks);
    for (let i = 0; i < looks.length; i += 2) {
      const pair = spectrum.pair(all, i * size, (i + 1) * size);
      for (const power of pair.slice(0, looks.length - i))
        for (let b = 0; b < sums.length; b++)
          for (let k = borders[b]; k < borders[b + 1]; k++) sums[b] += power[k] / looks.length;
    }
    return Float32Array.from(sums, (s) => Math.max(-120, 10 * Math.log10(s + 1e-14)));
  }

  /** Everything about what was pushed. @param loop whether the file calls itself a loop */
  done(loop = false): Measurement {
    const { frames, rate } = this;
    this.spectral.finish();
    for (const run of this.runs) if (run >= 2) this.clipped += run + 1;
    const loudness = this.loudness.done();
    const truePeak = this.truePeak.done();
    const { head, tail, floor } = this.silences();
    const strength = this.spectral.strength();
    const onsets = findOnsets(strength, this.energy, rate);
    const seamless = this.seamless(head, tail);
    const pitch = pitchOf(this.apart(), rate);
    const tempo = tempoOf(strength, onsets.length, loop || seamless ? frames / rate : undefined);
    const { centroid, flatness } = this.spectral;
    const curves = { loudness: loudness.curve, spectrum: this.meanSpectrum(), course: this.spectral.course() };
    const { energies, span } = this.energy;
    const course = envelopeFacts(
      energies,
      span / rate,
      onsets.map((frame) => Math.floor(frame / span)),
    );
    const real = (x: number, digits: number) => (Number.isFinite(x) ? Number(x.toFixed(digits)) : undefined);
    const facts: Facts = {
      ...Object.fromEntries(
        Object.entries(course).map(([key, x]) => [key, x === undefined ? x : real(x as number, 3)]),
      ),
      density: real(onsets.length / Math.max(1, frames / rate), 2)!,
      lows: loudness.integrated > -Infinity ? real(lowShare(curves.spectrum), 1) : undefined,
      width: this.width(),
      loudness: real(loudness.integrated, 2),
      shortTerm: real(loudness.shortTerm, 2),
      loudnessRange: frames >= 3 * rate ? real(loudness.range, 2) : undefined,
      truePeak: real(truePeak, 2),
      noiseFloor: floor === undefined ? undefined : real(floor, 1),
      headSilence: real(head, 3)!,
      tailSilence: real(tail, 3)!,
      brightness: real(centroid, 0),
      noisiness: real(flatness, 3),
      pitch: pitch && pitch.confidence >= 0.3 ? real(pitch.hz, 2) : undefined,
      pitchSure: pitch && pitch.confidence >= 0.3 ? real(pitch.confidence, 2) : undefined,
      onsets,
      tempo: tempo && real(tempo.bpm, 1),
      tempoSure: tempo && real(tempo.confidence, 2),
      seamless,
      force: this.force(onsets.length, centroid || 0),
      layout: this.layout(),
      clipped: this.clipped,
      dc: real((100 * Math.max(...this.sums.map(Math.abs))) / Math.max(1, frames), 3)!,
    };
    return {
      facts,
      curves,
      peaks: this.peaks.done(),
      energy: this.energy,
      print: this.print.done(),
      hash: this.hash.done(),
    };
  }
}
