import { halved } from './blocks';
import { onceEach } from './once';
import { transformOf, type Transform } from './transform';

/** Hann window of `size` samples, as spectra want it (periodic). */
export function hann(size: number): Float64Array {
  return Float64Array.from({ length: size }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / size));
}

const scaledHann = onceEach((size: number) => hann(size).map((w) => (w * 2) / size));

/** Power spectra of windowed frames. One object serves any number of frames of its size. */
export class Spectrum {
  private readonly transform: Transform;
  private readonly window: Float64Array;

  /** @param size samples a frame, a power of two */
  constructor(readonly size: number) {
    this.transform = transformOf(size);
    this.window = scaledHann(size);
  }

  /** Power of bins 0 to size / 2 of the frame at `from`; a sine of full scale gives 1 in its bin. Overwritten by the next call. */
  of(samples: Float32Array, from = 0): Float64Array {
    return this.pair(samples, from, samples.length)[0];
  }

  /**
   * The power spectra of two frames at the price of one: as real and imaginary part of one transform.
   * What lies beyond the samples counts as silence. Overwritten by the next call.
   */
  pair(samples: Float32Array, a: number, b: number): [Float64Array, Float64Array] {
    const { size, window, transform } = this;
    transform.put(samples.subarray(a, a + size), samples.subarray(b, b + size), window);
    transform.run();
    return transform.powers();
  }
}

/** Cuts a signal that comes in blocks into overlapping frames, the n-th centred on `n * hop`, and takes their spectra. */
export class Frames {
  private readonly held: Float32Array;
  private readonly spectrum: Spectrum;
  private filled: number;
  /** Samples to pass over: frames may lie further apart than they are long. */
  private skip = 0;

  /** @param frame called with the power of each frame in turn */
  constructor(
    readonly size: number,
    private readonly hop: number,
    private readonly frame: (power: Float64Array) => void,
  ) {
    this.spectrum = new Spectrum(size);
    this.held = new Float32Array(size + hop + (1 << 14));
    // Half a window of silence in front.
    this.filled = size / 2;
  }

  /** Takes the next block. */
  push(signal: Float32Array): void {
    for (let from = 0; from < signal.length;) {
      if (this.skip > 0) {
        const passed = Math.min(this.skip, signal.length - from);
        this.skip -= passed;
        from += passed;
        continue;
      }
      const part = signal.subarray(from, from + this.held.length - this.filled);
      this.held.set(part, this.filled);
      this.filled += part.length;
      from += part.length;
      let at = 0;
      for (; at + this.hop + this.size <= this.filled; at += 2 * this.hop) {
        const [first, second] = this.spectrum.pair(this.held, at, at + this.hop);
        this.frame(first);
        this.frame(second);
      }
      const keep = Math.min(at, this.filled);
      this.held.copyWithin(0, keep, this.filled);
      this.filled -= keep;
      this.skip = at - keep;
    }
  }

  /** Ends the signal with half a window of silence. */
  finish(): void {
    this.push(new Float32Array(this.size / 2));
    if (this.filled >= this.size) this.frame(this.spectrum.of(this.held.subarray(0, this.filled)));
  }
}

/**
 * Borders between bins of bands that are equally wide on a logarithmic scale.
 * @returns `count` + 1 bin numbers, each band at least one bin wide
 */
export function logBands(count: number, low: number, high: number, rate: number, size: number): Int32Array {
  const borders = new Int32Array(count + 1);
  for (let b = 0; b <= count; b++) {
    const hz = low * (high / low) ** (b / count);
    const bin = Math.round((hz * size) / rate);
    borders[b] = Math.min(size / 2, b === 0 ? Math.max(1, bin) : Math.max(borders[b - 1] + 1, bin));
  }
  return borders;
}

/** One side of a half-band filter of 27 taps (windowed sinc), every other tap: flat to three quarters of the band, 50 dB down a third beyond it. */
const HALF_BAND = [1, 3, 5, 7, 9, 11, 13].map((k) => {
  const x = k / 14;
  const window = 0.42 + 0.5 * Math.cos(Math.PI * x) + 0.08 * Math.cos(2 * Math.PI * x);
  return (Math.sin((Math.PI * k) / 2) / (Math.PI * k)) * window;
});
const REACH = 13;

/** Halves the rate of a signal, any number of times, with a short half-band filter each: for measuring, not for hearing. */
export class Halver {
  private readonly stages: { carried: Float32Array; odd: boolean }[];

  constructor(times: number) {
    this.stages = Array.from({ length: times }, () => ({ carried: new Float32Array(2 * REACH), odd: false }));
  }

  /** The next block at the lower rate. */
  push(block: Float32Array): Float32Array {
    return this.stages.reduce((signal, stage) => {
      if (signal.length === 0) return signal;
      const x = new Float32Array(signal.length + 2 * REACH);
      x.set(stage.carried);
      x.set(signal, 2 * REACH);
      const from = stage.odd ? 1 : 0;
      const out = halved(x, from, Math.max(0, Math.ceil((signal.length - from) / 2)), HALF_BAND);
      stage.odd = (signal.length - from) % 2 === 1;
      stage.carried = x.slice(x.length - 2 * REACH);
      return out;
    }, block);
  }
}
