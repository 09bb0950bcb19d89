import { fromDb, phases } from '@core/audio';
import { staticGain } from './compressor';
import { levelOf, pole } from './dynamics';
import type { Effect } from './effect';
import { copyBlock, fed, type Block, type Node } from './node';
import type { Param } from './param';
import { choice, even, octaves } from './spec';

/** Samples on either side that a value between two samples is worked out from. */
const HALF = 12;
const TAPS = 2 * HALF;
/** Milliseconds that can be looked ahead at the most; and by the second pass, which mends what little the first one leaves. */
const [MOST, SECOND] = [10, 1];
const SOFT = 1;
/** How gradually the soft character sets in. dB */
const KNEE = 6;
/** What is aimed at lies so far below the ceiling, for what is rounded. dB */
const SPARE = 0.005;

/**
 * Turns down ahead of what would be above a ceiling. The gain of each sample is a mean of least gains around it, so that it gets there in
 * a straight line, and is there for all samples that the peak between two of them is made of.
 */
class Pass {
  private readonly planes: Float32Array[];
  /** Those of them that are held against the ceiling: what loudspeakers get. */
  private readonly feeds: Float32Array[];
  private readonly size: number;
  private readonly filters: readonly Float64Array[];
  /** What filters can give at the most for samples of 1. */
  private readonly bound: number;
  /** Least gains of a window: places and values, rising, as a ring. */
  private readonly places: Float64Array;
  private readonly leasts: Float64Array;
  private first = 0;
  private behind = 0;
  private readonly means: Float64Array;
  private sum = 0;
  private released = 1;
  private now = 0;
  private highest = 0;
  private since = 0;
  /** Samples that are looked ahead. */
  private length = 0;
  least = 1;

  /** @param most milliseconds that are looked ahead at the most */
  constructor(
    private readonly rate: number,
    most: number,
    channels: number,
  ) {
    const longest = Math.ceil((most * rate) / 1000) + 1;
    this.size = 2 ** Math.ceil(Math.log2(longest + 2 * TAPS));
    const plane = () => new Float32Array(this.size);
    this.planes = Array.from({ length: channels }, plane);
    // What stands in the middle and behind is a part of left and right, and comes out of loudspeakers of its own.
    this.feeds = channels > 2 ? [plane(), plane(), ...this.planes.slice(2)] : this.planes;
    this.filters = phases(rate >= 88_000 ? 2 : 4);
    this.bound = Math.max(...this.filters.map((f) => f.reduce((sum, h) => sum + Math.abs(h), 0)));
    this.places = new Float64Array(this.size);
    this.leasts = new Float64Array(this.size);
    this.means = new Float64Array(longest + 1);
    this.look(most);
  }

  /** @param ms to look ahead */
  look(ms: number): void {
    const length = Math.max(8, Math.round((ms * this.rate) / 1000));
    if (length === this.length) return;
    this.length = length;
    this.reset();
  }

  get latency(): number {
    return this.length + TAPS - 2;
  }

  reset(): void {
    for (const plane of [...this.planes, ...this.feeds]) plane.fill(0);
    this.first = this.behind = 0;
    this.means.fill(1);
    this.sum = this.length;
    this.released = 1;
    this.now = 0;
    this.highest = 0;
    this.since = 0;
  }

  /** The highest magnitude at or behind the middle of the samples that came last. */
  private peak(): number {
    const { feeds, size, filters, now } = this;
    const mask = size - 1;
    let top = 0;
    for (let c = 0; c < feeds.length; c++) {
      const plane = feeds[c];
      const own = Math.abs(plane[(now - HALF) & mask]);
      if (own > top) top = own;
      const from = now - TAPS + 1;
      for (let p = 0; p < filters.length; p++) {
        const filter = filters[p];
        let sum = 0;
        for (let k = 0; k < TAPS; k++) sum += filter[k] * plane[(from + k) & mask];
        const value = Math.abs(sum);
        if (value > top) top = value;
      }
    }
    return top;
  }

  private put(gain: number): void {
    const { places, leasts, size, now } = this;
    const mask = size - 1;
    while (this.behind > this.first && leasts[(this.behind - 1) & mask] >= gain) this.behind--;
    places[this.behind & mask] = now;
    leasts[this.behind & mask] = gain;
    this.behind++;
    const gone = now - (this.length + TAPS - 1);
    while (places[this.first & mask] <= gone) this.first++;
  }

