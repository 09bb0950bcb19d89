import { biquad, butterworth, ringing } from './biquad';
import type { Effect } from './effect';
import { runSections } from './filters';
import { BLOCK, copyBlock, type Block, type Node } from './node';
import type { Param } from './param';
import { choice, even, mix, octaves } from './spec';

/** Poles of the filters before and behind, in pairs, and where they act as a share of the lower rate. */
const [PAIRS, CORNER] = [4, 0.4];
const qualities = butterworth(PAIRS);
/** At so many bits nothing is rounded, and at such a rate nothing is held. */
const [FINEST, FASTEST] = [24, 192_000];
const TAKEN_OUT = 1;

class Reduction implements Node {
  readonly latency = 0;
  private readonly sections = qualities.map(() => new Float64Array(5));
  private readonly before = qualities.map(() => new Float64Array(4));
  private readonly behind = qualities.map(() => new Float64Array(4));
  private readonly wet: Block = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
  /** The sample that is held, and which one of the lower rate it is. */
  private readonly held = new Float64Array(2);
  private step = -1;
  private corner = 0;

  constructor(
    private readonly rate: number,
    private readonly params: Readonly<Record<string, Param>>,
  ) {}

  get tail(): number {
    const { rate: slower, aliases } = this.params;
    const holds = Math.ceil(this.rate / slower.value);
    if (Math.round(aliases.value) !== TAKEN_OUT || slower.value >= this.rate) return holds;
    this.tune(slower.value * CORNER);
    return holds + 2 * this.sections.reduce((sum, s) => sum + ringing(s), 0);
  }

  private tune(corner: number): void {
    if (corner === this.corner) return;
    this.corner = corner;
    for (let k = 0; k < PAIRS; k++) biquad('high cut', this.rate, corner, 0, qualities[k], this.sections[k]);
  }

  reset(): void {
    for (const kept of this.before) kept.fill(0);
    for (const kept of this.behind) kept.fill(0);
    this.held.fill(0);
    this.step = -1;
  }

  process(inputs: readonly Block[], out: Block, at: number, count: number): void {
    const { params, rate, wet, held, sections } = this;
    const share = params.mix.fill(at, count);
    const bits = params.bits.fill(at, count);
    const slower = params.rate.fill(at, count);
    const isFiltered = Math.round(params.aliases.value) === TAKEN_OUT && slower[0] < rate;
    copyBlock(inputs[0], wet, count);
    if (isFiltered) {
      this.tune(slower[0] * CORNER);
      runSections(sections, this.before, PAIRS, wet, 0, count);
    }
    for (let i = 0; i < count; i++) {
      // Which sample of the lower rate it is, wherever one begins.
      const step = slower[i] >= rate ? at + i : Math.floor(((at + i) * slower[i]) / rate + 1e-9);
      const isNext = step !== this.step;
      this.step = step;
      const fine = 2 ** (bits[i] - 1);
      for (let c = 0; c < 2; c++) {
        if (isNext) held[c] = wet[c][i];
        wet[c][i] = bits[i] >= FINEST ? held[c] : Math.round(held[c] * fine) / fine;
      }
    }
    if (isFiltered) runSections(sections, this.behind, PAIRS, wet, 0, count);
    for (let i = 0; i < count; i++) {
      const part = share[i] / 100;
      for (let c = 0; c < 2; c++) out[c][i] = inputs[0][c][i] * (1 - part) + wet[c][i] * part;
    }
  }
}

/** As little of a sound as old machines kept. */
export const reduction: Effect = {
  kind: 'reduction',
  name: 'Bits and rate',
  about: 'Keeps fewer bits of each sample and fewer samples a second, with or without what that folds back.',
  source:
    'Rounding to steps of 2^(1 - bits), and a sample held until the next of the lower rate; filters of eight poles after Butterworth.',
  params: [
    even('bits', 'Bits', '', [1, FINEST, 8], 'How many bits each sample keeps; at 24 they stay as they are.'),
    octaves(
      'rate',
      'Rate',
      'Hz',
      [200, FASTEST, 11_025],
      'How many samples there are a second; above the rate of the scene all of them stay.',
    ),
    choice(
      'aliases',
      'What folds back',
      ['stays', 'is taken out'],
      'stays',
      'Tones above half the rate come back below it, unless they are taken out before.',
    ),
    mix(100),
  ],
  presets: [
    { name: 'Old toy', values: { bits: 6, rate: 8000 } },
    { name: 'Game of long ago', values: { bits: 4, rate: 14_000 } },
    { name: 'Bad line', values: { bits: 8, rate: 6000, aliases: TAKEN_OUT } },
  ],
  make: (rate, params) => new Reduction(rate, params),
};
