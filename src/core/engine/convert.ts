import { interpolate, kernelFor, type Frames } from './interpolate';

/** Samples that are made at once. */
const PART = 16384;

/**
 * Turns samples of one rate into those of another, part by part, so that each new one stands at its own instant: however they come, they are
 * those that would come of all at once (J. O. Smith, "Digital Audio Resampling"). Beyond both ends lies silence.
 */
export class RateConverter implements Frames {
  /** What was taken and is still read, and the frame with which it begins. */
  private held: Float32Array[];
  private from = 0;
  private taken = 0;
  private made = 0;
  private readonly reach: number;

  /**
   * @param rate Hz of what comes in; @param to Hz of what comes out
   * @param first where the first new sample stands, in frames of what comes in; from 0 on
   */
  constructor(
    readonly channels: number,
    private readonly rate: number,
    private readonly to: number,
    private readonly first = 0,
  ) {
    this.held = Array.from({ length: channels }, () => new Float32Array(0));
    this.reach = kernelFor(rate / to).reach + 2;
  }

  /** @returns how many new samples stand within so many frames, from the first one on */
  static count(frames: number, rate: number, to: number, first = 0): number {
    return Math.max(0, Math.ceil(((frames - first) * to) / rate - 1e-6));
  }

  /** Takes the next frames. @returns the new samples that are certain by now */
  push(planes: readonly Float32Array[]): Float32Array[] {
    this.held = this.held.map((old, c) => {
      const both = new Float32Array(old.length + planes[c].length);
      both.set(old);
      both.set(planes[c], old.length);
      return both;
    });
    this.taken += planes[0].length;
    return this.make(this.taken - this.reach);
  }

  /** @returns the samples that are left, once all was taken */
  finish(): Float32Array[] {
    return this.make(this.taken);
  }

  /** See {@link Frames}. */
  copy(channel: number, from: number, count: number, into: Float32Array, at: number): void {
    const plane = this.held[channel];
    const off = from - this.from;
    for (let i = 0; i < count; i++) into[at + i] = plane[off + i] ?? 0;
  }

  /** The new samples that stand before a frame. */
  private make(before: number): Float32Array[] {
    const { rate, to } = this;
    const count = Math.max(0, RateConverter.count(before, rate, to, this.first) - this.made);
    const outs = this.held.map(() => new Float32Array(count));
    for (let done = 0; done < count; done += PART) {
      const part = Math.min(PART, count - done);
      const position = this.first + ((this.made + done) * rate) / to;
      const into = outs.map((out) => out.subarray(done, done + part));
      interpolate(this, position, rate / to, into, part);
    }
    this.made += count;
    // What lies further back is read no more.
    const first = Math.min(this.taken, Math.floor(this.first + (this.made * rate) / to) - this.reach);
    if (first > this.from) {
      this.held = this.held.map((plane) => plane.slice(first - this.from));
      this.from = first;
    }
    return outs;
  }
}
