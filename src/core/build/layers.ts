import { additionOf } from '@core/library';
import { fullShape } from '@core/audio';
import type { Change, Sound } from '@core/library';
import { nameOf } from '@core/library';
import { inOrder, placeCue, spanOf, type Cue, type PlayedBy, type Scene, type Track } from '@core/scene';

/** Where the anchor of a build lies, in seconds: as much of a sound may come before it. */
const BEFORE = 300;

/** How a build is played by keys as long as nobody says otherwise. */
export const plainlyPlayed: PlayedBy = { voices: 16, gives: 'first', keyUp: 'ends' };

/** One of the sounds that a build is made of. */
export interface Layer {
  track: Track;
  /** The sounds of which each stroke takes another; that which is heard first. */
  cues: readonly Cue[];
}

/** An empty build. @param rate Hz */
export function newBuild(id: number, name: string, rate: number): Scene {
  const anchor = BEFORE * rate;
  return { id, name, fps: '24', startFrame: 0, sampleRate: rate, length: anchor, build: { anchor } };
}

/** The layers of a build in their order. A track without a sound is none, and nor is a bus. */
export function layersOf(tracks: readonly Track[], cues: readonly Cue[]): Layer[] {
  const own = new Map<number, Cue[]>();
  for (const cue of cues) own.set(cue.trackId, [...(own.get(cue.trackId) ?? []), cue]);
  return inOrder(tracks).flatMap((track) => {
    const sounds = own.get(track.id);
    if (track.bus || !sounds) return [];
    return [{ track, cues: sounds.sort((a, b) => Number(a.mute) - Number(b.mute) || a.id - b.id) }];
  });
}

/** The changes that make a layer of a sound, its anchor on that of the build. @param ids of its track and its cue */
export function layerOf(build: Scene, sound: Sound, ids: { track: number; cue: number }, order: number): Change[] {
  const name = nameOf(sound);
  const track: Track = { id: ids.track, sceneId: build.id, order, name, gain: 0, mute: false, solo: false };
  return [additionOf('tracks', track), placeCue(ids.cue, build, track.id, sound, anchorOf(build))];
}

/**
 * The changes that make a build of cues of a scene, each a layer as it stands there: the anchor of the first lies on that of the build, and the others as far
 * beside it as they were.
 * @param ids of its tracks and its cues, as many as there are cues
 */
export function buildOfCues(
  id: number,
  name: string,
  cues: readonly Cue[],
  ids: { tracks: readonly number[]; cues: readonly number[] },
  rate: number,
): Change[] {
  const build = newBuild(id, name, rate);
  const sorted = [...cues].sort((a, b) => a.at - b.at || a.id - b.id);
  return [
    additionOf('scenes', build),
    ...sorted.flatMap((cue, order) => {
      const { gain, place, tried: _tried, take: _take, locked: _locked, colour, made, ...plain } = cue;
      const track: Track = {
        ...{ id: ids.tracks[order], sceneId: id, order, name: cue.name, gain, mute: cue.mute, solo: false },
        ...(place === undefined ? {} : { place }),
        ...(colour === undefined ? {} : { colour }),
      };
      const own: Cue = {
        ...{ ...plain, id: ids.cues[order], sceneId: id, trackId: track.id, gain: 0, mute: false },
        at: anchorOf(build) + cue.at - sorted[0].at,
        ...(made === undefined ? {} : { made }),
      };
      return [additionOf('tracks', track), additionOf('cues', own)];
    }),
  ];
}

/** Whether a row is a build. */
export const isBuild = (scene: Pick<Scene, 'build'>): boolean => scene.build !== undefined;

/** The sample on which the anchor of a build lies. */
export const anchorOf = (build: Pick<Scene, 'build'>): number => build.build?.anchor ?? 0;

/** Where what is heard of layers begins and ends: samples from the anchor on; nothing where there are none. */
export function spanOfLayers(layers: readonly Layer[], build: Scene): { start: number; end: number } {
  const spans = layers.map(({ cues: [first] }) => spanOf(first, build.sampleRate));
  if (spans.length === 0) return { start: 0, end: 0 };
  const anchor = anchorOf(build);
  return {
    start: Math.floor(Math.min(...spans.map((s) => s.start))) - anchor,
    end: Math.ceil(Math.max(...spans.map((s) => s.end))) - anchor,
  };
}

const number = (value: number, digits: number) => value.toFixed(digits).replace('-', '−');
/** How keys play a layer, where not as the whole is; for saying it behind what it is. */
export const struckInWords = ({ struck }: Pick<Track, 'struck'>): string[] => [
  ...(struck?.on === 'up' ? ['as the key goes up'] : []),
  ...(struck?.voices === undefined ? [] : [struck.voices === 1 ? 'one at a time' : `${struck.voices} at once`]),
];

const seconds = (value: number) => `${number(value, 2)} s`;

const OCTAVES = ['', 'an octave', 'two octaves', 'three octaves', 'four octaves'];
function pitched(semitones: number): string {
  const octaves = semitones / 12;
  const whole = OCTAVES[Math.abs(octaves)];
  return whole ? `${whole} ${octaves > 0 ? 'up' : 'down'}` : `${number(semitones, 2)} semitones`;
}

/**
 * What is done to the sound of a layer, as one would say it.
 * @param frames of all of its sound, where that is known
 */
export function inWords(cue: Cue, build: Scene, frames = cue.end): string {
  const { speed, pitch, length, direction, channels } = fullShape(cue.shape);
  const semitones = Math.round(1200 * Math.log2(speed)) / 100;
  const late = ((cue.at - anchorOf(build)) / build.sampleRate) * 1000;
  const parts = [
    direction === 'forward' ? '' : direction,
    semitones === 0 ? '' : pitched(semitones),
    pitch === 0 ? '' : `${pitched(pitch)} at the same length`,
    length === 1 ? '' : `${number(length * 100, 0)} % long`,
    cue.start > 0 ? `from ${seconds(cue.start / cue.rate)}` : '',
    cue.end < frames ? `to ${seconds(cue.end / cue.rate)}` : '',
    Math.abs(late) < 0.01
      ? ''
      : `${number(Math.abs(late), late % 1 === 0 ? 0 : 1)} ms ${late > 0 ? 'later' : 'earlier'}`,
    channels === 'all' ? '' : typeof channels === 'number' ? `channel ${channels + 1} alone` : `${channels} channels`,
  ].filter(Boolean);
  const said = parts.join(', ') || 'as it is';
  return said[0].toUpperCase() + said.slice(1);
}

/** Seconds in which what begins or ends in mid-sound rises and falls, so that it does not click. */
const SEAM = 0.002;

/** A cue that plays another part of its sound; its anchor stays on the same instant. @param frames of all of the sound */
export function withPart(cue: Cue, part: { start: number; end: number }, frames: number): Cue {
  const start = Math.max(0, Math.min(frames - 1, Math.round(part.start)));
  const end = Math.max(start + 1, Math.min(frames, Math.round(part.end)));
  return {
    ...{ ...cue, start, end },
    fadeIn: Math.max(cue.fadeIn, start > 0 ? SEAM : 0),
    fadeOut: Math.max(cue.fadeOut, end < frames ? SEAM : 0),
  };
}
