import type { Track } from './lines';
import type { Cue, Scene } from './scene';
import { spanOf } from './scene';
import type { FrameRate } from './timecode';
import { frameRate, frameRates, fromTimecode, sampleToFrame, toTimecode } from './timecode';

/** One event of a CMX 3600 edit list; times in frames from midnight. */
export interface EdlEvent {
  number: number;
  reel: string;
  /** The first of its audio channels, from 1; 0 for picture alone. */
  channel: number;
  channels: number[];
  /** Whether it is an event of the picture. */
  picture: boolean;
  manner: 'cut' | 'dissolve' | 'other';
  /** How long its transition takes; frames */
  frames: number;
  sourceIn: number;
  sourceOut: number;
  recordIn: number;
  recordOut: number;
  name: string;
  file: string;
}

/** CMX 3600 knows four audio channels; a scene with more tracks becomes several lists. */
const CHANNELS = 4;

/** An edit list holds one line of ASCII per remark. */
function plain(text: string): string {
  return text
    .normalize('NFKD')
    .replace(/[^\x20-\x7e]+/g, '')
    .trim();
}

function eventLines(e: EdlEvent, rate: FrameRate): string[] {
  const times = [e.sourceIn, e.sourceOut, e.recordIn, e.recordOut].map((f) => toTimecode(f, rate)).join(' ');
  const channel = ['A   ', 'A2  ', 'NONE', 'NONE'][e.channel - 1];
  return [
    `${String(e.number).padStart(3, '0')}  ${e.reel.padEnd(8)} ${channel}  C        ${times}`,
    ...(e.channel > 2 ? [`AUD  ${e.channel}`] : []),
    `* FROM CLIP NAME: ${plain(e.name)}`,
    `* SOURCE FILE: ${plain(e.file)}`,
  ];
}

/**
 * Writes CMX 3600 edit lists: one for each four tracks, one event per cue. Times are whole frames; an event starts on the
 * frame in which the cue starts, and lasts at least one.
 * @param all tracks in their order; @param fileOf the path of a cue's sound
 * @returns for each list the numbers of its tracks (from 1) and its text
 */
export function writeEdls(
  scene: Scene,
  all: readonly Track[],
  cues: readonly Cue[],
  fileOf: (cue: Cue) => string,
): { tracks: [number, number]; text: string }[] {
  const rate = frameRate(scene.fps);
  const lists: { tracks: [number, number]; text: string }[] = [];
  for (let first = 0; first < all.length; first += CHANNELS) {
    const tracks = all.slice(first, first + CHANNELS);
    const events = cues
      .flatMap((cue) => {
        const channel = tracks.findIndex((t) => t.id === cue.trackId) + 1;
        if (channel === 0) return [];
        const span = spanOf(cue, scene.sampleRate);
        const recordIn = scene.startFrame + Math.max(0, sampleToFrame(Math.ceil(span.start), rate, scene.sampleRate));
        const recordOut = Math.max(
          recordIn + 1,
          scene.startFrame + sampleToFrame(Math.ceil(span.end), rate, scene.sampleRate),
        );
        const sourceIn = Math.floor((cue.start * rate.num) / (cue.rate * rate.den));
        return [
          {
            number: 0,
            reel: 'AX',
            ...{ channel, channels: [channel], picture: false, manner: 'cut' as const, frames: 0 },
            sourceIn,
            sourceOut: sourceIn + recordOut - recordIn,
            recordIn,
            recordOut,
            name: cue.name,
            file: fileOf(cue),
          },
        ];
      })
      .sort((a, b) => a.recordIn - b.recordIn || a.channel - b.channel)
      .map((event, i) => ({ ...event, number: i + 1 }));
    const head = [`TITLE: ${plain(scene.name)}`, `FCM: ${rate.drop ? 'DROP FRAME' : 'NON-DROP FRAME'}`, ''];
    const text = [...head, ...events.flatMap((e) => eventLines(e, rate)), ''].join('\r\n');
    lists.push({ tracks: [first + 1, first + tracks.length], text });
  }
  return lists;
}

/** Four timecodes at the end of a line: source in and out, record in and out. */
const TIMES =
  /^(\d{1,6})\s+(.+?)\s+(\d{1,2}[:;.]\d\d[:;.]\d\d[:;.]\d\d(?:\s+\d{1,2}[:;.]\d\d[:;.]\d\d[:;.]\d\d){3})\s*$/;
/** Reel, channels, and how the event begins: a cut, a dissolve, a wipe or a key, with its frames. */
const MANNER = /^(\S+)\s+(\S+)\s+(C|D|W\d{3}|K(?:\s*[BO])?)(?:\s+(\d{1,3}))?$/;

/** The audio channels and the picture that a channel column speaks of: `V`, `A2`, `AA/V`, `B`, `NONE`. */
function channelsOf(text: string): { picture: boolean; audio: number[] } {
  const said = text.toUpperCase();
  if (said === 'B') return { picture: true, audio: [1] };
  if (said === 'NONE') return { picture: false, audio: [] };
  const audio = said.includes('AA') ? [1, 2] : [...said.matchAll(/A(\d?)/g)].map((m) => Number(m[1] || 1));
  return { picture: said.includes('V'), audio };
}

