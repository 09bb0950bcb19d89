import { checkedFile, validators, type PullFile } from '@core/schemas';
import { likeCode, LIKENESS_SIZE, likenessOf, readLikeCode } from '@core/search';
import { dayName } from '@app/shared/format';
import { measure } from '../helpers/measure';
import { noise, sine } from '../helpers/signals';

describe('pull files', () => {
  const good: PullFile = {
    format: 'cormorant-pull',
    version: 1,
    name: 'Ferry',
    shelf: 'Night/Boats',
    sounds: [
      { root: 'Yard', path: 'a.wav', hash: '0123456789abcdef', note: 'grit' },
      { root: 'Yard', path: 'b.wav' },
    ],
  };
  const read = (file: unknown) => checkedFile<PullFile>(JSON.stringify(file, null, 1), validators.pullFile, 'x.json');

  test('are read as they are written', () => {
    expect(read(good)).toEqual(good);
    expect(read({ ...good, sounds: [], live: { root: 'Yard', folder: '' } })).toMatchObject({ live: { root: 'Yard' } });
  });

  test.each([
    ['another format', { ...good, format: 'cormorant-project' }, /line 2, format/],
    ['a newer version', { ...good, version: 2 }, /line 3, version/],
    ['no name', { ...good, name: '' }, /line 4, name/],
    ['a hash that is none', { ...good, sounds: [{ root: 'a', path: 'b', hash: '../x' }] }, /sounds, 0, hash/],
    ['something that nobody asked for', { ...good, run: 'x' }, /x\.json is not as expected/],
    ['a sound without a path', { ...good, sounds: [{ root: 'a' }] }, /sounds, 0/],
    ['no object at all', [1, 2], /x\.json is not as expected/],
  ])('%s is refused, with the line', (_, file, said) => expect(() => read(file)).toThrow(said));

  test('what is no JSON is told by its line', () => {
    expect(() => checkedFile('{\n"format": "cormorant-pull",,\n}', validators.pullFile, 'x.json')).toThrow(/line 2/);
  });
});

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

test('days are called as people call them', () => {
  const day = (ago: number) => {
    const d = new Date(Date.now() - ago * 86_400_000);
    return `${d.getFullYear()}-${String(d.getMonth() + 1).padStart(2, '0')}-${String(d.getDate()).padStart(2, '0')}`;
  };
  expect([dayName(day(0)), dayName(day(1))]).toEqual(['today', 'yesterday']);
  expect(dayName('2020-02-29')).toBe(new Date(2020, 1, 29).toLocaleDateString());
});
