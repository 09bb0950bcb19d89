import type { Block } from '@core/effects';

/** Holds a signal back by a number of samples, so that lines of different latency meet. */
export class Delay {
  private readonly planes: Float32Array[];
  private at = 0;

  /** @param length samples */
  constructor(
    readonly length: number,
    channels: number,
  ) {
    this.planes = Array.from({ length: channels }, () => new Float32Array(length));
  }

  reset(): void {
    for (const plane of this.planes) plane.fill(0);
    this.at = 0;
  }

  /** Holds back a block, in place. */
  process(block: Block, count: number): void {
    const { length, planes } = this;
    let { at } = this;
    for (let c = 0; c < planes.length; c++) {
      const [ring, plane] = [planes[c], block[c]];
      ({ at } = this);
      for (let i = 0; i < count; i++) {
        const held = ring[at];
        ring[at] = plane[i];
        plane[i] = held;
        if (++at === length) at = 0;
      }
    }
    this.at = at;
  }
}
