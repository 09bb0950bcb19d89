import { stretchOf, plainShape, textures, type Stretch } from '@core/audio';
import { stretched } from '../../src/platform/audio/stretch';
import type { SoundReader } from '../../src/platform/audio/sound-reader';
import { crossings, sine } from '../helpers/signals';

const rate = 48000;
const readerOf = (...planes: Float32Array[]): SoundReader => ({
  format: { rate, frames: planes[0].length, channels: planes.length } as SoundReader['format'],
  read: (start, count) => Promise.resolve(planes.map((p) => p.slice(start, start + count))),
});
const as = (length: number, pitch: number, texture: Stretch['texture']): Stretch => ({ length, pitch, texture });
const whole = (reader: SoundReader) => reader.read(0, reader.format.frames);

/** Hits at given seconds: a burst of noise-like chirp that dies away within 10 ms. */
function hits(at: number[], seconds: number): Float32Array {
  const x = new Float32Array(seconds * rate);
  for (const t of at)
    for (let i = 0; i < 2000; i++) x[t * rate + i] = Math.exp(-i / 100) * Math.sin(i * 0.7 + i * i * 0.001);
  return x;
}

const changes = [
  [1.5, 0],
  [0.7, 0],
  [2, -5],
  [1, 7],
] as const;

describe.each(textures)('stretched as %s', (texture) => {
  test.each(changes)(
    'to %p of its length and by %p semitones, a tone has the pitch it should',
    async (length, pitch) => {
      const reader = stretched(readerOf(sine(440, rate, 2 * rate)), as(length, pitch, texture));
      const [heard] = await whole(reader);
      expect(heard.length).toBe(Math.round(2 * rate * length));
      const hz = crossings(heard.subarray(heard.length * 0.25, heard.length * 0.75), rate);
      const cents = 1200 * Math.log2(hz / (440 * 2 ** (pitch / 12)));
      expect(Math.abs(cents)).toBeLessThan(12);
    },
  );

  test.each(changes)('to %p of its length and by %p semitones, hits fall where they should', async (length, pitch) => {
    const at = [0.5, 1, 1.5];
    const [heard] = await whole(stretched(readerOf(hits(at, 2)), as(length, pitch, texture)));
    for (const t of at) {
      const due = Math.round(t * length * rate);
      const near = heard.subarray(due - 6000, due + 6000).map(Math.abs);
      const loudest = near.indexOf(near.reduce((a, b) => Math.max(a, b)));
      expect(Math.abs(loudest - 6000)).toBeLessThan(texture === 'tonal' ? 0.002 * rate : 0.001 * rate);
    }
  });
});

test('the same frames come whichever way they are asked for, over the joints of a long sound as well', async () => {
  const long = sine(200, rate, 30 * rate).map((x, i) => x * Math.sin(i / 9000));
  const how = as(1.6, 2, 'mixed');
  const [once] = await whole(stretched(readerOf(long), how));
  const other = stretched(readerOf(long), how);
  const joint = 1 << 20;
  for (const [from, count] of [
    [joint + 500, 4000],
    [100_000, 3000],
    [joint - 700, 5000],
    [2 * joint - 1, 2],
    [once.length - 10, 500],
  ]) {
    const [part] = await other.read(from, count);
    expect(part).toEqual(once.slice(from, from + count));
  }
  // No step there that a tone of 225 Hz at this level could not make.
  for (let i = joint - 4000; i < joint + 6000; i++) expect(Math.abs(once[i] - once[i - 1])).toBeLessThan(0.05);
});

test('channels stay in step, silence stays silent, and sounds of no or one frame are read', async () => {
  const left = sine(440, rate, rate);
  const [l, r] = await whole(
    stretched(
      readerOf(
        left,
        left.map((x) => -x),
      ),
      as(1.3, 3, 'mixed'),
    ),
  );
  for (let i = 0; i < l.length; i += 97) expect(l[i]).toBeCloseTo(-r[i], 3);
  const [nothing] = await whole(stretched(readerOf(new Float32Array(5000)), as(2, 5, 'tonal')));
  expect(nothing.every((x) => x === 0)).toBe(true);
  expect((await whole(stretched(readerOf(new Float32Array(0)), as(2, 0, 'mixed'))))[0].length).toBe(0);
  expect((await whole(stretched(readerOf(new Float32Array(1)), as(0.2, 0, 'percussive'))))[0].length).toBe(1);
  const many = Array.from({ length: 8 }, (_, c) => sine(100 * (c + 1), rate, 0.3 * rate));
  expect(await whole(stretched(readerOf(...many), as(1.2, 0, 'mixed')))).toHaveLength(8);
});

test('what changes neither length nor pitch is read as it is', () => {
  const reader = readerOf(new Float32Array(3));
  expect(stretched(reader, stretchOf(plainShape))).toBe(reader);
  expect(stretchOf({ ...plainShape, pitch: 1 })).toEqual(as(1, 1, 'mixed'));
});
