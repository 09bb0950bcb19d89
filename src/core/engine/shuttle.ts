import { BLOCK } from '@core/effects';
import type { Graph } from './graph';
import { interpolate, spanRead, type Frames, type Span } from './interpolate';

/** Fastest that a scene is run through, in either direction. */
export const FASTEST = 8;
/** Samples that are held at once: more than a block reads at the fastest, with what its filter reaches for. */
const HELD = 1 << 13;
/** Samples by which it goes back at once, and those rendered before them so that what rings on has begun. */
const [BACK, SETTLE] = [1024, 512];

/** Reads what a graph renders at any speed, forward or backward, as tape is shuttled: pitch goes with speed. */
export class Shuttle implements Frames {
  readonly channels = 2;
  private readonly planes = [new Float32Array(HELD), new Float32Array(HELD)];
  /** Samples of the scene that are held. */
  private from = 0;
  private to = 0;
  private readonly span: Span = { base: 0, span: 0 };

  constructor(private graph: Graph) {}

  /** Begins anew, with what another graph renders if one is given. */
  reset(graph = this.graph): void {
    this.graph = graph;
    this.from = this.to = 0;
  }

  copy(channel: number, from: number, count: number, into: Float32Array, at: number): void {
    const plane = this.planes[channel];
    for (let i = 0; i < count; i++) into[at + i] = plane[from - this.from + i];
  }

  /** Renders a part of the scene into what is held. @returns clips whose audio was not there */
  private fill(at: number, until: number, late: Set<number>): number {
    const { graph, planes } = this;
    let lacking = 0;
    for (let sample = at; sample < until; sample += BLOCK) {
      const part = Math.min(BLOCK, until - sample);
      lacking += graph.render(sample, part, late);
      for (let c = 0; c < 2; c++) {
        const made = graph.out[c];
        const offset = sample - this.from;
        for (let i = 0; i < part; i++) planes[c][offset + i] = made[i];
      }
    }
    return lacking;
  }

  /** Keeps those that are held from a sample on, which then comes first. */
  private shift(first: number, last: number): void {
    for (const plane of this.planes) {
      if (first >= this.from) plane.copyWithin(0, first - this.from, last - this.from);
      else plane.copyWithin(this.from - first, 0, last - this.from);
    }
    this.from = first;
    this.to = last;
  }

  private forward(base: number, end: number, late: Set<number>): number {
    if (base < this.from || base > this.to) {
      this.graph.reset();
      this.from = this.to = base;
      this.graph.preroll(base, Math.min(this.graph.tail, SETTLE));
    } else if (end - this.from > HELD) this.shift(base, this.to);
    const lacking = end > this.to ? this.fill(this.to, end, late) : 0;
    this.to = Math.max(this.to, end);
    return lacking;
  }

  private backward(base: number, end: number, late: Set<number>): number {
    const known = end <= this.to && end > this.from;
    if (known && base >= this.from) return 0;
    const first = base - BACK;
    const until = known ? this.from : end;
    if (known) this.shift(first, Math.min(this.to, end));
    else {
      this.from = first;
      this.to = end;
    }
    this.graph.reset();
    this.graph.preroll(first, Math.min(this.graph.tail, SETTLE));
    return this.fill(first, until, late);
  }

  /**
   * Fills the beginning of planes.
   * @param position of the first sample; may lie between two
   * @param speed times real time; backward when negative
   * @param late takes the ids of clips whose audio has not arrived
   * @returns how many those are
   */
  render(out: readonly Float32Array[], count: number, position: number, speed: number, late: Set<number>): number {
    const { base, span } = spanRead(position, speed, count, this.span);
    const lacking = speed > 0 ? this.forward(base, base + span, late) : this.backward(base, base + span, late);
    interpolate(this, position, speed, out, count);
    return lacking;
  }
}
