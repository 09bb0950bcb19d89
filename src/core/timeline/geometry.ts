import { spanOf, type Cue } from '@core/scene';

/** What of a timeline is in sight. */
export interface Sight {
  /** Sample at the left border. */
  readonly from: number;
  /** Pixels a sample. */
  readonly scale: number;
  /** Pixels. */
  readonly width: number;
  readonly height: number;
  /** Hz of the timeline. */
  readonly rate: number;
}

/** Where a cue lies in its lane. Pixels from the left border of the lane. */
export interface CueBox {
  cue: Cue;
  left: number;
  right: number;
  anchor: number;
  /** Where its fade-in ends, and its fade-out begins. */
  fadeIn: number;
  fadeOut: number;
  /** Height of the line that its gain is at, from above. */
  gain: number;
}

/** Bounds of a cue's gain, dB. */
export const GAINS = { least: -60, most: 24 } as const;
/** Narrower than this no cue is drawn: it could not be seen, nor met. */
const NARROWEST = 6;
/** The upper part of a lane in which gain lies, as a share of its height; 0 dB at its middle, as far as 24 dB up and down. */
const GAIN_PART = 0.5;

/** Where the line of a gain lies. Pixels from above. */
export const gainY = (gain: number, height: number): number =>
  (GAIN_PART / 2) * height * (1 - Math.max(-24, Math.min(24, gain)) / 24);

/** By how many dB a gain changes when its line is drawn down by so many pixels. */
export const gainBy = (pixels: number, height: number): number => (-pixels * 24) / ((GAIN_PART / 2) * height);

/** The sample at a place of a lane. */
export const sampleAt = (sight: Pick<Sight, 'from' | 'scale'>, x: number): number => sight.from + x / sight.scale;
/** The place of a sample in a lane. */
export const placeOf = (sight: Pick<Sight, 'from' | 'scale'>, sample: number): number =>
  (sample - sight.from) * sight.scale;

/** Widths of a view that are drawn beyond it, on the side to which it is scrolled, or on either while it is zoomed. */
const AHEAD = 0.5;

/**
 * What is drawn for a view that moves: what was drawn before, moved along and stretched, as long as it covers the view; else the view and
 * some more around it, so that most frames draw nothing. After a jump the view itself.
 * @param before what was drawn last
 * @param stretch by how much it may be stretched or squeezed, as a factor; at 1 not at all
 */
export function drawnFor(view: Sight, before: Sight | undefined, stretch = 1): Sight {
  if (!before || before.height !== view.height || before.rate !== view.rate) return view;
  const ratio = view.scale / before.scale;
  const isNear = Math.max(ratio, 1 / ratio) <= stretch * (1 + 1e-9);
  if (!isNear && stretch === 1) return view;
  const span = view.width / view.scale;
  const end = view.from + span;
  const drawn = before.from + before.width / before.scale;
  // A pixel is nothing to be drawn for.
  const pixel = 1 / view.scale;
  if (isNear && before.from <= view.from && drawn >= end - pixel) return before;
  if (end < before.from || view.from > drawn) return view;
  const isZoomed = ratio !== 1;
  const back = isZoomed || view.from < before.from;
  const from = back ? Math.max(0, view.from - AHEAD * span) : view.from;
  return { ...view, from, width: Math.ceil(view.width * (1 + AHEAD * (isZoomed ? 2 : 1))) };
}

/** How what was drawn comes to lie where it belongs in a view: to the right by so many pixels, after it was made so many times as wide. */
export function laidOver(view: Sight, drawn: Sight): { shift: number; stretch: number } {
  const stretch = view.scale / drawn.scale;
  const shift = (drawn.from - view.from) * view.scale;
  // Whole pixels where nothing is stretched, as anything else would blur it.
  return { shift: stretch === 1 ? Math.round(shift) : shift, stretch };
}

