import { fromDb } from '@core/audio';
import { Dynamics, pole } from './dynamics';
import type { Effect } from './effect';
import type { Block } from './node';
import { choice, even, octaves } from './spec';

/**
 * By how much a compressor turns a level down once it has settled.
 * @param level, threshold and knee in dB; the knee is as wide as it says, half of it on either side
 * @returns dB, at most 0
 */
export function staticGain(level: number, threshold: number, ratio: number, knee: number): number {
  const over = level - threshold;
  const slope = 1 / ratio - 1;
  if (2 * over <= -knee) return 0;
  if (2 * over < knee) return (slope * (over + knee / 2) ** 2) / (2 * knee);
  return slope * over;
}

class Compressor extends Dynamics {
  private held = 0;
  private smooth = 0;
  private threshold!: Float64Array;
  private ratio!: Float64Array;
  private knee = 0;
  private rises = 0;
  private falls = 0;

  override reset(): void {
    super.reset();
    this.held = 0;
    this.smooth = 0;
  }

  protected begin(at: number, count: number): void {
    const { threshold, ratio, knee, attack, release } = this.params;
    this.threshold = threshold.fill(at, count);
    this.ratio = ratio.fill(at, count);
    this.knee = knee.value;
    this.rises = pole(attack.value, this.rate);
    this.falls = pole(release.value, this.rate);
  }

  /** The smooth, decoupled peak detector of the paper, in the log domain. */
  protected gainAt(level: number, i: number): number {
    const wanted = -staticGain(level, this.threshold[i], this.ratio[i], this.knee);
    this.held = Math.max(wanted, this.falls * this.held + (1 - this.falls) * wanted);
    this.smooth = this.rises * this.smooth + (1 - this.rises) * this.held;
    if (this.smooth < 1e-9) this.smooth = 0;
    return -this.smooth;
  }

  override process(inputs: readonly Block[], out: Block, at: number, count: number): void {
    super.process(inputs, out, at, count);
    const gain = this.params.gain.fill(at, count);
    for (let i = 0; i < count; i++) {
      if (gain[i] === 0) continue;
      const factor = fromDb(gain[i]);
      for (let c = 0; c < out.length; c++) out[c][i] *= factor;
    }
  }
}

/** Brings loud and soft nearer to each other. */
export const compressor: Effect = {
  kind: 'compressor',
  wide: 'all',
  name: 'Compressor',
  about: 'Turns down what is louder than a threshold, by its own level or by that of another line.',
  source:
    'D. Giannoulis, M. Massberg, J. D. Reiss, “Digital Dynamic Range Compressor Design: A Tutorial and Analysis”, J. Audio Eng. Soc. 60 (2012).',
  listens: true,
  params: [
    even('threshold', 'Threshold', 'dB', [-60, 0, -18], 'Above this it turns down.'),
    octaves('ratio', 'Ratio', ':1', [1, 20, 3], 'So many decibels more come in for each one more that comes out.'),
    even('knee', 'Knee', 'dB', [0, 24, 6], 'How gradually it sets in.'),
    octaves('attack', 'Attack', 'ms', [0.1, 200, 8], 'How long it takes to turn down.'),
    octaves('release', 'Release', 'ms', [5, 2000, 120], 'How long it takes to let go.'),
    even('gain', 'Make-up', 'dB', [0, 24, 0], 'What is given back to all of it.'),
    choice('detector', 'Detector', ['peak', 'mean'], 'peak', 'Whether peaks count, or the mean of ten milliseconds.'),
  ],
  presets: [
    { name: 'Steps even', values: { threshold: -24, ratio: 3, attack: 5, release: 90, gain: 3 } },
    {
      name: 'Bed that makes way',
      values: { threshold: -34, ratio: 4, attack: 20, release: 450, knee: 12, detector: 1 },
    },
    { name: 'Hits forward', values: { threshold: -20, ratio: 4, attack: 30, release: 150, gain: 4 } },
  ],
  settles: ({ threshold, ratio, knee, gain }, level) => level + staticGain(level, threshold, ratio, knee) + gain,
  make: (rate, params) => new Compressor(rate, params),
};
