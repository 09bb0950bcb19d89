import { circulate, flowOfLines, lossesOf, type Losses } from './filters';
import type { Block } from './node';
import { BLOCK } from './node';

/** What a place answers with. */
export interface Answer {
  /** Seconds until the late part is 60 dB down, in the middle of the spectrum. */
  decay: number;
  /** Times that, below 250 Hz and above 3 kHz. */
  low: number;
  high: number;
  /** How large it is; 1 for a hall of some twenty metres. */
  size: number;
  /** Milliseconds before the late part. */
  before: number;
}

/** Lines of the network, and their lengths at size 1, milliseconds: no two share a common period. */
const LINES = 16;
const lengths = [29.1, 31.3, 33.7, 36.1, 38.9, 41.3, 43.9, 46.7, 49.1, 52.3, 55.1, 58.7, 61.3, 65.9, 69.1, 73.7];
/** Corners of the bands, Hz. */
const [LOW, HIGH] = [250, 3200];
const LARGEST = 3;
/** Early reflections at size 1: milliseconds, and how loud, left and right. */
const early: readonly (readonly [number, number, number])[] = [
  [5.3, 0.62, 0.3],
  [8.1, -0.28, 0.56],
  [11.9, 0.44, -0.2],
  [14.3, -0.18, 0.42],
  [18.7, 0.34, 0.24],
  [22.9, 0.16, -0.31],
  [27.1, -0.27, 0.14],
  [33.7, 0.13, 0.22],
  [41.3, 0.19, -0.1],
  [49.9, -0.08, 0.15],
];
/** All-pass filters that what goes into the network is spread by, milliseconds. */
const spread = [4.7, 7.3, 11.3, 13.9];
const SPREAD = 0.62;

/** Rings of samples beside each other in one array, all at the same place. */
class Rings {
  readonly samples: Float32Array;
  readonly size: number;
  readonly mask: number;

  /** @param length samples that can be gone back */
  constructor(
    readonly count: number,
    length: number,
  ) {
    this.size = 2 ** Math.ceil(Math.log2(length + BLOCK));
    this.mask = this.size - 1;
    this.samples = new Float32Array(count * this.size);
  }
}

/** First-order low pass whose corner does not move with the rate (trapezoidal). */
const corner = (freq: number, rate: number): number => {
  const g = Math.tan((Math.PI * Math.min(freq, rate * 0.45)) / rate);
  return g / (1 + g);
};

/**
 * Early reflections and a late network: lines of delay that feed each other through an orthogonal matrix, each losing as much by band as the
 * decay asks for (M. R. Schroeder 1961; J.-M. Jot and A. Chaigne, “Digital delay networks for designing artificial reverberators”, 1991).
 */
export class Place {
  /** What it answers to the last block, the early part and the late one. */
  readonly early: Block = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
  readonly late: Block = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
  private readonly inputs: Rings;
  private readonly spreads: Rings;
  private readonly lines: Rings;
  /** Where all rings are. */
  private head = 0;
  private readonly losses: Losses;
  private readonly taps = new Int32Array(LINES);
  private readonly into = [new Float64Array(BLOCK), new Float64Array(BLOCK)];
  private readonly echoes = new Int32Array(early.length);
  private readonly passes = new Int32Array(2 * spread.length);
  private before = 1;
  private set: Answer = { decay: -1, low: 1, high: 1, size: 1, before: 0 };

  constructor(private readonly rate: number) {
    const samples = (ms: number) => Math.ceil((ms * rate) / 1000);
    this.inputs = new Rings(2, samples(250) + samples(LARGEST * 60));
    this.spreads = new Rings(2 * spread.length, samples(spread[spread.length - 1] * 1.2));
    this.lines = new Rings(LINES, samples(lengths[LINES - 1] * LARGEST));
    this.losses = lossesOf(corner(LOW, rate), corner(HIGH, rate));
  }

  reset(): void {
    for (const rings of [this.inputs, this.spreads, this.lines]) rings.samples.fill(0);
    this.losses.state.fill(0);
  }

  /** Samples until the late part is 90 dB down. */
  static tail({ decay, low, high, before }: Answer, rate: number): number {
    return Math.ceil((1.5 * decay * Math.max(1, low, high) + before / 1000 + 0.3) * rate);
  }

