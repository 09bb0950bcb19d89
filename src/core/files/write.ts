import { readChunk, walkChunks } from './chunks';
import type { AudioFormat, CuePoint } from './format';
import type { IxmlTree } from './xml';
import { writeIxml } from './xml';
import { joined, viewOf, type ByteSource } from './source';
import { encodeFixed, encodeText } from './text';
import { WaveFormat } from './wav';

/** The fields of a `bext` chunk that we write (EBU Tech 3285, version 1). */
export interface Bext {
  Description?: string;
  Originator?: string;
  OriginatorReference?: string;
  /** `yyyy-mm-dd` */
  OriginationDate?: string;
  /** `hh:mm:ss` */
  OriginationTime?: string;
  /** First sample since midnight, in samples. */
  TimeReference?: bigint;
  CodingHistory?: string;
}

/** Labels to put into a WAV file beside its audio. */
export interface WavLabels {
  bext?: Bext;
  ixml?: IxmlTree;
  /** INFO texts by their four-character id. */
  info?: Record<string, string>;
  cues?: CuePoint[];
  loops?: { start: number; end: number }[];
  /** Further chunks, content as it is. */
  chunks?: { id: string; bytes: Uint8Array }[];
}

/** How samples are stored. */
export interface StoredAs {
  rate: number;
  bits: 16 | 24 | 32;
  float?: boolean;
  /** Which loudspeaker each of more than two channels is for (`dwChannelMask`); four are front and back when absent, others anywhere. */
  speakers?: number;
}

function chunk(id: string, content: Uint8Array, littleEndian = true): Uint8Array {
  const bytes = new Uint8Array(8 + content.length + (content.length % 2));
  bytes.set(encodeFixed(id, 4));
  viewOf(bytes).setUint32(4, content.length, littleEndian);
  bytes.set(content, 8);
  return bytes;
}

/** Interleaves channels into integer or float bytes. Integers round to nearest and clip at full scale. */
export function encodePcm(planes: Float32Array[], as: Omit<StoredAs, 'rate'>, littleEndian = true): Uint8Array {
  const frames = planes[0].length;
  const width = as.bits / 8;
  const step = planes.length * width;
  const bytes = new Uint8Array(frames * step);
  const view = viewOf(bytes);
  const full = 2 ** (as.bits - 1);
  planes.forEach((plane, c) => {
    let at = c * width;
    for (let i = 0; i < frames; i++, at += step) {
      if (as.float) {
        view.setFloat32(at, plane[i], littleEndian);
        continue;
      }
      const value = Math.max(-full, Math.min(full - 1, Math.round(plane[i] * full)));
      for (let b = 0; b < width; b++) bytes[littleEndian ? at + b : at + width - 1 - b] = value >> (8 * b);
    }
  });
  return bytes;
}

function fmtChunk(channels: number, as: StoredAs): Uint8Array {
  const extensible = channels > 2;
  const bytes = new Uint8Array(extensible ? 40 : 16);
  const view = viewOf(bytes);
  const tag = as.float ? WaveFormat.IEEE_FLOAT : WaveFormat.PCM;
  view.setUint16(0, extensible ? WaveFormat.EXTENSIBLE : tag, true);
  view.setUint16(2, channels, true);
  view.setUint32(4, as.rate, true);
  view.setUint32(8, (as.rate * channels * as.bits) / 8, true);
  view.setUint16(12, (channels * as.bits) / 8, true);
  view.setUint16(14, as.bits, true);
  if (extensible) {
    view.setUint16(16, 22, true);
    view.setUint16(18, as.bits, true);
    view.setUint32(20, as.speakers ?? (channels === 4 ? 0x33 : 0), true);
    view.setUint16(24, tag, true);
    // The tail that all KSDATAFORMAT_SUBTYPE ids share.
    bytes.set([0, 0, 0, 0, 0x10, 0, 0x80, 0, 0, 0xaa, 0, 0x38, 0x9b, 0x71], 26);
  }
  return chunk('fmt ', bytes);
}

