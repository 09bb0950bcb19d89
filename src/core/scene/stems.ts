import { heardLines, type LineEffect, type Track } from './lines';
import { spanOf, type Cue } from './scene';

/** What stems are told apart by. */
export const stemKinds = ['track', 'group', 'bus'] as const;
export type StemKind = (typeof stemKinds)[number];

/** A part of a mix that is written by itself. */
export interface Stem {
  name: string;
  tracks: Track[];
  cues: Cue[];
  /** The part of the scene that it holds, samples; all of it when absent. */
  part?: { start: number; end: number };
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

/**
 * Each cue that is heard as a file of its own, through its track and buses, in the order of time: what it plays, and handles of what its sound
 * has before and behind that, where fades are the next one's to set.
 * @param handle seconds of the sound on either side; with none, the cue keeps its own fades
 * @param frames how many a sound has, by id
 * @param clean see {@link stemsOf}
 */
export function cueFilesOf(
  tracks: readonly Track[],
  cues: readonly Cue[],
  effects: readonly LineEffect[],
  sampleRate: number,
  handle: number,
  frames: (soundId: number) => number | undefined,
  clean: (name: string) => string = (name) => name,
): Stem[] {
  const heard = heardLines(tracks, effects);
  const lines = tracks.filter((t) => heard.has(t.id)).map((t) => ({ ...t, solo: false }));
  const own = cues.filter((c) => !c.mute && heard.has(c.trackId));
  const digits = Math.max(3, String(own.length).length);
  return own
    .map((cue): Cue => {
      const more = Math.round(handle * cue.rate);
      if (more === 0) return cue;
      const end = Math.max(cue.end, Math.min(frames(cue.soundId) ?? cue.end, cue.end + more));
      return { ...cue, start: Math.max(0, cue.start - more), end, fadeIn: 0, fadeOut: 0 };
    })
    .map((cue) => ({ cue, span: spanOf(cue, sampleRate) }))
    .sort((a, b) => a.span.start - b.span.start || a.cue.id - b.cue.id)
    .map(({ cue, span }, i) => ({
      name: clean(`${String(i + 1).padStart(digits, '0')} ${cue.name}`),
      tracks: lines,
      cues: [cue],
      part: { start: Math.max(0, Math.floor(span.start)), end: Math.max(1, Math.ceil(span.end)) },
    }));
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