  /** Takes over how it shall answer; all of it, or nothing where that is the same. */
  take(decay: number, low: number, high: number, size: number, before: number): void {
    const { set, rate } = this;
    const isSame =
      set.decay === decay && set.low === low && set.high === high && set.size === size && set.before === before;
    if (isSame) return;
    set.decay = decay;
    set.low = low;
    set.high = high;
    set.size = size;
    set.before = before;
    const per = rate / 1000;
    const scale = Math.max(0.05, Math.min(LARGEST, size));
    for (let k = 0; k < LINES; k++) {
      const length = Math.max(8, Math.round(lengths[k] * scale * per));
      this.taps[k] = length;
      const gain = (seconds: number) => 10 ** ((-3 * length) / (Math.max(0.02, seconds) * rate));
      const { how } = this.losses;
      how[k] = gain(decay);
      how[LINES + k] = gain(decay * low) / gain(decay) - 1;
      how[2 * LINES + k] = gain(decay * high) / gain(decay) - 1;
    }
    for (let e = 0; e < early.length; e++) this.echoes[e] = Math.max(1, Math.round(early[e][0] * scale * per));
    for (let c = 0; c < 2; c++)
      for (let s = 0; s < spread.length; s++)
        this.passes[c * spread.length + s] = Math.max(1, Math.round(spread[s] * (c === 0 ? 1 : 1.13) * per));
    this.before = Math.max(1, Math.round(before * per));
  }

  /** Answers a block; see `early` and `late`. */
  process(input: Block, count: number): void {
    this.reflect(input, count);
    this.spread(count);
    // As many samples at once as no line of the network needs of what it is given in the same ones.
    let most = count;
    for (let k = 0; k < LINES; k++) most = Math.min(most, this.taps[k]);
    for (let from = 0; from < count; from += most) this.circulate(from, Math.min(count, from + most));
    this.head += count;
  }

  /** Takes the input in, and gives its first reflections. */
  private reflect(input: Block, count: number): void {
    const { head, echoes } = this;
    const { samples, size, mask } = this.inputs;
    const [left, right] = input;
    const [a, b] = this.early;
    for (let i = 0; i < count; i++) {
      samples[(head + i) & mask] = left[i];
      samples[size + ((head + i) & mask)] = right[i];
      a[i] = b[i] = 0;
    }
    for (let e = 0; e < early.length; e++) {
      const [, near, far] = early[e];
      const back = head - echoes[e];
      for (let i = 0; i < count; i++) {
        const x = samples[(back + i) & mask];
        const y = samples[size + ((back + i) & mask)];
        a[i] += x * near + y * far;
        b[i] += y * near + x * far;
      }
    }
  }

  /** What goes into the network: the input of some time ago, through all-pass filters. */
  private spread(count: number): void {
    const { head, before, passes } = this;
    const { samples, size, mask } = this.spreads;
    for (let c = 0; c < 2; c++) {
      const into = this.into[c];
      const from = this.inputs.samples;
      const first = c * this.inputs.size;
      for (let i = 0; i < count; i++) into[i] = from[first + ((head - before + i) & this.inputs.mask)];
      for (let s = 0; s < spread.length; s++) {
        const ring = (c * spread.length + s) * size;
        const back = passes[c * spread.length + s];
        for (let i = 0; i < count; i++) {
          const held = samples[ring + ((head + i - back) & mask)];
          const given = into[i] - SPREAD * held;
          samples[ring + ((head + i) & mask)] = given;
          into[i] = held + SPREAD * given;
        }
      }
    }
  }

  /** Some samples of the network, no more than its shortest line is long. */
  private circulate(from: number, to: number): void {
    const { head, taps, into } = this;
    const { samples, size, mask } = this.lines;
    const flow = flowOfLines();
    const count = to - from;
    for (let k = 0; k < LINES; k++) {
      const first = k * size;
      const back = head + from - taps[k];
      for (let i = 0; i < count; i++) flow[i * LINES + k] = samples[first + ((back + i) & mask)];
    }
    circulate(this.losses, count, this.late, from);
    for (let k = 0; k < LINES; k++) {
      const first = k * size;
      const given = into[k & 1];
      const sign = (k & 4) === 0 ? 0.5 : -0.5;
      for (let i = 0; i < count; i++)
        samples[first + ((head + from + i) & mask)] = flow[i * LINES + k] + sign * given[from + i];
    }
  }
}
