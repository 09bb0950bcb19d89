import { fromDb } from '@core/audio';
import { ringing } from './biquad';
import { pole } from './dynamics';
import type { Effect } from './effect';
import { runSections } from './filters';
import { BLOCK, copyBlock, type Block, type Node } from './node';
import type { Param } from './param';
import { even, mix, octaves } from './spec';

/** Bands at most, and the middles of the lowest and the highest one, Hz. */
const [BANDS, LOWEST, HIGHEST] = [32, 90, 9000];
/** Two sounds of usual level, multiplied, are much softer than either; dB that are given back. */
const MADE_UP = 24;
/** Sections of a band. */
const PAIR = 2;

const block = (): Block => [new Float32Array(BLOCK), new Float32Array(BLOCK)];

class Vocoder implements Node {
  readonly latency = 0;
  private readonly sections = Array.from({ length: BANDS }, () => [new Float64Array(5), new Float64Array(5)]);
  private readonly own = Array.from({ length: BANDS }, () => [new Float64Array(4), new Float64Array(4)]);
  private readonly other = Array.from({ length: BANDS }, () => [new Float64Array(4), new Float64Array(4)]);
  private readonly envelopes = new Float64Array(BANDS);
  private readonly carrier = block();
  private readonly voice = block();
  private readonly sum = block();
  private bands = 0;

  constructor(
    private readonly rate: number,
    private readonly params: Readonly<Record<string, Param>>,
  ) {}

  get tail(): number {
    this.tune();
    return 2 * ringing(this.sections[0][0]) + Math.ceil((10.4 * this.params.smooth.value * this.rate) / 1000);
  }

  /** Middles of bands an even number of octaves apart, each as wide as to the next: neighbours meet at -3 dB. */
  private tune(): void {
    const { rate, params } = this;
    const bands = Math.round(params.bands.value);
    if (bands === this.bands) return;
    this.bands = bands;
    const apart = (HIGHEST / LOWEST) ** (1 / (bands - 1));
    // Two sections in a row are narrower than one.
    const q = (0.64 * Math.sqrt(apart)) / (apart - 1);
    for (let k = 0; k < bands; k++) {
      const w = (2 * Math.PI * Math.min(LOWEST * apart ** k, rate * 0.45)) / rate;
      const alpha = Math.sin(w) / (2 * q);
      for (const section of this.sections[k]) {
        section[0] = alpha / (1 + alpha);
        section[1] = 0;
        section[2] = -section[0];
        section[3] = (-2 * Math.cos(w)) / (1 + alpha);
        section[4] = (1 - alpha) / (1 + alpha);
      }
    }
  }

  reset(): void {
    for (const all of [this.own, this.other]) for (const kept of all) for (const values of kept) values.fill(0);
    this.envelopes.fill(0);
  }

  process(inputs: readonly Block[], out: Block, at: number, count: number): void {
    const { params, rate, carrier, voice, sum, envelopes } = this;
    const before = this.bands;
    this.tune();
    if (before !== 0 && before !== this.bands) this.reset();
    const heard = inputs[1] ?? inputs[0];
    const keep = pole(params.smooth.value, rate);
    const output = params.output.fill(at, count);
    const wet = params.mix.fill(at, count);
    for (const plane of sum) for (let i = 0; i < count; i++) plane[i] = 0;
    for (let k = 0; k < this.bands; k++) {
      copyBlock(heard, voice, count);
      copyBlock(inputs[0], carrier, count);
      runSections(this.sections[k], this.other[k], PAIR, voice, 0, count);
      runSections(this.sections[k], this.own[k], PAIR, carrier, 0, count);
      let envelope = envelopes[k];
      for (let i = 0; i < count; i++) {
        const power = (voice[0][i] * voice[0][i] + voice[1][i] * voice[1][i]) / 2;
        envelope = power + keep * (envelope - power);
        const level = Math.sqrt(envelope);
        sum[0][i] += carrier[0][i] * level;
        sum[1][i] += carrier[1][i] * level;
      }
      envelopes[k] = envelope < 1e-20 ? 0 : envelope;
    }
    let level = fromDb(output[0] + MADE_UP);
    for (let i = 0; i < count; i++) {
      if (i > 0 && output[i] !== output[i - 1]) level = fromDb(output[i] + MADE_UP);
      const share = wet[i] / 100;
      for (let c = 0; c < 2; c++) out[c][i] = inputs[0][c][i] * (1 - share) + sum[c][i] * level * share;
    }
  }
}

/** Has one sound speak with the voice of another. */
export const vocoder: Effect = {
  kind: 'vocoder',
  name: 'Vocoder',
  about: 'Has what passes speak as another line does: each band is as loud as that one’s is.',
  source:
    'H. Dudley, “Remaking speech” (1939): bands of two band-pass sections each (cookbook, constant peak) and the root of their smoothed power.',
  listens: true,
  params: [
    even('bands', 'Bands', '', [6, BANDS, 18], 'How many there are: the more, the clearer it speaks.'),
    octaves('smooth', 'Smooth', 'ms', [2, 200, 18], 'How slowly a band gets louder and softer.'),
    even('output', 'Output', 'dB', [-36, 24, 0], 'How loud it comes out.'),
    mix(100),
  ],
  presets: [
    { name: 'Talking engine', values: { bands: 24, smooth: 12 } },
    { name: 'Breathing wall', values: { bands: 8, smooth: 120 } },
  ],
  make: (rate, params) => new Vocoder(rate, params),
};
