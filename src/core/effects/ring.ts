import type { Effect } from './effect';
import { BLOCK, type Block, type Node } from './node';
import { oversampling } from './oversample';
import type { Param } from './param';
import { choice, mix, octaves } from './spec';

/** Delay of the filters to twice the rate and back, which is what it is late by. Samples */
const LATE = 37;
const BESIDE = 1;

class Ring implements Node {
  readonly latency = LATE;
  readonly tail = 2 * LATE;
  private readonly rates = [0, 1].map(() => oversampling([LATE]));
  private readonly dry = [0, 1].map(() => new Float32Array(LATE + BLOCK));
  private readonly tone = new Float64Array(2 * BLOCK);
  /** Turns of the tone; unknown where it begins. */
  private turns: number | undefined;

  constructor(
    private readonly rate: number,
    private readonly params: Readonly<Record<string, Param>>,
  ) {}

  reset(): void {
    for (const rates of this.rates) rates.reset();
    for (const plane of this.dry) plane.fill(0);
    this.turns = undefined;
  }

  process(inputs: readonly Block[], out: Block, at: number, count: number): void {
    const { params, rate, tone } = this;
    const freq = params.freq.fill(at, count);
    const wet = params.mix.fill(at, count);
    const isBeside = Math.round(params.how.value) === BESIDE;
    // Wherever one begins, the tone stands as if it had run from the first sample on; what it meets has come through half of the filters.
    let turns = this.turns ?? ((freq[0] * (at - LATE / 2)) / rate) % 1;
    for (let i = 0; i < count; i++)
      for (let half = 0; half < 2; half++) {
        const value = Math.sin(2 * Math.PI * turns);
        tone[2 * i + half] = isBeside ? (1 + value) / 2 : value;
        turns += freq[i] / (2 * rate);
      }
    this.turns = turns % 1;
    for (let c = 0; c < out.length; c++) {
      const dry = this.dry[c];
      for (let i = 0; i < count; i++) dry[LATE + i] = inputs[0][c][i];
      const high = this.rates[c].up(inputs[0][c], count);
      for (let k = 0; k < 2 * count; k++) high[k] *= tone[k];
      const made = this.rates[c].down(count);
      for (let i = 0; i < count; i++) {
        const share = wet[i] / 100;
        out[c][i] = dry[i] * (1 - share) + made[i] * share;
      }
      dry.copyWithin(0, count, count + LATE);
    }
  }
}

/** Multiplies with a tone. */
export const ring: Effect = {
  kind: 'ring',
  name: 'Ring modulation',
  about:
    'Multiplies with a tone: each tone that comes in becomes two, as far above and below it; slow ones make it tremble.',
  source: 'sin a sin b = (cos(a - b) - cos(a + b)) / 2, at twice the rate, so that what lies above is not folded back.',
  params: [
    octaves('freq', 'Frequency', 'Hz', [0.1, 10_000, 180], 'That of the tone.'),
    choice(
      'how',
      'How',
      ['in its place', 'beside it'],
      'in its place',
      'Whether the two tones take the place of what came in, or lie beside it, as when its level goes up and down.',
    ),
    mix(100),
  ],
  presets: [
    { name: 'Robot', values: { freq: 52, mix: 80 } },
    { name: 'Small bell', values: { freq: 1370 } },
    { name: 'Trembling', values: { freq: 6, how: BESIDE } },
  ],
  make: (rate, params) => new Ring(rate, params),
};
