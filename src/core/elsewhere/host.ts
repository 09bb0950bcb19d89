import { fullShape, LENGTHS } from '@core/audio';
import type { Sound } from '@core/library';
import type { HostPiece, HostState } from '@core/schemas';
import {
  cueFilesOf,
  frameRate,
  frameToSample,
  spanOf,
  takeOf,
  type Cue,
  type LineEffect,
  type Scene,
  type Track,
} from '@core/scene';

/**
 * What a sound becomes on its way to a session host: a file at that one’s rate, and the piece of it that is placed. Where the
 * file has more than the piece, its edges can be pulled out there.
 */

/** How a sound becomes as long as a range: cut where it is longer, repeated with joined seams, or stretched at the same pitch. */
export const fits = ['as it is', 'cut', 'repeated', 'stretched'] as const;
export type Fit = (typeof fits)[number];

/** How sounds are sent. */
export interface SendHow {
  /** Several of them: one behind another, or each on a track of its own. */
  together: 'behind' | 'tracks';
  /** What lands on the cursor. A range is begun by the sound’s beginning. */
  lands: 'anchor' | 'start';
  fit: Fit;
  /** Seconds of the sound on either side that can be pulled out. */
  handles: number;
  /** Gain and fades as the host’s own, or within the file, which then has no handles. */
  edges: 'kept' | 'rendered';
}

/** A file that is to be rendered, and the piece that it becomes. */
export interface HostPart {
  scene: Scene;
  tracks: Track[];
  cues: Cue[];
  effects: LineEffect[];
  /** What of the scene the file holds, its samples. */
  part: { start: number; end: number };
  mono: boolean;
  piece: Omit<HostPiece, 'file'>;
}

/** A sound cannot be sent as it was asked for; says why. */
export class SendFault extends Error {
  override name = 'SendFault';
}

/** Seconds over which a sound that is repeated flows into itself at the most, and how often it is repeated at the most. */
const [SEAM, REPEATS] = [0.25, 2000];
const LINE = 1;

const lineOf = (): Track => ({ id: LINE, sceneId: 0, order: 0, name: 'Sent', gain: 0, mute: false, solo: false });

/** Where a cue is heard, whole samples. */
function spanIn(cue: Cue, rate: number): { start: number; end: number } {
  const { start, end } = spanOf(cue, rate);
  return { start: Math.round(start), end: Math.max(Math.round(start) + 1, Math.round(end)) };
}

/** Cues of a sound that flows into itself until it is so many samples long. @throws SendFault */
function repeated(cue: Cue, rate: number, length: number): Cue[] {
  const own = spanIn(cue, rate);
  const once = own.end - own.start;
  const seam = Math.round(Math.min(SEAM * rate, once / 4));
  const each = once - seam;
  const count = Math.max(1, Math.ceil((length - seam) / each));
  if (count > REPEATS) throw new SendFault(`${cue.name} is too short to be repeated for so long.`);
  return Array.from({ length: count }, (_, i) => ({
    ...cue,
    id: i + 1,
    at: cue.at + i * each,
    fadeIn: i === 0 ? cue.fadeIn : seam / rate,
    fadeOut: i === count - 1 ? cue.fadeOut : seam / rate,
  }));
}

/** A cue made longer or shorter at the same pitch. @throws SendFault where that is more than sounds can be stretched */
function stretched(cue: Cue, rate: number, length: number): Cue {
  const { start, end } = spanOf(cue, rate);
  const by = (fullShape(cue.shape).length * length) / (end - start);
  if (by < LENGTHS.least || by > LENGTHS.most)
    throw new SendFault(
      `${cue.name} would have to be ${by.toFixed(1)} times as long, and is stretched at most to ${LENGTHS.most} times and no shorter than an eighth.`,
    );
  return { ...cue, shape: { ...cue.shape, length: by } };
}

/**
 * A sound on its way to a host, as it is taken: with its region and shape.
 * @param range samples that it has to fill; none where it stays as long as it is
 * @param at sample of the host on which it lands
 * @throws SendFault
 */
