import { start } from '../generated/interpolate';

/** The module that reads between frames, and its memory: what lies in there is read where it lies. */
export const { memory, interpolate: readBetween } = start();

/** Frames per chunk in which audio comes to the engine: small enough to sound at once, large enough to be few. */
export const CHUNK = 16384;

/** Bytes of a page of memory, and pages by which it grows at the least. */
const [PAGE, STEP] = [65536, 16];
/** Bytes that audio may take of it; what is beyond that lies elsewhere, and is copied to be read. */
const MOST = 1 << 30;
let used = 0;
let taken = 0;

/** Room that stays. @returns its address, a multiple of 16 */
export function claim(bytes: number): number {
  const at = used;
  const until = used + ((bytes + 15) & ~15);
  const more = until - memory.buffer.byteLength;
  if (more > 0) memory.grow(Math.max(STEP, Math.ceil(more / PAGE)));
  used = until;
  return at;
}

const views = { buffer: memory.buffer, all: new Float32Array(memory.buffer) };
/** The whole memory; it is another one once it has grown. */
export function floats(): Float32Array {
  if (views.buffer !== memory.buffer)
    Object.assign(views, { buffer: memory.buffer, all: new Float32Array(memory.buffer) });
  return views.all;
}

/** Addresses that are free, by the bytes that they have room for. */
const free = new Map<number, number[]>();

/** Room for audio, until it is given back. @returns its address; undefined where there is none */
export function take(bytes: number): number | undefined {
  const at = free.get(bytes)?.pop();
  if (at !== undefined) return at;
  if (taken + bytes > MOST) return undefined;
  try {
    const fresh = claim(bytes);
    taken += bytes;
    return fresh;
  } catch {
    // The machine has no more of it.
    return undefined;
  }
}

/** Gives room back. */
export function give(at: number, bytes: number): void {
  const own = free.get(bytes);
  if (own) own.push(at);
  else free.set(bytes, [at]);
}
