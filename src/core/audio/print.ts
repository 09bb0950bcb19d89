import { createXXHash128 } from 'hash-wasm';
import { Frames, Halver, logBands } from './spectrum';

/**
 * A fingerprint that survives another rate, level, codec or a cut at the head: 32 bits per frame, each telling whether the
 * step between two neighbouring bands grew since the last frame. After Haitsma and Kalker (ISMIR 2002).
 */
export interface Print {
  /** One word per frame, {@link PRINT_RATE} frames a second. */
  words: Uint32Array;
  /** Decibels by which each frame is under the loudest one, at most 255. */
  under: Uint8Array;
}

/** Frames of a {@link Print} a second. */
export const PRINT_RATE = 62.5;
const LOW_RATE = 12_000;
const HOP = LOW_RATE / PRINT_RATE;
const SIZE = 1024;
const BANDS = 33;
/** Sounds are fingerprinted up to this length, seconds. */
export const PRINT_LENGTH = 300;

/** Collects the robust fingerprint from successive blocks of the mono sum. */
export class PrintCollector {
  private readonly halver = new Halver(1);
  private readonly step: number;
  private readonly frames = new Frames(SIZE, HOP, (power) => this.frame(power));
  private readonly borders = logBands(BANDS, 180, 4200, LOW_RATE, SIZE);
  private readonly words: number[] = [];
  private readonly energies: number[] = [];
  private last: Float64Array | undefined;
  private tail = new Float32Array(0);
  private position = 0;

  /** @param rate Hz, 20 to 40 kHz: what is above 6 kHz is left out */
  constructor(rate: number) {
    this.step = rate / 2 / LOW_RATE;
  }

  /** Takes the next block. */
  push(mono: Float32Array): void {
    if (this.words.length >= PRINT_LENGTH * PRINT_RATE) return;
    const own = this.halver.push(mono);
    const x = new Float32Array(this.tail.length + own.length);
    x.set(this.tail);
    x.set(own, this.tail.length);
    const keep = this.step === 1 ? this.passOn(x) : this.resample(x);
    this.tail = x.slice(keep);
  }

  /** What comes at twice the rate that is looked at needs no place between samples. */
  private passOn(x: Float32Array): number {
    const count = Math.max(0, x.length - 1);
    this.frames.push(x.subarray(0, count));
    return count;
  }

  private resample(x: Float32Array): number {
    const out = new Float32Array(Math.max(0, Math.ceil((x.length - 1 - this.position) / this.step)) + 1);
    let count = 0;
    let at = this.position;
    // The sum of many steps may be a hair beyond their product: the place itself says where the block ends.
    for (; at < x.length - 1; at += this.step) {
      const i = Math.floor(at);
      out[count++] = x[i] + (x[i + 1] - x[i]) * (at - i);
    }
    this.frames.push(out.subarray(0, count));
    const keep = Math.min(x.length, Math.floor(at));
    this.position = at - keep;
    return keep;
  }

  private frame(power: Float64Array): void {
    const bands = new Float64Array(BANDS);
    let total = 0;
    for (let b = 0; b < BANDS; b++) {
      let sum = 0;
      for (let k = this.borders[b]; k < this.borders[b + 1]; k++) sum += power[k];
      total += sum;
      bands[b] = Math.sqrt(sum);
    }
    let word = 0;
    const { last } = this;
    if (last) for (let b = 0; b < 32; b++) if (bands[b] - bands[b + 1] - (last[b] - last[b + 1]) > 0) word |= 1 << b;
    this.words.push(word >>> 0);
    this.energies.push(total);
    this.last = bands;
  }

  /** The fingerprint of what was pushed. */
  done(): Print {
    this.frames.finish();
    let top = 1e-30;
    for (const e of this.energies) top = Math.max(top, e);
    return {
      words: Uint32Array.from(this.words),
      under: Uint8Array.from(this.energies, (e) =>
        top < 1e-9 ? 255 : Math.min(255, Math.round(-10 * Math.log10((e + 1e-30) / top))),
      ),
    };
  }
}

type Hasher = Awaited<ReturnType<typeof createXXHash128>>;
/** Hashers at rest: each is a WebAssembly instance, too dear to make one per sound. */
const idle: Hasher[] = [];

/**
 * The exact hash of a sound: of its decoded samples, rate and channels alone, so that any rename or relabel, and a lossless
 * copy in another container, keep it. XXH3, 128 bit, per channel.
 */
export class ExactHash {
  private constructor(
    private readonly hashers: Hasher[],
    private readonly whole: Hasher,
    private readonly rate: number,
  ) {}

  /** @param rate Hz */
  static async start(rate: number, channels: number): Promise<ExactHash> {
    const hashers = await Promise.all(Array.from({ length: channels + 1 }, () => idle.pop() ?? createXXHash128()));
    for (const h of hashers) h.init();
    return new ExactHash(hashers.slice(1), hashers[0], rate);
  }

  /** Takes the next block: one array per channel. */
  push(planes: readonly Float32Array[]): void {
    planes.forEach((p, c) => this.hashers[c].update(new Uint8Array(p.buffer, p.byteOffset, p.byteLength)));
  }

  /** 32 hexadecimal digits. */
  done(): string {
    this.whole.init();
    this.whole.update(`${this.rate}/${this.hashers.length}/`);
    for (const h of this.hashers) this.whole.update(h.digest('hex'));
    idle.push(this.whole, ...this.hashers);
    return this.whole.digest('hex');
  }
}
