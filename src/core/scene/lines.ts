import { effectOf, type Breakpoint } from '@core/effects';
import { MAIN, mayFlow, type Flow, type Insert, type Line } from '@core/engine';
import type { Colour } from '@core/schemas';

/** A line of cues that share a gain. */
export interface Track {
  id: number;
  sceneId: number;
  /** Those of a scene stand by this, then by id. */
  order: number;
  name: string;
  /** dB */
  gain: number;
  mute: boolean;
  solo: boolean;
  /** From left, -1, to right, 1; the middle when absent. */
  place?: number;
  /** How much of it stands behind, 0 to 1, where the mix has channels there; none when absent. */
  behind?: number;
  /** Its cues stay as they are. */
  locked?: boolean;
  colour?: Colour;
  /** Tracks of one name of a group take their gain, mute and solo together. */
  group?: string;
  /** It holds no cues: others flow into it. */
  bus?: boolean;
  /** The bus that it flows into; the main line when absent. */
  into?: number;
  /** How gain and place run along the timeline, where that is drawn. */
  points?: Readonly<Record<string, readonly Breakpoint[]>>;
  /** How keys play it, where it is a layer of a build and not played as the whole is. */
  struck?: LayerStruck;
}

/** How keys play a layer of a build. */
export interface LayerStruck {
  /** `up` where it sounds as the key goes up; as it goes down when absent. */
  on?: 'up';
  /** Its strokes that sound at once, where they are fewer than those of the build. */
  voices?: number;
}

/** Tracks of a scene in their order. */
export const inOrder = (tracks: readonly Track[]): Track[] =>
  [...tracks].sort((a, b) => a.order - b.order || a.id - b.id);

/** An effect in a line of a scene: of a track, a bus, or the main line, whose id is `MAIN`. */
export interface LineEffect {
  id: number;
  sceneId: number;
  lineId: number;
  /** Those of a line stand by this, then by id. */
  order: number;
  kind: string;
  on: boolean;
  /** Another line: where a send flows, or what is listened to. */
  line?: number;
  /** The sound that it is made of, and Hz of that; of those that are made of one. */
  sound?: { id: number; rate: number };
  /** By key of the effect's values; what is not there is as it begins. */
  values: Readonly<Record<string, number>>;
  points?: Readonly<Record<string, readonly Breakpoint[]>>;
}

/** The line that all others end in, as a scene sets it. */
export interface MainLine {
  /** dB */
  gain: number;
  /** From left, -1, to right, 1. */
  place?: number;
  /** How gain and place run along the timeline, where that is drawn. */
  points?: Readonly<Record<string, readonly Breakpoint[]>>;
}

/** What the sound of a scene goes through. */
export interface Lines {
  tracks: readonly Track[];
  effects: readonly LineEffect[];
}

/** The effects of a line in their order. */
export const effectsOf = (lineId: number, effects: readonly LineEffect[]): LineEffect[] =>
  effects.filter((e) => e.lineId === lineId).sort((a, b) => a.order - b.order || a.id - b.id);

/** Ids of the lines that one flows through, itself first; without the main one. */
function wayOf(track: Track, byId: ReadonlyMap<number, Track>): Set<number> {
  const way = new Set<number>();
  for (let at: Track | undefined = track; at && !way.has(at.id); at = byId.get(at.into ?? MAIN)) way.add(at.id);
  return way;
}

/**
 * The lines that are heard: those not muted; where any is soloed, the soloed ones alone, with all that flows into them, what they flow
 * through, and the buses that they send to: a solo is heard in its place.
 */
export function heardLines(tracks: readonly Track[], effects: readonly LineEffect[] = []): Set<number> {
  const byId = new Map(tracks.map((t) => [t.id, t]));
  const soloed = new Set(tracks.filter((t) => t.solo).map((t) => t.id));
  const kept = new Set<number>();
  const keep = (track: Track): void => {
    for (const id of wayOf(track, byId)) {
      if (kept.has(id)) continue;
      kept.add(id);
      for (const { kind, on, lineId, line } of effects) {
        const bus = kind === 'send' && on && lineId === id && line !== undefined && byId.get(line);
        if (bus) keep(bus);
      }
    }
  };
  for (const track of tracks)
    if (soloed.size === 0) kept.add(track.id);
    else if ([...wayOf(track, byId)].some((id) => soloed.has(id))) keep(track);
  return new Set(tracks.filter((t) => !t.mute && kept.has(t.id)).map((t) => t.id));
}

