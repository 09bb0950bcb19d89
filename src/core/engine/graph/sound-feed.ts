import type { SoundNode } from '@core/effects';
import { interpolate, spanRead, type Span } from '../interpolate';
import type { Material } from '../material';
import type { MadeOf } from './plan';

/** Hands an effect the sound that it is made of, unit by unit, at the rate of the graph. */
export class SoundFeed {
  private sound: MadeOf | undefined;
  /** What it has begun to hand over, and how many units of it are handed over. */
  private begun: Material | undefined;
  private given = 0;
  private readonly span: Span = { base: 0, span: 0 };
  private planes: Float32Array[] = [];
  /** The first two of them: those are what it is made of. */
  private pair: Float32Array[] = [];

  /** @param rate Hz of the graph */
  constructor(
    private readonly node: SoundNode,
    private readonly rate: number,
  ) {}

  /** Which sound it shall be. */
  take(sound: MadeOf | undefined): void {
    if (sound?.material === this.sound?.material) return;
    this.sound = sound;
    this.begun = undefined;
    this.node.begin(0);
  }

  /**
   * Hands over the next unit, if its audio is there.
   * @returns whether one was
   */
  step(materials: ReadonlyMap<number, Material>): boolean {
    const { node, sound, rate, span } = this;
    const material = sound && (this.begun && node.missing === 0 ? undefined : materials.get(sound.material));
    if (!material) return false;
    const step = material.rate / rate;
    // One that was let go of and has come again is another, but the same sound.
    if (!this.begun) {
      node.begin(Math.ceil(material.frames / step));
      this.given = 0;
      this.planes = Array.from({ length: Math.max(2, material.channels) }, () => new Float32Array(node.unit));
      this.pair = this.planes.slice(0, 2);
    }
    this.begun = material;
    if (node.missing === 0) return false;
    const from = this.given * node.unit * step;
    spanRead(from, step, node.unit, span);
    if (!material.has(span.base, span.base + span.span)) return false;
    const { planes } = this;
    interpolate(material, from, step, planes, node.unit);
    if (material.channels === 1) planes[1].set(planes[0]);
    node.take(this.pair);
    this.given++;
    return true;
  }
}
