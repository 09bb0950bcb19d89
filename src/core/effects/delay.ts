import type { Effect } from './effect';
import { type Block, type Node } from './node';
import type { Param } from './param';
import { choice, even, mix, octaves } from './spec';

const LONGEST = 2;

class Delay implements Node {
  readonly latency = 0;
  private readonly lines: Float32Array[];
  private readonly low = new Float64Array(2);
  private readonly high = new Float64Array(2);
  private head = 0;

  constructor(
    private readonly rate: number,
    private readonly params: Readonly<Record<string, Param>>,
  ) {
    const length = Math.ceil(LONGEST * rate) + 4;
    this.lines = [new Float32Array(length), new Float32Array(length)];
  }

  /** As many times round as it takes to be gone. */
  get tail(): number {
    const { time, feedback, lowCut } = this.params;
    const rounds = feedback.value <= 0 ? 1 : Math.ceil(Math.log(3.2e-5) / Math.log(feedback.value / 100)) + 1;
    const rings = 10.4 / (2 * Math.PI * lowCut.value);
    return Math.ceil(Math.min(30, (rounds * time.value) / 1000 + rings) * this.rate);
  }

  reset(): void {
    for (const line of this.lines) line.fill(0);
    this.low.fill(0);
    this.high.fill(0);
  }

  process(inputs: readonly Block[], out: Block, at: number, count: number): void {
    const { params, lines, low, high, rate } = this;
    const [time, feedback, wet] = [params.time, params.feedback, params.mix].map((p) => p.fill(at, count));
    const crosses = Math.round(params.sides.value) === 1;
    const length = lines[0].length;
    const kHigh = 1 - Math.exp((-2 * Math.PI * Math.min(params.highCut.value, rate * 0.45)) / rate);
    const kLow = 1 - Math.exp((-2 * Math.PI * params.lowCut.value) / rate);
    const [inLeft, inRight] = inputs[0];
    for (let i = 0; i < count; i++) {
      const back = Math.max(1, Math.min(length - 3, (time[i] * rate) / 1000));
      const whole = Math.floor(back);
      const part = back - whole;
      const a = (this.head - whole + length) % length;
      const b = (a - 1 + length) % length;
      const left = lines[0][a] * (1 - part) + lines[0][b] * part;
      const right = lines[1][a] * (1 - part) + lines[1][b] * part;
      // Each round is a little duller and thinner, as places make it.
      low[0] += kHigh * (left - low[0]);
      low[1] += kHigh * (right - low[1]);
      high[0] += kLow * (low[0] - high[0]);
      high[1] += kLow * (low[1] - high[1]);
      const l = low[0] - high[0];
      const r = low[1] - high[1];
      const again = feedback[i] / 100;
      const [x, y] = [inLeft[i], inRight[i]];
      lines[0][this.head] = crosses ? (x + y) / 2 + r * again : x + l * again;
      lines[1][this.head] = crosses ? l * again : y + r * again;
      this.head = (this.head + 1) % length;
      const share = wet[i] / 100;
      out[0][i] = x * (1 - share) + l * share;
      out[1][i] = y * (1 - share) + r * share;
    }
    for (const state of [low, high]) for (let c = 0; c < 2; c++) if (Math.abs(state[c]) < 1e-20) state[c] = 0;
  }
}

/** Repeats what comes in. */
export const delay: Effect = {
  kind: 'delay',
  name: 'Delay',
  about: 'Repeats what comes in after a while, again and again, softer and duller each time.',
  source: 'A delay line read between its samples, with one-pole filters in its loop.',
  params: [
    octaves('time', 'Time', 'ms', [1, 2000, 250], 'How much later it is heard again.'),
    even('feedback', 'Again', '%', [0, 95, 30], 'How much of each time comes round again.'),
    octaves('lowCut', 'Low cut', 'Hz', [10, 2000, 80], 'Below this each round gets thinner.'),
    octaves('highCut', 'High cut', 'Hz', [200, 20_000, 6000], 'Above this each round gets duller.'),
    choice('sides', 'Sides', ['each its own', 'left and right in turn'], 'each its own', 'Where it is heard again.'),
    mix(25),
  ],
  presets: [
    { name: 'Slap from a wall', values: { time: 110, feedback: 0, highCut: 4500, mix: 30 } },
    { name: 'Across the water', values: { time: 640, feedback: 35, highCut: 2200, lowCut: 200, mix: 25 } },
  ],
  make: (rate, params) => new Delay(rate, params),
};