function partOf(
  sound: Sound,
  { fit, handles, edges, lands }: SendHow,
  host: Pick<HostState, 'rate'>,
  at: number,
  range?: number,
): HostPart {
  const { rate } = host;
  const taken: Cue = { id: 1, sceneId: 0, trackId: LINE, at: 0, gain: 0, mute: false, ...takeOf(sound) };
  const isFilled = range !== undefined && fit !== 'as it is';
  const shaped = isFilled && fit === 'stretched' ? stretched(taken, rate, range) : taken;
  const isKept = edges === 'kept';
  const gain = fullShape(shaped.shape).gain;
  const bare: Cue = isKept
    ? { ...shaped, ...(shaped.shape ? { shape: { ...shaped.shape, gain: 0 } } : {}), fadeIn: 0, fadeOut: 0 }
    : shaped;
  const own = spanIn(shaped, rate);
  let cues: Cue[] = [bare];
  let end = isFilled && fit === 'stretched' ? own.start + range : own.end;
  if (isFilled && fit === 'repeated') {
    // A handle behind it is more of the same.
    cues = repeated(bare, rate, range + (isKept ? Math.round(handles * rate) : 0));
    end = own.start + range;
  } else if (isKept) {
    const more = Math.round(handles * shaped.rate);
    cues = [{ ...bare, start: Math.max(0, bare.start - more), end: Math.min(sound.format.frames, bare.end + more) }];
  }
  if (isFilled && fit === 'cut') end = Math.min(end, own.start + range);
  const isCut = end < own.end || (fit === 'repeated' && isFilled);
  const spans = cues.map((cue) => spanIn(cue, rate));
  const first = Math.min(own.start, ...spans.map((s) => s.start));
  const last = isKept ? Math.max(end, ...spans.map((s) => s.end)) : end;
  // A scene begins with sample 0.
  cues = cues.map((cue) => ({ ...cue, at: cue.at - first }));
  const length = end - own.start;
  const fade = (seconds: number) => Math.min(length >> 1, Math.round(seconds * rate));
  const scene: Scene = { id: 0, name: shaped.name, fps: '24', startFrame: 0, sampleRate: rate, length: 0 };
  const { channels } = sound.format;
  return {
    ...{ scene, tracks: [lineOf()], cues, effects: [], part: { start: 0, end: last - first } },
    mono: channels === 1,
    piece: {
      ...{ lane: 0, name: shaped.name, length, from: own.start - first, frames: last - first },
      at: Math.max(0, range === undefined && lands === 'anchor' ? at + own.start : at),
      gain: isKept ? gain : 0,
      // What is cut off in the middle ends without a click.
      ...(isKept
        ? { fadeIn: fade(shaped.fadeIn), fadeOut: fade(isCut ? Math.max(0.005, shaped.fadeOut) : shaped.fadeOut) }
        : { fadeIn: 0, fadeOut: isCut ? fade(0.005) : 0 }),
    },
  };
}

/**
 * Sounds on their way to a host, at its cursor or over its range.
 * @throws SendFault that says which one cannot be sent so
 */
export function partsOf(
  sounds: readonly Sound[],
  how: SendHow,
  host: Pick<HostState, 'rate' | 'cursor' | 'range'>,
): HostPart[] {
  const { range, cursor } = host;
  const length = range && range.end - range.start;
  let at = range?.start ?? cursor;
  return sounds.map((sound, i) => {
    const part = partOf(sound, how, host, at, length);
    if (how.together === 'tracks') part.piece.lane = i;
    else {
      // The first one’s anchor, or beginning, lands; the others follow each other without a gap.
      if (i > 0) part.piece.at = at;
      at = part.piece.at + part.piece.length;
    }
    return part;
  });
}

/** The sample of a host on which a scene begins, by the timecode of both. */
export function startOnHost(
  scene: Pick<Scene, 'fps' | 'startFrame'>,
  host: Pick<HostState, 'fps' | 'startFrame' | 'rate'>,
): number {
  const of = ({ fps, startFrame }: Pick<Scene, 'fps' | 'startFrame'>) =>
    frameToSample(startFrame, frameRate(fps), host.rate);
  return Math.round(of(scene) - of(host));
}

/**
 * The cues of a scene on their way to a host, each through its track: where they stand by timecode, on tracks of their own name, with colours.
 * @param handle seconds that can be pulled out on either side
 * @param start see {@link startOnHost}
 * @param frames how many a sound has, by id
 */
export function cuePartsOf(
  scene: Scene,
  tracks: readonly Track[],
  cues: readonly Cue[],
  effects: readonly LineEffect[],
  host: Pick<HostState, 'rate'>,
  handle: number,
  start: number,
  frames: (soundId: number) => number | undefined,
): { tracks: string[]; parts: HostPart[] } {
  const own = new Map(cues.map((c) => [c.id, c]));
  const lanes = tracks.filter((t) => !t.bus && cues.some((c) => c.trackId === t.id));
  const ratio = host.rate / scene.sampleRate;
  const there = (sample: number) => Math.round(sample * ratio);
  const parts = cueFilesOf(tracks, cues, effects, scene.sampleRate, handle, frames).map(
    ({ tracks: lines, cues: [cue], part }): HostPart => {
      const kept = own.get(cue.id)!;
      const track = tracks.find((t) => t.id === kept.trackId)!;
      const span = spanOf(kept, scene.sampleRate);
      const begin = Math.max(part!.start, Math.round(span.start));
      const total = Math.floor((part!.end - part!.start) * ratio);
      const from = Math.min(total - 1, there(begin - part!.start));
      const length = Math.max(1, Math.min(total - from, there(Math.round(span.end) - begin)));
      const fade = (seconds: number) => (handle > 0 ? Math.min(length >> 1, Math.round(seconds * host.rate)) : 0);
      const colour = kept.colour ?? track.colour;
      return {
        ...{ scene, tracks: lines, cues: [cue], effects: [...effects], part: part!, mono: false },
        piece: {
          ...{
            lane: lanes.indexOf(track),
            name: kept.name,
            at: Math.max(0, start + there(begin)),
            length,
            from,
            frames: total,
          },
          ...{ gain: 0, fadeIn: fade(kept.fadeIn), fadeOut: fade(kept.fadeOut) },
          ...(colour ? { colour } : {}),
        },
      };
    },
  );
  return { tracks: lanes.map((t) => t.name), parts };
}
