import { additionOf } from '@core/library';
import type { ListedCut, PictureCut } from './cuts';
import type { PictureMotion } from './motion';
import { fullShape, isPlain, stretchedRegion, stretchOf, type Shape } from '@core/audio';
import type { Mover } from '@core/effects';
import { clipSpan, type Clip, type GraphPlan } from '@core/engine';
import type { Change, Sound } from '@core/library';
import { changeOf, nameOf } from '@core/library';
import type { Colour } from '@core/schemas';
import type { Pad } from './pads';
import { heardLines, linesOf, type LineEffect, type MainLine, type Track } from './lines';
import { frameRate, frameToSample, toTimecode } from './timecode';

/** Where the picture of a scene lies. */
export interface PictureRef {
  rootId: number;
  path: string;
  name: string;
  frames: number;
  /** Frame of the scene on which its first frame stands; 0 when absent. */
  offset?: number;
  /** Bounds of its rate, where that is not the same all along. Frames a second. */
  variable?: { least: number; most: number };
  /** Its own sound, beside the tracks. */
  guide?: { gain: number; mute: boolean };
}

/** A value of a build that each variation takes by chance, and of a layer each stroke: of a layer it is added to where that stands, of an effect it is the value. */
export interface ValueRange {
  of: 'layer' | 'effect';
  /** The track, or the effect. */
  id: number;
  key: string;
  least: number;
  most: number;
}

/** What makes a build of a scene: each of its tracks is a layer, whose cue lies on the one anchor of them all, or so much beside it. */
export interface BuildOf {
  /** Sample of the scene. */
  anchor: number;
  /** How it is played by keys; as it begins when absent. */
  played?: PlayedBy;
}

/** How a build answers to keys. */
export interface PlayedBy {
  /** Strokes that sound at once; one more, and the first or the quietest gives way. */
  voices: number;
  gives: 'first' | 'quietest';
  /** What becomes of a stroke whose key is let go. */
  keyUp: 'ends' | 'plays on';
  /** What another key is: all of it higher or lower, or the next sound of each layer; `pitch` when absent. */
  keys?: 'pitch' | 'sounds';
}

/** One picture or timeline with its tracks. Positions are samples at `sampleRate` from the scene's first frame. */
export interface Scene {
  id: number;
  name: string;
  /** Name of a frame rate. */
  fps: string;
  /** Timecode of the first frame, as frames from midnight. */
  startFrame: number;
  sampleRate: number;
  picture?: PictureRef;
  /** Samples; at least as long as the picture. */
  length: number;
  /** In and out of the loop, samples. */
  loop?: { start: number; end: number };
  /** The line that all tracks end in; as it begins when absent. */
  main?: MainLine;
  /** What moves values of its lines and effects. */
  movers?: readonly Mover[];
  /** What is left to chance. */
  ranges?: readonly ValueRange[];
  /** What was found in a picture, and in which one. */
  cuts?: { of: string; found: readonly PictureCut[]; motion?: PictureMotion };
  /** Cuts that lists from elsewhere told of. */
  listed?: readonly ListedCut[];
  /** Sounds that may be used whatever their licence says, and why. */
  allowed?: readonly { soundId: number; note: string }[];
  /** Sets of sounds that are played by keys, and the passes that were played. */
  pads?: readonly Pad[];
  takes?: readonly Take[];
  /** It is a build, and stands in that stage. */
  build?: BuildOf;
}

/** One placed sound. What it plays of the sound is in frames of the sound's own rate. */
export interface Cue {
  id: number;
  sceneId: number;
  trackId: number;
  soundId: number;
  name: string;
  /** The sample on which the anchor lands. It stays when another sound takes this one's place. */
  at: number;
  anchor: number;
  start: number;
  end: number;
  /** Hz */
  rate: number;
  /** dB */
  gain: number;
  mute: boolean;
  /** Seconds. */
  fadeIn: number;
  fadeOut: number;
  /** What else is done to the sound, as it was auditioned; its gain is beside that of the cue, and the fades are the cue’s. */
  shape?: Partial<Shape>;
  /** It stays as it is. */
  locked?: boolean;
  colour?: Colour;
  /** From left, -1, to right, 1, before the place of its track; the middle when absent. */
  place?: number;
  /** Sounds that were heard in its place, in that order. */
  tried?: readonly number[];
  /** When it was placed. Milliseconds since 1970 */
  made?: number;
  /** Of the pass in which it was played. */
  take?: number;
}

/** A pass that was played. Its cues stand in the scene, marked with its id, or wait beside. */
export interface Take {
  id: number;
  name: string;
  /** When it was played. Milliseconds since 1970 */
  at: number;
  aside?: readonly Cue[];
}

/** An instant that somebody named. */
export interface Marker {
  id: number;
  sceneId: number;
  at: number;
  name: string;
  colour?: Colour;
}

/** What a sound plays, how, and where its anchor is, as a cue takes it over: what was auditioned is what is spotted. */
export function takeOf(
  sound: Sound,
): Pick<Cue, 'soundId' | 'name' | 'anchor' | 'start' | 'end' | 'rate' | 'fadeIn' | 'fadeOut' | 'shape'> {
  const { start, end } = sound.marks.region ?? { start: 0, end: sound.format.frames };
  const shape = fullShape(sound.marks.shape);
  return {
    soundId: sound.id,
    name: nameOf(sound),
    anchor: Math.max(0, sound.marks.anchor),
    start,
    end,
    rate: sound.format.rate,
    // A region cut out of the middle starts and stops anywhere in the wave; two milliseconds keep it from clicking.
    fadeIn: Math.max(shape.fadeIn, start > 0 ? 0.002 : 0),
    fadeOut: Math.max(shape.fadeOut, end < sound.format.frames ? 0.002 : 0),
    shape: isPlain(shape) ? undefined : { ...sound.marks.shape },
  };
}

