import { fromDb } from '@core/audio';
import { biquad } from './biquad';
import type { Effect } from './effect';
import { Fir, runSections, type Kept } from './filters';
import { BLOCK, type Block, type Node } from './node';
import type { Param } from './param';
import { Place } from './place';
import { choice, even, levelFrom, NOTHING, octaves } from './spec';

/**
 * What air takes from a tone, after ISO 9613-1, at one atmosphere.
 * @param freq Hz; @param celsius °C; @param humidity relative, %
 * @returns dB a metre
 */
export function airLoss(freq: number, celsius: number, humidity: number): number {
  const kelvin = celsius + 273.15;
  const warm = kelvin / 293.15;
  const water = humidity * 10 ** (-6.8346 * (273.16 / kelvin) ** 1.261 + 4.6151);
  const oxygen = 24 + (4.04e4 * water * (0.02 + water)) / (0.391 + water);
  const nitrogen = warm ** -0.5 * (9 + 280 * water * Math.exp(-4.17 * (warm ** (-1 / 3) - 1)));
  const squared = freq * freq;
  const relaxing =
    (0.01275 * Math.exp(-2239.1 / kelvin)) / (oxygen + squared / oxygen) +
    (0.1068 * Math.exp(-3352 / kelvin)) / (nitrogen + squared / nitrogen);
  return 8.686 * squared * (1.84e-11 * Math.sqrt(warm) + warm ** -2.5 * relaxing);
}

/** Taps of the filter that stands for the air, and what it takes away at the most, dB. */
const [TAPS, MOST] = [128, 110];
const POINTS = 2 * TAPS;
/** The filter is made anew after so many samples at the soonest. */
const OFTEN = 1024;
const cosines = Float64Array.from({ length: POINTS }, (_, k) => Math.cos((2 * Math.PI * k) / POINTS));

/**
 * The minimum-phase filter with a magnitude, through its cepstrum (A. V. Oppenheim and R. W. Schafer, “Discrete-Time Signal Processing”,
 * chapter 13).
 * @param logs natural logarithms of the magnitude at `TAPS + 1` frequencies from 0 to half the rate
 */
function minimumPhase(logs: Float64Array, cepstrum: Float64Array, into: Float64Array): void {
  for (let n = 0; n < TAPS; n++) {
    let sum = logs[0] + logs[TAPS] * (n % 2 === 0 ? 1 : -1);
    for (let k = 1; k < TAPS; k++) sum += 2 * logs[k] * cosines[(k * n) % POINTS];
    cepstrum[n] = (sum / POINTS) * (n === 0 ? 1 : 2);
  }
  into[0] = Math.exp(cepstrum[0]);
  for (let n = 1; n < TAPS; n++) {
    let sum = 0;
    for (let k = 1; k <= n; k++) sum += k * cepstrum[k] * into[n - k];
    into[n] = sum / n;
  }
}

/** How places answer: seconds, times at low and high, size, milliseconds before the late part. */
const places = [
  ['Open field', 0.5, 0.6, 0.3, 1.6, 20],
  ['Open water', 2.2, 0.5, 0.25, 3, 140],
  ['Street', 1.6, 0.9, 0.5, 1.8, 45],
  ['Forest', 1.1, 0.7, 0.7, 2.2, 30],
  ['Valley', 4, 0.8, 0.2, 3, 220],
] as const;

class Distance implements Node {
  readonly latency = 0;
  private readonly place: Place;
  /** The air as it is, and as it was before, each by channel. */
  private readonly filters = [0, 1].map(() => [new Fir(new Float64Array(TAPS)), new Fir(new Float64Array(TAPS))]);
  private readonly taps = new Float64Array(TAPS);
  private readonly old = new Float32Array(BLOCK);
  private readonly logs = new Float64Array(TAPS + 1);
  private readonly cepstrum = new Float64Array(TAPS);
  private readonly rings: readonly Kept[] = [new Float64Array(4)];
  private readonly grounds: readonly Float64Array[] = [new Float64Array(5)];
  private readonly direct: Block = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
  private readonly made = new Float64Array(4).fill(NaN);
  private grounded = NaN;
  private since = Infinity;

  constructor(
    private readonly rate: number,
    private readonly params: Readonly<Record<string, Param>>,
  ) {
    this.place = new Place(rate);
  }

  get tail(): number {
    const [, decay, low, high, size, before] = places[Math.round(this.params.place.value)];
    return Place.tail({ decay, low, high, size, before }, this.rate);
  }

  reset(): void {
    this.place.reset();
    for (const filter of this.filters.flat()) filter.reset();
    this.rings[0].fill(0);
    this.since = Infinity;
  }

