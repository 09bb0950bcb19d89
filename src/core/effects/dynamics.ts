import { fromDb } from '@core/audio';
import { copyBlock, type Block, type Node } from './node';
import type { Param } from './param';

/** Below this nothing is told apart. dB */
const FLOOR = -120;
/** Natural logarithm to decibels. */
const DB = 20 / Math.LN10;

/** The level of a magnitude. dB */
export const levelOf = (magnitude: number): number => (magnitude > 1e-6 ? Math.log(magnitude) * DB : FLOOR);

/** How far a one-pole smoother goes with each sample, to get 1 - 1/e of its way in so many milliseconds. */
export const pole = (ms: number, rate: number): number => (ms <= 0 ? 0 : Math.exp(-1000 / (ms * rate)));

/** What turns the level of what it hears into how much louder or softer all channels get; the base of compressor and gate. */
export abstract class Dynamics implements Node {
  readonly latency = 0;
  readonly tail = 0;
  /** The smallest gain of the last block. dB */
  reduction = 0;
  private readonly power = new Float64Array(1);

  constructor(
    protected readonly rate: number,
    protected readonly params: Readonly<Record<string, Param>>,
  ) {}

  reset(): void {
    this.reduction = 0;
    this.power[0] = 0;
  }

  /** Once for each block, before its samples: takes over what values stand at. */
  protected abstract begin(at: number, count: number): void;
  /** The gain at a level. @param level dB; @param i sample of the block; @returns dB */
  protected abstract gainAt(level: number, i: number): number;

  process(inputs: readonly Block[], out: Block, at: number, count: number): void {
    const heard = inputs[1] ?? inputs[0];
    copyBlock(inputs[0], out, count);
    this.begin(at, count);
    const detector = this.params.detector as Param | undefined;
    const isMean = detector !== undefined && Math.round(detector.value) === 1;
    // A mean over ten milliseconds, where it is not the peak that counts.
    const keep = pole(10, this.rate);
    let [power] = this.power;
    let least = 0;
    const [left, right] = [heard[0], heard[1] ?? heard[0]];
    for (let i = 0; i < count; i++) {
      const a = Math.abs(left[i]);
      const b = Math.abs(right[i]);
      let top = a > b ? a : b;
      if (isMean) {
        power = keep * power + (1 - keep) * top * top;
        top = Math.sqrt(power);
      }
      const gain = this.gainAt(levelOf(top), i);
      if (gain < least) least = gain;
      if (gain === 0) continue;
      const factor = fromDb(gain);
      for (let c = 0; c < out.length; c++) out[c][i] *= factor;
    }
    this.power[0] = power < 1e-20 ? 0 : power;
    this.reduction = least;
  }
}
