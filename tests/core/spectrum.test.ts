import {
  channelWeights,
  fromDb,
  Frames,
  Halver,
  hann,
  logBands,
  peakBetween,
  PeakCollector,
  PitchFinder,
  spanFor,
  Spectrum,
  toDb,
} from '@core/audio';
import fc from 'fast-check';
import { apart, joined, noise, rms, sine } from '../helpers/signals';

const signal = fc
  .array(fc.float({ min: -1, max: 1, noNaN: true }), { minLength: 1, maxLength: 600 })
  .map((a) => Float32Array.from(a));

describe('spectra', () => {
  test('a sine of full scale has power 1 in its bin and next to none far from it', () => {
    for (const size of [256, 1024, 4096]) {
      const bin = size / 8;
      const power = new Spectrum(size).of(sine((bin * 48000) / size, 48000, size, 1));
      expect(power[bin]).toBeCloseTo(1, 3);
      expect(Math.max(...power.subarray(bin + 4))).toBeLessThan(1e-6);
      expect(Math.max(...power.subarray(0, bin - 3))).toBeLessThan(1e-6);
    }
  });

  test('two frames at the price of one are the same two frames', () => {
    const spectrum = new Spectrum(128);
    fc.assert(
      fc.property(signal, fc.nat(400), fc.nat(400), (x, a, b) => {
        const [first, second] = spectrum.pair(x, a, b).map((p) => p.slice());
        expect(apart(first, spectrum.of(x, a))).toBeLessThan(1e-9);
        expect(apart(second, spectrum.of(x, b))).toBeLessThan(1e-9);
      }),
    );
  });

  test('frames are the same in whatever blocks a signal comes, also when they lie apart', () => {
    const all = (x: Float32Array, blocks: readonly number[], hop: number) => {
      const found: number[][] = [];
      const frames = new Frames(64, hop, (p) => found.push([...p]));
      for (let at = 0, n = 0; at < x.length; n++) {
        const until = Math.min(x.length, at + blocks[n % blocks.length]);
        frames.push(x.subarray(at, until));
        at = until;
      }
      frames.finish();
      return found;
    };
    const x = noise(2000);
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 700 }), { minLength: 1, maxLength: 5 }),
        fc.constantFrom(16, 40, 64, 150),
        (blocks, hop) => {
          const parts = all(x, blocks, hop);
          const whole = all(x, [2000], hop);
          expect(parts).toHaveLength(whole.length);
          parts.forEach((p, i) => expect(apart(p, whole[i])).toBeLessThan(1e-12));
        },
      ),
      { numRuns: 40 },
    );
    // Frame n is centred on n times the hop: a click shows in the frames around it.
    const click = new Float32Array(1000);
    click[480] = 1;
    const energies = all(click, [1000], 16).map((p) => p.reduce((s, e) => s + e, 0));
    expect(energies.indexOf(Math.max(...energies))).toBe(30);
  });

  test('bands rise, hold at least a bin each and stay below half the rate', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 60 }),
        fc.constantFrom(256, 1024, 8192),
        fc.constantFrom(8000, 44100, 192000),
        (count, size, rate) => {
          const borders = logBands(count, 25, Math.min(20_000, rate * 0.45), rate, size);
          expect(borders).toHaveLength(count + 1);
          borders.slice(1).forEach((b, i) => expect(b).toBeGreaterThanOrEqual(borders[i]));
          expect(borders[count]).toBeLessThanOrEqual(size / 2);
        },
      ),
    );
    expect(hann(8)[0]).toBe(0);
    expect(hann(8)[4]).toBe(1);
  });
});

describe('halving the rate', () => {
  const halved = (x: Float32Array, times = 1, block = 700) => {
    const halver = new Halver(times);
    const parts: Float32Array[] = [];
    for (let at = 0; at < x.length; at += block) parts.push(halver.push(x.subarray(at, at + block)));
    return joined(...parts);
  };

  test('keeps what is well below, takes out what would fold back', () => {
    for (const [hz, db] of [
      [100, 0],
      [5000, 0],
      [9000, 0],
      [16500, -45],
      [20000, -60],
    ]) {
      const level = toDb(rms(halved(sine(hz, 48000, 48000, 1)).subarray(100, 23000)) * Math.SQRT2);
      if (db === 0) expect(Math.abs(level)).toBeLessThan(0.3);
      else expect(level).toBeLessThan(db);
    }
  });

  test('gives half the samples, the same in any blocks', () => {
    const x = noise(5000);
    const whole = halved(x, 2, 5000);
    expect(Math.abs(whole.length - 1250)).toBeLessThan(3);
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 3000 }), (block) =>
        expect(apart(halved(x, 2, block), whole)).toBeLessThan(1e-6),
      ),
      { numRuns: 30 },
    );
    expect(halved(x, 0)).toEqual(x);
  });
});

test('a contour holds every sample between its lowest and highest, in any blocks', () => {
  fc.assert(
    fc.property(
      signal,
      signal,
      fc.integer({ min: 1, max: 300 }),
      fc.integer({ min: 1, max: 90 }),
      (a, b, block, span) => {
        const length = Math.min(a.length, b.length);
        const planes = [a.subarray(0, length), b.subarray(0, length)];
        const collector = new PeakCollector(length, span);
        for (let at = 0; at < length; at += block) collector.push(planes.map((p) => p.subarray(at, at + block)));
        const peaks = collector.done();
        for (let i = 0; i < length; i++) {
          const [low, high] = peakBetween(peaks, i, i + 1);
          for (const p of planes) {
            expect(p[i]).toBeGreaterThanOrEqual(low - 1 / 127);
            expect(p[i]).toBeLessThanOrEqual(high + 1 / 127);
          }
        }
        expect(peakBetween(peaks, length + span, length + 2 * span)).toEqual([0, 0]);
      },
    ),
    { numRuns: 60 },
  );
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 2 ** 40 }), fc.constantFrom(8000, 48000, 384000), (frames, rate) => {
      const span = spanFor(frames, rate);
      expect(span).toBeGreaterThanOrEqual(64);
      expect(Math.ceil(frames / span)).toBeLessThanOrEqual(8192);
    }),
  );
});

test('decibels and factors are each other’s inverse', () => {
  fc.assert(
    fc.property(fc.double({ min: -120, max: 60, noNaN: true }), (db) => expect(toDb(fromDb(db))).toBeCloseTo(db, 9)),
  );
  expect(toDb(0)).toBe(-Infinity);
});

test('surround counts more, the low-frequency channel nothing, and any number of channels has weights', () => {
  expect(channelWeights(6)).toEqual([1, 1, 1, 0, 1.41, 1.41]);
  for (let n = 1; n <= 32; n++) expect(channelWeights(n)).toHaveLength(n);
});

test('the pitch of a frame does not depend on its level or phase', () => {
  const finder = new PitchFinder(4096, 48000);
  fc.assert(
    fc.property(
      fc.double({ min: 60, max: 2000, noNaN: true }),
      fc.double({ min: 0.01, max: 1, noNaN: true }),
      fc.double({ min: 0, max: 6.28, noNaN: true }),
      (hz, level, phase) => {
        const frame = Float32Array.from(
          { length: 4096 },
          (_, i) => level * Math.sin((2 * Math.PI * hz * i) / 48000 + phase),
        );
        const found = finder.of(frame)!;
        expect(Math.abs(1200 * Math.log2(found.hz / hz))).toBeLessThan(10);
        expect(found.clarity).toBeGreaterThan(0.9);
      },
    ),
    { numRuns: 60 },
  );
  expect(finder.of(new Float32Array(4096))).toBeUndefined();
});