  /** Makes the filter of the air anew where it has to be. @returns whether it was */
  private air(far: number, share: number, celsius: number, humidity: number): boolean {
    const { made, logs, rate, filters } = this;
    if (made[0] === far && made[1] === share && made[2] === celsius && made[3] === humidity) return false;
    if (this.since < OFTEN) return false;
    const isFirst = Number.isNaN(made[0]) || this.since === Infinity;
    made[0] = far;
    made[1] = share;
    made[2] = celsius;
    made[3] = humidity;
    for (let k = 0; k <= TAPS; k++) {
      const lost = airLoss((k * rate) / POINTS, celsius, humidity) * far * share;
      logs[k] = (-Math.min(MOST, lost) * Math.LN10) / 20;
    }
    filters.reverse();
    minimumPhase(logs, this.cepstrum, this.taps);
    const [now, old] = filters;
    for (let c = 0; c < 2; c++) {
      now[c].set(this.taps);
      now[c].follow(old[c]);
    }
    this.since = 0;
    return !isFirst;
  }

  process(inputs: readonly Block[], out: Block, at: number, count: number): void {
    const { params, direct, place, rings, grounds } = this;
    const far = params.far.fill(at, count)[count - 1];
    for (const key of ['air', 'celsius', 'humidity']) params[key].fill(at, count);
    const changes = this.air(far, params.air.value / 100, params.celsius.value, params.humidity.value);
    this.since += count;
    // Grazing sound loses most where the ground is softest to it, and more the further it has come.
    const dip = -0.15 * params.ground.fill(at, count)[count - 1] * (1 - Math.exp(-far / 60));
    if (dip !== this.grounded) biquad('bell', this.rate, 320, dip, 0.7, grounds[0]);
    this.grounded = dip;
    const level = (-20 * Math.log10(Math.max(1, far)) * params.level.fill(at, count)[count - 1]) / 100;
    const gain = fromDb(level);
    const [now, before] = this.filters;
    for (let c = 0; c < 2; c++) {
      const plane = direct[c];
      if (changes) {
        const old = before[c].run(inputs[0][c], count);
        for (let i = 0; i < count; i++) this.old[i] = old[i];
      }
      const made = now[c].run(inputs[0][c], count);
      for (let i = 0; i < count; i++)
        plane[i] = changes ? this.old[i] + ((made[i] - this.old[i]) * (i + 1)) / count : made[i];
    }
    runSections(grounds, rings, 1, direct, 0, count);
    const [, decay, low, high, size, wait] = places[Math.round(params.place.value)];
    place.take(decay, low, high, size, wait);
    place.process(direct, count);
    const early = levelFrom(params.early.fill(at, count)[count - 1]);
    const late = levelFrom(params.late.fill(at, count)[count - 1]);
    const [near, tail] = [place.early, place.late];
    for (let c = 0; c < 2; c++) {
      const [to, from, first, last] = [out[c], direct[c], near[c], tail[c]];
      for (let i = 0; i < count; i++) to[i] = from[i] * gain + first[i] * early + last[i] * late;
    }
  }
}

/** Puts a sound further away. */
export const distance: Effect = {
  kind: 'distance',
  name: 'Distance',
  about: 'Puts a sound further away: air takes the top, ground takes the low end, the place answers.',
  source: 'Air by ISO 9613-1; the ground simplified from ISO 9613-2, 7.3.1; the place as in Reverb.',
  params: [
    octaves('far', 'How far', 'm', [1, 2000, 60], 'The way that the sound has come.'),
    even('air', 'Air', '%', [0, 300, 100], 'How much of what air takes is taken.'),
    even('ground', 'Ground', '%', [0, 100, 25], 'How soft the ground is: water and stone 0 %, snow and meadow 100 %.'),
    choice(
      'place',
      'Place',
      places.map(([name]) => name),
      'Open field',
      'Where it sounds.',
    ),
    even('early', 'Early', 'dB', [NOTHING, 0, -18], 'How loud the first reflections are.'),
    even('late', 'Late', 'dB', [NOTHING, 0, -24], 'How loud the tail is.'),
    even(
      'level',
      'Level',
      '%',
      [0, 100, 0],
      'How much softer the way makes it: at 100 % by 6 dB for each time it is twice as far.',
    ),
    even('celsius', 'Temperature', '°C', [-20, 45, 12], 'Of the air.'),
    even('humidity', 'Humidity', '%', [5, 100, 70], 'Of the air.'),
  ],
  presets: [
    { name: 'Across the quay', values: { far: 40, place: 2, early: -14, late: -26, ground: 0 } },
    { name: 'Over open water', values: { far: 180, place: 1, ground: 0, air: 160, late: -24 } },
    { name: 'Behind the dunes', values: { far: 400, place: 0, ground: 80, air: 150, early: -30 } },
    { name: 'From the other side of the valley', values: { far: 900, place: 4, ground: 40, late: -16 } },
  ],
  make: (rate, params) => new Distance(rate, params),
};
