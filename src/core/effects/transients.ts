import { fromDb } from '@core/audio';
import { levelOf, pole } from './dynamics';
import type { Effect } from './effect';
import { copyBlock, type Block, type Node } from './node';
import type { Param } from './param';
import { even, octaves } from './spec';

/** Of a rise or fall, so much counts at the most. dB */
const MOST = 24;
/** Milliseconds after which a fall is not one any more, and decibels by which the level falls at the most in each: not from wave to wave. */
const [FALLS, DROP] = [400, 0.145];

class Transients implements Node {
  readonly latency = 0;
  /** It remembers for so long. */
  readonly tail: number;
  /** The level now; what follows it up slowly, and down slowly. dB */
  private now = -Infinity;
  private up = -Infinity;
  private down = -Infinity;

  constructor(
    private readonly rate: number,
    private readonly params: Readonly<Record<string, Param>>,
  ) {
    this.tail = Math.ceil((FALLS / 1000) * rate);
  }

  reset(): void {
    this.now = this.up = this.down = -Infinity;
  }

  process(inputs: readonly Block[], out: Block, at: number, count: number): void {
    const { params, rate } = this;
    copyBlock(inputs[0], out, count);
    const attack = params.attack.fill(at, count);
    const sustain = params.sustain.fill(at, count);
    const level = params.output.fill(at, count);
    const rises = 1 - pole(params.length.value, rate);
    const drop = (DROP * 1000) / rate;
    const keeps = 1 - pole(FALLS, rate);
    let { now, up, down } = this;
    const [left, right] = [inputs[0][0], inputs[0][1] ?? inputs[0][0]];
    for (let i = 0; i < count; i++) {
      const a = Math.abs(left[i]);
      const b = Math.abs(right[i]);
      const top = levelOf(a > b ? a : b);
      now = Math.max(top, now - drop);
      up = now > up ? (up === -Infinity ? now - MOST : up + rises * (now - up)) : now;
      down = now < down ? down + keeps * (now - down) : now;
      const rise = Math.min(MOST, now - up);
      const fall = Math.min(MOST, down - now);
      const gain = (attack[i] / 100) * rise + (sustain[i] / 100) * fall + level[i];
      if (gain === 0) continue;
      const factor = fromDb(gain);
      for (let c = 0; c < out.length; c++) out[c][i] *= factor;
    }
    this.now = now;
    this.up = up;
    this.down = down;
  }
}

/** Turns attacks and what rings on up and down apart. */
export const transients: Effect = {
  kind: 'transients',
  name: 'Transients',
  about: 'Makes attacks harder or softer, and what rings on longer or shorter, however loud it is.',
  source:
    'The level in decibels against what follows it slowly, up for attacks and down for what rings on; the difference is the gain.',
  params: [
    even('attack', 'Attack', '%', [-100, 100, 40], 'Attacks get harder above 0 and softer below.'),
    even('sustain', 'Sustain', '%', [-100, 100, 0], 'What rings on gets longer above 0 and shorter below.'),
    octaves('length', 'Length', 'ms', [3, 200, 25], 'How long an attack is.'),
    even('output', 'Output', 'dB', [-24, 12, 0], 'How loud it comes out.'),
  ],
  presets: [
    { name: 'Harder hits', values: { attack: 60, output: -2 } },
    { name: 'Dry', values: { attack: 0, sustain: -70 } },
    { name: 'Long ring', values: { attack: -20, sustain: 60 } },
  ],
  make: (rate, params) => new Transients(rate, params),
};
