import type { Track } from './lines';
import type { Cue, Scene } from './scene';
import { spanOf } from './scene';
import type { FrameRate } from './timecode';
import { frameRate, fromTimecode, sampleToFrame, toTimecode } from './timecode';

/** One event of a CMX 3600 edit list; times in frames from midnight. */
export interface EdlEvent {
  number: number;
  reel: string;
  /** 1 to 4 */
  channel: number;
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
            channel,
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

/**
 * Reads the audio events of a CMX 3600 edit list.
 * @throws Error that names the line which is no event
 */
export function readEdl(text: string, rate: FrameRate): EdlEvent[] {
  const events: EdlEvent[] = [];
  text.split(/\r?\n/).forEach((line, i) => {
    const event = /^(\d{3,6})\s+(\S+)\s+(\S+)\s+C\s+(\S+)\s+(\S+)\s+(\S+)\s+(\S+)\s*$/.exec(line);
    if (event) {
      const [sourceIn, sourceOut, recordIn, recordOut] = event.slice(4).map((t) => fromTimecode(t, rate));
      const channel = event[3] === 'A2' ? 2 : 1;
      events.push({
        number: Number(event[1]),
        reel: event[2],
        channel,
        sourceIn,
        sourceOut,
        recordIn,
        recordOut,
        name: '',
        file: '',
      });
      return;
    }
    const last = events[events.length - 1];
    const [, key, value] = /^\*\s*([A-Z ]+):\s*(.*)$/.exec(line) ?? [];
    const aud = /^AUD\s+(\d)/.exec(line);
    if (last && key === 'FROM CLIP NAME') last.name = value;
    else if (last && key === 'SOURCE FILE') last.file = value;
    else if (last && aud) last.channel = Number(aud[1]);
    else if (/^\d{3}\s/.test(line)) throw new Error(`line ${i + 1} of the edit list is no event: ${line.trim()}`);
  });
  return events;
}
