/** How the handle of a value runs from its least to its most. */
export type Curve = 'even' | 'octaves';

/** A value that is moved: of a line (its gain or place), or of an effect. */
export interface Move {
  of: 'line' | 'effect';
  /** The line, or the effect. */
  id: number;
  key: string;
  /** Where the value is when the mover is at its least, and at its most; the first may be the larger one. */
  from: number;
  to: number;
  bend: Bend;
}

/** How a value follows: evenly, or at first less or more than that. */
export type Bend = 'straight' | 'late' | 'early';
export const bends: readonly Bend[] = ['straight', 'late', 'early'];

const bent = (share: number, bend: Bend): number =>
  bend === 'late' ? share * share : bend === 'early' ? 1 - (1 - share) ** 2 : share;

/**
 * Where a value is that is moved.
 * @param share of the mover, 0 to 1; @param curve of the value: what runs in octaves is moved in octaves
 */
export function movedTo({ from, to, bend }: Pick<Move, 'from' | 'to' | 'bend'>, curve: Curve, share: number): number {
  const way = bent(share, bend);
  return curve === 'octaves' && from > 0 && to > 0 ? from * (to / from) ** way : from + (to - from) * way;
}

/** One mover of a value: where it is in the current block, and what it makes of that. */
export interface Moving extends Pick<Move, 'from' | 'to' | 'bend'> {
  curve: Curve;
  line: Float64Array;
}
