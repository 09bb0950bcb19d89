import { transformOf } from '@core/audio';
import { start } from '../generated/convolve';
import { Fir } from './filters';
import { BLOCK, type Block } from './node';

// Partitioned convolution without latency: the first samples of the response one by one, those behind them in small partitions, the rest in
// large ones whose work is spread over the time that they have (W. G. Gardner, “Efficient convolution without input-output delay”, 1995).

/** Samples of a large partition; responses come in units of as many. */
export const UNIT = 2048;
/** Small partitions of a unit, and those between the first samples and the first large partition. */
const STEPS = UNIT / BLOCK;
const SMALL = 2 * STEPS - 1;
const PAGE = 65_536;

/** Numbers of one part of a spectrum of so many samples, and bytes of both parts of both channels. */
const parts = (size: number) => 4 * Math.ceil((size / 2 + 1) / 4);
const spectrum = (size: number) => 2 * 2 * 4 * parts(size);

/** Spectra of one size: of the response, of what came in lately, and the sum of their products. */
class Level {
  private readonly bytes: number;
  private readonly wide: number;
  /** The slot of the newest of what came in, and how many there are. */
  private newest = 0;
  private filled = 0;

  constructor(
    private readonly loop: ReturnType<typeof start>,
    /** Samples of a partition, and how many the response has. */
    readonly samples: number,
    readonly count: number,
    private readonly at: number,
  ) {
    this.wide = parts(2 * samples);
    this.bytes = spectrum(2 * samples);
  }

  static room(samples: number, count: number): number {
    return (2 * count + 1) * spectrum(2 * samples);
  }

  reset(): void {
    this.filled = 0;
  }

  /** The address of a spectrum: of the response, then of what came in, then the sum. */
  private address(n: number, channel = 0): number {
    return this.at + n * this.bytes + (channel * this.bytes) / 2;
  }

  /** Puts the spectra of two real frames, transformed as one, to their place. */
  private keep(n: number, all: Float32Array, pair: Float64Array): void {
    const { wide } = this;
    const size = 2 * this.samples;
    let at = this.address(n) / 4;
    for (let k = 0; k <= size / 2; k++, at++) {
      const up = 2 * k;
      const down = 2 * ((size - k) % size);
      all[at] = (pair[up] + pair[down]) / 2;
      all[at + wide] = (pair[up + 1] - pair[down + 1]) / 2;
      all[at + 2 * wide] = (pair[up + 1] + pair[down + 1]) / 2;
      all[at + 3 * wide] = (pair[down] - pair[up]) / 2;
    }
  }

  /** Takes a part of the response. @param from of the planes */
  respond(n: number, planes: Block, from: number, all: Float32Array): void {
    const transform = transformOf(2 * this.samples);
    const { input } = transform;
    input.fill(0, 2 * this.samples);
    for (let i = 0; i < this.samples; i++) {
      input[2 * i] = planes[0][from + i];
      input[2 * i + 1] = planes[1][from + i];
    }
    this.keep(n, all, transform.run());
  }

  /** Takes what came in, behind what came in before it. */
  push(before: Block, now: Block, all: Float32Array): void {
    if (this.count === 0) return;
    const { samples } = this;
    const transform = transformOf(2 * samples);
    const { input } = transform;
    for (let i = 0; i < samples; i++) {
      input[2 * i] = before[0][i];
      input[2 * i + 1] = before[1][i];
      input[2 * (samples + i)] = now[0][i];
      input[2 * (samples + i) + 1] = now[1][i];
    }
    this.newest = (this.newest + 1) % this.count;
    this.filled = Math.min(this.count, this.filled + 1);
    this.keep(this.count + this.newest, all, transform.run());
  }

  /** Begins the sum anew. */
  clear(all: Float32Array): void {
    const at = this.address(2 * this.count) / 4;
    all.fill(0, at, at + this.bytes / 4);
  }

  /** Adds the products of some partitions with what came in so long before. @param weights of each; none count as 1 */
  add(from: number, to: number, weights?: Float32Array): void {
    const { count, newest, loop } = this;
    const half = 4 * this.wide;
    for (let k = from; k < Math.min(to, this.filled); k++) {
      const weight = weights ? weights[k] : 1;
      if (weight === 0) continue;
      const slot = count + ((newest - k + count) % count);
      for (let c = 0; c < 2; c++)
        loop.multiply(half, this.address(slot, c), this.address(k, c), this.address(2 * count, c), weight);
    }
  }

  /** The sum as samples. */
  finish(out: Block, all: Float32Array): void {
    const { samples, wide } = this;
    const size = 2 * samples;
    const transform = transformOf(size);
    const { input } = transform;
    let at = this.address(2 * this.count) / 4;
    // Both channels as one complex spectrum, conjugated: its transform is then its inverse, but for sign and scale.
    for (let k = 0; k <= samples; k++, at++) {
      const a = all[at];
      const b = all[at + wide];
      const c = all[at + 2 * wide];
      const d = all[at + 3 * wide];
      input[2 * k] = a - d;
      input[2 * k + 1] = -(b + c);
      if (k === 0 || k === samples) continue;
      input[2 * (size - k)] = a + d;
      input[2 * (size - k) + 1] = b - c;
    }
    const made = transform.run();
    for (let i = 0; i < samples; i++) {
      out[0][i] = made[2 * (samples + i)] / size;
      out[1][i] = -made[2 * (samples + i) + 1] / size;
    }
  }
}

