import { likeCode, LIKENESS_SIZE, likenessOf, readLikeCode } from '@core/search';
import { measure } from '../helpers/measure';
import { noise, sine } from '../helpers/signals';

describe('what a sound is compared by', () => {
  const vectorOf = async (plane: Float32Array) => {
    const { facts, curves, peaks } = await measure([plane]);
    return likenessOf({ rate: 48000, ...peaks, ...curves, ...facts });
  };
  /** Widest difference of two vectors. */
  const apart = (a: Int8Array, b: Int8Array) => a.reduce((most, n, i) => Math.max(most, Math.abs(n - b[i])), 0);

  test('does not hang on how loud it is, nor on the silence around it', async () => {
    const hiss = noise(48_000, 0.4).map((s, i) => s * Math.exp(-i / 12_000));
    const own = await vectorOf(hiss);
    expect(apart(own, await vectorOf(hiss.map((s) => s / 8)))).toBeLessThanOrEqual(8);
    const later = new Float32Array(96_000);
    later.set(hiss, 24_000);
    expect(apart(own, await vectorOf(later))).toBeLessThanOrEqual(20);
  });

  test('tells what pulses from what is even, and at which rate', async () => {
    const beating = (rate: number) =>
      noise(144_000, 0.4).map((s, i) => s * (((i / 48_000) * rate) % 1 < 0.5 ? 1 : 0.03));
    const [even, slow, fast] = [
      await vectorOf(noise(144_000, 0.4)),
      await vectorOf(beating(1.4)),
      await vectorOf(beating(11)),
    ];
    // Timbre and envelope come first; then six rates from 0.7 to 22 beats a second.
    const pulses = (v: Int8Array) => [...v.slice(26, 32)];
    expect(Math.max(...pulses(even))).toBeLessThan(8);
    expect(pulses(slow).indexOf(Math.max(...pulses(slow)))).toBe(1);
    expect(pulses(fast).indexOf(Math.max(...pulses(fast)))).toBe(4);
    expect((await vectorOf(sine(440, 48_000, 48_000))).length).toBe(LIKENESS_SIZE);
  });

  test('goes into a link and comes back, and a link with anything else is no likeness', () => {
    const vector = Int8Array.from({ length: LIKENESS_SIZE }, (_, i) => (i * 37) % 256);
    expect(readLikeCode(likeCode(vector))).toEqual({ vector, voice: false });
    expect(readLikeCode(likeCode(vector, true))).toEqual({ vector, voice: true });
    for (const code of ['', 's', 'v12', `x${likeCode(vector).slice(1)}`, likeCode(vector).slice(0, -2)])
      expect(readLikeCode(code)).toBeUndefined();
  });
});
