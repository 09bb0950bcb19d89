import { effectOf, type Breakpoint, type ParamSpec } from '@core/effects';
import { MAIN } from '@core/engine';
import { effectName, effectsOf, type LineEffect, type MainLine, type Track } from './lines';

// Values that run along the timeline: drawn on a lane, or recorded from a hand.

type Points = readonly Breakpoint[];

/** The value that a curve moves: of a track or bus, of the main line, or of one of their effects. */
export interface CurveOf {
  table: 'tracks' | 'effects' | 'main';
  id: number;
  key: string;
  /** As it is called on its lane. */
  name: string;
  spec: Pick<ParamSpec, 'least' | 'most' | 'unit'> & { curve: ParamSpec['curve'] | 'level' };
  /** What it is where no curve moves it. */
  still: number;
  points: Points;
}

const none: Points = [];

/** The main line as if it were a track, for whatever goes over all lines. */
export const mainTrack = (sceneId: number, main: MainLine): Track => ({
  ...{ id: MAIN, sceneId, order: 0, name: 'Main', mute: false, solo: false },
  ...main,
});

/** dB: the main line may be turned up further, as all of a soft scene has to come to what is asked for. */
export const LOUDEST = { track: 12, main: 24 } as const;

/** All values of a line that a curve can move. @param track see `mainTrack`; @param lineName see `effectName` */
export function curvesOf(
  track: Track,
  effects: readonly LineEffect[],
  lineName: (id: number) => string | undefined = () => undefined,
): CurveOf[] {
  const { id, points } = track;
  const table = id === MAIN ? 'main' : 'tracks';
  const most = table === 'main' ? LOUDEST.main : LOUDEST.track;
  const own: CurveOf[] = [
    {
      ...{ table, id, key: 'gain', name: 'Gain', still: track.gain, points: points?.gain ?? none },
      spec: { least: -60, most, unit: 'dB', curve: 'level' },
    },
    {
      ...{ table, id, key: 'place', name: 'Place', still: track.place ?? 0, points: points?.place ?? none },
      spec: { least: -1, most: 1, unit: '', curve: 'even' },
    },
  ];
  for (const effect of effectsOf(id, effects))
    for (const spec of effectOf(effect.kind)?.params ?? []) {
      // Choices do not run: they jump.
      if (spec.choices) continue;
      own.push({
        ...{ table: 'effects', id: effect.id, key: spec.key, spec },
        name: `${effectName(effect, lineName)}: ${spec.label}`,
        still: effect.values[spec.key] ?? spec.initial,
        points: effect.points?.[spec.key] ?? none,
      });
    }
  return own;
}

/** How strongly the upper part of a level's lane is spread: most of what one does lies within some dB of full. */
const SPREAD = 2.2;

/** How high a value stands on its lane, 0 to 1. */
export function heightOf({ least, most, curve }: CurveOf['spec'], value: number): number {
  const held = Math.min(most, Math.max(least, value));
  if (curve === 'octaves') return Math.log(held / least) / Math.log(most / least);
  const even = (held - least) / (most - least);
  return curve === 'level' ? even ** SPREAD : even;
}

/** The value at a height of a lane; see `heightOf`. */
export function valueAtHeight({ least, most, curve }: CurveOf['spec'], height: number): number {
  const held = Math.min(1, Math.max(0, height));
  if (curve === 'octaves') return least * (most / least) ** held;
  return least + (most - least) * (curve === 'level' ? held ** (1 / SPREAD) : held);
}

/** The value of a curve at a sample. @param still where there is no point */
export function curveAt(points: Points, at: number, still: number): number {
  const behind = points.findIndex((p) => p.at > at);
  if (behind === 0) return points[0].value;
  const low = points.at(behind - 1);
  if (!low || behind < 0) return points.at(-1)?.value ?? still;
  const high = points[behind];
  return low.value + ((high.value - low.value) * (at - low.at)) / (high.at - low.at);
}

/** With one point more; one that stood on the same sample gives way. */
export function withPoint(points: Points, point: Breakpoint): Points {
  return [...points.filter((p) => p.at !== point.at), point].sort((a, b) => a.at - b.at);
}

/** With one point elsewhere: between its neighbours, so that none passes another. @param index of the point */
export function movedPoint(points: Points, index: number, to: Breakpoint): Points {
  const least = (points.at(index - 1)?.at ?? -1) + 1;
  const before = index === 0 ? 0 : least;
  const behind = points[index + 1] ? points[index + 1].at - 1 : Infinity;
  const at = Math.round(Math.max(before, Math.min(behind, to.at)));
  return points.map((p, i) => (i === index ? { at, value: to.value } : p));
}

/** All of a curve by as much more or less, within bounds. */
export const raised = (points: Points, by: number, { least, most }: CurveOf['spec']): Points =>
  points.map((p) => ({ ...p, value: Math.min(most, Math.max(least, p.value + by)) }));

/**
 * With fewer points, none of the old ones farther from the curve than so much: D. Douglas and T. Peucker, “Algorithms for the reduction of the number
 * of points required to represent a digitized line or its caricature”, 1973, by distance in value.
 */
export function thinned(points: Points, tolerance: number): Points {
  if (points.length < 3) return points;
  const kept = new Uint8Array(points.length);
  kept[0] = kept[points.length - 1] = 1;
  const open: [number, number][] = [[0, points.length - 1]];
  for (let span = open.pop(); span; span = open.pop()) {
    const [from, to] = span;
    let worst = -1;
    let most = tolerance;
    for (let i = from + 1; i < to; i++) {
      const off = Math.abs(points[i].value - curveAt([points[from], points[to]], points[i].at, 0));
      if (off > most) [most, worst] = [off, i];
    }
    if (worst < 0) continue;
    kept[worst] = 1;
    open.push([from, worst], [worst, to]);
  }
  return points.filter((_, i) => kept[i] === 1);
}

/**
 * A curve over part of which a hand has gone: there it is what the hand did, before and behind it what it was.
 * @param done in the order of time; @param until sample at which the hand let go; @param back samples in which it goes back to what it was
 */
export function recorded(points: Points, still: number, done: Points, until: number, back: number): Points {
  const [first] = done;
  const last = done.at(-1);
  if (!first || !last) return points;
  const end = Math.max(until, last.at) + back;
  const ring = first.at > 0 ? [{ at: first.at - 1, value: curveAt(points, first.at - 1, still) }] : [];
  const held = until > last.at ? [{ at: Math.round(until), value: last.value }] : [];
  return [
    ...points.filter((p) => p.at < first.at - 1),
    ...ring,
    ...done,
    ...held,
    { at: Math.round(end), value: curveAt(points, end, still) },
    ...points.filter((p) => p.at > end),
  ];
}