/** Lines as the engine plays them, the main one among them. */
export function linesOf({ tracks, effects }: Lines, main: MainLine = { gain: 0 }): Map<number, Line> {
  const heard = heardLines(tracks, effects);
  const insertsOf = (id: number): Insert[] =>
    effectsOf(id, effects).map(({ id: own, kind, on, line, sound, values, points }) => ({
      ...{ id: own, kind, on, line, values, points },
      ...(sound ? { sound: { material: sound.id, rate: sound.rate } } : {}),
    }));
  const lines = new Map<number, Line>();
  for (const { id, gain, place = 0, behind, into, points } of tracks)
    lines.set(id, { id, into, gain, place, behind, open: heard.has(id), inserts: insertsOf(id), points });
  const { gain, place = 0, points } = main;
  lines.set(MAIN, { id: MAIN, gain, place, open: true, inserts: insertsOf(MAIN), points });
  return lines;
}

/** Lines as far as they tell where they flow. */
const flowsOf = ({ tracks, effects }: Lines): Flow[] =>
  [MAIN, ...tracks.map((t) => t.id)].map((id) => ({
    id,
    into: tracks.find((t) => t.id === id)?.into,
    inserts: effectsOf(id, effects),
  }));

/** Buses that a line may flow into, or send to; not those from which it would come back. */
export function busesFor(id: number, lines: Lines): Track[] {
  const flows = flowsOf(lines);
  return lines.tracks.filter((t) => t.bus && mayFlow(flows, id, t.id));
}

/** Lines that an effect of a line may listen to. */
export function heardBy(id: number, lines: Lines): Track[] {
  const flows = flowsOf(lines);
  return lines.tracks.filter((t) => t.id !== id && (id === MAIN || mayFlow(flows, t.id, id)));
}

/** Tracks and buses as they flow into one another: each bus before those that flow into it. `depth` counts the buses around it. */
export function treeOf(tracks: readonly Track[]): { track: Track; depth: number }[] {
  const byId = new Map(tracks.map((t) => [t.id, t]));
  const rows: { track: Track; depth: number }[] = [];
  const parent = (track: Track): number => {
    // One that would come round to itself ends in the main line.
    const into = track.into === undefined ? undefined : byId.get(track.into);
    return into && !wayOf(into, byId).has(track.id) ? into.id : MAIN;
  };
  const add = (id: number, depth: number): void => {
    const own = tracks.filter((t) => parent(t) === id);
    for (const track of [...own.filter((t) => t.bus), ...own.filter((t) => !t.bus)]) {
      rows.push({ track, depth });
      add(track.id, depth + 1);
    }
  };
  add(MAIN, 0);
  return rows;
}

/** The changes of rows that go with a line that is removed: its own effects, sends to it, and what flowed into it or listened to it. */
export function withoutLine(
  gone: Track,
  { tracks, effects }: Lines,
): { tracks: Track[]; effects: LineEffect[]; removed: LineEffect[] } {
  const removed = effects.filter((e) => e.lineId === gone.id || (e.kind === 'send' && e.line === gone.id));
  const listening = effects.filter((e) => e.line === gone.id && !removed.includes(e));
  return {
    tracks: tracks.filter((t) => t.into === gone.id).map((t) => ({ ...t, into: gone.into })),
    effects: listening.map((e) => ({ ...e, line: undefined })),
    removed,
  };
}

/** What an effect is called where it stands. @param lineName of another line */
export function effectName({ kind, line }: LineEffect, lineName: (id: number) => string | undefined): string {
  const name = effectOf(kind)?.name ?? kind;
  const other = line === undefined ? undefined : lineName(line);
  if (kind === 'send') return `${name} to ${other ?? 'nowhere'}`;
  return other ? `${name}, by ${other}` : name;
}
