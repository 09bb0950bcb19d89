import { Biquad, Drift, HUSH, Pink } from '@core/synth/filters';
import { Random, seedOf } from '@core/synth';
import { Spectrum, toDb } from '@core/audio';
import fc from 'fast-check';
import { rms, sine } from '../helpers/signals';

const RATE = 48000;
/** Gain of a filter at a frequency, dB, once it rings no more. */
function gainAt(filter: Biquad, hz: number): number {
  const tone = sine(hz, RATE, RATE / 2, 1);
  return toDb(rms(tone.map((x) => filter.step(x)).subarray(RATE / 4)) / rms(tone.subarray(RATE / 4)));
}

test.each([
  ['low', 100, 0],
  ['low', 1000, -3],
  ['low', 8000, -36],
  ['high', 100, -40],
  ['high', 1000, -3],
  ['high', 12000, 0],
] as const)('a %s pass at 1 kHz gives %d Hz at %d dB', (kind, hz, db) => {
  expect(Math.abs(gainAt(new Biquad(kind, 1000, Math.SQRT1_2, RATE), hz) - db)).toBeLessThan(
    kind === 'low' && hz === 8000 ? 4 : 1,
  );
});

test('a band pass lets its middle through and gets narrower with q', () => {
  const at = (q: number, hz: number) => gainAt(new Biquad('band', 1000, q, RATE), hz);
  expect(Math.abs(at(4, 1000))).toBeLessThan(0.1);
  expect(at(8, 1500)).toBeLessThan(at(2, 1500) - 6);
});

test('filters stay finite and come to rest, at any setting and rate', () => {
  fc.assert(
    fc.property(
      fc.constantFrom('low', 'high', 'band'),
      fc.double({ min: 1, max: 30_000, noNaN: true }),
      fc.double({ min: 0.3, max: 60, noNaN: true }),
      fc.constantFrom(8000, 44100, 192000),
      (kind, hz, q, rate) => {
        const filter = new Biquad(kind, hz, q, rate);
        let top = 0;
        for (let i = 0; i < 2000; i++) top = Math.max(top, Math.abs(filter.step(i === 0 ? 1 : 0)));
        expect(Number.isFinite(top)).toBe(true);
        expect(top).toBeLessThan(4);
        filter.tune(Math.min(hz * 2, 30_000), q);
        expect(Number.isFinite(filter.step(0))).toBe(true);
      },
    ),
    { numRuns: 60 },
  );
  expect(HUSH).toBeLessThan(1e-12);
});

test('pink noise falls by three decibels an octave', () => {
  const pink = new Pink(new Random(4));
  const x = Float32Array.from({ length: 1 << 17 }, () => pink.step());
  const spectrum = new Spectrum(4096);
  const sums = new Float64Array(2049);
  for (let at = 0; at + 4096 <= x.length; at += 4096) spectrum.of(x, at).forEach((p, k) => (sums[k] += p));
  const octave = (hz: number) => {
    const [from, to] = [Math.round((hz * 4096) / RATE), Math.round((hz * 8192) / RATE)];
    return 10 * Math.log10(sums.slice(from, to).reduce((a, b) => a + b, 0));
  };
  // Each octave of pink noise holds the same power.
  for (const hz of [500, 1000, 2000, 4000]) expect(Math.abs(octave(hz) - octave(2 * hz))).toBeLessThan(1.2);
});

test('drift stays within its bounds and moves without jumps', () => {
  const drift = new Drift(new Random(2), 5, 1000);
  let last = drift.step();
  for (let i = 0; i < 20_000; i++) {
    const next = drift.step();
    expect(Math.abs(next)).toBeLessThanOrEqual(1);
    expect(Math.abs(next - last)).toBeLessThan(0.02);
    last = next;
  }
});

test('chance is the same for the same seed, even, and other for each name', () => {
  const a = Array.from(
    { length: 1000 },
    (
      (r) => () =>
        r.next()
    )(new Random(7)),
  );
  const b = Array.from(
    { length: 1000 },
    (
      (r) => () =>
        r.next()
    )(new Random(7)),
  );
  expect(a).toEqual(b);
  expect(a.every((x) => x >= 0 && x < 1)).toBe(true);
  expect(Math.abs(a.reduce((s, x) => s + x, 0) / 1000 - 0.5)).toBeLessThan(0.05);
  expect(new Set(Array.from({ length: 500 }, (_, i) => seedOf(`name ${i}`))).size).toBe(500);
});
