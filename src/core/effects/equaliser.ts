import { biquad, butterworth, gainOf, responses, ringing, type Response } from './biquad';
import type { Effect, ParamSpec } from './effect';
import { runSections, type Kept } from './filters';
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
  private readonly kept: readonly Kept[] = Array.from({ length: SECTIONS }, () => new Float64Array(4));
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

  /** Reads its values. @returns whether they move within the block */
  read(at: number, count: number): boolean {
    const f = this.freq.read(at, count);
    const g = this.gain.read(at, count);
    const q = this.q.read(at, count);
    const moves = f || g || q;
    this.moving[0] = f;
    this.moving[1] = g;
    this.moving[2] = q;
    return moves;
  }
  private readonly moving = [false, false, false];

  /** Puts its sections as they stand at a sample of the block into a chain, behind so many others. @returns how many those are then */
  chain(sample: number, sections: Float64Array[], kept: Kept[], before: number): number {
    const kind = Math.round(this.kind.value);
    if (kind === OFF) return before;
    const { freq, gain, q, moving } = this;
    this.take(
      kind,
      moving[0] ? freq.line[sample] : freq.value,
      moving[1] ? gain.line[sample] : gain.value,
      moving[2] ? q.line[sample] : q.value,
      Math.round(this.slope.value),
    );
    for (let s = 0; s < this.count; s++) {
      sections[before + s] = this.sections[s];
      kept[before + s] = this.kept[s];
    }
    return before + this.count;
  }
}

class Equaliser implements Node {
  readonly latency = 0;
  /** The chain of the bands that are on; what stands behind it is of a longer one. */
  private readonly sections: Float64Array[] = [];
  private readonly kept: Kept[] = [];
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
    let moves = false;
    for (const band of this.bands) if (band.read(at, count)) moves = true;
    const { sections, kept } = this;
    const span = moves ? STEP : count;
    for (let from = 0; from < count; from += span) {
      let chained = 0;
      for (const band of this.bands) chained = band.chain(from, sections, kept, chained);
      runSections(sections, kept, chained, out, from, Math.min(count, from + span));
    }
  }
}

const section = new Float64Array(5);

/** The bands one after another. */
function colours(values: Readonly<Record<string, number>>, rate: number, freq: number): number {
  let sum = 0;
  for (let n = 1; n <= BANDS; n++) {
    const kind = Math.round(values[`kind${n}`]);
    if (kind === OFF) continue;
    const response = responses[kind - 1];
    const cut = response === 'low cut' || response === 'high cut';
    const qualities = cut ? butterworth(Math.round(values[`slope${n}`]) + 1) : [values[`q${n}`]];
    for (const q of qualities) {
      biquad(response, rate, values[`freq${n}`], values[`gain${n}`], q, section);
      sum += gainOf(section, rate, freq);
    }
  }
  return sum;
}

/** Lifts, lowers and cuts parts of the spectrum. */
export const equaliser: Effect = {
  kind: 'equaliser',
  wide: 'each',
  name: 'Equaliser',
  about: 'Lifts, lowers or cuts parts of the spectrum, in up to eight bands.',
  source:
    'R. Bristow-Johnson, “Cookbook formulae for audio equalizer biquad filter coefficients”; cuts are Butterworth filters of its sections.',
  params: specs,
  colours,
  make: (rate, params) => new Equaliser(rate, params),
};
