import { Dynamics, pole } from './dynamics';
import type { Effect } from './effect';
import { even, octaves } from './spec';

/** So much softer than the threshold it has to get before the gate shuts, so that it does not flutter. dB */
const BETWEEN = 3;

class Gate extends Dynamics {
  private gain = 0;
  private open = false;
  private left = 0;
  private threshold!: Float64Array;
  private range = 0;
  private rises = 0;
  private falls = 0;
  private hold = 0;

  override reset(): void {
    super.reset();
    this.open = false;
    this.left = 0;
    this.gain = -this.params.range.value;
  }

  protected begin(at: number, count: number): void {
    const { threshold, range, attack, hold, release } = this.params;
    this.threshold = threshold.fill(at, count);
    this.range = -range.value;
    this.hold = Math.round((hold.value * this.rate) / 1000);
    this.rises = pole(attack.value, this.rate);
    this.falls = pole(release.value, this.rate);
  }

  protected gainAt(level: number, i: number): number {
    const threshold = this.threshold[i];
    if (level >= threshold) {
      this.open = true;
      this.left = this.hold;
    } else if (this.open && level < threshold - BETWEEN && --this.left < 0) this.open = false;
    const to = this.open ? 0 : this.range;
    const keep = to > this.gain ? this.rises : this.falls;
    this.gain = to + keep * (this.gain - to);
    if (Math.abs(this.gain - to) < 1e-4) this.gain = to;
    return this.gain;
  }
}

/** Shuts between what is to be heard. */
export const gate: Effect = {
  kind: 'gate',
  wide: 'all',
  name: 'Gate',
  about:
    'Turns down what is softer than a threshold, such as the noise between steps, by its own level or by that of another line.',
  source: 'A level detector with hysteresis, hold and one-pole ramps in decibels.',
  listens: true,
  params: [
    even('threshold', 'Threshold', 'dB', [-80, 0, -45], 'Below this it shuts.'),
    even('range', 'Range', 'dB', [0, 80, 30], 'By how much it turns down when it is shut.'),
    octaves('attack', 'Attack', 'ms', [0.1, 100, 1], 'How long it takes to open.'),
    even('hold', 'Hold', 'ms', [0, 1000, 40], 'How long it stays open at least.'),
    octaves('release', 'Release', 'ms', [5, 2000, 120], 'How long it takes to shut.'),
  ],
  presets: [
    { name: 'Between steps', values: { threshold: -40, range: 18, hold: 60, release: 160 } },
    { name: 'Shut', values: { threshold: -36, range: 80, hold: 20, release: 60 } },
  ],
  settles: ({ threshold, range }, level) => (level < threshold ? level - range : level),
  make: (rate, params) => new Gate(rate, params),
};
