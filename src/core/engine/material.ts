/** Frames per chunk in which audio comes to the engine: small enough to sound at once, large enough to be few. */
export const CHUNK = 16384;

/** The audio of one sound, arriving chunk by chunk and in any order. */
export class Material {
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

  /** Drops the chunks outside of a span, so that a sound of any length takes a bounded amount of memory. */
  keepOnly(from: number, to: number): void {
    for (const index of this.chunks.keys()) {
      if ((index + 1) * CHUNK <= from || index * CHUNK >= to) this.chunks.delete(index);
    }
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

  /** Copies `count` frames of a channel; silence stands where the sound has not begun, is over, or has not arrived. */
  copy(channel: number, from: number, count: number, into: Float32Array): void {
    let at = 0;
    while (at < count) {
      const frame = from + at;
      const index = Math.floor(frame / CHUNK);
      const offset = frame - index * CHUNK;
      const length = Math.min(count - at, CHUNK - offset);
      const plane = this.chunks.get(index)?.[channel];
      if (plane) {
        const part = plane.subarray(offset, offset + length);
        into.set(part, at);
        if (part.length < length) into.fill(0, at + part.length, at + length);
      } else into.fill(0, at, at + length);
      at += length;
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
