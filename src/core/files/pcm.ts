import { start } from '../generated/pcm';
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

/** For what is rare; what is common is read in WebAssembly. */
function sampleReader(f: AudioFormat): SampleReader {
  if (f.encoding === 'alaw') return (v, at) => alaw(v.getUint8(at));
  if (f.encoding === 'mulaw') return (v, at) => mulaw(v.getUint8(at));
  // What is no number, or more than a sample holds, is heard as silence: it would silence all that it is mixed with.
  if (f.encoding === 'float')
    return (v, at) => {
      const read = Math.fround(v.getFloat64(at, f.littleEndian));
      return Number.isFinite(read) ? read : 0;
    };
  return (v, at) => (v.getUint8(at) - 128) / 128;
}

let started: ReturnType<typeof start> | undefined;
const PAGE = 65_536;
/** In front of the bytes and behind them: what is read there does not count. */
const SPARE = 16;
/** Bytes that are decoded at a time: the module's memory never gives back what it once took. */
const PIECE = 1 << 20;

/** Decodes what most libraries are made of; false for what {@link sampleReader} reads. */
function decodeCommon(bytes: Uint8Array, f: AudioFormat, frames: number, planes: Float32Array[], at: number): boolean {
  const whole = f.encoding === 'pcm' && !(f.bits === 8 && f.unsigned);
  if (!whole && !(f.encoding === 'float' && f.bits === 32)) return false;
  const { memory, ...read } = (started ??= start());
  const step = f.blockAlign;
  const most = Math.max(1, Math.min(frames, Math.floor(PIECE / step)));
  const to = 2 * SPARE + Math.ceil((most * step) / 16) * 16;
  const missing = to + 4 * most - memory.buffer.byteLength;
  if (missing > 0) memory.grow(Math.ceil(missing / PAGE));
  const width = f.bits / 8;
  const big = f.littleEndian ? 0 : 1;
  for (let first = 0; first < frames; first += most) {
    const count = Math.min(most, frames - first);
    new Uint8Array(memory.buffer, SPARE).set(bytes.subarray(first * step, (first + count) * step));
    const out = new Float32Array(memory.buffer, to, count);
    for (let c = 0; c < f.channels; c++) {
      const from = SPARE + c * width;
      if (whole) read.whole(from, step, count, to, width, big);
      else read.real(from, step, count, to, big);
      planes[c].set(out, at + first);
    }
  }
  return true;
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
  if (frames === 0 || decodeCommon(bytes, format, frames, planes, at)) return planes;
  const view = viewOf(bytes);
  const read = sampleReader(format);
  for (let c = 0; c < format.channels; c++)
    for (let i = 0, p = (c * format.bits) / 8; i < frames; i++, p += format.blockAlign)
      planes[c][at + i] = read(view, p);
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
