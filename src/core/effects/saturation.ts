import { fromDb } from '@core/audio';
import type { Effect } from './effect';
import { bend } from './filters';
import type { Block, Node } from './node';
import { BLOCK } from './node';
import { oversampling } from './oversample';
import type { Param } from './param';
import { choice, even, mix, octaves } from './spec';

/** From here on its tone is left alone. Hz */
const DULLEST = 20_000;
/** Delays of the half-band filters that go to eight times the rate and back, each in samples of the higher rate; odd. */
const STAGES = [37, 15, 9];
/** Samples at the highest rate by which all of it is held back further, so that it is late by whole samples: 37 + 15 / 2 + 9 / 4 + 2 / 8. */
const [FURTHER, LATE] = [2, 47];

/**
 * What a sample becomes: a polynomial that is flat to its fifth derivative where it meets full scale, so that its overtones die away fast.
 * @returns -1..1
 */
export function bent(x: number): number {
  if (x >= 1) return 1;
  if (x <= -1) return -1;
  const s = x * x;
  return (x * (693 - s * (1155 - s * (1386 - s * (990 - s * (385 - s * 63)))))) / 256;
}
/** Its slope at 0: what is soft comes out as it came in. */
const SLOPE = 693 / 256;

class Saturation implements Node {
  readonly latency = LATE;
  readonly tail = 2 * LATE;
  /** By channel. */
  private readonly rates = [0, 1].map(() => oversampling(STAGES, FURTHER));
  private readonly dry = [0, 1].map(() => new Float32Array(LATE + BLOCK));
  private readonly tone = new Float64Array(2);
  private readonly factors = new Float64Array(BLOCK);

  constructor(
    private readonly rate: number,
    private readonly params: Readonly<Record<string, Param>>,
  ) {}

  reset(): void {
    for (const rates of this.rates) rates.reset();
    for (const plane of this.dry) plane.fill(0);
    this.tone.fill(0);
  }

  process(inputs: readonly Block[], out: Block, at: number, count: number): void {
    const { params } = this;
    const drive = params.drive.fill(at, count);
    const output = params.output.fill(at, count);
    const wet = params.mix.fill(at, count);
    const bias = Math.round(params.kind.value) === 1 ? 0.3 : 0;
    const rest = bent(bias);
    const isDull = params.tone.value < DULLEST;
    const smooth = 1 - Math.exp((-2 * Math.PI * Math.min(params.tone.value, this.rate * 0.45)) / this.rate);
    const { factors } = this;
    for (let i = 0; i < count; i++) factors[i] = i > 0 && drive[i] === drive[0] ? factors[0] : fromDb(drive[i]) / SLOPE;
    const level = fromDb(output[0]);
    for (let c = 0; c < out.length; c++) {
      const dry = this.dry[c];
      for (let i = 0; i < count; i++) dry[LATE + i] = inputs[0][c][i];
      this.rates[c].up(inputs[0][c], count);
      bend(factors, count, bias, rest);
      const plane = this.rates[c].down(count);
      let tone = this.tone[c];
      for (let i = 0; i < count; i++) {
        tone += smooth * (plane[i] - tone);
        const made = (isDull ? tone : plane[i]) * (output[i] === output[0] ? level : fromDb(output[i]));
        const share = wet[i] / 100;
        out[c][i] = dry[i] * (1 - share) + made * share;
      }
      this.tone[c] = Math.abs(tone) < 1e-20 ? 0 : tone;
      dry.copyWithin(0, count, count + LATE);
    }
  }
}

/** Bends what is loud, which adds overtones. */
export const saturation: Effect = {
  kind: 'saturation',
  name: 'Saturation',
  about: 'Bends what is loud, which makes it denser and adds overtones.',
  source:
    'A maximally flat polynomial of the eleventh degree at eight times the rate, with Kaiser-windowed half-band filters on the way up and down.',
  params: [
    even('drive', 'Drive', 'dB', [0, 36, 9], 'How far it is driven.'),
    choice(
      'kind',
      'Kind',
      ['even on both sides', 'more on one side'],
      'even on both sides',
      'Odd overtones alone, or even ones with them.',
    ),
    octaves('tone', 'Tone', 'Hz', [500, DULLEST, DULLEST], 'Above this it gets duller; at 20 kHz it does not.'),
    even('output', 'Output', 'dB', [-36, 12, 0], 'How loud it comes out.'),
    mix(100),
  ],
  presets: [
    { name: 'Warm', values: { drive: 6, kind: 1, output: -1 } },
    { name: 'Engine room', values: { drive: 20, kind: 1, tone: 6000, output: -6 } },
  ],
  make: (rate, params) => new Saturation(rate, params),
};
