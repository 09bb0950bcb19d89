import type { Artwork, AudioFile, AudioFormat } from './format';
import { readId3 } from './id3';
import type { ByteSource } from './source';
import { FileError, fourCC, viewOf } from './source';
import { decodeText } from './text';

/** Types of metadata blocks, RFC 9639 section 8.1. */
const Block = { STREAMINFO: 0, VORBIS_COMMENT: 4, PICTURE: 6 } as const;
const LONGEST_COMMENTS = 1 << 20;

/**
 * Reads a Vorbis comment block (RFC 9639 section 8.6, also that of Ogg) into keys such as `vorbis.TITLE`; a name that
 * repeats has its values joined. @returns a warning when lengths in it are wrong
 */
export function readComments(bytes: Uint8Array, labels: Map<string, string>): string | undefined {
  const view = viewOf(bytes);
  const wrong = 'the Vorbis comments claim more bytes than there are';
  if (bytes.length < 8) return wrong;
  let at = 4 + view.getUint32(0, true);
  if (at + 4 > bytes.length) return wrong;
  const count = view.getUint32(at, true);
  at += 4;
  for (let n = 0; n < count; n++) {
    if (at + 4 > bytes.length) return wrong;
    const length = view.getUint32(at, true);
    if (length > bytes.length - at - 4) return wrong;
    const text = decodeText(bytes.subarray(at + 4, at + 4 + length));
    const equals = text.indexOf('=');
    if (equals > 0) {
      const key = `vorbis.${text.slice(0, equals).toUpperCase()}`;
      const before = labels.get(key);
      const value = text.slice(equals + 1).trim();
      if (value) labels.set(key, before === undefined ? value : `${before}; ${value}`);
    }
    at += 4 + length;
  }
  return undefined;
}

/** Where the picture of a PICTURE block lies (RFC 9639 section 8.8). */
async function pictureIn(source: ByteSource, offset: number, size: number): Promise<Artwork | undefined> {
  const head = await source.read(offset, Math.min(size, 1024));
  const view = viewOf(head);
  if (head.length < 32) return undefined;
  const mime = view.getUint32(4);
  if (mime > 200 || 8 + mime + 4 > head.length) return undefined;
  const about = view.getUint32(8 + mime);
  const at = 12 + mime + about + 16;
  if (at + 4 > head.length) return undefined;
  const length = view.getUint32(at);
  if (length === 0 || length > size - at - 4) return undefined;
  return { mime: decodeText(head.subarray(8, 8 + mime)), offset: offset + at + 4, length };
}

/** True when the first bytes begin a FLAC file. */
export function isFlac(head: Uint8Array): boolean {
  return head.length >= 4 && fourCC(head) === 'fLaC';
}

/**
 * Reads the format and labels of a FLAC file (RFC 9639) without its audio. @param from where `fLaC` stands
 * @throws FileError when its STREAMINFO block is missing or impossible
 */
export async function readFlac(source: ByteSource, from = 0): Promise<AudioFile> {
  const labels = new Map<string, string>();
  const warnings: string[] = [];
  let format: AudioFormat | undefined;
  let artwork: Artwork | undefined;
  if (from > 0) await readId3(source, 0, source.size, labels, warnings, (art) => (artwork ??= art));
  let at = from + 4;
  for (let last = false; !last && at + 4 <= source.size;) {
    const head = await source.read(at, 4);
    last = (head[0] & 0x80) !== 0;
    const type = head[0] & 0x7f;
    const size = (head[1] << 16) | (head[2] << 8) | head[3];
    const offset = at + 4;
    if (size > source.size - offset) {
      warnings.push(`a metadata block claims ${size} bytes; ${source.size - offset} are there`);
      break;
    }
    if (type === Block.STREAMINFO && size >= 34) {
      const b = await source.read(offset, 34);
      const rate = (b[10] << 12) | (b[11] << 4) | (b[12] >> 4);
      const frames = (b[13] & 15) * 2 ** 32 + viewOf(b).getUint32(14);
      const channels = ((b[12] >> 1) & 7) + 1;
      const bits = (((b[12] & 1) << 4) | (b[13] >> 4)) + 1;
      if (rate < 1000) throw new FileError(`the STREAMINFO block says its sample rate is ${rate} Hz`, offset);
      format = {
        container: 'FLAC',
        encoding: 'coded',
        unsigned: false,
        littleEndian: true,
        rate,
        channels,
        bits,
        blockAlign: 0,
        frames,
        dataOffset: 0,
      };
    } else if (type === Block.VORBIS_COMMENT && size <= LONGEST_COMMENTS) {
      const warning = readComments(await source.read(offset, size), labels);
      if (warning) warnings.push(warning);
    } else if (type === Block.PICTURE) artwork ??= await pictureIn(source, offset, size);
    at = offset + size;
  }
  if (!format) throw new FileError('the STREAMINFO block, which says how the audio is coded, is missing', from + 4);
  // FLAC has no table of points: the anchor is a comment, in samples.
  const anchor = Number(labels.get('vorbis.ANCHOR') ?? NaN);
  labels.delete('vorbis.ANCHOR');
  const cues = Number.isInteger(anchor) && anchor >= 0 ? [{ frame: anchor, length: 0, label: 'Anchor' }] : [];
  return { format, labels, cues, loops: [], warnings, artwork };
}