function bextChunk(b: Bext): Uint8Array {
  const fixed = new Uint8Array(602);
  fixed.set(encodeFixed(b.Description ?? '', 256), 0);
  fixed.set(encodeFixed(b.Originator ?? '', 32), 256);
  fixed.set(encodeFixed(b.OriginatorReference ?? '', 32), 288);
  fixed.set(encodeFixed(b.OriginationDate ?? '', 10), 320);
  fixed.set(encodeFixed(b.OriginationTime ?? '', 8), 330);
  const view = viewOf(fixed);
  view.setBigUint64(338, b.TimeReference ?? 0n, true);
  view.setUint16(346, 1, true);
  return chunk('bext', joined([fixed, encodeText(b.CodingHistory ?? '')]));
}

function infoChunk(info: Record<string, string>): Uint8Array {
  const parts = Object.entries(info).map(([id, text]) => chunk(id, joined([encodeText(text), new Uint8Array(1)])));
  return chunk('LIST', joined([encodeText('INFO'), ...parts]));
}

function cueChunks(cues: CuePoint[]): Uint8Array[] {
  const points = new Uint8Array(4 + cues.length * 24);
  const view = viewOf(points);
  view.setUint32(0, cues.length, true);
  const notes: Uint8Array[] = [encodeText('adtl')];
  cues.forEach((cue, i) => {
    const at = 4 + i * 24;
    view.setUint32(at, i + 1, true);
    view.setUint32(at + 4, cue.frame, true);
    points.set(encodeFixed('data', 4), at + 8);
    view.setUint32(at + 20, cue.frame, true);
    const id = new Uint8Array(4);
    viewOf(id).setUint32(0, i + 1, true);
    notes.push(chunk('labl', joined([id, encodeText(cue.label), new Uint8Array(1)])));
    if (cue.length > 0) {
      const region = new Uint8Array(20);
      region.set(id);
      viewOf(region).setUint32(4, cue.length, true);
      region.set(encodeFixed('rgn ', 4), 8);
      notes.push(chunk('ltxt', region));
    }
  });
  return [chunk('cue ', points), chunk('LIST', joined(notes))];
}

function smplChunk(loops: { start: number; end: number }[], rate: number): Uint8Array {
  const bytes = new Uint8Array(36 + loops.length * 24);
  const view = viewOf(bytes);
  view.setUint32(8, Math.round(1e9 / rate), true);
  view.setUint32(12, 60, true);
  view.setUint32(28, loops.length, true);
  loops.forEach((loop, i) => {
    view.setUint32(36 + i * 24, i, true);
    view.setUint32(36 + i * 24 + 8, loop.start, true);
    view.setUint32(36 + i * 24 + 12, loop.end, true);
  });
  return chunk('smpl', bytes);
}

/** What a size of RIFF holds at the most; in RF64 it says that the true one stands in `ds64`. Bytes */
const LONGEST = 0xffffffff;

/**
 * What lies before and behind the audio of a WAV file (BWF when it has a `bext`).
 * Past 4 GiB it is RF64 (EBU Tech 3306). @param format a whole `fmt ` chunk; @param bytes of the audio
 */
export function aroundAudio(
  format: Uint8Array,
  bytes: number,
  labels: WavLabels,
): { head: Uint8Array; tail: Uint8Array } {
  const behind: Uint8Array[] = bytes % 2 === 1 ? [new Uint8Array(1)] : [];
  if (labels.cues?.length) behind.push(...cueChunks(labels.cues));
  if (labels.loops?.length) behind.push(smplChunk(labels.loops, viewOf(format).getUint32(12, true)));
  if (labels.info) behind.push(infoChunk(labels.info));
  if (labels.ixml) behind.push(chunk('iXML', encodeText(writeIxml(labels.ixml))));
  for (const own of labels.chunks ?? []) behind.push(chunk(own.id, own.bytes));
  const tail = joined(behind);
  const bext = labels.bext ? bextChunk(labels.bext) : new Uint8Array(0);
  const headOf = (...long: Uint8Array[]) =>
    joined([encodeText('RIFF\0\0\0\0WAVE'), ...long, bext, format, encodeText('data\0\0\0\0')]);
  let head = headOf();
  const size = head.length + bytes + tail.length - 8;
  const isLong = size > LONGEST;
  if (isLong) {
    const sizes = new Uint8Array(28);
    const view = viewOf(sizes);
    view.setBigUint64(0, BigInt(size) + 36n, true);
    view.setBigUint64(8, BigInt(bytes), true);
    view.setBigUint64(16, BigInt(bytes / viewOf(format).getUint16(20, true)), true);
    head = headOf(chunk('ds64', sizes));
    head.set(encodeText('RF64'));
  }
  viewOf(head).setUint32(4, isLong ? LONGEST : size, true);
  viewOf(head).setUint32(head.length - 4, isLong ? LONGEST : bytes, true);
  return { head, tail };
}

