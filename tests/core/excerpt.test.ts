import { nearestCrossing } from '@core/audio';
import {
  encodeFlac,
  memorySource,
  readAudioFile,
  readFrames,
  writeAiff,
  writeWav,
  type AudioFormat,
} from '@core/files';
import { byFile, excerptFormat, excerptName, excerptOf, excerptReread, familyOf, type Sound } from '@core/library';
import fc from 'fast-check';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { soundOf } from '../helpers/catalogue';
import { bytesOf, run, scratch, testWith } from '../helpers/programs';
import { apart, noise, sine } from '../helpers/signals';

const RATE = 44100;
const planes = [noise(5000, 0.5, 1), noise(5000, 0.5, 2)];
const files = {
  '16-bit WAV': writeWav(planes, { rate: RATE, bits: 16 }),
  '24-bit WAV': writeWav(planes, { rate: RATE, bits: 24 }),
  'float WAV': writeWav(planes, { rate: RATE, bits: 32, float: true }),
  AIFF: writeAiff(planes, { rate: RATE, bits: 24 }),
};

describe('a part of a file is read as a file of its own', () => {
  test.each(Object.entries(files))('%s', async (_, bytes) => {
    const source = memorySource(bytes);
    const { format } = await readAudioFile(source);
    const whole = await readFrames(source, format, 0, format.frames);
    await fc.assert(
      fc.asyncProperty(fc.nat(4999), fc.nat(4999), fc.nat(5000), fc.nat(5000), async (a, b, from, count) => {
        const part = { start: Math.min(a, b), end: Math.max(a, b) + 1 };
        const own = excerptFormat(format, part);
        const read = await readFrames(source, own, from, count);
        read.forEach((p, c) => expect(p).toEqual(whole[c].slice(part.start, part.end).slice(from, from + count)));
        // A part of a part is a part.
        const half = { start: 0, end: Math.ceil(own.frames / 2) };
        expect(excerptFormat(own, half)).toEqual(
          excerptFormat(format, { start: part.start, end: part.start + half.end }),
        );
      }),
      { numRuns: 40 },
    );
  });

  test('of a coded file by the frames before it', () => {
    const coded = { encoding: 'coded', frames: 900, dataOffset: 0, blockAlign: 0 } as AudioFormat;
    const once = excerptFormat(coded, { start: 100, end: 500 });
    expect(once).toMatchObject({ skip: 100, frames: 400, dataOffset: 0 });
    expect(excerptFormat(once, { start: 50, end: 60 })).toMatchObject({ skip: 150, frames: 10 });
  });
});

describe('an excerpt', () => {
  const format = {
    rate: 1000,
    channels: 1,
    frames: 8000,
    encoding: 'pcm',
    blockAlign: 2,
    dataOffset: 44,
  } as AudioFormat;
  const reel: Sound = {
    ...soundOf(7, { fxName: 'Reel', description: 'boots', loudness: -20, take: '03', heard: 5, tags: [1] }),
    from: { fxName: 'name', description: 'typed', loudness: 'measured', take: 'name', heard: 'measured' },
    format,
    hash: 'abc',
    marks: { anchor: 2500, region: { start: 2000, end: 3000 }, regions: [{ name: 'step 2', start: 2000, end: 3000 }] },
  };

  test('takes the labels of the whole along, but nothing that was measured of it', () => {
    const part = excerptOf(reel, { start: 2000, end: 3000 }, 'Step', 99);
    expect(part.fields).toEqual({
      ...{ fxName: 'Step', description: 'boots', tags: [1], length: 1, added: 99 },
      ...{ file: reel.fields.file, library: 'Tests' },
    });
    expect(part).toMatchObject({ excerpt: { start: 2000, end: 3000 }, marks: { anchor: 500 }, rootId: reel.rootId });
    expect(part.hash).toBeUndefined();
    expect(part.from.description).toBe('typed');
    expect('id' in part).toBe(false);
    // One of an excerpt lies where it lies in the file.
    const inner = excerptOf({ ...part, id: 8 } as Sound, { start: 100, end: 200 }, 'Heel', 99);
    expect(inner).toMatchObject({ excerpt: { start: 2100, end: 2200 }, marks: { anchor: -1 } });
    expect(inner.format.dataOffset).toBe(44 + 2100 * 2);
  });

  test('is called by its region, or by where it begins', () => {
    expect(excerptName(reel, { start: 2000, end: 3000 })).toBe('Reel, step 2');
    expect(excerptName(reel, { start: 250, end: 3000 })).toBe('Reel, from 0.25 s');
  });

  test('follows a file that was written anew, and says when that is too short for it', () => {
    const part = { ...excerptOf(reel, { start: 2000, end: 3000 }, 'Step', 99), id: 8 } as Sound;
    const fresh = { ...reel, size: 1, modified: 2, quickHash: 'new', format: { ...format, dataOffset: 100 } };
    expect(excerptReread(part, fresh)).toMatchObject({
      quickHash: 'new',
      format: { dataOffset: 100 + 4000, frames: 1000 },
    });
    const short = { ...fresh, format: { ...format, frames: 2500 } };
    expect(excerptReread(part, short)).toMatchObject({ 'fields.state': 'Missing' });
    expect(excerptReread(part, { ...fresh, format: { ...format, rate: 2000 } })).toMatchObject({
      'fields.state': 'Missing',
    });
  });

  test('belongs to its file whichever of both is met first', () => {
    const one = (id: number, path: string, excerpt: boolean) =>
      ({ id, path, excerpt, rootId: 1, size: 1, modified: 1, quickHash: 't', missing: false }) as const;
    const whole = one(1, 'a.wav', false);
    const [first, second] = [one(2, 'a.wav', true), one(3, 'a.wav', true)];
    for (const order of [
      [whole, first, second],
      [first, whole, second],
      [second, first, whole],
    ]) {
      const [family, ...others] = byFile([...order, one(9, 'b.wav', false)]);
      expect(familyOf(family)[0]).toBe(1);
      expect([...familyOf(family)].sort()).toEqual([1, 2, 3]);
      expect(others.map(familyOf)).toEqual([[9]]);
    }
    // A file whose whole was taken out of the library is followed for its parts.
    expect(byFile([first, second]).map(familyOf)).toEqual([[2, 3]]);
    expect(byFile([{ ...first, rootId: 2 }, second])).toHaveLength(2);
  });
});

