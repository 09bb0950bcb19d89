import type { Effect } from './effect';
import { BLOCK, type Block, type Node } from './node';
import type { Param } from './param';
import { even, mix, octaves } from './spec';

/** Voices at most, and milliseconds from which and by which they are late at most. */
const [VOICES, LATEST, DEEPEST] = [6, 50, 12];

class Chorus implements Node {
  readonly latency = 0;
  readonly tail: number;
  private readonly lines: Block;
  private readonly mask: number;
  private head = 0;
  private turns: number | undefined;
  private readonly left = new Float64Array(VOICES);
  private readonly right = new Float64Array(VOICES);

  constructor(
    private readonly rate: number,
    private readonly params: Readonly<Record<string, Param>>,
  ) {
    this.tail = Math.ceil(((LATEST + DEEPEST) / 1000) * rate) + 4;
    const size = 2 ** Math.ceil(Math.log2(this.tail + BLOCK));
    this.mask = size - 1;
    this.lines = [new Float32Array(size), new Float32Array(size)];
  }

  reset(): void {
    for (const line of this.lines) line.fill(0);
    this.turns = undefined;
  }

  /** A sample between those of a line, so far back: a third-order curve through four of them (Lagrange). */
  private between(line: Float32Array, back: number): number {
    const whole = Math.floor(back);
    const t = back - whole;
    const at = this.head - whole;
    const a = line[(at + 1) & this.mask];
    const b = line[at & this.mask];
    if (t === 0) return b;
    const c = line[(at - 1) & this.mask];
    const d = line[(at - 2) & this.mask];
    return (
      (-t * (t - 1) * (t - 2) * a) / 6 +
      ((t + 1) * (t - 1) * (t - 2) * b) / 2 -
      ((t + 1) * t * (t - 2) * c) / 2 +
      ((t + 1) * t * (t - 1) * d) / 6
    );
  }

  process(inputs: readonly Block[], out: Block, at: number, count: number): void {
    const { params, rate, lines, mask, left, right } = this;
    const speed = params.speed.fill(at, count);
    const depth = params.depth.fill(at, count);
    const late = params.late.fill(at, count);
    const wet = params.mix.fill(at, count);
    const voices = Math.round(params.voices.value);
    const spread = params.spread.value / 100;
    for (let v = 0; v < voices; v++) {
      // From side to side in their order, as loud together as one.
      const place = voices === 1 ? 0 : (spread * (2 * v - (voices - 1))) / (voices - 1);
      left[v] = Math.min(1, 1 - place) / Math.sqrt(voices);
      right[v] = Math.min(1, 1 + place) / Math.sqrt(voices);
    }
    let turns = this.turns ?? ((speed[0] * at) / rate) % 1;
    for (let i = 0; i < count; i++) {
      const x = inputs[0][0][i];
      const y = inputs[0][1][i];
      lines[0][this.head & mask] = x;
      lines[1][this.head & mask] = y;
      let l = 0;
      let r = 0;
      for (let v = 0; v < voices; v++) {
        const swing = Math.sin(2 * Math.PI * (turns + v / voices));
        // One sample at the least: the curve between samples looks at the one before.
        const back = Math.max(1, ((late[i] + depth[i] * swing) * rate) / 1000);
        l += this.between(lines[0], back) * left[v];
        r += this.between(lines[1], back) * right[v];
      }
      const share = wet[i] / 100;
      out[0][i] = x * (1 - share) + l * share;
      out[1][i] = y * (1 - share) + r * share;
      this.head = (this.head + 1) & mask;
      turns += speed[i] / rate;
    }
    this.turns = turns % 1;
  }
}

/** Makes several of one. */
export const chorus: Effect = {
  kind: 'chorus',
  name: 'Chorus',
  about: 'Makes several of one, each a little late and out of tune, now sharp, now flat.',
  source:
    'Delay lines whose length swings as a sine, read by third-order Lagrange interpolation (J. Dattorro, “Effect design, part 2”, 1997).',
  params: [
    even('voices', 'Voices', '', [1, VOICES, 3], 'How many there are beside what came in.'),
    octaves('speed', 'Speed', 'Hz', [0.05, 10, 0.6], 'How often they swing.'),
    even('depth', 'Depth', 'ms', [0, DEEPEST, 2.5], 'How far they swing.'),
    even('late', 'Late by', 'ms', [0, LATEST, 14], 'Where they swing about; close to nothing it becomes a flanger.'),
    even('spread', 'Spread', '%', [0, 100, 80], 'How far they stand to the sides.'),
    mix(50),
  ],
  presets: [
    { name: 'A crowd', values: { voices: 6, speed: 0.35, depth: 5, late: 22, spread: 100, mix: 60 } },
    { name: 'Flanger', values: { voices: 1, speed: 0.12, depth: 2.4, late: 2.6, spread: 0 } },
    { name: 'Warped', values: { voices: 1, speed: 1.1, depth: 6, late: 12, spread: 0, mix: 100 } },
  ],
  make: (rate, params) => new Chorus(rate, params),
};
