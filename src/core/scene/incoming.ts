import type { Sound } from '@core/library';
import type { Colour } from '@core/schemas';
import type { ListedCut } from './cuts';
import type { EdlList } from './edl';
import { markerColours } from './otio';
import type { TimelineRead } from './otio-in';
import { takeOf, timeReference, type Cue, type Scene } from './scene';
import { frameRate, frameToSample, sameTimecode, type FrameRate } from './timecode';

/** A clip of a list from elsewhere. Samples of the scene, from its first frame on */
export interface IncomingClip {
  track: string;
  name: string;
  /** The file or address that the list gives; empty where it gives none. */
  file: string;
  start: number;
  end: number;
  /** Where it begins in its file. Seconds */
  from: number;
  mute: boolean;
  /** dB */
  gain: number;
}

/** What a list or timeline from elsewhere holds for a scene. */
export interface Incoming {
  name: string;
  clips: IncomingClip[];
  cuts: ListedCut[];
  markers: { at: number; name: string; colour?: Colour }[];
  /** What was not taken over, in words. */
  problems: string[];
}

/** Names of tracks that a list knows by their channel only. */
const trackName = (channel: number) => `Channel ${channel}`;

/** The nearest of our colours to one of another program's; none for any other. */
function colourOf(name: string): Colour | undefined {
  const said = name.toUpperCase();
  const near: Record<string, string> = { BLUE: 'CYAN', MAGENTA: 'PURPLE', PINK: 'PURPLE', ORANGE: 'RED' };
  const found = Object.entries(markerColours).find(([, theirs]) => theirs === (near[said] ?? said));
  return found?.[0] as Colour | undefined;
}

/** Cuts in the order of time, each place once. */
function inOrder(cuts: ListedCut[]): ListedCut[] {
  const kept = new Map<number, ListedCut>();
  for (const cut of cuts) if (!kept.has(cut.at) || cut.kind === 'dissolve') kept.set(cut.at, cut);
  return [...kept.values()].sort((a, b) => a.at - b.at);
}

/**
 * What an edit list holds for a scene. Its timecodes are those of the scene; one that drops frame numbers where the scene does not, or the
 * other way round, meets it where both say what the scene's first frame says.
 * @param rate that its record times are counted in
 */
export function incomingEdl(list: EdlList, scene: Scene, rate: FrameRate): Incoming {
  const zero = sameTimecode(scene.startFrame, frameRate(scene.fps), rate);
  const at = (frame: number) => frameToSample(frame - zero, rate, scene.sampleRate);
  const clips: IncomingClip[] = [];
  const cuts: ListedCut[] = [];
  for (const e of list.events) {
    if (e.picture && e.recordOut > e.recordIn)
      cuts.push({
        at: at(e.manner === 'dissolve' ? e.recordIn + Math.floor(e.frames / 2) : e.recordIn),
        kind: e.manner === 'dissolve' ? 'dissolve' : 'cut',
        name: e.name || e.reel,
      });
    // Black has nothing to be heard, and an event of no length is where a dissolve begins.
    if (/^BL(ACK)?$/i.test(e.reel) || e.recordOut === e.recordIn) continue;
    for (const channel of e.channels)
      clips.push({
        ...{
          track: trackName(channel),
          name: e.name || (e.file ? '' : e.reel),
          file: e.file,
          start: at(e.recordIn),
          end: at(e.recordOut),
        },
        ...{ from: (e.sourceIn * rate.den) / rate.num, mute: false, gain: 0 },
      });
  }
  const markers = list.markers.map((m) => ({ at: at(m.at), name: m.name, colour: colourOf(m.colour) }));
  return { name: list.title, clips, cuts: inOrder(cuts), markers, problems: list.problems };
}

/** The address of a file as a path, where it is one. */
function pathOf(url: string): string {
  try {
    return decodeURIComponent(url.replace(/^file:\/\/(localhost)?/, ''));
  } catch {
    return url;
  }
}