const planes = (length: number): Block => [new Float32Array(length), new Float32Array(length)];

/** Convolves two channels with a response of two channels, each with its own. */
export class Convolver {
  /** Samples of the response. */
  readonly frames: number;
  /** Units in which it has to come. */
  readonly units: number;
  private readonly small: Level;
  private readonly large: Level;
  private readonly all: Float32Array;
  private first: Fir[] = [];
  /** Mean energy of the response so far. */
  energy = 0;
  private taken = 0;
  /** What came in: the block that is being filled, and the one before; the same of large ones. */
  private block = planes(BLOCK);
  private blockBefore = planes(BLOCK);
  private unit = planes(UNIT);
  private unitBefore = planes(UNIT);
  private fill = 0;
  private step = 0;
  /** What is ready for the current block, and for the current unit. */
  private readonly ready = planes(BLOCK);
  private readonly readyUnit = planes(UNIT);
  private readonly single = planes(BLOCK);
  /** By large partition. */
  private readonly weights: Float32Array;

  /** @param frames of the response */
  constructor(frames: number) {
    this.frames = frames;
    this.units = Math.max(1, Math.ceil(frames / UNIT));
    const count = Math.max(0, this.units - 2);
    const loop = start();
    const room = Level.room(BLOCK, SMALL);
    const bytes = room + Level.room(UNIT, count);
    const missing = bytes - loop.memory.buffer.byteLength;
    if (missing > 0) loop.memory.grow(Math.ceil(missing / PAGE));
    this.all = new Float32Array(loop.memory.buffer);
    this.small = new Level(loop, BLOCK, SMALL, 0);
    this.large = new Level(loop, UNIT, count, room);
    this.weights = new Float32Array(count).fill(1);
  }

  /** Takes the next unit of the response; silence fills up the last one. */
  respond(unit: Block): void {
    const n = this.taken++;
    for (const plane of unit) for (const x of plane) this.energy += (x * x) / 2;
    if (n === 0) this.first = unit.map((plane) => new Fir(plane.subarray(0, BLOCK)));
    if (n < 2)
      for (let k = 0; k < STEPS; k++) {
        const small = n * STEPS + k - 1;
        if (small >= 0) this.small.respond(small, unit, k * BLOCK, this.all);
      }
    else this.large.respond(n - 2, unit, 0, this.all);
  }

  /** Whether all of the response has come. */
  get isWhole(): boolean {
    return this.taken >= this.units;
  }

  /** Has the response be over after so many samples: what lies beyond is left out, and what lies before fades toward it. */
  end(samples: number): void {
    const { weights } = this;
    for (let k = 0; k < weights.length; k++) {
      const share = ((k + 2) * UNIT + UNIT / 2) / samples;
      weights[k] = share >= 1 ? 0 : share <= 0.6 ? 1 : Math.cos((Math.PI / 2) * ((share - 0.6) / 0.4)) ** 2;
    }
  }

  /** Forgets what came in. */
  reset(): void {
    for (const level of [this.small, this.large]) level.reset();
    for (const block of [this.block, this.blockBefore, this.unit, this.unitBefore, this.ready, this.readyUnit])
      for (const plane of block) plane.fill(0);
    for (const fir of this.first) fir.reset();
    this.large.clear(this.all);
    this.fill = 0;
    this.step = 0;
  }

  /** Convolves at most {@link BLOCK} samples. */
  process(input: Block, out: Block, count: number): void {
    for (let done = 0; done < count;) {
      const part = Math.min(count - done, BLOCK - this.fill);
      for (let c = 0; c < 2; c++) {
        const [single, from, into] = [this.single[c], input[c], out[c]];
        for (let i = 0; i < part; i++) single[i] = from[done + i];
        const head = this.first[c]?.run(single, part);
        const { fill } = this;
        const unit = this.step * BLOCK + fill;
        for (let i = 0; i < part; i++) {
          this.block[c][fill + i] = single[i];
          this.unit[c][unit + i] = single[i];
          into[done + i] = (head ? head[i] : 0) + this.ready[c][fill + i] + this.readyUnit[c][unit + i];
        }
      }
      done += part;
      this.fill += part;
      if (this.fill === BLOCK) this.turn();
    }
  }

  /** A block is full: what it adds to the next one is worked out, and a share of what the last unit adds to the next unit. */
  private turn(): void {
    const { small, large, all } = this;
    this.fill = 0;
    small.push(this.blockBefore, this.block, all);
    [this.block, this.blockBefore] = [this.blockBefore, this.block];
    small.clear(all);
    small.add(0, SMALL);
    small.finish(this.ready, all);
    if (large.count === 0) {
      this.step = (this.step + 1) % STEPS;
      return;
    }
    const share = Math.ceil(large.count / (STEPS - 1));
    large.add(this.step * share, Math.min(large.count, (this.step + 1) * share), this.weights);
    this.step++;
    if (this.step < STEPS) return;
    this.step = 0;
    large.finish(this.readyUnit, all);
    large.clear(all);
    large.push(this.unitBefore, this.unit, all);
    [this.unit, this.unitBefore] = [this.unitBefore, this.unit];
  }
}
