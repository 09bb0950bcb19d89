import { Convolver, UNIT } from './convolver';
import type { Effect } from './effect';
import { BLOCK, type Block, type SoundNode } from './node';
import { GLIDE, type Param } from './param';
import { even, levelFrom, mix, NOTHING, octaves } from './spec';

/** Seconds of a sound that are used at the most. */
export const CONVOLUTION_MOST = 20;
/** Milliseconds of pre-delay at most. */
const BEFORE = 250;

/** A ring of two channels that is read so many samples back. */
class Ring {
  private readonly planes: Block;
  private readonly mask: number;
  private head = 0;

  constructor(length: number) {
    const size = 2 ** Math.ceil(Math.log2(length + BLOCK));
    this.planes = [new Float32Array(size), new Float32Array(size)];
    this.mask = size - 1;
  }

  reset(): void {
    for (const plane of this.planes) plane.fill(0);
  }

  /** Takes samples, and gives those that came `from` before; on the way to `to` where that is another place. */
  process(input: Block, out: Block, count: number, from: number, to: number): void {
    const { mask, head } = this;
    for (let c = 0; c < 2; c++) {
      const [plane, source, into] = [this.planes[c], input[c], out[c]];
      for (let i = 0; i < count; i++) {
        plane[(head + i) & mask] = source[i];
        const old = plane[(head + i - from) & mask];
        into[i] = from === to ? old : old + (plane[(head + i - to) & mask] - old) * ((i + 1) / count);
      }
    }
    this.head = (head + count) & mask;
  }
}

class Convolution implements SoundNode {
  readonly latency = 0;
  readonly unit = UNIT;
  private convolver: Convolver | undefined;
  /** How loud the response has to be so that noise comes out as loud as it went in. */
  private scale = 0;
  /** How far it has risen since it was whole. */
  private risen = 0;
  private delay: number | undefined;
  private length = 0;
  private readonly ring: Ring;
  private readonly late: Block = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
  private readonly wet: Block = [new Float32Array(BLOCK), new Float32Array(BLOCK)];

  constructor(
    private readonly rate: number,
    private readonly params: Readonly<Record<string, Param>>,
  ) {
    this.ring = new Ring((BEFORE / 1000) * rate);
  }

  get tail(): number {
    const { length, before } = this.params;
    return Math.ceil(
      Math.min(this.convolver?.frames ?? 0, length.value * this.rate) + (before.value / 1000) * this.rate,
    );
  }

  get missing(): number {
    return this.convolver ? this.convolver.units - this.taken : 0;
  }
  private taken = 0;

  begin(frames: number): void {
    const used = Math.min(frames, CONVOLUTION_MOST * this.rate);
    this.convolver = used > 0 ? new Convolver(used) : undefined;
    this.taken = 0;
    this.scale = 0;
    this.risen = 0;
    this.length = 0;
  }

  take(planes: Block): void {
    const { convolver } = this;
    if (!convolver || this.missing === 0) return;
    convolver.respond(planes);
    this.taken++;
    if (this.missing === 0) this.scale = convolver.energy > 0 ? 1 / Math.sqrt(convolver.energy) : 0;
  }

  reset(): void {
    this.convolver?.reset();
    this.ring.reset();
    this.delay = undefined;
    // What is whole before anything is heard has nothing to rise from.
    this.risen = this.scale > 0 ? 1 : 0;
  }

  process(inputs: readonly Block[], out: Block, at: number, count: number): void {
    const { params, convolver, wet, late } = this;
    const [input] = inputs;
    const delay = Math.round((params.before.value / 1000) * this.rate);
    this.ring.process(input, late, count, this.delay ?? delay, delay);
    this.delay = delay;
    const length = Math.round(params.length.value * this.rate);
    if (convolver && length !== this.length) convolver.end((this.length = length));
    if (convolver) convolver.process(late, wet, count);
    const gain = params.gain.fill(at, count);
    const share = params.mix.fill(at, count);
    const isStill = gain[0] === gain[count - 1];
    let level = levelFrom(gain[0]);
    const step = 1 / (GLIDE * this.rate);
    for (let i = 0; i < count; i++) {
      if (!isStill) level = levelFrom(gain[i]);
      if (this.scale > 0 && this.risen < 1) this.risen = Math.min(1, this.risen + step);
      const made = convolver ? (share[i] / 100) * level * this.scale * this.risen : 0;
      const kept = 1 - share[i] / 100;
      for (let c = 0; c < 2; c++) out[c][i] = input[c][i] * kept + (made === 0 ? 0 : wet[c][i] * made);
    }
  }
}

/** Sounds as they would where a recording was made, or through whatever was recorded. */
export const convolution: Effect = {
  kind: 'convolution',
  name: 'Convolution',
  about: 'Has a sound answer to all that comes through: the recorded echo of a place, or anything else.',
  source:
    'W. G. Gardner, “Efficient convolution without input-output delay” (1995). Of the response, 20 s at most are used; noise comes out as loud as it went in.',
  madeOf: 'What answers',
  params: [
    octaves(
      'length',
      'Length',
      's',
      [0.1, CONVOLUTION_MOST, CONVOLUTION_MOST],
      'When the answer is over; it fades towards there.',
    ),
    even('before', 'Pre-delay', 'ms', [0, BEFORE, 0], 'How long it is until it answers.'),
    even('gain', 'Level', 'dB', [NOTHING, 12, 0], 'How loud the answer is; at 0 dB, noise is as loud as it was.'),
    mix(25),
  ],
  make: (rate, params) => new Convolution(rate, params),
};
