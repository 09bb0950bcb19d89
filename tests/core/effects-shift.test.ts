import { toDb } from '@core/audio';
import { effectOf, paramsFor } from '@core/effects';
import fc from 'fast-check';
import { run, through } from '../helpers/effects';
import { amplitude, apart, hit, joined, noise, rms, sine } from '../helpers/signals';

// Pitch shift: as high as asked for, as long as before, and where it was.

const RATE = 48_000;
const level = (x: Float32Array, freq: number) => toDb(amplitude(x, freq, RATE));
const latency = effectOf('shift')!.make(RATE, paramsFor(effectOf('shift')!, {}, RATE)).latency;

test('by nothing it gives back what came in, late by its latency', () => {
  const dry = noise(9600, 0.5, 3);
  for (const mix of [0, 50, 100]) {
    const made = through('shift', { semitones: 0, mix }, joined(dry, new Float32Array(latency)));
    expect(apart(made.subarray(0, dry.length), dry)).toBeLessThan(2e-6);
  }
});

test.each([-24, -12, -7, -1, 1, 5, 12, 24])(
  'a tone by %i semitones is the tone there, as loud, and little else',
  (semitones) => {
    for (const freq of [110, 1500]) {
      const made = through('shift', { semitones, piece: 60 }, sine(freq, RATE, 1.5 * RATE, 0.5)).subarray(RATE / 2);
      const there = freq * 2 ** (semitones / 12);
      expect(Math.abs(toDb(rms(made)) - toDb(0.5 / Math.SQRT2))).toBeLessThan(0.5);
      // What is not the tone itself, by the power that it has not.
      const own = amplitude(made, there, RATE) ** 2 / 2;
      expect(10 * Math.log10(Math.max(1e-9, 1 - own / rms(made) ** 2))).toBeLessThan(-20);
    }
  },
);

test('cents add to semitones', () => {
  const made = through('shift', { semitones: 2, cents: 50 }, sine(1000, RATE, 3 * RATE, 0.5)).subarray(RATE);
  expect(level(made, 1000 * 2 ** (2.5 / 12))).toBeGreaterThan(-7);
});

test('what would lie above half the rate is not folded back', () => {
  const made = through('shift', { semitones: 24 }, sine(9000, RATE, RATE, 1));
  expect(toDb(rms(made.subarray(9600)))).toBeLessThan(-45);
});

test('hits stay where they are, within half a piece, and none is lost or doubled', () => {
  const gap = 0.4 * RATE;
  const train = joined(
    ...Array.from({ length: 8 }, (_, n) => joined(hit(RATE, 0.08, 0.5, 400, n), new Float32Array(gap))),
  );
  const step = Math.round(0.08 * RATE) + gap;
  for (const semitones of [-12, -5, 7, 12]) {
    const made = through('shift', { semitones, piece: 30 }, train);
    const span = 0.02 * RATE;
    for (let n = 0; n < 8; n++) {
      const about = made.subarray(Math.max(0, n * step - span), n * step + step - 2 * span);
      const heard = Math.max(...about.map(Math.abs));
      expect(heard).toBeGreaterThan(0.1);
      const first = about.findIndex((x) => Math.abs(x) > heard / 4) + Math.max(0, n * step - span);
      expect(Math.abs(first - n * step)).toBeLessThan(0.025 * RATE);
    }
  }
});

test('left and right keep what they share, whatever it is moved by', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: -24, max: 24 }),
      fc.integer({ min: 20, max: 60 }),
      fc.nat(99),
      (semitones, piece, seed) => {
        const one = noise(9600, 0.4, seed);
        const { planes } = run('shift', { semitones, piece }, [one, one.map((x) => -0.5 * x)]);
        expect(planes.every((p) => p.every(Number.isFinite))).toBe(true);
        expect(
          apart(
            planes[1],
            planes[0].map((x) => -0.5 * x),
          ),
        ).toBeLessThan(1e-6);
        expect(Math.max(...planes[0].map(Math.abs))).toBeLessThan(1);
      },
    ),
    { numRuns: 40 },
  );
});

test('from the middle on it is as high and as loud as from the beginning, though its joins may lie elsewhere', () => {
  const tone = sine(300, RATE, 3 * RATE, 0.5);
  for (const semitones of [-9, 4, 10]) {
    const there = 300 * 2 ** (semitones / 12);
    const whole = through('shift', { semitones }, tone).subarray(2 * RATE);
    const later = through('shift', { semitones }, tone.subarray(RATE)).subarray(RATE);
    expect(Math.abs(level(whole, there) - level(later, there))).toBeLessThan(0.3);
    expect(Math.abs(toDb(rms(whole)) - toDb(rms(later)))).toBeLessThan(0.3);
  }
});

test('a click is heard once, wherever it comes in what else sounds, however it is shifted', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(-24, -12, -7, -3, 3, 7, 12),
      fc.integer({ min: 20, max: 60 }),
      fc.integer({ min: 8000, max: 20_000 }),
      (semitones, piece, at) => {
        const bed = sine(180, RATE, 30_000, 0.02);
        bed[at] += 0.9;
        const made = through('shift', { semitones, piece }, bed);
        // What is steep is the click; the bed is not.
        const steep = Array.from(made, (x, i) => Math.abs(x - (made[i - 1] ?? 0)));
        const loud = steep.flatMap((x, i) => (x > 0.04 ? [i] : []));
        expect(loud.length).toBeGreaterThan(0);
        expect(loud.at(-1)! - loud[0]).toBeLessThan(0.012 * RATE);
        expect(Math.abs(loud[0] - at)).toBeLessThan((0.5 * piece * RATE) / 1000 + 0.065 * RATE);
      },
    ),
    { numRuns: 50 },
  );
});