test('the nearest crossing of zero is found on either side, over all channels together', () => {
  const wave = sine(100, 48000, 4800);
  expect(Math.abs(nearestCrossing([wave], 230) - 240)).toBeLessThan(2);
  expect(Math.abs(nearestCrossing([wave], 485) - 480)).toBeLessThan(2);
  expect(nearestCrossing([wave.map((x) => x + 2)], 300)).toBe(300);
  expect(nearestCrossing([], 7)).toBe(7);
  // One channel alone crosses where their sum does not.
  const lifted = wave.map((x) => -x + 0.2);
  const at = nearestCrossing([wave, lifted.map((x) => 2 * x)], 300);
  const sum = (i: number) => wave[i] + 2 * lifted[i];
  expect(sum(at - 1) <= 0).not.toBe(sum(at) <= 0);
});

describe('FLAC', () => {
  test.each([
    [16, 1],
    [24, 2],
    [16, 8],
  ] as const)('of %d bit and %d channels says what it is, with its comments', async (bits, channels) => {
    const bytes = await encodeFlac(
      Array.from({ length: channels }, (_, c) => noise(70_000, 0.9, c + 1)),
      { rate: 96000, bits },
      { TITLE: 'Möwe 🐦', GENRE: 'BIRDSea' },
    );
    const { format, labels } = await readAudioFile(memorySource(bytes));
    expect(format).toMatchObject({ container: 'FLAC', rate: 96000, channels, bits, frames: 70_000 });
    expect(labels.get('vorbis.TITLE')).toBe('Möwe 🐦');
    expect(labels.get('vorbis.GENRE')).toBe('BIRDSea');
  });

  test('refuses what it cannot hold, in words', async () => {
    const nine = Array.from({ length: 9 }, () => new Float32Array(10));
    await expect(encodeFlac(nine, { rate: 48000, bits: 16 })).rejects.toThrow(/8 channels.*take it as WAV/);
    await expect(encodeFlac([new Float32Array(10)], { rate: 700_000, bits: 16 })).rejects.toThrow(/take it as WAV/);
  });

  testWith('flac')('is decoded by the reference decoder to what went in', async () => {
    const folder = scratch();
    const signal = [noise(40_000, 0.99, 3), sine(997, 48000, 40_000, 1)];
    for (const bits of [16, 24] as const) {
      const path = join(folder, `${bits}.flac`);
      writeFileSync(path, await encodeFlac(signal, { rate: 48000, bits }));
      run('flac', '-d', '-f', '-s', path, '-o', join(folder, 'x.wav'));
      const source = memorySource(bytesOf(join(folder, 'x.wav')));
      const { format } = await readAudioFile(source);
      const back = await readFrames(source, format, 0, format.frames);
      signal.forEach((p, c) => expect(apart(p, back[c])).toBeLessThanOrEqual(1 / 2 ** (bits - 1)));
    }
  });
});
