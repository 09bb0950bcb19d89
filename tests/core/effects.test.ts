import {
  BLOCK,
  biquad,
  butterworth,
  effectOf,
  effects,
  Param,
  paramsFor,
  responses,
  ringing,
  valuesFor,
} from '@core/effects';
import fc from 'fast-check';
import { through } from '../helpers/effects';
import { rms, sine } from '../helpers/signals';

// Effects against what their sources say of them.

const RATE = 48000;

/** How much a tone gets louder, dB, once it has settled. */
function response(kind: string, values: Record<string, number>, freq: number): number {
  const tone = sine(freq, RATE, RATE);
  const half = RATE / 2;
  return 20 * Math.log10(rms(through(kind, values, tone).subarray(half)) / rms(tone.subarray(half)));
}
const kindOf = (name: (typeof responses)[number]) => responses.indexOf(name) + 1;

test('the registry: every entry is whole; equaliser, gain and width change nothing as they begin', () => {
  const noise = sine(777, RATE, 4800);
  for (const effect of effects) {
    expect(effect.about + effect.source).toMatch(/\w+.*\.\s?/);
    expect(new Set(effect.params.map((p) => p.key)).size).toBe(effect.params.length);
    for (const p of effect.params) {
      expect([p.key, p.least < p.most, p.initial >= p.least, p.initial <= p.most]).toEqual([p.key, true, true, true]);
      if (p.choices) expect(p.choices).toHaveLength(p.most - p.least + 1);
    }
    for (const { values } of effect.presets ?? [])
      for (const [key, value] of Object.entries(values)) {
        const spec = effect.params.find((p) => p.key === key)!;
        expect([key, value >= spec.least, value <= spec.most]).toEqual([key, true, true]);
      }
    if (['equaliser', 'gain', 'width'].includes(effect.kind)) expect(through(effect.kind, {}, noise)).toEqual(noise);
  }
  const [eq] = effects;
  const odd = paramsFor(eq, { freq1: 1e9, gain1: NaN }, RATE);
  expect([odd.freq1.value, odd.gain1.value]).toEqual([20_000, 0]);
});

test.each([
  ['bell', { kind1: kindOf('bell'), freq1: 1000, gain1: 9, q1: 2 }, 1000, 9],
  ['bell, far off', { kind1: kindOf('bell'), freq1: 1000, gain1: 9, q1: 2 }, 30, 0],
  ['low shelf', { kind1: kindOf('low shelf'), freq1: 400, gain1: -6 }, 40, -6],
  ['low shelf, at its corner', { kind1: kindOf('low shelf'), freq1: 400, gain1: -6 }, 400, -3],
  ['high shelf', { kind1: kindOf('high shelf'), freq1: 2000, gain1: 12 }, 18_000, 12],
  ['high shelf, below', { kind1: kindOf('high shelf'), freq1: 2000, gain1: 12 }, 100, 0],
  ['notch', { kind1: kindOf('notch'), freq1: 1000, q1: 1 }, 2000, -1.58],
  ['cut of 12 dB, at its corner', { kind1: kindOf('low cut'), freq1: 200, slope1: 0 }, 200, -3.01],
  ['cut of 12 dB, an octave below', { kind1: kindOf('low cut'), freq1: 200, slope1: 0 }, 100, -12.3],
  ['cut of 48 dB, at its corner', { kind1: kindOf('low cut'), freq1: 200, slope1: 3 }, 200, -3.01],
  ['cut of 48 dB, an octave below', { kind1: kindOf('low cut'), freq1: 200, slope1: 3 }, 100, -48.2],
  ['high cut of 24 dB, an octave above', { kind1: kindOf('high cut'), freq1: 500, slope1: 1 }, 1000, -24.1],
  [
    'two bands add up',
    { kind1: kindOf('bell'), freq1: 1000, gain1: 6, kind8: kindOf('bell'), freq8: 1000, gain8: -2 },
    1000,
    4,
  ],
] as [string, Record<string, number>, number, number][])('equaliser: %s', (_, values, freq, wanted) => {
  expect(Math.abs(response('equaliser', values, freq) - wanted)).toBeLessThan(0.15);
});

test('gain: decibels are decibels', () => {
  for (const gain of [-60, -20, -6.02, 6]) expect(response('gain', { gain }, 500)).toBeCloseTo(gain, 3);
});

