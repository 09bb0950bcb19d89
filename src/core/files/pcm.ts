import type { AudioFormat } from './format';
import type { ByteSource } from './source';
import { viewOf } from './source';

type SampleReader = (view: DataView, at: number) => number;

/** ITU-T G.711 A-law: one byte to a sample in -1..1. */
function alaw(byte: number): number {
  const a = byte ^ 0x55;
  const exponent = (a >> 4) & 7;
  const mantissa = a & 15;
  const magnitude = exponent === 0 ? (mantissa << 4) + 8 : ((mantissa << 4) + 0x108) << (exponent - 1);
  return (a & 0x80 ? magnitude : -magnitude) / 32768;
}

/** ITU-T G.711 mu-law: one byte to a sample in -1..1. */
function mulaw(byte: number): number {
  const u = ~byte & 0xff;
  const magnitude = ((((u & 15) << 3) + 0x84) << ((u >> 4) & 7)) - 0x84;
  return (u & 0x80 ? -magnitude : magnitude) / 32768;
}

function sampleReader(f: AudioFormat): SampleReader {
  const le = f.littleEndian;
  if (f.encoding === 'alaw') return (v, at) => alaw(v.getUint8(at));
  if (f.encoding === 'mulaw') return (v, at) => mulaw(v.getUint8(at));
  if (f.encoding === 'float') {
    const read: SampleReader = f.bits === 64 ? (v, at) => v.getFloat64(at, le) : (v, at) => v.getFloat32(at, le);
    // What is no number, or more than a sample holds, is heard as silence: it would silence all that it is mixed with.
    return (v, at) => (Number.isFinite(Math.fround(read(v, at))) ? read(v, at) : 0);
  }
  switch (f.bits) {
    case 8:
      return f.unsigned ? (v, at) => (v.getUint8(at) - 128) / 128 : (v, at) => v.getInt8(at) / 128;
    case 16:
      return (v, at) => v.getInt16(at, le) / 32768;
    case 24:
      return le
        ? (v, at) => (v.getUint16(at, true) + v.getInt8(at + 2) * 65536) / 8388608
        : (v, at) => (v.getInt8(at) * 65536 + v.getUint16(at + 1, false)) / 8388608;
    default:
      return (v, at) => v.getInt32(at, le) / 2147483648;
  }
}

/**
 * Decodes interleaved bytes of a format into one array per channel.
 * @param bytes whole frames; a trailing part of a frame is left out
 * @param into one array per channel, each with room for the frames from `at` on; made when absent
 * @returns samples, full scale being -1..1 (float files may exceed it); 0 where a float file holds no finite number
 */
export function decodePcm(bytes: Uint8Array, format: AudioFormat, into?: Float32Array[], at = 0): Float32Array[] {
  const frames = Math.floor(bytes.length / format.blockAlign);
  const planes = into ?? Array.from({ length: format.channels }, () => new Float32Array(frames));
  const view = viewOf(bytes);
  const step = format.blockAlign;
  const width = format.bits / 8;
  // Nearly every library is 16- or 24-bit little endian; these two loops decide how fast contours come in.
  const plain = format.encoding === 'pcm' && format.littleEndian;
  const read = sampleReader(format);
  for (let c = 0; c < format.channels; c++) {
    const plane = planes[c];
    let p = c * width;
    if (plain && format.bits === 16) {
      for (let i = 0; i < frames; i++, p += step)
        plane[at + i] = (((bytes[p] << 16) | (bytes[p + 1] << 24)) >> 16) / 32768;
    } else if (plain && format.bits === 24) {
      for (let i = 0; i < frames; i++, p += step)
        plane[at + i] = (((bytes[p] << 8) | (bytes[p + 1] << 16) | (bytes[p + 2] << 24)) >> 8) / 8388608;
    } else {
      for (let i = 0; i < frames; i++, p += step) plane[at + i] = read(view, p);
    }
  }
  return planes;
}

/** How many samples of a float format hold no finite number; {@link decodePcm} makes silence of them. @param bytes whole frames */
export function silencedIn(bytes: Uint8Array, { bits, littleEndian }: AudioFormat): number {
  const view = viewOf(bytes);
  const width = bits / 8;
  let count = 0;
  for (let p = 0; p + width <= bytes.length; p += width)
    if (
      !Number.isFinite(width === 8 ? Math.fround(view.getFloat64(p, littleEndian)) : view.getFloat32(p, littleEndian))
    )
      count++;
  return count;
}

/** Reads and decodes frames `start` to `start + count`, clipped to the file. See {@link decodePcm}. */
export async function readFrames(
  source: ByteSource,
  format: AudioFormat,
  start: number,
  count: number,
): Promise<Float32Array[]> {
  const first = Math.max(0, Math.min(start, format.frames));
  const frames = Math.max(0, Math.min(count, format.frames - first));
  const bytes = await source.read(format.dataOffset + first * format.blockAlign, frames * format.blockAlign);
  return decodePcm(bytes, format);
}

/** Calls `visit` with successive spans of a file, at most `span` frames each, until the end or until it returns false. */
export async function eachSpan(
  source: ByteSource,
  format: AudioFormat,
  visit: (planes: Float32Array[], start: number) => boolean | void,
  span = 65536,
): Promise<void> {
  for (let start = 0; start < format.frames; start += span) {
    const planes = await readFrames(source, format, start, span);
    if (planes[0].length === 0 || visit(planes, start) === false) return;
  }
}
