import { fullShape } from '@core/audio';
import type { Strike, Turn } from '@core/effects';
import { LET_GO, type GaveWay } from '@core/engine';
import { spanOf, type Cue, type PlayedBy, type Scene, type SceneState } from '@core/scene';
import { trimmed } from '@core/timeline';
import { anchorOf, layersOf, spanOfLayers } from './layers';
import type { LayerClip } from './strokes';

/** A stroke of a pass. Times in samples from the first stroke of it on */
export interface PassStroke {
  at: number;
  /** Of MIDI. */
  key: number;
  /** 0 to 1 */
  velocity: number;
  /** When its key went up; undefined while it is down. */
  lifted?: number;
  /** It is what its key left behind as it went up. */
  rings?: boolean;
  /** What it sounds, as it was rolled and dealt. */
  clips: readonly LayerClip[];
  /** By which the engine tells of it. */
  id?: number;
  /** Where it gave way to others while it was played. */
  gave?: readonly Omit<GaveWay, 'stroke'>[];
}

/** What somebody played of a build. */
export interface Pass {
  strokes: readonly PassStroke[];
  /** What hands turned meanwhile, and where it stood at the first stroke. Times as those of strokes */
  turns?: readonly Turn[];
}

/** A build as it lies on its timeline: as it is, or as it was played, where all its cues are heard and `strikes` and `turns` say how. */
export type Played = SceneState & { strikes?: readonly Strike[]; turns?: readonly Turn[] };

/** Seconds in which a stroke dies that gives way: as the engine has it. */
const DIES = 0.005;

/** When a stroke is cut short, and the seconds in which it dies then. */
interface Cut {
  at: number;
  dies: number;
}

/**
 * When each sound of each stroke is cut short: by its key that goes up, or as one more was struck than may sound at once, of all or of its layer; at Infinity
 * where it is not.
 * @param ends of each sound of each stroke
 */
function cutsOf(pass: readonly PassStroke[], ends: readonly number[][], { voices, gives, keyUp }: PlayedBy): Cut[][] {
  const cuts = pass.map(({ lifted = Infinity, rings, clips }) =>
    clips.map((): Cut => ({ at: keyUp === 'ends' && !rings ? lifted : Infinity, dies: LET_GO })),
  );
  if (gives === 'quietest') {
    // Which was the quietest only those know who heard it.
    pass.forEach(({ at, clips, gave = [] }, i) => {
      for (const { after, line } of gave)
        clips.forEach((clip, c) => {
          if ((line === undefined || clip.line === line) && at + after < cuts[i][c].at)
            cuts[i][c] = { at: at + after, dies: DIES };
        });
    });
    return cuts;
  }
  const isHeard = (k: number, c: number, at: number) => Math.min(cuts[k][c].at, ends[k][c]) > at;
  pass.forEach(({ at, clips }, i) => {
    // Those that were let go of give way before those that are held.
    const isHeld = (k: number) => !pass[k].rings && (pass[k].lifted ?? Infinity) > at;
    /** Leaves no more than so many of the sounds that `of` chooses: strokes are counted, whatever of them is heard. */
    const leave = (most: number, of: (line: number) => boolean) => {
      const chosen = (k: number) => pass[k].clips.flatMap(({ line }, c) => (of(line) && isHeard(k, c, at) ? [c] : []));
      const sounding = pass.flatMap((s, k) => (k < i && s.at <= at && chosen(k).length > 0 ? [k] : []));
      const order = [...sounding.filter((k) => !isHeld(k)), ...sounding.filter(isHeld)];
      for (const k of order.slice(0, Math.max(0, sounding.length - most)))
        for (const c of chosen(k)) cuts[k][c] = { at, dies: DIES };
    };
    leave(voices - 1, () => true);
    for (const { line, most } of clips) if (most !== undefined) leave(most - 1, (l) => l === line);
  });
  return cuts;
}

/**
 * A pass as cues: a build that was played, as it lies on a timeline, its first stroke on the anchor. Strokes that gave way do so again: the first,
 * or those of which it was told that they did.
 * @param frames of all of a sound
 */
export function passOf(
  build: Scene,
  state: SceneState,
  { strokes: pass, turns = [] }: Pass,
  played: PlayedBy,
  frames: (soundId: number) => number,
): Played & { strikes: readonly Strike[] } {
  const anchor = anchorOf(build);
  const rate = build.sampleRate;
  const known = new Map(state.cues.map((c) => [c.id, c]));
  let id = 0;
  const cuesOf = ({ at, clips }: PassStroke): (Cue | undefined)[] =>
    clips.map(({ cue, clip }) => {
      const own = known.get(cue);
      if (!own) return undefined;
      const { tried: _, ...plain } = own;
      const shape = { ...fullShape(own.shape), fade: clip.shape.fade, speed: clip.shape.speed };
      return { ...plain, id: --id, mute: false, gain: clip.gain, shape, at: Math.round(anchor + at + clip.at) };
    });
  const all = pass.map(cuesOf);
  const ends = all.map((cues) => cues.map((c) => (c ? spanOf(c, rate).end - anchor : -Infinity)));
  const cuts = cutsOf(pass, ends, played);
  const cues = all.flatMap((own, i) =>
    own.flatMap((cue, c): Cue[] => {
      if (!cue) return [];
      const { at, dies } = cuts[i][c];
      const { start, end } = spanOf(cue, rate);
      if (anchor + at >= end) return [cue];
      // One that would be over before it has died away is gone with its end.
      const dead = Math.min(end, anchor + at + dies * rate);
      if (dead - start < 1) return [];
      const fadeOut = (dead - Math.max(start, anchor + at)) / rate;
      return [{ ...trimmed(cue, 'end', dead, frames(cue.soundId), rate), fadeOut }];
    }),
  );
  const strikes = pass
    .filter((s) => !s.rings)
    .map(({ at, key, velocity, lifted }): Strike => ({
      ...{ at: anchor + at, key, velocity },
      ...(lifted === undefined ? {} : { lifted: anchor + lifted }),
    }));
  const turned = turns.map((t) => ({ ...t, at: anchor + t.at }));
  return { ...state, cues, strikes, ...(turned.length > 0 ? { turns: turned } : {}) };
}

/** The part of its timeline in which a build is heard, its anchor included, and how far into it that lies. Samples */
export function partOf(state: Played, build: Scene): { from: number; to: number; anchor: number } {
  const [span, at] = [spanOfPlayed(state, build), anchorOf(build)];
  const from = Math.max(0, at + Math.min(0, span.start));
  return { from, to: at + span.end, anchor: at - from };
}

/** From where to where a build is heard, as it is or as it was played. Samples from its anchor on */
export function spanOfPlayed(state: Played, build: Scene): { start: number; end: number } {
  if (!state.strikes) return spanOfLayers(layersOf(state.tracks, state.cues), build);
  const spans = state.cues.map((c) => spanOf(c, build.sampleRate));
  if (spans.length === 0) return { start: 0, end: 0 };
  return {
    start: Math.floor(Math.min(...spans.map((s) => s.start))) - anchorOf(build),
    end: Math.ceil(Math.max(...spans.map((s) => s.end))) - anchorOf(build),
  };
}