test('what rings on is below -90 dB after the tail that is told', () => {
  for (const [response, freq, q] of [
    ['bell', 60, 20],
    ['low cut', 25, butterworth(4)[3]],
    ['notch', 3000, 30],
  ] as const) {
    const section = new Float64Array(5);
    biquad(response, RATE, freq, 12, q, section);
    const tail = ringing(section);
    const impulse = new Float32Array(tail + 4000);
    impulse[0] = 1;
    const kind1 = kindOf(response);
    const out = through('equaliser', { kind1, freq1: freq, gain1: 12, q1: q, slope1: 0 }, impulse);
    const most = out.subarray(tail).reduce((m, x) => Math.max(m, Math.abs(x)), 0);
    expect([response, most < 10 ** (-88 / 20)]).toEqual([response, true]);
    expect([response, tail < 2.5 * RATE]).toEqual([response, true]);
  }
});

test('a value set by hand gets there in 5 ms, along a straight line; what is drawn is followed to the sample', () => {
  const param = new Param(0, RATE);
  expect(param.read(0, BLOCK)).toBe(false);
  param.set(1, true);
  const steps: number[] = [];
  for (let at = 0; at < 3; at++) {
    const moves = param.read(at * BLOCK, BLOCK);
    for (let i = 0; i < BLOCK; i++) steps.push(moves ? param.line[i] : param.value);
  }
  expect(steps[0]).toBe(0);
  expect(steps[120]).toBeCloseTo(0.5, 6);
  expect(steps[240]).toBe(1);
  // Turned back on the way, it goes on from where it is.
  param.set(0, true);
  param.read(0, 120);
  param.set(1, true);
  param.read(120, 1);
  expect(param.line[0]).toBeCloseTo(0.5, 6);
  param.follow([
    { at: 1000, value: -10 },
    { at: 2000, value: 10 },
  ]);
  for (const [at, value] of [
    [0, -10],
    [1000, -10],
    [1250, -5],
    [1999, 9.98],
    [5000, 10],
    [1500, 0],
  ]) {
    expect(param.read(at, 1)).toBe(true);
    expect(param.line[0]).toBeCloseTo(value, 9);
  }
});

test('what an effect says of tones is what it does to them, whatever its values', () => {
  const valuesOf = (kind: string) =>
    fc.record(
      Object.fromEntries(
        effectOf(kind)!
          .params.filter((p) => !/^freq|^q/.test(p.key))
          .map((p) => [
            p.key,
            p.choices
              ? fc.integer({ min: p.least, max: p.most })
              : fc.double({ min: p.least, max: p.most, noNaN: true }),
          ]),
      ),
    );
  const band = fc.record({
    freq: fc.integer({ min: 60, max: 12_000 }),
    q: fc.double({ min: 0.3, max: 6, noNaN: true }),
  });
  for (const [kind, runs] of [
    ['equaliser', 10],
    ['filter', 10],
  ] as const)
    fc.assert(
      fc.property(
        valuesOf(kind),
        fc.array(band, { minLength: 8, maxLength: 8 }),
        fc.integer({ min: 80, max: 16_000 }),
        (some, bands, tone) => {
          const values = { ...some, freq: bands[0].freq, q: bands[0].q };
          bands.forEach(({ freq, q }, i) => Object.assign(values, { [`freq${i + 1}`]: freq, [`q${i + 1}`]: q }));
          const effect = effectOf(kind)!;
          const said = effect.colours!(valuesFor(effect, values), RATE, tone);
          // Deep in a notch or a cut nothing is left to measure.
          if (said > -70) expect(response(kind, values, tone)).toBeCloseTo(said, 1);
          else expect(response(kind, values, tone)).toBeLessThan(-60);
        },
      ),
      { numRuns: runs },
    );
  for (const kind of ['compressor', 'gate'])
    fc.assert(
      fc.property(valuesOf(kind), fc.integer({ min: -80, max: 0 }), (values, level) => {
        const effect = effectOf(kind)!;
        const said = effect.settles!(valuesFor(effect, { ...values, detector: 0 }), level);
        // A detector of peaks hears a square wave at its level all the time.
        const square = Float32Array.from({ length: RATE / 4 }, (_, i) => 10 ** (level / 20) * (i % 96 < 48 ? 1 : -1));
        const out = through(kind, { ...values, detector: 0, attack: 0.1, release: 5, hold: 0 }, square);
        expect(20 * Math.log10(Math.abs(out[out.length - 1]))).toBeCloseTo(said, 1);
      }),
      { numRuns: 25 },
    );
});
