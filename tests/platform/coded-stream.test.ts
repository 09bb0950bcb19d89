import type { AudioFormat } from '@core/files';
import { memorySource } from '@core/files';
import { streamCoded } from '@platform/audio/coded-stream';
import fc from 'fast-check';
import { apart, noise } from '../helpers/signals';

// A decoder stands in for the browser's: packets of a known signal, with the encoder's delay before time zero.

const RATE = 48000;
const PACKET = 1152;
const DELAY = 1105;
const FRAMES = 200_000;
const signal = [noise(FRAMES, 0.5, 1), noise(FRAMES, 0.5, 2)];
/** What the stand-in does: packets it gave, the packet at which it gives up, whether it can decode at all, where time begins. */
const decoder = { given: 0, breaksAt: Infinity, able: true, origin: 0, disposed: 0 };

jest.mock('mediabunny', () => ({
  ALL_FORMATS: [],
  CustomSource: class {},
  Input: class {
    getPrimaryAudioTrack = () =>
      Promise.resolve({
        canDecode: () => Promise.resolve(decoder.able),
        getFirstTimestamp: () => Promise.resolve(decoder.origin || -DELAY / RATE),
      });
    dispose = () => decoder.disposed++;
  },
  AudioSampleSink: class {
    async *samples(from = -Infinity) {
      const lead = decoder.origin ? 0 : DELAY;
      const first = Math.max(0, Math.floor(((from - decoder.origin) * RATE + lead) / PACKET)) || 0;
      for (let p = first; p * PACKET - lead < FRAMES; p++) {
        if (p >= decoder.breaksAt) throw new Error('the decoder gave up');
        decoder.given++;
        const at = p * PACKET - lead;
        yield await Promise.resolve({
          timestamp: decoder.origin + at / RATE,
          numberOfFrames: Math.min(PACKET, FRAMES - at),
          numberOfChannels: 2,
          copyTo: (plane: Float32Array, { planeIndex }: { planeIndex: number }) => {
            for (let i = 0; i < plane.length; i++) plane[i] = signal[planeIndex][at + i] ?? 0.9;
          },
          close: () => undefined,
        });
      }
    }
  },
}));

const format = (more: Partial<AudioFormat> = {}) =>
  ({ encoding: 'coded', rate: RATE, channels: 2, frames: FRAMES, ...more }) as AudioFormat;
const open = (more?: Partial<AudioFormat>) => streamCoded(memorySource(new Uint8Array(9)), format(more));
beforeEach(() => Object.assign(decoder, { given: 0, breaksAt: Infinity, able: true, origin: 0, disposed: 0 }));

test('any part of it is what decoding all of it would give there, whichever way it is asked for', async () => {
  const reader = await open();
  await fc.assert(
    fc.asyncProperty(fc.nat(FRAMES), fc.nat(30_000), async (start, count) => {
      const planes = await reader.read(start, count);
      planes.forEach((p, c) => expect(apart(p, signal[c].slice(start, start + count))).toBe(0));
    }),
    { numRuns: 60 },
  );
});

test('reads that overlap in time are answered in turn', async () => {
  const reader = await open();
  const starts = [150_000, 10, 90_000, 149_000, 0];
  const all = await Promise.all(starts.map((s) => reader.read(s, 5000)));
  all.forEach(([left], i) => expect(left).toEqual(signal[0].slice(starts[i], starts[i] + 5000)));
});

test('little more is decoded than what is asked for, and what was read a moment ago not again', async () => {
  const reader = await open();
  await reader.read(150_000, 1000);
  expect(decoder.given).toBeLessThan(45);
  const { given } = decoder;
  await reader.read(150_100, 500);
  expect(decoder.given).toBe(given);
  // Going on costs what comes, not what was.
  await reader.read(164_000, 16_384);
  expect(decoder.given - given).toBeLessThan(40);
});

test('one that ends sooner than it said goes on with silence, one that begins later begins at its first frame', async () => {
  const longer = await open({ frames: FRAMES + 50_000 });
  const [end] = await longer.read(FRAMES - 1000, 40_000);
  expect(end.slice(0, 1000)).toEqual(signal[0].slice(-1000));
  expect(end.slice(1000).every((x) => x === 0)).toBe(true);
  expect((await longer.read(FRAMES + 49_000, 9000))[0]).toHaveLength(1000);
  decoder.origin = 2.5;
  const later = await open();
  expect((await later.read(0, 3000))[1]).toEqual(signal[1].slice(0, 3000));
  expect((await later.read(120_000, 3000))[1]).toEqual(signal[1].slice(120_000, 123_000));
});

test('a part of it begins where it was cut', async () => {
  const part = await open({ skip: 70_001, frames: 900 });
  expect((await part.read(0, 5000))[0]).toEqual(signal[0].slice(70_001, 70_901));
});

test('a decoder that gives up in the middle fails what needs it, and nothing else', async () => {
  decoder.breaksAt = 100;
  const reader = await open();
  await expect(reader.read(140_000, 100)).rejects.toThrow('the decoder gave up');
  expect((await reader.read(20_000, 100))[0]).toEqual(signal[0].slice(20_000, 20_100));
  decoder.breaksAt = Infinity;
  expect((await reader.read(140_000, 100))[0]).toEqual(signal[0].slice(140_000, 140_100));
});

test('what nothing here can decode is refused in words, and let go of', async () => {
  decoder.able = false;
  await expect(open()).rejects.toThrow(/there is no decoder here/);
  expect(decoder.disposed).toBe(1);
});