/** What a timeline holds for a scene. @param read at the scene's sample rate */
export function incomingOtio(read: TimelineRead, scene: Scene): Incoming {
  const zero = read.start === undefined ? 0 : read.start - Number(timeReference(scene));
  const clips = read.clips
    .filter((c) => c.kind === 'sound')
    .map((c) => ({
      ...{ track: c.track, name: c.name, file: pathOf(c.url), start: c.start + zero, end: c.start + c.length + zero },
      ...{ from: c.sourceStart, mute: c.mute, gain: c.gain ?? 0 },
    }));
  const cuts = [
    ...read.clips.flatMap((c) =>
      c.kind === 'picture' ? [{ at: c.start + zero, kind: 'cut' as const, name: c.name }] : [],
    ),
    ...read.dissolves.map((at) => ({ at: at + zero, kind: 'dissolve' as const, name: '' })),
  ];
  const markers = read.markers.map((m) => ({ at: m.at + zero, name: m.name, colour: colourOf(m.colour) }));
  return { name: read.name, clips, cuts: inOrder(cuts), markers, problems: read.problems };
}

/** The same, moved. @param by samples */
export function movedBy(list: Incoming, by: number): Incoming {
  const move = <T extends { at: number }>(all: readonly T[]) => all.map((x) => ({ ...x, at: x.at + by }));
  const clips = list.clips.map((c) => ({ ...c, start: c.start + by, end: c.end + by }));
  return { ...list, clips, cuts: move(list.cuts), markers: move(list.markers) };
}

/** Where the first of it lies; 0 where there is nothing. Samples */
export function beginningOf({ clips, cuts, markers }: Incoming): number {
  const all = [...clips.map((c) => c.start), ...cuts.map((c) => c.at), ...markers.map((m) => m.at)];
  return all.length === 0 ? 0 : all.reduce((least, at) => Math.min(least, at));
}

/** The name of the file of a clip, without folder and ending; of one that gives no file, its own. Lower case */
export function fileStem({ file, name }: Pick<IncomingClip, 'file' | 'name'>): string {
  const last = (file || name).split(/[\\/]/).at(-1)!;
  return last.replace(/\.[A-Za-z0-9]{2,5}$/, '').toLowerCase();
}

/**
 * The sound that a clip means: of those whose file has its name, the one whose path ends most like the clip's, then one that is long enough
 * for it, then the first.
 * @param named sounds whose files have the name that {@link fileStem} tells
 */
export function soundFor(clip: IncomingClip, named: readonly Sound[]): Sound | undefined {
  const wanted = clip.file.split(/[\\/]/).reverse();
  const alike = ({ path }: Sound) => {
    const own = path.split('/').reverse();
    const other = own.findIndex((part, i) => part.toLowerCase() !== wanted[i]?.toLowerCase());
    return other < 0 ? own.length : other;
  };
  const needed = clip.from + (clip.end - clip.start) / 48_000;
  const holds = ({ format }: Sound) => format.frames / format.rate + 0.05 >= needed;
  return [...named].sort((a, b) => alike(b) - alike(a) || Number(holds(b)) - Number(holds(a)))[0];
}

/**
 * A clip as a cue: what it plays and where that lies are those of the clip, the rest those of the sound. The sound's anchor is kept where the clip
 * plays it; else it is where the clip begins.
 * @returns undefined where the file has no audio where the clip begins
 */
export function cueOfClip(
  clip: IncomingClip,
  sound: Sound,
  own: Pick<Cue, 'id' | 'sceneId' | 'trackId' | 'made'>,
  sampleRate = 48_000,
): Cue | undefined {
  const { rate, frames } = sound.format;
  const start = Math.round(clip.from * rate);
  const end = Math.min(frames, start + Math.round(((clip.end - clip.start) * rate) / sampleRate));
  if (end <= start || start < 0) return undefined;
  const take = takeOf(sound);
  const anchor = take.anchor >= start && take.anchor < end ? take.anchor : start;
  const whole = start === 0 && end === frames;
  return {
    ...take,
    ...own,
    ...{ name: clip.name || take.name, anchor, start, end, gain: clip.gain, mute: clip.mute, shape: undefined },
    at: Math.round(clip.start + ((anchor - start) * sampleRate) / rate),
    fadeIn: whole ? take.fadeIn : start > 0 ? 0.002 : 0,
    fadeOut: whole ? take.fadeOut : end < frames ? 0.002 : 0,
  };
}
