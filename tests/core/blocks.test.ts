import { addSquares, eachStretch, halved, mixed, scanned, Weighing, widen } from '@core/audio/blocks';
import { Transform } from '@core/audio';
import fc from 'fast-check';
import { noise } from '../helpers/signals';

// Loops in WebAssembly against what they mean, written plainly.

const length = fc.integer({ min: 0, max: 70 });
const seed = fc.integer({ min: 1, max: 1e6 });
const near = (a: number, b: number, within = 1e-6) => expect(Math.abs(a - b)).toBeLessThan(within * (1 + Math.abs(b)));
const sum = (x: Iterable<number>) => [...x].reduce((a, b) => a + b, 0);

test('samples are summed up whatever their number, and what is none of them is noticed', () => {
  fc.assert(
    fc.property(length, seed, fc.double({ min: -1, max: 1, noNaN: true }), (n, s, before) => {
      const x = noise(n, 1, s);
      const found = scanned(x, before);
      near(found.sum, sum(x));
      const start = Math.fround(before);
      near(found.steps, sum([...x].map((v, i) => (v - (i > 0 ? x[i - 1] : start)) ** 2)));
      near(found.top, Math.max(0, ...[...x].map(Math.abs)));
      if (n === 0) return;
      const odd = x.slice();
      odd[s % n] = [NaN, Infinity, -Infinity][s % 3];
      expect(Number.isFinite(scanned(odd, before).steps)).toBe(false);
      // The largest number there is has a square, too.
      odd[s % n] = 3.4e38;
      expect(Number.isFinite(scanned(odd, before).steps)).toBe(true);
    }),
  );
});

test('two channels are mixed, and their sums tell the same from the opposite to the last bit', () => {
  fc.assert(
    fc.property(length, seed, (n, s) => {
      const [left, right] = [noise(n, 1, s), noise(n, 0.5, s + 1)];
      const both = mixed(left, right);
      expect([...both.mono]).toEqual([...left].map((v, i) => Math.fround((v + right[i]) * 0.5)));
      near(both.mid, sum([...left].map((v, i) => (v + right[i]) ** 2)));
      near(both.side, sum([...left].map((v, i) => (v - right[i]) ** 2)));
      near(both.left, sum(left.map((v) => v * v)));
      near(both.right, sum(right.map((v) => v * v)));
      expect(mixed(left, left).side).toBe(0);
      expect(
        mixed(
          left,
          left.map((v) => -v),
        ).mid,
      ).toBe(0);
    }),
  );
});

test('stretches are summed up and bounded, whatever their number and length', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 23 }), fc.integer({ min: 0, max: 9 }), seed, (span, count, s) => {
      const x = noise(span * count, 1, s);
      const parts = Array.from({ length: count }, (_, i) => [...x.slice(i * span, (i + 1) * span)]);
      const sums = Float64Array.from({ length: count }, (_, i) => i);
      addSquares(x, span, sums);
      parts.forEach((part, i) => near(sums[i], i + sum(part.map((v) => v * v)), 1e-12));
      const pairs = Float32Array.from({ length: 2 * count }, (_, i) => (i % 2 === 0 ? Infinity : -Infinity));
      pairs.set([0.25, 0.5].slice(0, 2 * count));
      widen(x, span, pairs);
      const known = (i: number) => (i === 0 ? [0.25, 0.5] : []);
      expect([...pairs]).toEqual(
        parts.flatMap((part, i) => [Math.min(...part, ...known(i)), Math.max(...part, ...known(i))]),
      );
    }),
  );
});

test('a block is cut where stretches end, and nothing of it is passed over', () => {
  fc.assert(
    fc.property(fc.array(length, { maxLength: 8 }), fc.integer({ min: 1, max: 17 }), (blocks, span) => {
      let at = 0;
      for (const block of blocks) {
        let seen = 0;
        eachStretch(block, at % span, span, (from, to, stretches, each) => {
          expect(from).toBe(seen);
          expect(to - from).toBe(stretches * each);
          const begun = (at + from) % span;
          // More than one only where they are whole; none reaches over an end.
          expect(stretches === 1 ? begun + each <= span : begun === 0 && each === span).toBe(true);
          seen = to;
        });
        expect(seen).toBe(block);
        at += block;
      }
    }),
  );
});

test('every other sample is filtered, wherever it begins', () => {
  const taps = [0.31, -0.09, 0.04, -0.02, 0.01, -0.004, 0.001];
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 70 }), fc.integer({ min: 0, max: 1 }), seed, (n, from, s) => {
      const x = noise(2 * n + 26 + from, 1, s);
      const out = halved(x, from, n, taps);
      expect(out.length).toBe(n);
      out.forEach((v, i) => {
        const middle = from + 13 + 2 * i;
        near(v, 0.5 * x[middle] + sum(taps.map((t, k) => t * (x[middle - 2 * k - 1] + x[middle + 2 * k + 1]))), 1e-6);
      });
    }),
  );
});

test('channels are weighed side by side as each is alone, in stretches as in one', () => {
  const factors = [1.5, -2.6, 1.1, -1.6, 0.7, -1.9, 0.91];
  const alone = (x: Float32Array) => {
    const [b0, b1, b2, a1, a2, c1, c2] = factors;
    let [s1, s2, t1, t2, total] = [0, 0, 0, 0, 0];
    for (const sample of x) {
      const y = b0 * sample + s1;
      [s1, s2] = [b1 * sample - a1 * y + s2, b2 * sample - a2 * y];
      const z = y + t1;
      [t1, t2] = [-2 * y - c1 * z + t2, y - c2 * z];
      total += z * z;
    }
    return total;
  };
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 1, max: 40 }), { minLength: 1, maxLength: 5 }), seed, (parts, s) => {
      const n = sum(parts);
      const [a, b] = [noise(n, 1, s), noise(n, 0.3, s + 1)];
      const ends = parts.map((_, i) => sum(parts.slice(0, i + 1)));
      const cut = Math.floor(ends.length / 2);
      const weighing = new Weighing(factors);
      // In two blocks: the filters go on where they stopped.
      const first = ends.slice(0, cut);
      const at = first.at(-1) ?? 0;
      const sums = [
        ...(at > 0 ? weighing.push(a.subarray(0, at), b.subarray(0, at), first) : []),
        ...weighing.push(
          a.subarray(at),
          b.subarray(at),
          ends.slice(cut).map((e) => e - at),
        ),
      ];
      near(sum(sums.map(([own]) => own)), alone(a), 1e-9);
      near(sum(sums.map(([, own]) => own)), alone(b), 1e-9);
      expect(sums).toHaveLength(parts.length);
    }),
  );
});

test('frames go through a window, and silence follows what is too short', () => {
  const own = new Transform(16);
  const window = Float64Array.from({ length: 16 }, (_, i) => i / 16);
  for (const n of [16, 5, 0, 16]) {
    const [a, b] = [noise(n, 1, n + 1), noise(16, 1, n + 2)];
    own.put(a, b, window);
    const wanted = Array.from({ length: 16 }, (_, i) => [(a[i] ?? 0) * window[i], b[i] * window[i]]).flat();
    expect([...own.input]).toEqual(wanted);
  }
});
