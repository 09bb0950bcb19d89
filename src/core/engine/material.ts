import type { Frames } from './interpolate';
import { CHUNK, floats, give, take } from './room';

/** A part of a sound: where it lies in the module's memory, each channel {@link CHUNK} behind the one before; or its own arrays, where there is no room. */
interface Chunk {
  frames: number;
  at: number;
  planes?: readonly Float32Array[];
}
interface Held {
  chunks: Map<number, Chunk>;
  bytes: number;
}

function leave({ chunks, bytes }: Held, index: number): void {
  const chunk = chunks.get(index);
  if (chunk && !chunk.planes) give(chunk.at * 4, bytes);
  chunks.delete(index);
}

// What nobody holds any more gives its room back: who plays it is not asked when it is forgotten.
const forgotten = new FinalizationRegistry<Held>((held) => {
  for (const index of [...held.chunks.keys()]) leave(held, index);
});

/** The audio of one sound, arriving chunk by chunk and in any order. */
export class Material implements Frames {
  private readonly held: Held;

  constructor(
    /** Hz */
    readonly rate: number,
    readonly frames: number,
    readonly channels: number,
  ) {
    this.held = { chunks: new Map(), bytes: channels * CHUNK * 4 };
    forgotten.register(this, this.held);
  }

  /** Takes the frames from `index * CHUNK` on, one array per channel. */
  put(index: number, planes: readonly Float32Array[]): void {
    const { held } = this;
    leave(held, index);
    const frames = planes[0]?.length ?? 0;
    const room = take(held.bytes);
    if (room === undefined) held.chunks.set(index, { frames, at: 0, planes });
    else {
      const at = room / 4;
      const all = floats();
      // Nothing of whatever lay there before is left where a channel is lacking or shorter.
      all.fill(0, at, at + this.channels * CHUNK);
      planes.slice(0, this.channels).forEach((plane, c) => all.set(plane.subarray(0, CHUNK), at + c * CHUNK));
      held.chunks.set(index, { frames, at });
    }
  }

  /** Lets go of chunks that nobody needs. */
  drop(chunks: readonly number[]): void {
    for (const index of chunks) leave(this.held, index);
  }

  /** Whether every frame of a span that lies within the sound has arrived. */
  has(from: number, to: number): boolean {
    const last = Math.min(this.frames, to) - 1;
    if (last < 0 || from >= this.frames) return true;
    for (let c = Math.floor(Math.max(0, from) / CHUNK); c <= Math.floor(last / CHUNK); c++) {
      if (!this.held.chunks.has(c)) return false;
    }
    return true;
  }

  /** See {@link Frames}. */
  place(from: number, count: number): number {
    const index = Math.floor(from / CHUNK);
    const offset = from - index * CHUNK;
    const chunk = this.held.chunks.get(index);
    return chunk && !chunk.planes && offset + count <= chunk.frames ? chunk.at + offset : -1;
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
      const chunk = this.held.chunks.get(index);
      const plane = chunk?.planes ? chunk.planes[channel] : floats();
      const frames = (chunk?.planes ? plane?.length : chunk?.frames) ?? 0;
      const there = Math.max(0, Math.min(length, frames - offset));
      const first = offset + (chunk && !chunk.planes ? chunk.at + channel * CHUNK : 0);
      const to = at + done;
      // A view for so few frames costs more than the frames, and would be left for the garbage collector.
      for (let i = 0; i < there; i++) into[to + i] = plane[first + i];
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
