import { start } from '../generated/place';
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

/** What stands in front of a ring's samples and behind them; see place.wat. */
const [IN_FRONT, BEHIND] = [4, 140];
/** Where what a place keeps lies, bytes from its beginning; the network's lines beside each other, behind them the rings. */
const AT = {
  ...{ taps: 0, how: 64, state: 256, echoes: 384, loudness: 432, corners: 560 },
  ...{ input: 576, early: 1632, late: 2688, into: 3744, rings: 4800 + 16 * 4 * (BLOCK + 4) },
};
/** Bytes from a block's left to its right. */
const SIDE = 4 * (BLOCK + 4);

let started: ReturnType<typeof start> | undefined;
const running = () => (started ??= start());
const PAGE = 65_536;
let used = 0;
/** What places that are gone have left, by size: reverbs come and go, and the module's memory never gets smaller. */
const freed = new Map<number, number[]>();
const gone = new FinalizationRegistry<{ at: number; bytes: number }>(({ at, bytes }) => {
  freed.set(bytes, [...(freed.get(bytes) ?? []), at]);
});

/** Room in the module's memory for as long as somebody is there. */
function claim(bytes: number, who: object): number {
  let at = freed.get(bytes)?.pop();
  const { memory } = running();
  if (at === undefined) {
    at = used;
    used += Math.ceil(bytes / 16) * 16;
    const missing = used - memory.buffer.byteLength;
    if (missing > 0) memory.grow(Math.ceil(missing / PAGE));
  }
  new Uint8Array(memory.buffer, at, bytes).fill(0);
  gone.register(who, { at, bytes });
  return at;
}

/** Rings of samples beside each other, all at the same place. */
interface Rings {
  /** Bytes from the beginning of what a place keeps to the first sample of the first one, and from each to the next. */
  at: number;
  stride: number;
  mask: number;
  end: number;
}

/** @param from bytes from the beginning; @param length samples that can be gone back */
function ringsFor(from: number, count: number, length: number): Rings {
  const size = 2 ** Math.ceil(Math.log2(length + BLOCK + 4));
  const stride = 4 * (IN_FRONT + size + BEHIND);
  return { at: from + 4 * IN_FRONT, stride, mask: size - 1, end: from + count * stride };
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
  private readonly inputs: Rings;
  private readonly spreads: Rings;
  private readonly lines: Rings;
  private readonly own: number;
  /** Where all rings are. */
  private head = 0;
  private readonly passes = new Int32Array(2 * spread.length);
  private before = 1;
  private set: Answer = { decay: -1, low: 1, high: 1, size: 1, before: 0 };
  private views: ReturnType<Place['look']> | undefined;

  constructor(private readonly rate: number) {
    const samples = (ms: number) => Math.ceil((ms * rate) / 1000);
    this.inputs = ringsFor(AT.rings, 2, samples(250) + samples(LARGEST * 60));
    this.spreads = ringsFor(this.inputs.end, 2 * spread.length, samples(spread[spread.length - 1] * 1.2));
    this.lines = ringsFor(this.spreads.end, LINES, samples(lengths[LINES - 1] * LARGEST));
    this.own = claim(this.lines.end, this);
    this.reset();
  }

  private look(buffer: ArrayBuffer) {
    const floats = (at: number, length: number) => new Float32Array(buffer, this.own + at, length);
    const block = (at: number): Block => [floats(at, BLOCK), floats(at + SIDE, BLOCK)];
    return {
      buffer,
      ...{ input: block(AT.input), early: block(AT.early), late: block(AT.late) },
      ...{ how: floats(AT.how, 3 * LINES), state: floats(AT.state, 2 * LINES) },
      taps: new Int32Array(buffer, this.own + AT.taps, LINES),
      echoes: new Int32Array(buffer, this.own + AT.echoes, early.length),
    };
  }

  /** The module's memory as it is now: it is another one once it has grown, which it does where a place is made. */
  private get seen(): ReturnType<Place['look']> {
    const { buffer } = running().memory;
    if (this.views?.buffer !== buffer) this.views = this.look(buffer);
    return this.views;
  }

  /** What it answers to the last block: the early part, good until another place is made. */
  get early(): Block {
    return this.seen.early;
  }
  /** And the late one. */
  get late(): Block {
    return this.seen.late;
  }

  reset(): void {
    const { buffer } = running().memory;
    new Uint8Array(buffer, this.own + AT.rings, this.lines.end - AT.rings).fill(0);
    this.seen.state.fill(0);
    const corners = [corner(LOW, this.rate), corner(HIGH, this.rate)];
    new Float32Array(buffer, this.own + AT.corners, 2).set(corners);
    const loudness = early.flatMap(([, near, far]) => [near, far]);
    new Float32Array(buffer, this.own + AT.loudness, loudness.length).set(loudness);
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
    const { how, taps, echoes } = this.seen;
    for (let k = 0; k < LINES; k++) {
      const length = Math.max(8, Math.round(lengths[k] * scale * per));
      taps[k] = length;
      const gain = (seconds: number) => 10 ** ((-3 * length) / (Math.max(0.02, seconds) * rate));
      how[k] = gain(decay);
      how[LINES + k] = gain(decay * low) / gain(decay) - 1;
      how[2 * LINES + k] = gain(decay * high) / gain(decay) - 1;
    }
    for (let e = 0; e < early.length; e++) echoes[e] = Math.max(1, Math.round(early[e][0] * scale * per));
    for (let c = 0; c < 2; c++)
      for (let s = 0; s < spread.length; s++)
        this.passes[c * spread.length + s] = Math.max(4, Math.round(spread[s] * (c === 0 ? 1 : 1.13) * per));
    this.before = Math.max(1, Math.round(before * per));
  }

  /** Answers a block; see `early` and `late`. */
  process(input: Block, count: number): void {
    const { own, head, inputs, spreads, lines, passes, before } = this;
    const { input: taken, state, taps } = this.seen;
    const module = running();
    for (let c = 0; c < 2; c++) {
      const [from, to] = [input[c], taken[c]];
      for (let i = 0; i < count; i++) to[i] = from[i];
    }
    const left = own + inputs.at;
    module.reflect(own, left, left + inputs.stride, inputs.mask, head, count);
    // What goes into the network: the input of some time ago, through all-pass filters.
    for (let c = 0; c < 2; c++) {
      const into = own + AT.into + c * SIDE;
      module.recall(left + c * inputs.stride, inputs.mask, head, before, into, count);
      for (let s = 0; s < spread.length; s++) {
        const n = c * spread.length + s;
        const ring = own + spreads.at + n * spreads.stride;
        module.spread(ring, spreads.mask, head, passes[n], into, count, SPREAD);
      }
    }
    // As many samples at once as no line of the network needs of what it is given in the same ones.
    let most = count;
    for (let k = 0; k < LINES; k++) if (taps[k] < most) most = taps[k];
    for (let from = 0; from < count; from += most)
      module.network(own, own + lines.at, lines.stride, lines.mask, head, from, Math.min(most, count - from));
    // What is too small to be heard costs many times as much to reckon with.
    for (let k = 0; k < state.length; k++) if (Math.abs(state[k]) < 1e-20) state[k] = 0;
    // A whole number of 32 bits, of which the rings take what they need.
    this.head = (head + count) | 0;
  }
}
