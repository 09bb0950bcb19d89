import { fromDb } from '@core/audio';
import { BLOCK, type Block, type Param } from '@core/effects';
import { Delay } from './delay';

/** What is taken out of a line beside what flows on: for a bus, or for an effect that listens. */
export class Tap {
  /** What was taken of the current block. */
  readonly block: Block;
  /** Whether there is anything in it. */
  sounds = false;
  private delay: Delay | undefined;

  /** @param gain how much is taken, dB; all of it when absent */
  constructor(
    channels: number,
    private readonly gain?: Param,
  ) {
    this.block = Array.from({ length: channels }, () => new Float32Array(BLOCK));
  }

  /** Samples that it is held back by. */
  get held(): number {
    return this.delay?.length ?? 0;
  }

  hold(samples: number): void {
    if (samples !== this.held) this.delay = samples > 0 ? new Delay(samples, this.block.length) : undefined;
  }

  reset(): void {
    this.delay?.reset();
    this.quiet();
  }

  /** There is nothing to take. */
  quiet(): void {
    if (!this.sounds) return;
    for (const plane of this.block) plane.fill(0);
    this.sounds = false;
  }

  take(from: Block, at: number, count: number): void {
    const { block, gain } = this;
    const moves = gain?.read(at, count) === true;
    const level = gain ? fromDb(gain.value) : 1;
    for (let c = 0; c < block.length; c++) {
      const to = block[c];
      const plane = from[c];
      for (let i = 0; i < count; i++) to[i] = plane[i] * (moves ? fromDb(gain!.line[i]) : level);
    }
    this.delay?.process(block, count);
    this.sounds = true;
  }
}
