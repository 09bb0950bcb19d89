import type { ByteSource } from './source';
import { fourCC } from './source';

/** The timecode at which a film begins. */
export interface StartTimecode {
  /** Frames from midnight. */
  frame: number;
  /** Frames that a second of timecode counts. */
  nominal: number;
  drop: boolean;
}

interface Box {
  type: string;
  start: number;
  end: number;
}

/** Boxes that are looked through at the most: no film needs as many, and a damaged one could go round for ever. */
const MOST = 10_000;

async function* boxesIn(source: ByteSource, from: number, to: number): AsyncGenerator<Box> {
  let at = from;
  for (let n = 0; n < MOST && at + 8 <= to; n++) {
    const head = await source.read(at, Math.min(16, to - at));
    const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
    const short = view.getUint32(0);
    const long = short === 1 && head.length === 16;
    const size = long ? Number(view.getBigUint64(8)) : short === 0 ? to - at : short;
    if (size < (long ? 16 : 8) || at + size > to) return;
    yield { type: fourCC(head.subarray(4, 8)), start: at + (long ? 16 : 8), end: at + size };
    at += size;
  }
}

async function find(source: ByteSource, within: Box, ...path: string[]): Promise<Box | undefined> {
  let box: Box | undefined = within;
  for (const type of path) {
    const parent: Box | undefined = box;
    box = undefined;
    if (!parent) return undefined;
    for await (const inner of boxesIn(source, parent.start, parent.end))
      if (inner.type === type) {
        box = inner;
        break;
      }
  }
  return box;
}

/**
 * The start timecode of an MP4 or QuickTime film: that of the first sample of its timecode track (`tmcd`; QuickTime File Format,
 * "Timecode Media").
 * @returns undefined where it has none, or one that is damaged
 */
export async function mp4Timecode(source: ByteSource): Promise<StartTimecode | undefined> {
  const whole = { type: '', start: 0, end: source.size };
  const movie = await find(source, whole, 'moov');
  if (!movie) return undefined;
  for await (const track of boxesIn(source, movie.start, movie.end)) {
    if (track.type !== 'trak') continue;
    const table = await find(source, track, 'mdia', 'minf', 'stbl');
    const described = table && (await find(source, table, 'stsd'));
    if (!table || !described || described.end - described.start < 8 + 34) continue;
    // Version and flags, the number of entries; then the first one: size, kind, six bytes reserved, a reference, four reserved.
    const entry = await source.read(described.start + 8, 34);
    if (fourCC(entry.subarray(4, 8)) !== 'tmcd') continue;
    const view = new DataView(entry.buffer, entry.byteOffset, entry.byteLength);
    const [flags, nominal] = [view.getUint32(20), entry[32]];
    const offsets = (await find(source, table, 'stco')) ?? (await find(source, table, 'co64'));
    if (!offsets || nominal === 0) return undefined;
    const wide = offsets.type === 'co64';
    const first = await source.read(offsets.start, Math.min(16, offsets.end - offsets.start));
    if (first.length < (wide ? 16 : 12)) return undefined;
    const list = new DataView(first.buffer, first.byteOffset, first.byteLength);
    const at = wide ? Number(list.getBigUint64(8)) : list.getUint32(8);
    if (list.getUint32(4) === 0 || at + 4 > source.size) return undefined;
    const sample = await source.read(at, 4);
    const frame = new DataView(sample.buffer, sample.byteOffset, 4).getUint32(0);
    return { frame, nominal, drop: (flags & 1) === 1 };
  }
  return undefined;
}