/** What lies before and behind samples that are written one part after another; see {@link aroundAudio}. @param bytes of all of them */
export const aroundSamples = (channels: number, as: StoredAs, bytes: number, labels: WavLabels) =>
  aroundAudio(fmtChunk(channels, as), bytes, labels);

/**
 * Makes a whole WAV file (BWF when it has a `bext`).
 * @param planes one array per channel, full scale -1..1
 */
export function writeWav(planes: Float32Array[], as: StoredAs, labels: WavLabels = {}): Uint8Array {
  const audio = encodePcm(planes, as);
  const { head, tail } = aroundAudio(fmtChunk(planes.length, as), audio.length, labels);
  return joined([head, audio, tail]);
}

/** Where the audio of a part of a WAV file lies in it, and what a file of its own has around it. */
export interface WavPart {
  head: Uint8Array;
  from: number;
  length: number;
  tail: Uint8Array;
}

/**
 * A part of a WAV file as a file of its own: the same samples to the bit, at the same rate and depth.
 * @param format of the part; see `excerptFormat`
 * @returns undefined where the source is no WAV file of plain samples, which has to be decoded then
 */
export async function wavPart(
  source: ByteSource,
  format: AudioFormat,
  labels: WavLabels,
): Promise<WavPart | undefined> {
  const { container, encoding, dataOffset, frames, blockAlign } = format;
  if ((container !== 'WAV' && container !== 'RF64') || encoding === 'coded') return undefined;
  const chunks = await walkChunks(source, 12, true, []);
  const own = chunks.find((c) => c.id === 'fmt ');
  if (!own) return undefined;
  const length = frames * blockAlign;
  return { ...aroundAudio(chunk('fmt ', await readChunk(source, own)), length, labels), from: dataOffset, length };
}

/** The 80-bit extended number of a whole sample rate. */
function extended(rate: number): Uint8Array {
  const bytes = new Uint8Array(10);
  const view = viewOf(bytes);
  const exponent = Math.floor(Math.log2(rate));
  view.setUint16(0, 16383 + exponent);
  view.setUint32(2, rate * 2 ** (31 - exponent));
  return bytes;
}

/** Makes a whole AIFF file (big-endian integers). `texts` go into NAME, AUTH, ANNO; `marks` into MARK. */
export function writeAiff(
  planes: Float32Array[],
  as: StoredAs,
  texts: Partial<Record<'NAME' | 'AUTH' | 'ANNO', string>> = {},
  marks: CuePoint[] = [],
): Uint8Array {
  const comm = new Uint8Array(18);
  const view = viewOf(comm);
  view.setInt16(0, planes.length);
  view.setUint32(2, planes[0].length);
  view.setInt16(6, as.bits);
  comm.set(extended(as.rate), 8);
  const parts = [encodeText('AIFF'), chunk('COMM', comm, false)];
  for (const [id, text] of Object.entries(texts)) parts.push(chunk(id, encodeText(text), false));
  if (marks.length > 0) {
    const markParts = marks.map((mark, i) => {
      const name = encodeText(mark.label).subarray(0, 255);
      const bytes = new Uint8Array(7 + name.length + ((name.length + 1) % 2));
      viewOf(bytes).setInt16(0, i + 1);
      viewOf(bytes).setUint32(2, mark.frame);
      bytes[6] = name.length;
      bytes.set(name, 7);
      return bytes;
    });
    const count = new Uint8Array([marks.length >> 8, marks.length & 255]);
    parts.push(chunk('MARK', joined([count, ...markParts]), false));
  }
  parts.push(chunk('SSND', joined([new Uint8Array(8), encodePcm(planes, as, false)]), false));
  return chunk('FORM', joined(parts), false);
}
