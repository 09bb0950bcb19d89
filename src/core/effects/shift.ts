import { kaiser } from '@core/audio';
import type { Effect } from './effect';
import { BLOCK, type Block, type Node } from './node';
import type { Param } from './param';
import { even, mix } from './spec';

/** Milliseconds: how late what comes out is, the longest piece, and how long one piece gives way to the next at most. */
const [LATE, LONGEST, JOIN] = [45, 60, 8];
/** Milliseconds by which a reader may be further behind than its piece allows, so as to get over a hit first. */
const WAIT = 60;
/** A hit is so many times as loud as what came before, as power; what is softer than this is none. */
const [SUDDEN, SOFTEST] = [12, 1e-8];
/** Milliseconds: what is heard of a hit, what came before it, and how far hits are apart. */
const [NOW, BEFORE, APART] = [0.7, 15, 20];
/** Milliseconds of a hit that are not joined into: those before it, and those after. */
const [LEAD, GUARD] = [2, 6];
/** So many of the last hits are known. */
const HITS = 16;
/** Samples that pieces are compared over, and how many of them are left out between two that are looked at first. */
const [LOOK, COARSE] = [512, 4];
/** The window of the interpolator: half its width in samples, and places of its table for each sample. */
const [HALF, PLACES] = [8, 512];

/** A windowed sinc (Kaiser, beta 8), from its middle on. */
const sinc = Float64Array.from({ length: HALF * PLACES + 2 }, (_, i) => {
  const t = i / PLACES;
  return (i === 0 ? 1 : Math.sin(Math.PI * t) / (Math.PI * t)) * (t < HALF ? kaiser(t / HALF, 8) : 0);
});

/** How many times as high so many semitones and cents are. */
const ratioOf = (semitones: number, cents: number) => 2 ** ((semitones + cents / 100) / 12);

/**
 * What passes is kept in a line and read from it faster or slower. A reader that comes to the end of its piece goes on where the line looks alike; no hit is passed
 * over or heard twice for it.
 */
class Shift implements Node {
  readonly latency: number;
  readonly tail: number;
  private readonly lines: Block;
  private readonly mono: Float32Array;
  private readonly mask: number;
  private head = 0;
  /** How far back the reader is, and the one that it gives way to. Samples */
  private back: number;
  private old = 0;
  /** Samples of giving way that are left, and of how many. */
  private joining = 0;
  private join = 1;
  private readonly read: [number, number] = [0, 0];
  private readonly look = new Float32Array(LOOK);
  /** Where the last hits are in the line. */
  private readonly hits = new Float64Array(HITS).fill(-Infinity);
  private nextHit = 0;
  private now = 0;
  private before = 0;

  constructor(
    private readonly rate: number,
    private readonly params: Readonly<Record<string, Param>>,
  ) {
    this.latency = Math.round((LATE / 1000) * rate);
    this.back = this.latency;
    const longest = Math.ceil(((LATE + LONGEST + WAIT) / 1000) * rate);
    this.tail = longest;
    const size = 2 ** Math.ceil(Math.log2(longest + LOOK + BLOCK));
    this.mask = size - 1;
    this.lines = [new Float32Array(size), new Float32Array(size)];
    this.mono = new Float32Array(size);
  }

  reset(): void {
    for (const line of [...this.lines, this.mono]) line.fill(0);
    this.hits.fill(-Infinity);
    this.now = this.before = 0;
    this.back = this.latency;
    this.joining = 0;
  }

  private samples(ms: number): number {
    return (ms / 1000) * this.rate;
  }

  /** Notes a hit where what comes in is suddenly louder. */
  private listen(power: number, kNow: number, kBefore: number): void {
    const { hits, head } = this;
    this.now += kNow * (power - this.now);
    if (this.now > SUDDEN * this.before + SOFTEST) {
      const at = head - Math.round(this.samples(NOW / 2));
      if (at - hits[(this.nextHit + HITS - 1) % HITS] > this.samples(APART)) {
        hits[this.nextHit] = at;
        this.nextHit = (this.nextHit + 1) % HITS;
      }
    }
    this.before += kBefore * (power - this.before);
  }