/** The change that places a sound so that its anchor lands on a sample. */
export function placeCue(id: number, scene: Scene, trackId: number, sound: Sound, at: number): Change {
  const cue: Cue = { id, sceneId: scene.id, trackId, at, gain: 0, mute: false, ...takeOf(sound) };
  return additionOf('cues', cue);
}

/**
 * The change that puts another sound in a cue's place: everything about the sound changes, the anchor's instant does not.
 * @param besides what else changes of the cue with it
 */
export function swapSound(cue: Cue, sound: Sound, besides: Partial<Cue> = {}): Change[] {
  return [changeOf('cues', cue, { ...takeOf(sound), ...besides })].filter((c) => c !== undefined);
}

/** A cue as the engine plays it. Its material is its sound, stretched as its shape says; whoever loads it finds a key for that. */
export function clipOf(cue: Cue): Clip {
  const shape = fullShape(cue.shape);
  const stretch = stretchOf(shape);
  const { fadeIn, fadeOut } = cue;
  return {
    material: cue.soundId,
    rate: cue.rate,
    at: cue.at,
    anchor: Math.round(cue.anchor * (stretch?.length ?? 1)),
    region: stretchedRegion({ start: cue.start, end: cue.end }, stretch),
    // Cues of before they had a shape fade along straight lines.
    shape: { ...shape, fadeIn, fadeOut, fade: cue.shape?.fade ?? 'straight' },
    gain: cue.gain,
    place: cue.place ?? 0,
  };
}

/** Where cues lie that were asked for before: a timeline asks for all of them at every step of a hand. */
const spans = new WeakMap<Cue, { rate: number; start: number; end: number }>();

/** Where a cue lies on the timeline: samples, fractional when its rate differs from the scene's. */
export function spanOf(cue: Cue, sampleRate: number): { start: number; end: number } {
  const known = spans.get(cue);
  if (known?.rate === sampleRate) return { start: known.start, end: known.end };
  const span = clipSpan(clipOf(cue), sampleRate);
  spans.set(cue, { rate: sampleRate, ...span });
  return span;
}

/** Whether a track is heard among others; see `heardLines`. */
export const isHeard = (track: Track, tracks: readonly Track[]): boolean =>
  heardLines(tracks.includes(track) ? tracks : [...tracks, track]).has(track.id);

/** Clips of cues that were asked for before: what has not changed is the same, and is seen to be at a glance. */
const clips = new WeakMap<Cue, { line: number; clip: Clip }>();
function lineClip(cue: Cue): { line: number; clip: Clip } {
  const known = clips.get(cue);
  if (known) return known;
  const made = { line: cue.trackId, clip: clipOf(cue) };
  clips.set(cue, made);
  return made;
}

/** A scene as far as it tells what moves values, and by what that is struck and turned: where it was played, as it was then. */
export type Moved = Pick<Scene, 'movers' | 'build' | 'sampleRate'> & Pick<GraphPlan, 'strikes' | 'turns'>;

/** What moves values of a scene, and what strikes that: the first sound of a build, where nobody played it. */
export function movingOf(
  { movers, build, sampleRate, strikes, turns }: Moved,
  cues: readonly Cue[],
): Pick<GraphPlan, 'movers' | 'strikes' | 'turns'> {
  if (!movers?.length) return {};
  if (strikes) return { movers, strikes, ...(turns ? { turns } : {}) };
  const starts = cues.filter((c) => !c.mute).map((c) => spanOf(c, sampleRate).start);
  return { movers, strikes: [{ at: build && starts.length > 0 ? Math.floor(Math.min(...starts)) : 0 }] };
}

/** What the engine has to play: tracks and buses that flow into the main line, and the cues on them that are heard, by their ids. */
export function planOf(
  tracks: readonly Track[],
  cues: readonly Cue[],
  effects: readonly LineEffect[] = [],
  main?: MainLine,
  moving: Pick<GraphPlan, 'movers' | 'strikes' | 'turns'> = {},
): GraphPlan {
  const lines = linesOf({ tracks, effects }, main);
  const own = new Map<number, { line: number; clip: Clip }>();
  for (const cue of cues) if (!cue.mute && lines.has(cue.trackId)) own.set(cue.id, lineClip(cue));
  return { lines, clips: own, ...moving };
}

/** Samples from the first frame to where both the picture and the last cue are over. */
export function lengthOfScene(scene: Scene, cues: readonly Cue[]): number {
  return cues.reduce((end, cue) => Math.max(end, Math.ceil(spanOf(cue, scene.sampleRate).end)), scene.length);
}

/** The timecode at a frame of the scene. */
export function timecodeAt(scene: Scene, frame: number): string {
  return toTimecode(scene.startFrame + frame, frameRate(scene.fps));
}

/** `bext` TimeReference of the scene's first sample: samples since midnight. */
export function timeReference(scene: Scene): bigint {
  return BigInt(frameToSample(scene.startFrame, frameRate(scene.fps), scene.sampleRate));
}
