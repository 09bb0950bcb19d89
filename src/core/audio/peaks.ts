import { eachStretch, widen } from './blocks';

/**
 * A contour: the lowest and highest sample of each of `bins` equal spans, over all channels, as signed bytes.
 * `pairs[2i]` is the lowest, `pairs[2i + 1]` the highest of span i; 127 is full scale.
 */
export interface Peaks {
  /** Frames of the sound. */
  frames: number;
  /** Frames per span; the last span may be shorter. */
  span: number;
  pairs: Int8Array;
}

/** Spans per sound: fine enough for the opened row, coarse enough to keep a hundred thousand of them. */
const FINEST_SPAN = 64;
const MOST_SPANS = 8192;

/** How many frames one span of a contour covers, for a sound of this length. About 100 spans a second, at the least 2048. */
export function spanFor(frames: number, rate: number): number {
  const spans = Math.min(MOST_SPANS, Math.max(2048, Math.ceil((frames / rate) * 100)));
  return Math.max(FINEST_SPAN, Math.ceil(frames / spans));
}

const NONE = Float32Array.of(Infinity, -Infinity);

/** Collects a contour from successive blocks of a sound. */
export class PeakCollector {
  private readonly pairs: Int8Array;
  private at = 0;
  /** Lowest and highest sample of a span that is not full yet. */
  private begun = NONE;

  constructor(
    private readonly frames: number,
    private readonly span: number,
  ) {
    this.pairs = new Int8Array(2 * Math.ceil(frames / span));
  }

  /** Takes the next block: one array per channel, all as long. */
  push(planes: readonly Float32Array[]): void {
    eachStretch(planes[0].length, this.at % this.span, this.span, (from, to, spans, span) => {
      const bin = Math.floor(this.at / this.span);
      const bounds = new Float32Array(2 * spans);
      for (let i = 0; i < bounds.length; i += 2) bounds.set(i === 0 ? this.begun : NONE, i);
      for (const plane of planes) widen(plane.subarray(from, to), span, bounds);
      this.at += to - from;
      const full = this.at % this.span === 0 || this.at >= this.frames;
      this.begun = full ? NONE : bounds;
      if (full) this.keep(bin, bounds);
    });
  }

  private keep(first: number, bounds: Float32Array): void {
    for (let i = 0; i < bounds.length && 2 * first + i + 1 < this.pairs.length; i += 2) {
      this.pairs[2 * first + i] = Math.max(-127, Math.floor(Math.max(-1, bounds[i]) * 127));
      this.pairs[2 * first + i + 1] = Math.min(127, Math.ceil(Math.min(1, bounds[i + 1]) * 127));
    }
  }

  /** The contour of what was pushed. */
  done(): Peaks {
    return { frames: this.frames, span: this.span, pairs: this.pairs };
  }
}

/** The lowest and highest value (-1..1) between two frames of a contour; [0, 0] outside of it. */
export function peakBetween(peaks: Peaks, from: number, to: number): [number, number] {
  const first = Math.max(0, Math.floor(from / peaks.span));
  const last = Math.min(peaks.pairs.length / 2 - 1, Math.floor(Math.max(from, to - 1e-9) / peaks.span));
  if (to <= 0 || last < first) return [0, 0];
  let low = 127;
  let high = -127;
  for (let bin = first; bin <= last; bin++) {
    low = Math.min(low, peaks.pairs[2 * bin]);
    high = Math.max(high, peaks.pairs[2 * bin + 1]);
  }
  return [low / 127, high / 127];
}