  /** Limits a block, in place. @param ceiling as a factor; @param falls see `pole`; @param knee dB */
  process(out: Block, count: number, ceiling: number, falls: number, knee: number): void {
    const { planes, feeds, size, means, length, latency } = this;
    const mask = size - 1;
    const top = levelOf(ceiling);
    // Softer than this, nothing has to be done, whatever lies between samples.
    const easy = (knee > 0 ? ceiling * fromDb(-knee / 2) : ceiling) / this.bound;
    this.least = 1;
    if (this.isAtRest(out, count, easy)) return this.wait(out, count);
    const { leasts } = this;
    const [left, right] = planes;
    const [a, b] = out;
    const { length: channels } = out;
    let { now } = this;
    for (let i = 0; i < count; i++, now++) {
      this.now = now;
      left[now & mask] = a[i];
      right[now & mask] = b[i];
      let p = a[i];
      let q = b[i];
      if (channels > 2) {
        const at = now & mask;
        for (let c = 2; c < channels; c++) planes[c][at] = out[c][i];
        p = feeds[0][at] = fed(out, 0, i);
        q = feeds[1][at] = fed(out, 1, i);
      }
      p = Math.abs(p);
      q = Math.abs(q);
      let loud = p > q ? p : q;
      for (let c = 2; c < channels; c++) loud = Math.max(loud, Math.abs(out[c][i]));
      if (loud >= this.highest) {
        this.highest = loud;
        this.since = 0;
      } else if (++this.since > TAPS) this.highest = this.recent();
      let wanted = 1;
      if (this.highest > easy) {
        const peak = this.peak();
        if (knee > 0) wanted = fromDb(staticGain(levelOf(peak), top, Infinity, knee));
        else if (peak > ceiling) wanted = ceiling / peak;
      }
      this.put(wanted);
      const least = leasts[this.first & mask];
      this.released = Math.min(least, 1 - falls * (1 - this.released));
      if (this.released > 0.999_999_9 && least === 1) this.released = 1;
      const slot = now % length;
      this.sum += this.released - means[slot];
      means[slot] = this.released;
      const gain = this.sum / length;
      if (gain < this.least) this.least = gain;
      const back = (now - latency) & mask;
      // Where it does nothing, samples are what they were.
      const isNone = gain > 1 - 1e-9;
      a[i] = isNone ? left[back] : left[back] * gain;
      b[i] = isNone ? right[back] : right[back] * gain;
      for (let c = 2; c < channels; c++) out[c][i] = isNone ? planes[c][back] : planes[c][back] * gain;
    }
    this.now = now;
  }

  /** Whether neither what comes in nor what came before has to be turned down. */
  private isAtRest(out: Block, count: number, easy: number): boolean {
    if (
      this.released < 1 ||
      this.sum < this.length ||
      this.highest > easy ||
      this.leasts[this.first & (this.size - 1)] < 1
    )
      return false;
    // Of more than left and right each sample is looked at.
    if (out.length > 2) return false;
    for (let c = 0; c < 2; c++) {
      const plane = out[c];
      for (let i = 0; i < count; i++) if (plane[i] > easy || plane[i] < -easy) return false;
    }
    return true;
  }

  /** Only holds back, as that is all there is to do. */
  private wait(out: Block, count: number): void {
    const { planes, size, latency, now } = this;
    const mask = size - 1;
    for (let c = 0; c < 2; c++) {
      const [ring, plane] = [planes[c], out[c]];
      let to = now & mask;
      let from = (now - latency) & mask;
      for (let i = 0; i < count; i++) {
        ring[to] = plane[i];
        plane[i] = ring[from];
        to = (to + 1) & mask;
        from = (from + 1) & mask;
      }
    }
    this.now += count;
    // The least gain that was looked for last holds until something is louder.
    this.places[this.first & mask] = this.now - 1;
    this.behind = this.first + 1;
  }

  private recent(): number {
    const { feeds, size, now } = this;
    let top = 0;
    this.since = 0;
    for (let k = 0; k <= TAPS; k++) {
      const at = (now - k) & (size - 1);
      let loud = 0;
      for (let c = 0; c < feeds.length; c++) loud = Math.max(loud, Math.abs(feeds[c][at]));
      if (loud > top) {
        top = loud;
        this.since = k;
      }
    }
    return top;
  }
}

class Limiter implements Node {
  readonly tail = 0;
  reduction = 0;
  private readonly passes: readonly [Pass, Pass];

  constructor(
    private readonly rate: number,
    private readonly params: Readonly<Record<string, Param>>,
    channels: number,
  ) {
    this.passes = [new Pass(rate, MOST, channels), new Pass(rate, SECOND, channels)];
    this.passes[0].look(params.ahead.value);
  }

  get latency(): number {
    const [first, second] = this.passes;
    first.look(this.params.ahead.value);
    return first.latency + second.latency;
  }

  reset(): void {
    for (const pass of this.passes) pass.reset();
    this.reduction = 0;
  }

  process(inputs: readonly Block[], out: Block, at: number, count: number): void {
    const { ceiling, release, character } = this.params;
    const [first, second] = this.passes;
    copyBlock(inputs[0], out, count);
    // A ceiling that moves holds for a block at a time: the lower of its ends.
    const line = ceiling.fill(at, count);
    const top = fromDb(Math.min(line[0], line[count - 1]) - SPARE);
    const isSoft = Math.round(character.value) === SOFT;
    const falls = pole(release.value, this.rate);
    first.process(out, count, top, falls, isSoft ? KNEE : 0);
    second.process(out, count, top, falls, 0);
    this.reduction = 20 * Math.log10(first.least * second.least);
  }
}

/** Nothing gets above it. */
export const limiter: Effect = {
  kind: 'limiter',
  wide: 'all',
  name: 'Limiter',
  about: 'Turns down ahead of what would be above a ceiling, between samples, too.',
  source: 'True peaks after ITU-R BS.1770-4 annex 2; the gain is a moving mean of moving minima, which look ahead.',
  params: [
    even('ceiling', 'Ceiling', 'dB', [-30, 0, -1], 'No true peak is above this. dBTP'),
    octaves('release', 'Release', 'ms', [5, 2000, 80], 'How long it takes to let go.'),
    even(
      'ahead',
      'Look ahead',
      'ms',
      [0, MOST, 3],
      'How early it begins to turn down; all of the mix is held back by as much.',
    ),
    choice(
      'character',
      'Character',
      ['hard', 'soft'],
      'hard',
      'Hard acts at the ceiling alone; soft from three decibels below it.',
    ),
  ],
  presets: [
    { name: 'Broadcast', values: { ceiling: -2, release: 120 } },
    { name: 'Loud and dense', values: { ceiling: -1, release: 40, character: SOFT, ahead: 5 } },
  ],
  make: (rate, params, channels = 2) => new Limiter(rate, params, channels),
};