  /** How far back the latest hit lies within a stretch of the line, or the earliest; undefined where there is none. @param least and most samples back */
  private hitBetween(least: number, most: number, latest: boolean): number | undefined {
    let found: number | undefined;
    for (const at of this.hits) {
      const back = this.head - at;
      if (back < least || back > most) continue;
      if (found === undefined || (latest ? back < found : back > found)) found = back;
    }
    return found;
  }

  /** How far the next hit is from the reader; undefined where none comes within so many samples. */
  private toHit(samples: number): number | undefined {
    const hit = this.hitBetween(this.back - samples, this.back, false);
    return hit === undefined ? undefined : this.back - hit;
  }

  /** Goes on nearer to what comes in, as far as no hit is passed over; waits where one is about to be heard. */
  private forward(near: number, piece: number, long: number, far: number): void {
    const [lead, guard] = [this.samples(LEAD) + long, this.samples(GUARD)];
    const most = near + (piece >> 1);
    const hit = this.hitBetween(near - guard, this.back + guard, false);
    if (hit === undefined) return this.jump(this.match(near, Math.min(most, this.back)), long);
    if (hit + lead >= this.back - 1) {
      // It is being heard, or is next: what is further behind can wait no longer.
      if (this.back < far + this.samples(WAIT)) return;
      return this.jump(this.match(near, most), long);
    }
    const to = Math.max(near, hit + lead);
    this.jump(this.match(to, Math.max(to, Math.min(most, this.back - 1))), long);
  }

  /** Goes on further back, as far as no hit is heard twice. */
  private backward(far: number, piece: number, long: number): void {
    const hit = this.hitBetween(this.back, far, true);
    const most = hit === undefined ? far : Math.max(this.back + 1, hit - this.samples(GUARD));
    this.jump(this.match(Math.max(this.back + 1, most - (piece >> 1)), most), long);
  }

  /** Both channels so far back, between samples, without what lies above half the rate once it is read `ratio` times as fast. */
  private between(back: number, ratio: number): void {
    const { lines, mask, head, read } = this;
    const scale = ratio > 1 ? 1 / ratio : 1;
    const half = HALF / scale;
    const at = head - back;
    let [left, right] = [0, 0];
    for (let k = Math.ceil(at - half); k <= at + half; k++) {
      const place = Math.abs(at - k) * scale * PLACES;
      const i = place | 0;
      const w = sinc[i] + (sinc[i + 1] - sinc[i]) * (place - i);
      left += lines[0][k & mask] * w;
      right += lines[1][k & mask] * w;
    }
    read[0] = left * scale;
    read[1] = right * scale;
  }

  /** How alike what lies about a place is to what is looked for, -1 to 1. @param step samples between two that are looked at */
  private alike(back: number, step: number): number {
    const { mono, mask, look } = this;
    const from = this.head - back - LOOK / 2;
    let [both, own, other] = [0, 1e-12, 1e-12];
    for (let i = 0; i < LOOK; i += step) {
      const [x, y] = [look[i], mono[(from + i) & mask]];
      both += x * y;
      own += x * x;
      other += y * y;
    }
    return both / Math.sqrt(own * other);
  }

  /** Where between two places the line is most like what the reader is in the middle of. */
  private match(least: number, most: number): number {
    const { mono, mask, look } = this;
    const whole = Math.floor(this.back);
    const from = this.head - whole - LOOK / 2;
    for (let i = 0; i < LOOK; i++) look[i] = mono[(from + i) & mask];
    let [best, likest] = [least, -2];
    for (let at = least; at <= most; at += COARSE) {
      const like = this.alike(at, COARSE);
      if (like > likest) [best, likest] = [at, like];
    }
    const near = best;
    likest = -2;
    for (let at = near - COARSE + 1; at < near + COARSE; at++) {
      const like = this.alike(at, 1);
      if (like > likest) [best, likest] = [at, like];
    }
    // The part of a sample that it is between two stays.
    return best + (this.back - whole);
  }

  /** Goes on elsewhere, while where it was gives way. */
  private jump(to: number, long: number): void {
    this.old = this.back;
    this.back = to;
    this.join = this.joining = Math.max(1, Math.round(long));
  }

