import type { Block } from '@core/effects';

/** Holds a stereo signal back by a number of samples, so that lines of different latency meet. */
export class Delay {
  private readonly planes: Float32Array[];
  private at = 0;

  /** @param length samples */
  constructor(readonly length: number) {
    this.planes = [new Float32Array(length), new Float32Array(length)];
  }

  reset(): void {
    for (const plane of this.planes) plane.fill(0);
    this.at = 0;
  }

  /** Holds back a block, in place. */
  process(block: Block, count: number): void {
    const { length } = this;
    for (let i = 0; i < count; i++) {
      for (let c = 0; c < 2; c++) {
        const plane = this.planes[c];
        const held = plane[this.at];
        plane[this.at] = block[c][i];
        block[c][i] = held;
      }
      this.at = (this.at + 1) % length;
    }
  }
}
