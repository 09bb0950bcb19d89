import type { Sound } from '@core/library';
import { spanOf, takeOf, type Cue, type Marker } from './scene';

/** Ways in which several sounds are placed at once. */
export const ways = ['behind', 'tracks', 'layers'] as const;
export type Way = (typeof ways)[number];

/** What the cues that are made need besides their sounds. */
export interface Ground {
  sceneId: number;
  /** Hz */
  rate: number;
  /** The sample on which the first anchor lands. */
  at: number;
  /** Track of the first, and those below it. */
  trackIds: readonly number[];
  /** Milliseconds since 1970 */
  now: number;
}

/** How many tracks sounds need in a way. */
export const tracksFor = (way: Way, sounds: number): number => (way === 'tracks' ? sounds : 1);

/**
 * Cues for sounds, the first of which has its anchor on a sample. `behind`: each begins where the one before it ends. `tracks`: all anchors at
 * the same instant, each on a track of its own. `layers`: the same on one track.
 * @param ids of the cues
 */
export function placed(sounds: readonly Sound[], ids: readonly number[], way: Way, ground: Ground): Cue[] {
  const { sceneId, rate, at, trackIds, now } = ground;
  let next: number | undefined;
  return sounds.map((sound, i) => {
    const trackId = trackIds[way === 'tracks' ? Math.min(i, trackIds.length - 1) : 0];
    const first: Cue = { id: ids[i], sceneId, trackId, at, gain: 0, mute: false, made: now, ...takeOf(sound) };
    if (way !== 'behind') return first;
    const cue = next === undefined ? first : { ...first, at: Math.ceil(next + at - spanOf(first, rate).start) };
    next = spanOf(cue, rate).end;
    return cue;
  });
}

/** The first anchor of other cues behind a sample. @param besides ids of cues that do not count */
export function nextAnchor(cues: readonly Cue[], behind: number, besides: ReadonlySet<number>): number | undefined {
  let best: number | undefined;
  for (const { id, at, mute } of cues)
    if (!mute && !besides.has(id) && at > behind && (best === undefined || at < best)) best = at;
  return best;
}

/** The next marker behind a sample, or the last one before it. */
export function nextMarker(markers: readonly Marker[], from: number, direction: 1 | -1 = 1): Marker | undefined {
  const sorted = [...markers].sort((a, b) => direction * (a.at - b.at));
  return sorted.find((m) => direction * (m.at - from) > 0);
}

/**
 * A cue moved so that it ends where something else happens: a rise into a hit.
 * @returns undefined where that would be before the scene begins
 */
export function endingAt(cue: Cue, sample: number, rate: number): Cue | undefined {
  const at = cue.at + Math.round(sample - spanOf(cue, rate).end);
  return at < 0 ? undefined : { ...cue, at };
}

/** Where a sound is used. */
export interface Use {
  soundId: number;
  name: string;
  /** Cues of it, in the order of time. */
  cues: Cue[];
}

/** Every sound of a scene with its cues, in the order in which it is first heard. */
export function usesOf(cues: readonly Cue[]): Use[] {
  const uses = new Map<number, Use>();
  for (const cue of [...cues].sort((a, b) => a.at - b.at || a.id - b.id)) {
    const use = uses.get(cue.soundId) ?? { soundId: cue.soundId, name: cue.name, cues: [] };
    use.cues.push(cue);
    uses.set(cue.soundId, use);
  }
  return [...uses.values()];
}
