import { start } from '../generated/filters';
import type { Block } from './node';
import { BLOCK } from './node';

// Inner loops of filters, in WebAssembly. All filters share its memory: what is in it is good until the next call.

/** Samples that are filtered at once at the most, taps of a filter, and how many outputs are worked out side by side. */
const [MOST, TAPS, WIDE] = [BLOCK, 256, 16];
/** Doublings of the rate at the most, and what is remembered in front of the samples of each rate. */
const [STAGES, BEFORE] = [3, 64];
/** Sections of a chain at the most. */
const SECTIONS = 32;

function begin() {
  const module = start();
  const { buffer } = module.memory;
  let used = 0;
  const room = (bytes: number): number => {
    const at = used;
    used += Math.ceil(bytes / 16) * 16;
    return at;
  };
  const x = room(4 * (MOST + TAPS + WIDE));
  const taps = room(4 * TAPS);
  const to = room(4 * (MOST + WIDE));
  const left = room(4 * BLOCK);
  const right = room(4 * BLOCK);
  const sections = room(8 * 5 * SECTIONS);
  const kept = room(8 * 4 * SECTIONS);
  const factors = room(4 * BLOCK);
  // By how often the rate was doubled: samples, and on the way back those in even places and those between them.
  const rates = Array.from({ length: STAGES + 1 }, (_, s) => {
    const samples = 4 * (BEFORE + (BLOCK << s) + WIDE);
    return { all: room(samples), even: room(samples), odd: room(samples), made: room(samples), back: room(samples) };
  });
  const halfBands = room(4 * STAGES * BEFORE);
  if (used > buffer.byteLength) throw new RangeError('the filters’ memory is too small');
  const floats = (at: number, stage: number) => new Float32Array(buffer, at, BEFORE + (BLOCK << stage) + WIDE);
  return {
    module,
    at: { x, taps, to, left, right, sections, kept, factors, rates, halfBands },
    rates: rates.map(({ all, even, odd, back }, s) => ({
      all: floats(all, s),
      even: floats(even, s),
      odd: floats(odd, s),
      back: floats(back, s),
      /** The samples of the highest rate alone. */
      high: new Float32Array(buffer, all + 4 * BEFORE, BLOCK << s),
    })),
    halfBands: new Float32Array(buffer, halfBands, STAGES * BEFORE),
    x: new Float32Array(buffer, x, MOST + TAPS + WIDE),
    taps: new Float32Array(buffer, taps, TAPS),
    to: new Float32Array(buffer, to, MOST + WIDE),
    planes: [new Float32Array(buffer, left, BLOCK), new Float32Array(buffer, right, BLOCK)] as Block,
    sections: new Float64Array(buffer, sections, 5 * SECTIONS),
    kept: new Float64Array(buffer, kept, 4 * SECTIONS),
    factors: new Float32Array(buffer, factors, BLOCK),
  };
}
let begun: ReturnType<typeof begin> | undefined;
/** The module, started where it is first needed. */
const running = () => (begun ??= begin());

/** A filter of finite length over one channel, which remembers what came before. */
export class Fir {
  /** Taps, the one of the oldest sample first. */
  private readonly taps: Float32Array;
  private readonly held: Float32Array;
  private readonly length: number;

  /** @param taps at most 256, by how long ago what they weigh came in; @param most samples that are filtered at once */
  constructor(taps: ArrayLike<number>, most = BLOCK) {
    this.length = taps.length;
    this.taps = new Float32Array(taps.length);
    this.held = new Float32Array(taps.length - 1 + most);
    this.set(taps);
  }

  /** Takes over other taps, as many. */
  set(taps: ArrayLike<number>): void {
    for (let k = 0; k < this.length; k++) this.taps[k] = taps[this.length - 1 - k];
  }

  reset(): void {
    this.held.fill(0);
  }

  /** Has this one remember what another one of its length does. */
  follow(other: Fir): void {
    this.held.set(other.held);
  }

  /** Takes samples in, and gives as many; they are good until the next filter runs. */
  run(from: Float32Array, count: number): Float32Array {
    const { held, length } = this;
    const before = length - 1;
    for (let i = 0; i < count; i++) held[before + i] = from[i];
    const { module, at, x, taps, to } = running();
    x.set(held);
    taps.set(this.taps);
    module.fir(at.x, at.taps, length, Math.ceil(count / WIDE) * WIDE, at.to);
    held.copyWithin(0, count, count + before);
    return to;
  }
}

/** What a chain of second-order sections keeps of one section: left and right of its first value, then of its second. */
export type Kept = Float64Array;

/**
 * Runs sections over a block of two channels, in place, in the transposed direct form II.
 * @param sections b0, b1, b2, a1, a2 of each; @param count of them, at most 32; @param from and `to` samples of the block
 */
