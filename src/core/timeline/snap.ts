import { frameToSample, sampleToFrame, spanOf, type Cue, type FrameRate } from '@core/scene';

/** What a dragged cue is drawn to: sorted samples. */
export type Marks = Float64Array;

/**
 * Samples that matter to whoever places sounds: anchors and edges of the other cues, and what else is given.
 * @param moving ids of cues that are dragged: they are not drawn to themselves
 */
export function marksOf(
  cues: readonly Cue[],
  moving: ReadonlySet<number>,
  others: readonly number[],
  rate: number,
): Marks {
  const found = [...others];
  for (const cue of cues) {
    if (moving.has(cue.id)) continue;
    const { start, end } = spanOf(cue, rate);
    found.push(cue.at, Math.round(start), Math.round(end));
  }
  return Float64Array.from(new Set(found)).sort();
}

/** The mark nearest to a sample; undefined where none is within reach. @param reach samples */
export function nearestMark(marks: Marks, sample: number, reach: number): number | undefined {
  let low = 0;
  let high = marks.length;
  while (low < high) {
    const mid = (low + high) >> 1;
    if (marks[mid] < sample) low = mid + 1;
    else high = mid;
  }
  let best: number | undefined;
  for (const mark of [marks[low - 1], marks[low]])
    if (mark !== undefined && Math.abs(mark - sample) <= reach)
      if (best === undefined || Math.abs(mark - sample) < Math.abs(best - sample)) best = mark;
  return best;
}

/** How something is drawn to marks and frames. */
export interface Snapping {
  marks: Marks;
  /** Samples within which a mark draws. */
  reach: number;
  /** What is near no mark lands on whole frames of this rate, if any. */
  frames?: FrameRate;
  rate: number;
}

/** Where a sample lands: on a mark within reach, else on the nearest frame. */
export function snapped(sample: number, { marks, reach, frames, rate }: Snapping): number {
  const mark = nearestMark(marks, sample, reach);
  if (mark !== undefined) return mark;
  if (!frames) return Math.round(sample);
  const frame = sampleToFrame(sample, frames, rate);
  const [low, high] = [frameToSample(frame, frames, rate), frameToSample(frame + 1, frames, rate)];
  return sample - low <= high - sample ? low : high;
}
