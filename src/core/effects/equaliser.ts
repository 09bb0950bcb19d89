import { biquad, butterworth, responses, ringing, type Response } from './biquad';
import type { Effect, ParamSpec } from './effect';
import { copyBlock, type Block, type Node } from './node';
import type { Param } from './param';

/** Bands of an equaliser, and sections that a band has at the most. */
const [BANDS, SECTIONS] = [8, 4];
/** While a value moves, coefficients are worked out anew after so many samples. */
const STEP = 16;
/** Seconds of ringing that are waited for at the most. */
const LONGEST = 2;
const OFF = 0;
const slopes = ['12', '24', '36', '48'] as const;

const specs: readonly ParamSpec[] = Array.from({ length: BANDS }, (_, i): ParamSpec[] => {
  const n = i + 1;
  return [
    {
      ...{
        key: `kind${n}`,
        label: `Band ${n}`,
        unit: '',
        least: 0,
        most: responses.length,
        initial: OFF,
        curve: 'even',
      },
      choices: ['off', ...responses],
      about: 'What the band does.',
    },
    {
      ...{ key: `freq${n}`, label: `Frequency ${n}`, unit: 'Hz', least: 10, most: 20_000, curve: 'octaves' },
      initial: Math.round(40 * 2 ** (i * 1.25)),
      about: 'Where the band acts: its middle, or where a cut is at -3 dB.',
    },
    {
      ...{ key: `gain${n}`, label: `Gain ${n}`, unit: 'dB', least: -24, most: 24, initial: 0, curve: 'even' },
      about: 'How much a bell or shelf lifts or lowers.',
    },
    {
      ...{
        key: `q${n}`,
        label: `Quality ${n}`,
        unit: '',
        least: 0.1,
        most: 30,
        initial: Math.SQRT1_2,
        curve: 'octaves',
      },
      about: 'How narrow a bell or notch is; how steeply a shelf rises.',
    },
    {
      ...{ key: `slope${n}`, label: `Slope ${n}`, unit: 'dB/octave', least: 0, most: 3, initial: 0, curve: 'even' },
      choices: slopes,
      about: 'How steep a cut is.',
    },
  ];
}).flat();

/** One band: up to four sections, one after another. */
class Band {
  private readonly sections = Array.from({ length: SECTIONS }, () => new Float64Array(5));
  /** What each section keeps, by channel and section. */
  private readonly kept = [new Float64Array(2 * SECTIONS), new Float64Array(2 * SECTIONS)];
  private count = 0;
  private set = new Float64Array(5).fill(NaN);
  private readonly qualities = Array.from({ length: SECTIONS }, (_, i) => butterworth(i + 1));
  private rings = 0;

  constructor(
    private readonly rate: number,
    private readonly kind: Param,
    private readonly freq: Param,
    private readonly gain: Param,
    private readonly q: Param,
    private readonly slope: Param,
  ) {}

  reset(): void {
    for (const plane of this.kept) plane.fill(0);
  }

  /** Samples until what went in has died away. */
  get tail(): number {
    const { kind, freq, gain, q, slope } = this;
    if (Math.round(kind.value) === OFF) return 0;
    this.take(Math.round(kind.value), freq.value, gain.value, q.value, Math.round(slope.value));
    return this.rings;
  }

  /** Works out the sections where anything of what they follow from has changed. */
  private take(kind: number, freq: number, gain: number, q: number, slope: number): void {
    const { set } = this;
    if (set[0] === kind && set[1] === freq && set[2] === gain && set[3] === q && set[4] === slope) return;
    // Another kind of band has nothing to do with what this one rang with.
    if (set[0] !== kind || set[4] !== slope) this.reset();
    set[0] = kind;
    set[1] = freq;
    set[2] = gain;
    set[3] = q;
    set[4] = slope;
    const response: Response = responses[kind - 1];
    const cut = response === 'low cut' || response === 'high cut';
    this.count = cut ? slope + 1 : 1;
    this.rings = 0;
    for (let s = 0; s < this.count; s++) {
      const section = this.sections[s];
      biquad(response, this.rate, freq, gain, cut ? this.qualities[slope][s] : q, section);
      this.rings = Math.min(LONGEST * this.rate, this.rings + ringing(section));
    }
  }

  process(out: Block, at: number, count: number): void {
    const kind = Math.round(this.kind.value);
    const [freq, gain, q] = [this.freq, this.gain, this.q];
    const f = freq.read(at, count);
    const g = gain.read(at, count);
    const w = q.read(at, count);
    if (kind === OFF) return;
    const slope = Math.round(this.slope.value);
    const span = f || g || w ? STEP : count;
    for (let from = 0; from < count; from += span) {
      const to = Math.min(count, from + span);
      this.take(
        kind,
        f ? freq.line[from] : freq.value,
        g ? gain.line[from] : gain.value,
        w ? q.line[from] : q.value,
        slope,
      );
      for (let c = 0; c < out.length; c++) for (let s = 0; s < this.count; s++) this.run(out[c], c, s, from, to);
    }
  }

  /** One section over some samples, in the transposed direct form II. */
  private run(plane: Float32Array, channel: number, s: number, from: number, to: number): void {
    const section = this.sections[s];
    const b0 = section[0];
    const b1 = section[1];
    const b2 = section[2];
    const a1 = section[3];
    const a2 = section[4];
    const kept = this.kept[channel];
    let z1 = kept[2 * s];
    let z2 = kept[2 * s + 1];
    for (let i = from; i < to; i++) {
      const x = plane[i];
      const y = b0 * x + z1;
      z1 = b1 * x - a1 * y + z2;
      z2 = b2 * x - a2 * y;
      plane[i] = y;
    }
    // What is too small to be heard costs many times as much to reckon with.
    kept[2 * s] = Math.abs(z1) < 1e-20 ? 0 : z1;
    kept[2 * s + 1] = Math.abs(z2) < 1e-20 ? 0 : z2;
  }
}

class Equaliser implements Node {
  readonly latency = 0;
  private readonly bands: Band[];

  constructor(rate: number, params: Readonly<Record<string, Param>>) {
    this.bands = Array.from(
      { length: BANDS },
      (_, i) =>
        new Band(
          rate,
          params[`kind${i + 1}`],
          params[`freq${i + 1}`],
          params[`gain${i + 1}`],
          params[`q${i + 1}`],
          params[`slope${i + 1}`],
        ),
    );
  }

  get tail(): number {
    let tail = 0;
    for (const band of this.bands) tail += band.tail;
    return tail;
  }

  reset(): void {
    for (const band of this.bands) band.reset();
  }

  process(inputs: readonly Block[], out: Block, at: number, count: number): void {
    copyBlock(inputs[0], out, count);
    for (const band of this.bands) band.process(out, at, count);
  }
}

/** Lifts, lowers and cuts parts of the spectrum. */
export const equaliser: Effect = {
  kind: 'equaliser',
  name: 'Equaliser',
  about: 'Lifts, lowers or cuts parts of the spectrum, in up to eight bands.',
  source:
    'R. Bristow-Johnson, “Cookbook formulae for audio equalizer biquad filter coefficients”; cuts are Butterworth filters of its sections.',
  params: specs,
  make: (rate, params) => new Equaliser(rate, params),
};