  process(inputs: readonly Block[], out: Block, at: number, count: number): void {
    const { params, rate, lines, mono, mask, latency, read } = this;
    const semitones = params.semitones.fill(at, count);
    const cents = params.cents.fill(at, count);
    const wet = params.mix.fill(at, count);
    const piece = Math.round((params.piece.value / 1000) * rate);
    const long = Math.min((JOIN / 1000) * rate, piece / 4);
    const kNow = 1 - Math.exp(-1 / this.samples(NOW));
    const kBefore = 1 - Math.exp(-1 / this.samples(BEFORE));
    let [high, low] = [NaN, NaN];
    let ratio = 1;
    for (let i = 0; i < count; i++) {
      const x = inputs[0][0][i];
      const y = inputs[0][1][i];
      lines[0][this.head & mask] = x;
      lines[1][this.head & mask] = y;
      mono[this.head & mask] = x + y;
      this.listen(x * x + y * y, kNow, kBefore);
      if (semitones[i] !== high || cents[i] !== low) {
        [high, low] = [semitones[i], cents[i]];
        ratio = ratioOf(high, low);
      }
      if (this.joining === 0) {
        // As much as it comes nearer while it gives way, and what is read and compared ahead of it.
        const ahead = Math.ceil(Math.max(LOOK / 2, HALF * ratio) + Math.max(0, ratio - 1) * long) + 2;
        const near = Math.max(ahead, latency - (piece >> 1));
        const far = latency + (piece >> 1);
        // Before a hit the reader makes room, so that none has to be made while that is still near.
        const hit = ratio > 1 && this.back < latency ? this.toHit(2 * long * ratio) : undefined;
        const free = hit === undefined ? long : Math.min(long, (hit - this.samples(LEAD)) / ratio);
        if (this.back < near && ratio > 1) {
          if (free > 0.1 * long || this.back < ahead + 2 * ratio) this.backward(far, piece, Math.max(8, free));
        } else if (hit !== undefined && hit < this.samples(LEAD) + 1.2 * long * ratio && free > 0.1 * long) {
          this.backward(far, piece, free);
        }
        if (ratio < 1 && this.back > far) this.forward(near, piece, long, far);
        else if (ratio === 1 && this.back !== latency) this.jump(latency, long);
      }
      this.between(this.back, ratio);
      let [l, r] = read;
      if (this.joining > 0) {
        const share = this.joining / (this.join + 1);
        this.between(this.old, ratio);
        l += (read[0] - l) * share;
        r += (read[1] - r) * share;
        this.old += 1 - ratio;
        this.joining--;
      }
      this.back += 1 - ratio;
      const share = wet[i] / 100;
      const dry = (this.head - latency) & mask;
      out[0][i] = lines[0][dry] * (1 - share) + l * share;
      out[1][i] = lines[1][dry] * (1 - share) + r * share;
      this.head++;
    }
  }
}

/** Makes it higher or lower, as long as it was. */
export const shift: Effect = {
  kind: 'shift',
  name: 'Pitch shift',
  about: 'Makes what passes higher or lower, and leaves it as long as it was.',
  source:
    'Overlapping pieces of a line that is read faster or slower, each joined where the line looks most alike (D. Hejna and B. Musicus, “The SOLAFS time-scale modification algorithm”, 1991), read by a windowed sinc.',
  wanders: true,
  params: [
    even('semitones', 'Semitones', '', [-24, 24, -12], 'By how many semitones: twelve are an octave.'),
    even('cents', 'Cents', '', [-100, 100, 0], 'By how many hundredths of a semitone more.'),
    even(
      'piece',
      'Pieces',
      'ms',
      [20, LONGEST, 50],
      'How long the pieces are: short ones for hits and voices, long ones for what is low or dense.',
    ),
    mix(100),
  ],
  presets: [
    { name: 'Something larger', values: { semitones: -7, piece: 60 } },
    { name: 'Something small', values: { semitones: 9, piece: 30 } },
    { name: 'An octave below it', values: { semitones: -12, mix: 50, piece: 60 } },
    { name: 'Slightly apart', values: { semitones: 0, cents: 14, mix: 50 } },
  ],
  make: (rate, params) => new Shift(rate, params),
};
