import type { Frames } from './interpolate';

/** Frames per chunk in which audio comes to the engine: small enough to sound at once, large enough to be few. */
export const CHUNK = 16384;

/** The audio of one sound, arriving chunk by chunk and in any order. */
export class Material implements Frames {
  private readonly chunks = new Map<number, Float32Array[]>();

  constructor(
    /** Hz */
    readonly rate: number,
    readonly frames: number,
    readonly channels: number,
  ) {}

  /** Takes the frames from `index * CHUNK` on, one array per channel. */
  put(index: number, planes: Float32Array[]): void {
    this.chunks.set(index, planes);
  }

  /** Lets go of chunks that nobody needs. */
  drop(chunks: readonly number[]): void {
    for (const index of chunks) this.chunks.delete(index);
  }

  /** Whether every frame of a span that lies within the sound has arrived. */
  has(from: number, to: number): boolean {
    const last = Math.min(this.frames, to) - 1;
    if (last < 0 || from >= this.frames) return true;
    for (let c = Math.floor(Math.max(0, from) / CHUNK); c <= Math.floor(last / CHUNK); c++) {
      if (!this.chunks.has(c)) return false;
    }
    return true;
  }

  /**
   * Copies `count` frames of a channel to a place of an array; silence stands where the sound has not begun, is over, or has not
   * arrived.
   */
  copy(channel: number, from: number, count: number, into: Float32Array, at = 0): void {
    for (let done = 0; done < count;) {
      const frame = from + done;
      const index = Math.floor(frame / CHUNK);
      const offset = frame - index * CHUNK;
      const length = Math.min(count - done, CHUNK - offset);
      const plane = this.chunks.get(index)?.[channel];
      const there = plane ? Math.max(0, Math.min(length, plane.length - offset)) : 0;
      const to = at + done;
      // A view for so few frames costs more than the frames, and would be left for the garbage collector.
      for (let i = 0; i < there; i++) into[to + i] = plane![offset + i];
      if (there < length) into.fill(0, to + there, to + length);
      done += length;
    }
  }

  /** A material whose audio is all there already. */
  static of(planes: Float32Array[], rate: number): Material {
    const material = new Material(rate, planes[0].length, planes.length);
    for (let c = 0; c * CHUNK < planes[0].length; c++) {
      material.put(
        c,
        planes.map((p) => p.subarray(c * CHUNK, (c + 1) * CHUNK)),
      );
    }
    return material;
  }
}
