import { PitchFinder, Spectrum, Transform } from '@core/audio';
import FFT from 'fft.js';
import fc from 'fast-check';
import { noise, sine } from '../helpers/signals';

// The transform in WebAssembly against an independent one in plain code.

const sizes = [4, 8, 16, 32, 128, 512, 2048, 8192];

test.each(sizes)('%i numbers come out as plain code gives them, and twice over as they were', (size) => {
  const own = new Transform(size);
  const plain = new FFT(size);
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 1e6 }), (seed) => {
      const given = Array.from(noise(2 * size, 1, seed));
      own.input.set(given);
      const out = Array.from(own.run());
      const wanted = plain.createComplexArray();
      plain.transform(wanted, given);
      for (let i = 0; i < 2 * size; i++) expect(Math.abs(out[i] - wanted[i])).toBeLessThan(1e-10 * size);
      // Forward twice is the input backward, times its size.
      own.input.set(out);
      const again = own.run();
      for (let k = 0; k < size; k++)
        expect(Math.abs(again[2 * k] / size - given[2 * ((size - k) % size)])).toBeLessThan(1e-9);
    }),
    { numRuns: size > 1000 ? 3 : 10 },
  );
});

test('transforms of several sizes share a memory that grows, and none disturbs another’s tables', () => {
  const small = new Transform(64);
  small.input.set(Array.from(noise(128, 1, 3)));
  const before = Array.from(small.run());
  new Transform(1 << 15).run();
  small.input.set(Array.from(noise(128, 1, 3)));
  expect(Array.from(small.run())).toEqual(before);
});

test('two frames taken together have the spectra and pitches that each has alone', () => {
  const rate = 48_000;
  const both = new Float32Array(8192);
  both.set(sine(440, rate, 4096));
  both.set(noise(4096, 0.3, 9), 4096);
  const spectrum = new Spectrum(4096);
  const [a, b] = spectrum.pair(both, 0, 4096).map((p) => Array.from(p));
  const alone = (from: number) => Array.from(spectrum.of(both.slice(from, from + 4096)));
  [a, b].forEach((power, i) => {
    const wanted = alone(i * 4096);
    power.forEach((p, k) => expect(Math.abs(p - wanted[k])).toBeLessThan(1e-12));
  });
  const finder = new PitchFinder(4096, rate);
  const [first, second] = finder.pair(sine(440, rate, 4096), sine(98, rate, 4096));
  expect(first!.hz).toBeCloseTo(440, 0);
  expect(second!.hz).toBeCloseTo(98, 0);
  expect(finder.of(sine(98, rate, 4096))!.hz).toBeCloseTo(second!.hz, 6);
});
