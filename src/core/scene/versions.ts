import { fullShape } from '@core/audio';
import { changeOf, type Change, additionOf, removalOf } from '@core/library';
import { MAIN } from '@core/engine';
import { effectName, type LineEffect, type Track } from './lines';
import { spanOf, type Cue, type Marker, type Scene } from './scene';

/** All that a scene is made of, but for its picture. */
export interface SceneState {
  tracks: readonly Track[];
  cues: readonly Cue[];
  markers: readonly Marker[];
  /** None in states that were kept before there were any. */
  effects?: readonly LineEffect[];
  loop?: Scene['loop'];
  main?: Scene['main'];
  movers?: Scene['movers'];
  ranges?: Scene['ranges'];
}

/** A whole state of a scene, kept under a name. */
export interface Version extends SceneState {
  id: number;
  sceneId: number;
  name: string;
  /** When it was kept. Milliseconds since 1970 */
  at: number;
}

type Row = { id: number };
const byId = <T extends Row>(rows: readonly T[]): Map<number, T> => new Map(rows.map((r) => [r.id, r]));

/** The values that have to change of one row so that it is as another one; undefined where it is already. */
function patchTo<T extends Row>(now: T, then: T): Record<string, unknown> | undefined {
  const patch: Record<string, unknown> = {};
  for (const key of new Set([...Object.keys(now), ...Object.keys(then)]) as Set<keyof T & string>)
    // What was tried at a cue is a memory of it, not a state that one returns from.
    if (key !== 'tried' && JSON.stringify(now[key]) !== JSON.stringify(then[key])) patch[key] = then[key];
  return Object.keys(patch).length > 0 ? patch : undefined;
}

function rowChanges<T extends Row>(
  table: Change['table'],
  now: readonly T[],
  then: readonly T[],
): (Change | undefined)[] {
  const [old, wanted] = [byId(now), byId(then)];
  const gone = now.filter((r) => !wanted.has(r.id)).map((r): Change => removalOf(table, r));
  return [
    ...gone,
    ...then.map((r): Change | undefined => {
      const own = old.get(r.id);
      if (!own) return additionOf(table, r);
      const patch = patchTo(own, r);
      return patch && changeOf(table, own, patch);
    }),
  ];
}

/** The changes that make a scene what it was in another state: rows keep their ids, so that what points at them goes on doing so. */
export function changesTo(scene: Scene, now: SceneState, then: SceneState): Change[] {
  const other: Partial<Pick<Scene, 'loop' | 'main' | 'movers' | 'ranges'>> = {};
  for (const key of ['loop', 'main', 'movers', 'ranges'] as const)
    if (JSON.stringify(now[key]) !== JSON.stringify(then[key])) Object.assign(other, { [key]: then[key] });
  return [
    Object.keys(other).length > 0 ? changeOf('scenes', scene, other) : undefined,
    ...rowChanges('tracks', now.tracks, then.tracks),
    ...rowChanges('cues', now.cues, then.cues),
    ...rowChanges('markers', now.markers, then.markers),
    ...rowChanges('effects', now.effects ?? [], then.effects ?? []),
  ].filter((c) => c !== undefined);
}

/** What has become of one cue, track, marker or effect from one state to another. */
export interface Difference {
  of: 'cue' | 'track' | 'marker' | 'effect';
  id: number;
  name: string;
  /** Where it stands, or stood. Samples; undefined of a track. */
  at?: number;
  /** In words, such as `moved 3 frames later`. */
  changes: string[];
}

const dB = (by: number): string => `${Math.abs(by).toFixed(1)} dB ${by > 0 ? 'louder' : 'softer'}`;

