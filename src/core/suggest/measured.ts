import type { Category } from './categories';

/** What was measured of a sound; each may be missing. */
export interface Measures {
  seconds?: number;
  onsets?: number;
  pitchSure?: number;
  brightness?: number;
  noisiness?: number;
}

/** How each measure is compared: those that span decades as octaves. */
const scales: readonly ((m: Measures) => number | undefined)[] = [
  (m) => (m.seconds === undefined ? undefined : Math.log2(m.seconds + 0.05)),
  (m) => (m.onsets === undefined ? undefined : Math.log2(1 + m.onsets)),
  (m) => m.pitchSure,
  (m) => (m.brightness === undefined ? undefined : Math.log2(Math.max(50, m.brightness))),
  (m) => m.noisiness,
];

/** Sums of one measure: enough for its mean and spread, also after some is taken back. */
class Spread {
  private n = 0;
  private sum = 0;
  private squares = 0;

  add(x: number, count: number): void {
    this.n += count;
    this.sum += count * x;
    this.squares += count * x * x;
  }

  get count(): number {
    return Math.max(0, this.n);
  }

  /** Mean and variance, drawn to another's as by so many more of its kind (the mean of a normal-inverse-gamma posterior). */
  drawn(to: { mean: number; variance: number }, by: number): { mean: number; variance: number } {
    const n = this.count;
    if (n < 1e-6) return to;
    const own = this.sum / n;
    const inner = Math.max(0, this.squares - n * own * own);
    const mean = (n * own + by * to.mean) / (n + by);
    const apart = ((n * by) / (n + by)) * (own - to.mean) ** 2;
    return { mean, variance: (inner + apart + by * to.variance) / (n + by) };
  }
}

/** So many sounds have to be known before what was measured says anything, in the library and of one kind. */
const [LIBRARY, KIND] = [20, 3];
/** Kinds begin as so many sounds that are like the library. */
const DRAWN = 4;
/** Measures go along with one another, so that together they say less than their sum; and they never outvote a name. */
const [SHARE, FOR, AGAINST] = [0.3, 0.5, 1.2];

/**
 * What sounds of a category measure in this library, learned from those that are labelled: a naive Bayes classifier with normal
 * likelihoods (Duda, Hart and Stork, Pattern Classification, 2001), a category's beside the whole library's. Learned by Category and
 * by SubCategory apart, since an impact is short whatever it is made of.
 */
export class Measured {
  private readonly all = scales.map(() => new Spread());
  private readonly kinds = new Map<string, Spread[]>();

  /** Takes a labelled sound in, or takes it back with a negative count. */
  learn(
    { category, subCategory }: Pick<Category, 'category' | 'subCategory'>,
    measures: Measures,
    count: number,
  ): void {
    const into = [this.all, ...[category, `/${subCategory}`].map((kind) => this.of(kind))];
    scales.forEach((scale, i) => {
      const x = scale(measures);
      if (x !== undefined && Number.isFinite(x)) for (const spreads of into) spreads[i].add(x, count);
    });
  }

  private of(kind: string): Spread[] {
    let own = this.kinds.get(kind);
    if (!own) this.kinds.set(kind, (own = scales.map(() => new Spread())));
    return own;
  }

  forget(): void {
    this.all.splice(0, this.all.length, ...scales.map(() => new Spread()));
    this.kinds.clear();
  }

  /** How much better what was measured fits a category than the library: above 0 for, below 0 against; in nats, bounded. */
  speaks({ category, subCategory }: Pick<Category, 'category' | 'subCategory'>, measures: Measures): number {
    if (this.all[0].count < LIBRARY) return 0;
    const amounts = [category, `/${subCategory}`].flatMap((kind) => {
      const own = this.kinds.get(kind);
      return own && own[0].count >= KIND ? [this.likelier(own, measures)] : [];
    });
    return amounts.length === 0 ? 0 : amounts.reduce((a, b) => a + b) / amounts.length;
  }

  private likelier(own: readonly Spread[], measures: Measures): number {
    const sum = scales.reduce((total, scale, i) => {
      const x = scale(measures);
      if (x === undefined || this.all[i].count < LIBRARY) return total;
      const whole = this.all[i].drawn({ mean: x, variance: 1 }, 1);
      const kind = own[i].drawn(whole, DRAWN);
      return total + logNormal(x, kind) - logNormal(x, whole);
    }, 0);
    return Math.max(-AGAINST, Math.min(FOR, SHARE * sum));
  }
}

/** The logarithm of a normal density, less what is the same for all. */
const logNormal = (x: number, { mean, variance }: { mean: number; variance: number }): number => {
  const v = Math.max(variance, 1e-3);
  return -((x - mean) ** 2) / (2 * v) - Math.log(v) / 2;
};
