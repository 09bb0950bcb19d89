import { start } from '../generated/transform';
import { onceEach } from './once';

let started: ReturnType<typeof start> | undefined;
/** The module, started where it is first needed. */
const running = () => (started ??= start());
const PAGE = 65_536;
let used = 0;

/** Addresses of so many bytes in the module's memory, which grows with them; they are kept for good. */
function room(bytes: number): number {
  const { memory } = running();
  const at = used;
  used += Math.ceil(bytes / 16) * 16;
  const missing = used - memory.buffer.byteLength;
  if (missing > 0) memory.grow(Math.ceil(missing / PAGE));
  return at;
}

/**
 * The discrete Fourier transform of one size, in WebAssembly. All that use it share its memory: what is in it is good until the next
 * call of any size's methods, and views are to be asked for anew each time, as the memory may have grown.
 */
export class Transform {
  private readonly at: number;
  private readonly spare: number;
  private readonly factors: number;
  private readonly powersAt: number;
  private outcome: number;
  /** A window's factors, and two frames beside each other; once they are asked for. */
  private frames: { factors: number; first: number; second: number } | undefined;

  /** @param size a power of two, 4 or more */
  constructor(readonly size: number) {
    this.at = room(16 * size);
    this.spare = room(16 * size);
    this.factors = room(16 * size);
    this.powersAt = room(16 * (size / 2 + 2));
    this.outcome = this.at;
    const table = this.view(this.factors, 2 * size);
    for (let k = 0; k < size; k++) {
      table[2 * k] = Math.cos((2 * Math.PI * k) / size);
      table[2 * k + 1] = -Math.sin((2 * Math.PI * k) / size);
    }
  }

  private view(at: number, length: number): Float64Array {
    return new Float64Array(running().memory.buffer, at, length);
  }

  /** What is read and written in every call: asked for anew only once the memory has grown, as whoever renders may make nothing. */
  private views: { buffer: ArrayBuffer; at: Float64Array; spare: Float64Array } | undefined;
  private seen(): NonNullable<typeof this.views> {
    const { buffer } = running().memory;
    if (this.views?.buffer !== buffer) {
      const length = 2 * this.size;
      this.views = { buffer, at: this.view(this.at, length), spare: this.view(this.spare, length) };
    }
    return this.views;
  }

  /** Where to put what is to be transformed: real and imaginary parts in turn. */
  get input(): Float64Array {
    return this.seen().at;
  }

  /**
   * Puts in two real frames as real and imaginary part, each through a window.
   * @param window the same at every call; @param first and `second` may be shorter than the size: silence follows
   */
  put(first: Float32Array, second: Float32Array, window: Float64Array): void {
    const { size } = this;
    if (!this.frames) {
      this.frames = { factors: room(8 * size), first: room(4 * size), second: room(4 * size) };
      this.view(this.frames.factors, size).set(window);
    }
    const { factors, first: a, second: b } = this.frames;
    [first, second].forEach((frame, i) => {
      const held = new Float32Array(running().memory.buffer, i === 0 ? a : b, size);
      held.set(frame);
      if (frame.length < size) held.fill(0, frame.length);
    });
    running().window(size, a, b, factors, this.at);
  }

  /** Transforms the input. @returns real and imaginary parts in turn */
  run(): Float64Array {
    this.outcome = running().transform(this.size, this.at, this.spare, this.factors);
    const { at, spare } = this.seen();
    return this.outcome === this.at ? at : spare;
  }

  /** Power of bins 0 to size / 2 of two real frames that were transformed as real and imaginary part of one input. */
  powers(): [first: Float64Array, second: Float64Array] {
    const bins = this.size / 2 + 1;
    const second = this.powersAt + 8 * bins;
    running().powers(this.size, this.outcome, this.powersAt, second);
    return [this.view(this.powersAt, bins), this.view(second, bins)];
  }
}

/** The transform of a size. */
export const transformOf = onceEach((size: number) => new Transform(size));

/** Samples of a group whose peak is taken. */
export const GROUP = 32;
let peaksRoom = { samples: 0, x: 0, peaks: 0 };

/** The largest magnitude of each group of {@link GROUP} samples; the last group may be shorter. Overwritten by the next call. */
export function groupPeaks(x: Float32Array): Float32Array {
  const groups = Math.ceil(x.length / GROUP);
  const samples = groups * GROUP;
  if (samples > peaksRoom.samples)
    peaksRoom = { samples: 2 * samples, x: room(8 * samples), peaks: room((8 * samples) / GROUP + 16) };
  const held = new Float32Array(running().memory.buffer, peaksRoom.x, samples);
  held.set(x);
  held.fill(0, x.length);
  if (groups > 0) running().peaks(groups, peaksRoom.x, peaksRoom.peaks);
  return new Float32Array(running().memory.buffer, peaksRoom.peaks, groups + 1).fill(0, groups);
}

/** Taps of a filter that finds values between samples. */
export const TAPS = 24;

/** Interpolating filters in the module's memory, for the samples that {@link groupPeaks} was given last. */
export class Between {
  private readonly at: number;

  /** @param filters of {@link TAPS} taps each */
  constructor(private readonly filters: readonly Float64Array[]) {
    this.at = room(4 * TAPS * filters.length);
    filters.forEach((f, p) => new Float32Array(running().memory.buffer, this.at + 4 * TAPS * p, TAPS).set(f));
  }

  /**
   * The largest magnitude at the places between samples from index `from` to `to`; each looks at half of its taps before and behind it.
   */
  peak(from: number, to: number): number {
    const first = peaksRoom.x + 4 * (from - TAPS / 2 + 1);
    return to > from ? running().between(first, to - from, this.at, this.filters.length) : 0;
  }
}