/** Drop or not, by the separators of a timecode where they tell, else by what was said last. */
function countedBy(text: string, rate: FrameRate, drop: boolean): FrameRate {
  const dropping = frameRates.find((r) => r.drop && r.num === rate.num && r.den === rate.den);
  const plain = frameRates.find((r) => !r.drop && r.num === rate.num && r.den === rate.den)!;
  return dropping && (drop || text.includes(';')) ? dropping : plain;
}

/** What an edit list says; `problems` are the lines that say something else, in words. */
export interface EdlList {
  title: string;
  events: EdlEvent[];
  markers: { at: number; name: string; colour: string }[];
  problems: string[];
}

/**
 * Reads a CMX 3600 edit list, those of other hands included: drop and non-drop mixed, black, dissolves, wipes, comments, any line end.
 * Record times count as the list says first, source times as it said last (`FCM`), or as their own separators say. A line that is
 * not understood keeps no other one out.
 * @param rate of the picture; whether it drops frame numbers is the list's own to say
 * @throws Error where there is no event at all
 */
export function readEdl(text: string, rate: FrameRate): EdlList {
  const list: EdlList = { title: '', events: [], markers: [], problems: [] };
  let said: boolean | undefined;
  let record: boolean | undefined;
  const note = (line: number, what: string) => void list.problems.push(`Line ${line}: ${what}`);
  text.split(/\r\n?|\n/).forEach((line, i) => {
    const fcm = /^FCM:\s*(NON[- ]?)?DROP/i.exec(line);
    if (fcm) {
      said = fcm[1] === undefined;
      record ??= said;
      return;
    }
    const last = list.events.at(-1);
    const [, number, manner, times] = TIMES.exec(line) ?? [];
    if (times !== undefined) {
      const [, reel, channel, how, frames] = MANNER.exec(manner) ?? [];
      if (reel === undefined)
        return note(i + 1, `an event that is written in an unknown way: ${line.trim().slice(0, 120)}`);
      try {
        const [sourceIn, sourceOut, recordIn, recordOut] = times
          .split(/\s+/)
          .map((t, n) => fromTimecode(t, countedBy(t, rate, (n < 2 ? said : record) ?? rate.drop)));
        const { picture, audio } = channelsOf(channel);
        if (recordOut < recordIn) return note(i + 1, 'it ends before it begins');
        list.events.push({
          ...{ number: Number(number), reel, channel: audio[0] ?? 0, channels: audio, picture },
          ...{ sourceIn, sourceOut, recordIn, recordOut, name: '', file: '' },
          manner: how === 'C' ? 'cut' : how === 'D' ? 'dissolve' : 'other',
          frames: Number(frames ?? 0),
        });
        if (how !== 'C' && how !== 'D') note(i + 1, `a ${how.startsWith('W') ? 'wipe' : 'key'} is taken over as a cut`);
      } catch (error) {
        note(i + 1, (error as Error).message);
      }
      return;
    }
    const [, key, value] = /^\*\s*([A-Z][A-Z ]*?)\s*:\s*(.*?)\s*$/.exec(line) ?? [];
    const [, first, second] = /^AUD\s+(\d)(?:\s+(\d))?/.exec(line) ?? [];
    const speed = /^M2\s+\S+\s+(-?[\d.]+)/.exec(line)?.[1];
    const place = key === 'LOC' ? /^(\S+)\s+(\S+)\s*(.*)$/.exec(value) : undefined;
    if (/^TITLE:/i.test(line)) list.title = line.slice(6).trim();
    else if (place) {
      try {
        const at = fromTimecode(place[1], countedBy(place[1], rate, record ?? rate.drop));
        list.markers.push({ at, colour: place[2], name: place[3] || place[2] });
      } catch (error) {
        note(i + 1, (error as Error).message);
      }
    } else if (last && first !== undefined) {
      last.channels = [
        ...new Set([...last.channels, ...[first, second].flatMap((c) => (c === undefined ? [] : Number(c)))]),
      ];
      last.channel = last.channels[0];
    } else if (last && key === 'FROM CLIP NAME') last.name = value;
    // Of a dissolve, the event that comes is the one it goes to.
    else if (last && key === 'TO CLIP NAME') last.name = value;
    else if (last && (key === 'SOURCE FILE' || key === 'FROM FILE')) last.file = value;
    else if (last && speed !== undefined) {
      if (Math.abs(Number(speed) - rate.num / rate.den) > 0.01)
        note(i + 1, `event ${last.number} is played at ${Number(speed)} frames a second; it comes in at its own speed`);
    } else if (/^\d{1,6}\s+\S/.test(line))
      note(i + 1, `an event that is written in an unknown way: ${line.trim().slice(0, 120)}`);
  });
  if (list.events.length === 0)
    throw new Error(
      list.problems.length > 0
        ? `it is no edit list that can be read. ${list.problems[0]}`
        : 'it holds no event of a CMX 3600 edit list',
    );
  return list;
}