export function runSections(
  sections: readonly Float64Array[],
  kept: readonly Kept[],
  count: number,
  out: Block,
  from: number,
  to: number,
): void {
  if (count === 0) return;
  const { module, at, planes, sections: how, kept: state } = running();
  for (let c = 0; c < 2; c++) {
    const plane = planes[c];
    const source = out[c];
    for (let i = from; i < to; i++) plane[i] = source[i];
  }
  for (let s = 0; s < count; s++) {
    const section = sections[s];
    const own = kept[s];
    for (let k = 0; k < 5; k++) how[5 * s + k] = section[k];
    for (let k = 0; k < 4; k++) state[4 * s + k] = own[k];
  }
  module.sections(at.left + 4 * from, at.right + 4 * from, to - from, at.sections, at.kept, count);
  for (let s = 0; s < count; s++) {
    const own = kept[s];
    // What is too small to be heard costs many times as much to reckon with.
    for (let k = 0; k < 4; k++) own[k] = Math.abs(state[4 * s + k]) < 1e-20 ? 0 : state[4 * s + k];
  }
  for (let c = 0; c < 2; c++) {
    const plane = planes[c];
    const target = out[c];
    for (let i = from; i < to; i++) target[i] = plane[i];
  }
}

/** Bends what is at eight times the rate in the memory, eight samples for each factor that they are driven by; see `bent`. */
export function bend(factors: Float64Array, count: number, bias: number, rest: number): void {
  const own = running();
  for (let i = 0; i < count; i++) own.factors[i] = factors[i];
  own.module.bend(own.at.rates[3].all + 4 * BEFORE, own.at.factors, count, bias, rest);
}

/** Twice the rate and back, once or several times, over one channel; what it remembers is put into the memory for each block. */
export class Oversampling {
  private readonly kept: Float32Array;

  /**
   * @param taps of half-band filters, every second one: an even number, at most 64, by stage, the first doubling first
   * @param further samples of the highest rate by which all is held back, at most 64
   */
  constructor(
    private readonly taps: readonly Float64Array[],
    private readonly further = 0,
  ) {
    const before = taps.reduce((sum, { length }) => sum + 2 * (length - 1) + length / 2, 0);
    this.kept = new Float32Array(before + further);
  }

  reset(): void {
    this.kept.fill(0);
  }

  /** Puts `length` numbers that are kept in front of samples, or keeps the last ones of them. */
  private remember(at: number, plane: Float32Array, length: number, count: number, isAfter: boolean): void {
    const { kept } = this;
    const start = BEFORE - length;
    if (isAfter) for (let i = 0; i < length; i++) kept[at + i] = plane[start + count + i];
    else for (let i = 0; i < length; i++) plane[start + i] = kept[at + i];
  }

  /** All that is remembered, stage by stage. */
  private rememberAll(count: number, isUp: boolean, isAfter: boolean): void {
    const { taps, further } = this;
    const { rates } = running();
    const stages = taps.length;
    let at = 0;
    for (let s = 0; s < stages; s++) {
      const { length } = taps[s];
      if (isUp) this.remember(at, rates[s].all, length - 1, count << s, isAfter);
      at += length - 1;
      if (!isUp) {
        this.remember(at, rates[s].even, length - 1, count << s, isAfter);
        this.remember(at + length - 1, rates[s].odd, length / 2, count << s, isAfter);
      }
      at += length - 1 + length / 2;
    }
    // What is held back comes in on the way up, and is remembered once it was worked on.
    if (isUp !== isAfter) this.remember(at, rates[stages].all, further, count << stages, isAfter);
  }

  private tapsAt(stage: number, factor: number): number {
    const { at, halfBands } = running();
    const own = this.taps[stage];
    for (let k = 0; k < own.length; k++) halfBands[stage * BEFORE + k] = own[own.length - 1 - k] * factor;
    return at.halfBands + 4 * stage * BEFORE;
  }

  /** Takes samples in. @returns them at the highest rate: to be worked on in place, and good until `down`, before which no other one may run */
  up(from: Float32Array, count: number): Float32Array {
    const { module, at, rates } = running();
    const { taps } = this;
    for (let i = 0; i < count; i++) rates[0].all[BEFORE + i] = from[i];
    this.rememberAll(count, true, false);
    for (let s = 0; s < taps.length; s++) {
      const n = taps[s].length;
      const x = at.rates[s].all + 4 * (BEFORE - n + 1);
      module.double(x, this.tapsAt(s, 2), n, count << s, at.rates[s].made, at.rates[s + 1].all + 4 * BEFORE);
    }
    this.rememberAll(count, true, true);
    return rates[taps.length].high;
  }

  /** Goes back to the rate at which they came in. @returns as many samples, good until the next filter runs */
  down(count: number): Float32Array {
    const { module, at, rates } = running();
    const { taps } = this;
    const stages = taps.length;
    this.rememberAll(count, false, false);
    let z = at.rates[stages].all + 4 * (BEFORE - this.further);
    for (let s = stages - 1; s >= 0; s--) {
      const n = taps[s].length;
      const own = at.rates[s];
      const [even, odd] = [own.even + 4 * (BEFORE - n + 1), own.odd + 4 * (BEFORE - n / 2)];
      module.halve(z, even, odd, this.tapsAt(s, 1), n, count << s, own.back);
      z = own.back;
    }
    this.rememberAll(count, false, true);
    return rates[0].back;
  }
}
