import { movedTo, type Moving } from './moved';
import { BLOCK } from './node';

/** Seconds in which a value that was set by hand gets there, so that it never clicks. */
export const GLIDE = 0.005;

/** A value at a sample of the timeline; between two of them it runs along a straight line. */
export interface Breakpoint {
  at: number;
  value: number;
}

/** A value that is read sample by sample: set by hand, or drawn along the timeline. */
export class Param {
  /** The values of the block that was read last, where it moves. */
  readonly line = new Float64Array(BLOCK);
  private from: number;
  private gone: number;
  private readonly span: number;
  private points: readonly Breakpoint[] = [];
  /** Where in the points the last block lay. */
  private near = 0;

  /** @param rate Hz */
  constructor(
    private to: number,
    rate: number,
  ) {
    this.span = Math.max(1, Math.round(GLIDE * rate));
    this.from = to;
    this.held = to;
    this.gone = this.span;
  }

  /** Where it is, or is going; of one that is drawn or moved, where that has it at the sample that was held last. */
  get value(): number {
    return this.points.length + this.movings.length > 0 ? this.held : this.to;
  }
  private held: number;

  /** Has `value` be that of a sample, for those who look at it once a block. */
  hold(at: number): void {
    if (this.points.length + this.movings.length === 0) return;
    const own = this.points.length > 0 ? this.drawn(at) : this.now;
    this.held = this.bounded(own, 0);
  }

  /** Sets it by hand. @param glide whether it takes its time, as it must while it is heard */
  set(value: number, glide: boolean): void {
    if (value === this.to) return;
    this.from = this.now;
    this.to = value;
    this.gone = glide ? 0 : this.span;
  }

  /** Has it follow breakpoints, sorted by their samples; none of them lets it stay where it was set. */
  follow(points: readonly Breakpoint[]): void {
    this.points = points;
    this.near = 0;
  }

  /** Has it be moved: by one, it is where that has it; of several, each moves it as far from where it was set. */
  moveBy(movings: readonly Moving[], least = -Infinity, most = Infinity): void {
    this.movings = movings;
    this.least = least;
    this.most = most;
  }
  private movings: readonly Moving[] = [];
  private least = -Infinity;
  private most = Infinity;

  /** What movers make of a value, at a sample of the block. */
  private bounded(own: number, i: number): number {
    const { movings, least, most } = this;
    let value = own;
    for (let k = 0; k < movings.length; k++) {
      const m = movings[k];
      value += movedTo(m, m.curve, m.line[i]) - own;
    }
    return value < least ? least : value > most ? most : value;
  }

  /** It is where it was going. */
  settle(): void {
    this.gone = this.span;
  }

  private get now(): number {
    return this.gone >= this.span ? this.to : this.from + ((this.to - this.from) * this.gone) / this.span;
  }

  /**
   * Reads the next samples.
   * @returns whether it moves: then they are in `line`; else all of them are `value`
   */
  read(at: number, count: number): boolean {
    if (this.movings.length === 0) return this.drawnOrSet(at, count);
    if (!this.drawnOrSet(at, count)) for (let i = 0; i < count; i++) this.line[i] = this.to;
    for (let i = 0; i < count; i++) this.line[i] = this.bounded(this.line[i], i);
    return true;
  }

  private drawnOrSet(at: number, count: number): boolean {
    const { line, points } = this;
    if (points.length > 0) {
      for (let i = 0; i < count; i++) line[i] = this.drawn(at + i);
      return true;
    }
    if (this.gone >= this.span) return false;
    for (let i = 0; i < count; i++) {
      line[i] = this.now;
      this.gone++;
    }
    return true;
  }

  /** The next samples, whether it moves or not; in `line`, which they are. */
  fill(at: number, count: number): Float64Array {
    const { line } = this;
    if (!this.read(at, count)) for (let i = 0; i < count; i++) line[i] = this.to;
    return line;
  }

  private drawn(at: number): number {
    const { points } = this;
    if (points[this.near].at > at) this.near = 0;
    while (this.near + 1 < points.length && points[this.near + 1].at <= at) this.near++;
    const low = points[this.near];
    const high = points[this.near + 1];
    if (at <= low.at || high === undefined) return low.value;
    return low.value + ((high.value - low.value) * (at - low.at)) / (high.at - low.at);
  }
}