/** What changed of a cue, in words. @param moved tells how far it was moved, in samples */
function cueChanges(
  now: Cue,
  then: Cue,
  trackName: (id: number) => string,
  moved: (by: number) => string,
  rate: number,
): string[] {
  const out: string[] = [];
  if (then.soundId !== now.soundId) out.push(`exchanged for ${then.name}`);
  if (then.at !== now.at) out.push(moved(then.at - now.at));
  if (then.trackId !== now.trackId) out.push(`on ${trackName(then.trackId)}`);
  if (then.gain !== now.gain) out.push(dB(then.gain - now.gain));
  if ((then.place ?? 0) !== (now.place ?? 0))
    out.push((then.place ?? 0) < (now.place ?? 0) ? 'more left' : 'more right');
  if (then.mute !== now.mute) out.push(then.mute ? 'muted' : 'heard');
  const [a, b] = [spanOf(now, rate), spanOf(then, rate)];
  const cut = then.soundId === now.soundId && (then.start !== now.start || then.end !== now.end);
  if (cut) out.push(b.end - b.start < a.end - a.start ? 'shorter' : 'longer');
  if (then.fadeIn !== now.fadeIn || then.fadeOut !== now.fadeOut) out.push('faded otherwise');
  const plays = (c: Cue) => JSON.stringify(fullShape({ ...c.shape, fadeIn: 0, fadeOut: 0 }));
  if (then.soundId === now.soundId && plays(now) !== plays(then)) out.push('shaped otherwise');
  if ((then.locked ?? false) !== (now.locked ?? false)) out.push(then.locked ? 'locked' : 'unlocked');
  if (then.colour !== now.colour) out.push('of another colour');
  return out;
}

/**
 * What is other in a second state than in a first one, as a list to go through, by where it stands.
 * @param moved tells how far something was moved, from samples
 */
export function differencesOf(
  now: SceneState,
  then: SceneState,
  rate: number,
  moved: (by: number) => string,
): Difference[] {
  const list: Difference[] = [];
  const add = (of: Difference['of'], row: { id: number; name: string; at?: number }, changes: string[]) => {
    if (changes.length > 0) list.push({ of, id: row.id, name: row.name, at: row.at, changes });
  };
  const compare = <T extends Row & { name: string; at?: number }>(
    of: Difference['of'],
    a: readonly T[],
    b: readonly T[],
    between: (a: T, b: T) => string[],
  ) => {
    const [old, wanted] = [byId(a), byId(b)];
    for (const row of a) if (!wanted.has(row.id)) add(of, row, ['gone']);
    for (const row of b) {
      const own = old.get(row.id);
      add(of, row, own ? between(own, row) : ['added']);
    }
  };
  const tracks = new Map([...now.tracks, ...then.tracks].map((t) => [t.id, t.name]));
  const trackName = (id: number) => tracks.get(id) ?? 'another track';
  compare('track', now.tracks, then.tracks, (a, b) => {
    const out: string[] = [];
    if (a.name !== b.name) out.push(`renamed, was ${a.name}`);
    if (a.gain !== b.gain) out.push(dB(b.gain - a.gain));
    if (a.mute !== b.mute) out.push(b.mute ? 'muted' : 'heard');
    if (a.solo !== b.solo) out.push(b.solo ? 'soloed' : 'not soloed');
    if ((a.place ?? 0) !== (b.place ?? 0)) out.push((b.place ?? 0) < (a.place ?? 0) ? 'more left' : 'more right');
    if ((a.behind ?? 0) !== (b.behind ?? 0))
      out.push((b.behind ?? 0) < (a.behind ?? 0) ? 'further in front' : 'further behind');
    if (a.order !== b.order) out.push('in another order');
    if (a.into !== b.into) out.push(`into ${b.into === undefined ? 'the main line' : trackName(b.into)}`);
    if (a.colour !== b.colour || a.group !== b.group || a.locked !== b.locked) out.push('set otherwise');
    return out;
  });
  const named = (e: LineEffect) => ({
    ...e,
    name: `${effectName(e, trackName)} on ${e.lineId === MAIN ? 'the main line' : trackName(e.lineId)}`,
  });
  compare('effect', (now.effects ?? []).map(named), (then.effects ?? []).map(named), (a, b) => {
    const out: string[] = [];
    if (a.on !== b.on) out.push(b.on ? 'on' : 'off');
    const set = (e: LineEffect) => JSON.stringify([e.values, e.points, e.line]);
    if (set(a) !== set(b)) out.push('set otherwise');
    if (a.order !== b.order) out.push('in another order');
    return out;
  });
  compare('cue', now.cues, then.cues, (a, b) => cueChanges(a, b, trackName, moved, rate));
  compare('marker', now.markers, then.markers, (a, b) => {
    const out: string[] = [];
    if (a.at !== b.at) out.push(moved(b.at - a.at));
    if (a.name !== b.name) out.push(`renamed, was ${a.name}`);
    if (a.colour !== b.colour) out.push('of another colour');
    return out;
  });
  return list.sort((a, b) => (a.at ?? -1) - (b.at ?? -1));
}
