import { fullShape } from '@core/audio';
import { spanOf, type Cue } from '@core/scene';

/** Seconds in which a cue that is cut in mid-sound rises and falls, so that it does not click. */
const SEAM = 0.002;

/** Frames of the sound for each sample of the timeline. */
const stepOf = (cue: Cue, rate: number): number => {
  const { speed, length } = fullShape(cue.shape);
  return ((cue.rate / rate) * speed) / length;
};

/**
 * Moves an edge of a cue: what is heard of its sound changes, and not when.
 * @param to sample of the timeline on which the edge shall lie; held where the sound begins, ends, or the other edge is
 * @param frames how many the sound has
 */
export function trimmed(cue: Cue, edge: 'start' | 'end', to: number, frames: number, rate: number): Cue {
  const span = spanOf(cue, rate);
  const { direction } = fullShape(cue.shape);
  const by = Math.round((to - span[edge]) * stepOf(cue, rate));
  // Backward, what is heard first is what lies last in the sound.
  const back = direction === 'backward';
  // Both ways, the end is where it turns: it is passed twice.
  const own = direction === 'both ways' && edge === 'end' ? Math.round(by / 2) : by;
  const first = (edge === 'start') !== back;
  const start = first ? Math.max(0, Math.min(cue.end - 1, cue.start + (back ? -own : own))) : cue.start;
  const end = first ? cue.end : Math.max(cue.start + 1, Math.min(frames, cue.end + (back ? -own : own)));
  const side = edge === 'start' ? 'fadeIn' : 'fadeOut';
  const inside = first ? start > 0 : end < frames;
  return { ...cue, start, end, [side]: Math.max(cue[side], inside ? SEAM : 0) };
}

/** Seconds that a cue lasts. */
const lasts = (cue: Cue, rate: number): number => {
  const { start, end } = spanOf(cue, rate);
  return (end - start) / rate;
};

/** A cue whose fade-in ends, or whose fade-out begins, at a sample; the two never overlap. */
export function faded(cue: Cue, side: 'fadeIn' | 'fadeOut', at: number, rate: number): Cue {
  const { start, end } = spanOf(cue, rate);
  const wanted = (side === 'fadeIn' ? at - start : end - at) / rate;
  const other = side === 'fadeIn' ? cue.fadeOut : cue.fadeIn;
  return { ...cue, [side]: Math.max(0, Math.min(wanted, lasts(cue, rate) - other)) };
}

/**
 * Cuts a cue in two at a sample; together they are heard as the one was, but for the seam of 2 ms.
 * @param id of the second part
 * @returns undefined where the cue does not sound there
 */
export function split(cue: Cue, at: number, id: number, frames: number, rate: number): [Cue, Cue] | undefined {
  const { start, end } = spanOf(cue, rate);
  if (at <= start || at >= end || fullShape(cue.shape).direction === 'both ways') return undefined;
  const first = { ...trimmed({ ...cue, fadeOut: 0 }, 'end', at, frames, rate), fadeOut: SEAM };
  const second = { ...trimmed({ ...cue, id, fadeIn: 0 }, 'start', at, frames, rate), fadeIn: SEAM };
  // Each keeps as much of its own fade as it has room for.
  const held = (part: Cue, side: 'fadeIn' | 'fadeOut') => ({
    ...part,
    [side]: Math.min(part[side], Math.max(0, lasts(part, rate) - SEAM)),
  });
  return [held(first, 'fadeIn'), held(second, 'fadeOut')];
}

/** Two cues of one track, of which the second begins before the first ends, so that the one gives way to the other. */
export function crossFaded(first: Cue, second: Cue, rate: number): [Cue, Cue] | undefined {
  const [a, b] = [spanOf(first, rate), spanOf(second, rate)];
  const overlap = (Math.min(a.end, b.end) - b.start) / rate;
  if (overlap <= 0 || b.start <= a.start || b.end <= a.end) return undefined;
  const shape = (cue: Cue) => ({ ...fullShape(cue.shape), fade: 'equal power' as const });
  return [
    { ...first, fadeOut: overlap, fadeIn: Math.min(first.fadeIn, lasts(first, rate) - overlap), shape: shape(first) },
    {
      ...second,
      fadeIn: overlap,
      fadeOut: Math.min(second.fadeOut, lasts(second, rate) - overlap),
      shape: shape(second),
    },
  ];
}

/** All places at which cues of one track give way to each other. @returns the cues that change for that */
export function allCrossFaded(cues: readonly Cue[], rate: number): Cue[] {
  const changed = new Map<number, Cue>();
  for (const trackId of new Set(cues.map((c) => c.trackId))) {
    const own = cues
      .filter((c) => c.trackId === trackId)
      .sort((a, b) => spanOf(a, rate).start - spanOf(b, rate).start || a.id - b.id);
    for (let i = 1; i < own.length; i++) {
      const made = crossFaded(changed.get(own[i - 1].id) ?? own[i - 1], changed.get(own[i].id) ?? own[i], rate);
      for (const cue of made ?? []) changed.set(cue.id, cue);
    }
  }
  return [...changed.values()];
}
