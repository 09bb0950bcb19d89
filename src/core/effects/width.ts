import type { Effect } from './effect';
import { copyBlock, type Block, type Node } from './node';
import type { Param } from './param';
import { even } from './spec';

class Width implements Node {
  readonly latency = 0;
  private kept = 0;

  constructor(
    private readonly rate: number,
    private readonly params: Readonly<Record<string, Param>>,
  ) {}

  get tail(): number {
    const { below } = this.params;
    return below.value <= 0 ? 0 : Math.min(2 * this.rate, Math.ceil((10.4 * this.rate) / (2 * Math.PI * below.value)));
  }

  reset(): void {
    this.kept = 0;
  }

  process(inputs: readonly Block[], out: Block, at: number, count: number): void {
    copyBlock(inputs[0], out, count);
    const width = this.params.width.fill(at, count);
    const below = this.params.below.fill(at, count);
    const [left, right] = out;
    for (let i = 0; i < count; i++) {
      const mid = (left[i] + right[i]) / 2;
      let side = (left[i] - right[i]) / 2;
      if (below[i] > 0) {
        // One pole, trapezoidal: what lies below of the side is taken away.
        const g = Math.tan((Math.PI * Math.min(below[i], this.rate * 0.45)) / this.rate);
        const v = ((side - this.kept) * g) / (1 + g);
        const low = v + this.kept;
        this.kept = low + v;
        side -= low;
      }
      side *= width[i] / 100;
      left[i] = mid + side;
      right[i] = mid - side;
    }
    if (Math.abs(this.kept) < 1e-20) this.kept = 0;
  }
}

/** Makes narrower or wider. */
export const width: Effect = {
  kind: 'width',
  name: 'Width',
  about: 'Makes the difference between left and right smaller or greater.',
  source: 'Middle and side after A. D. Blumlein, British patent 394325 (1931).',
  params: [
    even('width', 'Width', '%', [0, 200, 100], 'At 0 % left and right are the same, at 100 % as they came.'),
    even('below', 'Middle below', 'Hz', [0, 500, 0], 'What lies below this is in the middle; 0 for nothing.'),
  ],
  presets: [
    { name: 'Mono', values: { width: 0 } },
    { name: 'Wide, low end in the middle', values: { width: 150, below: 150 } },
  ],
  make: (rate, params) => new Width(rate, params),
};
