import { CHUNK, Material } from '@core/engine';
import { interpolate, type Frames } from '@core/engine/interpolate';
import { floats, give, memory, take } from '@core/engine/room';
import fc from 'fast-check';
import { noise } from '../helpers/signals';

// Audio that comes to the engine in chunks, and where it lies.

const COUNT = 64;
const FRAMES = 2 * CHUNK + 500;
const planes = [noise(FRAMES, 0.5, 1), noise(FRAMES, 0.5, 2)];
/** The same audio, read from plain arrays. */
const plain: Frames = {
  channels: 2,
  copy: (channel, from, count, into, at) => {
    for (let i = 0; i < count; i++) into[at + i] = planes[channel][from + i] ?? 0;
  },
};
function read(of: Frames, position: number, step: number): Float32Array[] {
  const outs = [new Float32Array(COUNT), new Float32Array(COUNT)];
  interpolate(of, position, step, outs, COUNT);
  return outs;
}

test('wherever it lies, in one chunk, over two or beyond an end, the same is read, to the bit', () => {
  const material = Material.of(planes, 48_000);
  const at = fc.constantFrom(0, CHUNK, 2 * CHUNK, FRAMES, FRAMES / 2);
  const position = fc
    .tuple(at, fc.integer({ min: -200, max: 200 }), fc.constantFrom(0, 0, 0.25, 0.3))
    .map(([a, b, c]) => a + b + c);
  fc.assert(
    fc.property(position, fc.constantFrom(1, -1, 147 / 160, -0.7, 2.1), (from, step) => {
      expect(read(material, from, step)).toEqual(read(plain, from, step));
    }),
    { numRuns: 300 },
  );
});

test('what is dropped is not there, and what takes its room is read in its place alone', () => {
  const material = Material.of(planes, 48_000);
  const before = material.place(100, 10);
  expect(before).toBeGreaterThanOrEqual(0);
  // Over an edge, before the beginning and behind the end nothing lies in one piece.
  expect([material.place(CHUNK - 5, 10), material.place(-1, 10), material.place(FRAMES - 5, 10)]).toEqual([-1, -1, -1]);
  material.drop([0]);
  expect([material.place(100, 10), material.has(0, 10), material.has(CHUNK, FRAMES)]).toEqual([-1, false, true]);
  expect(read(material, 50.5, 1)[0].every((x) => x === 0)).toBe(true);
  // The room is that of the next one; a chunk that comes twice does not take it twice.
  const next = new Material(48_000, CHUNK, 2);
  const other = [noise(CHUNK, 0.5, 3), noise(CHUNK, 0.5, 4)];
  for (let times = 0; times < 3; times++) next.put(0, other);
  expect(next.place(100, 10)).toBe(before);
  expect([...floats().subarray(before, before + 10)]).toEqual([...other[0].subarray(100, 110)]);
  expect(read(material, CHUNK + 900.5, 0.9)).toEqual(read(plain, CHUNK + 900.5, 0.9));
  // A channel that is lacking is silent, whatever lay in its room.
  next.put(0, [other[0]]);
  expect(read(next, 50.5, 1)[1].every((x) => x === 0)).toBe(true);
});

test('where there is no room it is read as before; room that was given back is taken first', () => {
  const grow = jest.spyOn(memory, 'grow').mockImplementation(() => {
    throw new RangeError('no more');
  });
  const bytes = 3 * CHUNK * 4;
  const taken: number[] = [];
  try {
    // What memory there is goes first.
    for (let at = take(bytes); at !== undefined; at = take(bytes)) taken.push(at);
    const three = new Material(48_000, FRAMES, 3);
    const all = [...planes, noise(FRAMES, 0.5, 5)];
    for (const c of [0, 1, 2])
      three.put(
        c,
        all.map((p) => p.slice(c * CHUNK, (c + 1) * CHUNK)),
      );
    expect([three.place(100, 10), three.has(0, FRAMES)]).toEqual([-1, true]);
    const outs = all.map(() => new Float32Array(COUNT));
    interpolate(three, 2 * CHUNK - 30.5, 0.7, outs, COUNT);
    expect(outs.slice(0, 2)).toEqual(read(plain, 2 * CHUNK - 30.5, 0.7));
    // A channel that is lacking, or shorter, is silent here as well.
    three.put(0, [planes[0].slice(0, CHUNK), planes[1].slice(0, 90)]);
    interpolate(three, 60, 1, outs, COUNT);
    expect(outs[1].subarray(0, 30)).toEqual(planes[1].subarray(60, 90));
    expect([outs[1].subarray(30), outs[2]].every((x) => x.every((y) => y === 0))).toBe(true);
  } finally {
    grow.mockRestore();
  }
  const kept = taken.length > 0 ? taken : [take(bytes)!];
  for (const at of kept) give(at, bytes);
  expect(take(bytes)).toBe(kept.at(-1));
  give(kept.at(-1)!, bytes);
});
