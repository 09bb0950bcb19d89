import type { ByteSource } from './source';
import { fourCC, viewOf } from './source';

/** Samples of a channel in a frame of MPEG-1, and of MPEG-2 and 2.5, layer III (ISO/IEC 11172-3, 13818-3). */
const FRAME = { one: 1152, two: 576 } as const;
/** What every decoder of layer III comes late by: 528 samples of its filter bank and one more. */
const DECODER_DELAY = 529;

/** Which of the decoded samples of an MP3 file are the sound. */
export interface Mp3Extent {
  /** Decoded samples before the first one that counts. */
  lead: number;
  frames: number;
}

/** Where the audio begins: behind the ID3v2 tags, of which some programs put another one before that which is there. */
async function audioStart(source: ByteSource): Promise<number> {
  for (let at = 0; ;) {
    const head = await source.read(at, 10);
    if (head.length < 10 || String.fromCharCode(...head.subarray(0, 3)) !== 'ID3') return at;
    const size = (head[6] << 21) | (head[7] << 14) | (head[8] << 7) | head[9];
    at += 10 + size + (head[5] & 0x10 ? 10 : 0);
  }
}

/**
 * Reads the tag that encoders put into the first frame of an MP3 file (`Xing` or `Info`, with LAME's part behind it): how many frames
 * there are, and which samples at either end are the encoder's own.
 * @returns undefined when there is none: then nothing says what the encoder added
 */
export async function mp3Extent(source: ByteSource): Promise<Mp3Extent | undefined> {
  const start = await audioStart(source);
  const bytes = await source.read(start, 4096);
  // Some padding may stand between.
  let at = 0;
  while (at + 200 < bytes.length && !(bytes[at] === 0xff && (bytes[at + 1] & 0xe6) === 0xe2)) at++;
  if (at + 200 >= bytes.length) return undefined;
  const one = (bytes[at + 1] & 0x18) === 0x18;
  const mono = bytes[at + 3] >> 6 === 3;
  const side = one ? (mono ? 17 : 32) : mono ? 9 : 17;
  const tag = at + 4 + side;
  if (!['Xing', 'Info'].includes(fourCC(bytes, tag))) return undefined;
  const view = viewOf(bytes);
  const flags = view.getUint32(tag + 4);
  if (!(flags & 1)) return undefined;
  const count = view.getUint32(tag + 8);
  const lame = tag + 8 + 4 + (flags & 2 ? 4 : 0) + (flags & 4 ? 100 : 0) + (flags & 8 ? 4 : 0);
  if (lame + 24 > bytes.length || !/^[\x20-\x7e]{4}$/.test(fourCC(bytes, lame))) return undefined;
  const delay = (bytes[lame + 21] << 4) | (bytes[lame + 22] >> 4);
  const padding = ((bytes[lame + 22] & 15) << 8) | bytes[lame + 23];
  const frames = count * (one ? FRAME.one : FRAME.two) - delay - padding;
  return frames > 0 ? { lead: delay + DECODER_DELAY, frames } : undefined;
}

/**
 * What an `iTunSMPB` text of an MP4 file says: hexadecimal numbers, of which the second is the encoder's delay, the third its padding and
 * the fourth the number of samples between.
 */
export function smpbExtent(text: string): Mp3Extent | undefined {
  const numbers = text
    .trim()
    .split(/\s+/)
    .map((n) => parseInt(n, 16));
  const [, lead, , frames] = numbers;
  return lead >= 0 && lead < 100_000 && frames > 0 && frames <= Number.MAX_SAFE_INTEGER ? { lead, frames } : undefined;
}