/** Where a cue lies. */
export function boxOf(cue: Cue, sight: Sight): CueBox {
  const { start, end } = spanOf(cue, sight.rate);
  const left = placeOf(sight, start);
  const right = Math.max(left + NARROWEST, placeOf(sight, end));
  return {
    cue,
    left,
    right,
    anchor: placeOf(sight, cue.at),
    fadeIn: left + cue.fadeIn * sight.rate * sight.scale,
    fadeOut: right - cue.fadeOut * sight.rate * sight.scale,
    gain: gainY(cue.gain, sight.height),
  };
}

/** Boxes that were asked for before, by the sight that they were asked for in: a hand that drags some cues leaves all others where they are. */
const known = new WeakMap<Sight, WeakMap<Cue, CueBox>>();

/** The boxes of those cues that are in sight, in the order in which they are drawn. */
export function boxesIn(cues: readonly Cue[], sight: Sight): CueBox[] {
  const boxes: CueBox[] = [];
  const own = known.get(sight) ?? new WeakMap<Cue, CueBox>();
  known.set(sight, own);
  for (const cue of cues) {
    const before = own.get(cue);
    if (before) {
      boxes.push(before);
      continue;
    }
    const { start, end } = spanOf(cue, sight.rate);
    // Most of a large scene is out of sight, and nothing more has to be known of it.
    if (placeOf(sight, start) > sight.width || placeOf(sight, end) < -NARROWEST) continue;
    const box = boxOf(cue, sight);
    if (box.right < 0 || box.left > sight.width) continue;
    boxes.push(box);
    own.set(cue, box);
  }
  return boxes;
}

/** What a hand holds of a cue. */
export type Handle = 'body' | 'start' | 'end' | 'fadeIn' | 'fadeOut' | 'gain';

/** Pixels on either side of an edge, corner or line by which it is held. */
const [EDGE, CORNER, LINE] = [5, 7, 4];

/**
 * What lies at a place of a lane: of cues that overlap the selected one, else the uppermost. Corners fade, edges trim, the line of the gain
 * is drawn up and down, all else moves; of a cue that is too narrow for that, all of it moves.
 * @param y pixels from above
 */
export function hit(
  boxes: readonly CueBox[],
  selected: ReadonlySet<number>,
  x: number,
  y: number,
  height: number,
): { cue: Cue; handle: Handle } | undefined {
  const met = boxes.filter((b) => x >= b.left - EDGE && x <= b.right + EDGE);
  const inside = met.filter((b) => x >= b.left && x <= b.right);
  const from = inside.length > 0 ? inside : met;
  const box = from.findLast((b) => selected.has(b.cue.id)) ?? from.at(-1);
  if (!box) return undefined;
  const { cue } = box;
  if (cue.locked) return { cue, handle: 'body' };
  if (box.right - box.left >= 4 * EDGE) {
    if (y <= CORNER * 1.5) {
      if (Math.abs(x - Math.max(box.fadeIn, box.left + CORNER)) <= CORNER) return { cue, handle: 'fadeIn' };
      if (Math.abs(x - Math.min(box.fadeOut, box.right - CORNER)) <= CORNER) return { cue, handle: 'fadeOut' };
    }
    if (Math.abs(x - box.left) <= EDGE) return { cue, handle: 'start' };
    if (Math.abs(x - box.right) <= EDGE) return { cue, handle: 'end' };
    if (selected.has(cue.id) && y < height * GAIN_PART && Math.abs(y - box.gain) <= LINE)
      return { cue, handle: 'gain' };
  } else if (x < box.left || x > box.right) return undefined;
  return { cue, handle: 'body' };
}

/** The cues that a box drawn by hand meets, of the lanes that it covers. Samples. */
export function within(
  cues: readonly Cue[],
  trackIds: ReadonlySet<number>,
  from: number,
  to: number,
  rate: number,
): number[] {
  const [low, high] = from < to ? [from, to] : [to, from];
  return cues.flatMap((cue) => {
    if (!trackIds.has(cue.trackId)) return [];
    const { start, end } = spanOf(cue, rate);
    return end > low && start < high ? [cue.id] : [];
  });
}
