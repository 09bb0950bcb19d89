import type { Effect } from './effect';
import { copyBlock, type Block, type Node } from './node';
import type { Param } from './param';
import { choice, octaves } from './spec';

const kinds = ['high cut', 'low cut', 'band', 'notch'] as const;
const [HIGH_CUT, LOW_CUT, BAND] = [0, 1, 2];

/** A state-variable filter whose values may move as fast as they like. */
class Filter implements Node {
  readonly latency = 0;
  /** By channel and stage: what the two integrators keep. */
  private readonly kept = [new Float64Array(4), new Float64Array(4)];

  constructor(
    private readonly rate: number,
    private readonly params: Readonly<Record<string, Param>>,
  ) {}

  /** The slower of its poles rings longest: at its quality, or, where it does not ring, by its frequency. */
  get tail(): number {
    const { freq, q, slope } = this.params;
    const stages = Math.round(slope.value) + 1;
    const decay = Math.PI * Math.min(freq.value, this.rate * 0.49) * Math.min(1 / q.value, q.value);
    return Math.min(2 * this.rate, Math.ceil((stages * 10.4 * this.rate) / decay));
  }

  reset(): void {
    for (const plane of this.kept) plane.fill(0);
  }

  process(inputs: readonly Block[], out: Block, at: number, count: number): void {
    copyBlock(inputs[0], out, count);
    const { rate, params } = this;
    const kind = Math.round(params.kind.value);
    const stages = Math.round(params.slope.value) + 1;
    const f = params.freq.fill(at, count);
    const q = params.q.fill(at, count);
    for (let c = 0; c < out.length; c++) {
      const plane = out[c];
      const kept = this.kept[c];
      let g = 0;
      let k = 0;
      let seen = -1;
      let of = -1;
      for (let i = 0; i < count; i++) {
        if (f[i] !== seen || q[i] !== of) {
          seen = f[i];
          of = q[i];
          g = Math.tan((Math.PI * Math.min(seen, rate * 0.49)) / rate);
          k = 1 / of;
        }
        const a1 = 1 / (1 + g * (g + k));
        const a2 = g * a1;
        let x = plane[i];
        for (let s = 0; s < stages; s++) {
          const v3 = x - kept[2 * s + 1];
          const v1 = a1 * kept[2 * s] + a2 * v3;
          const v2 = kept[2 * s + 1] + a2 * kept[2 * s] + g * a2 * v3;
          kept[2 * s] = 2 * v1 - kept[2 * s];
          kept[2 * s + 1] = 2 * v2 - kept[2 * s + 1];
          x = kind === HIGH_CUT ? v2 : kind === LOW_CUT ? x - k * v1 - v2 : kind === BAND ? k * v1 : x - k * v1;
        }
        plane[i] = x;
      }
      // What is too small to be heard costs many times as much to reckon with.
      for (let s = 0; s < 4; s++) if (Math.abs(kept[s]) < 1e-20) kept[s] = 0;
    }
  }
}

/** The analogue filter's own response, at the frequency that the bilinear transform puts in the tone's place. */
function colours({ kind, freq, q, slope }: Readonly<Record<string, number>>, rate: number, tone: number): number {
  const x = Math.tan((Math.PI * tone) / rate) / Math.tan((Math.PI * Math.min(freq, rate * 0.49)) / rate);
  const [away, damped] = [(1 - x * x) ** 2, (x / q) ** 2];
  const left = kind === HIGH_CUT ? 1 : kind === LOW_CUT ? x ** 4 : kind === BAND ? damped : away;
  return (Math.round(slope) + 1) * 10 * Math.log10(Math.max(1e-20, left / (away + damped)));
}

/** One filter that can be moved. */
export const filter: Effect = {
  kind: 'filter',
  wide: 'each',
  name: 'Filter',
  about: 'Takes away what lies above, below, beside or at a frequency, and may be moved while it sounds.',
  source:
    'A. Simper, “Solving the continuous SVF equations using trapezoidal integration and equivalent currents” (2013).',
  params: [
    choice('kind', 'Kind', kinds, 'high cut', 'What is taken away.'),
    octaves('freq', 'Frequency', 'Hz', [20, 20_000, 1000], 'Where it acts.'),
    octaves('q', 'Quality', '', [0.3, 20, Math.SQRT1_2], 'How narrow it is, and how much it rings.'),
    choice('slope', 'Slope', ['12 dB/octave', '24 dB/octave'], '12 dB/octave', 'How steep it is.'),
  ],
  presets: [
    { name: 'Behind a door', values: { freq: 420, slope: 1 } },
    { name: 'From a small loudspeaker', values: { kind: BAND, freq: 1400, q: 0.9 } },
  ],
  colours,
  make: (rate, params) => new Filter(rate, params),
};
