import { heardLines, type LineEffect, type Track } from './lines';
import type { Cue } from './scene';

/** What stems are told apart by. */
export const stemKinds = ['track', 'group', 'bus'] as const;
export type StemKind = (typeof stemKinds)[number];

/** A part of a mix that is written by itself. */
export interface Stem {
  name: string;
  tracks: Track[];
  cues: Cue[];
}

/**
 * The parts of a mix, in the order of the tracks: together they are all that is heard. Tracks without a group, or that flow into no bus, are
 * stems of their own. What nobody hears is in none of them, and a track without cues is no stem. Each goes through its buses, with their
 * effects, as far as they are heard.
 * @param clean what a name has to become before it is held against the others, which it must differ from
 */
export function stemsOf(
  tracks: readonly Track[],
  cues: readonly Cue[],
  by: StemKind,
  effects: readonly LineEffect[] = [],
  clean: (name: string) => string = (name) => name,
): Stem[] {
  const stems = new Map<string, Stem>();
  const taken = new Set<string>();
  const heard = heardLines(tracks, effects);
  const byId = new Map(tracks.map((t) => [t.id, t]));
  const buses = tracks.filter((t) => t.bus && heard.has(t.id)).map((t) => ({ ...t, solo: false }));
  /** The last bus before the main line. */
  const outermost = (track: Track): Track | undefined => {
    const seen = new Set<Track>();
    let at: Track | undefined = track;
    for (let next = track; next && !seen.has(next); next = byId.get(next.into ?? 0)!) {
      seen.add(next);
      at = next;
    }
    return at === track ? undefined : at;
  };
  for (const track of tracks) {
    const own = cues.filter((c) => c.trackId === track.id && !c.mute);
    if (own.length === 0 || !heard.has(track.id)) continue;
    const together = by === 'group' ? track.group : by === 'bus' ? outermost(track)?.name : undefined;
    const key = together ? `${by} ${together}` : `track ${track.id}`;
    const stem = stems.get(key) ?? { name: unlike(clean(together || track.name), taken), tracks: [...buses], cues: [] };
    // Alone it is heard whatever the others are.
    stem.tracks.push({ ...track, solo: false });
    stem.cues.push(...own);
    stems.set(key, stem);
  }
  return [...stems.values()];
}

/** A name unlike all that are taken, capitals apart; it is taken from then on. */
function unlike(name: string, taken: Set<string>): string {
  for (let n = 1; ; n++) {
    const free = n === 1 ? name : `${name} ${n}`;
    if (taken.has(free.toLowerCase())) continue;
    taken.add(free.toLowerCase());
    return free;
  }
}
