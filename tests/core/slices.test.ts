import { againstClick, AROUND } from '@core/audio';
import { memorySource, readAudioFile, readFrames, wavPart, writeWav } from '@core/files';
import { excerptFormat, nameSlices, sliceRecord, type CutSlice, type Sound } from '@core/library';
import { findSlices, sliceSettings, type ReelKind } from '@core/suggest';
import fc from 'fast-check';
import { made } from '../helpers/creatures';
import { fMeasure, madeReel, measuredReel, RATE } from '../helpers/reels';
import { hit, joined, noise } from '../helpers/signals';
import { spoken } from '../helpers/voice';
import { soundOf } from '../helpers/catalogue';

const onsets = (samples: Float32Array, kind: ReelKind = 'mixed') =>
  findSlices(measuredReel(samples), sliceSettings[kind]).map((s) => s.onset);

// Reels of other takes than the demo's, in rooms that are not silent.
test.each(['percussive', 'mixed', 'sustained'] as const)('takes of %s reels are found where they begin', (kind) => {
  const scores = Array.from({ length: 5 }, (_, seed) => {
    const { samples, begins } = madeReel(kind, seed);
    // What begins softly in noise has no instant.
    const within = kind === 'percussive' ? 0.01 : 0.08;
    return fMeasure(onsets(samples, kind), begins, within * RATE);
  });
  expect(scores.reduce((sum, x) => sum + x, 0) / scores.length).toBeGreaterThan(0.95);
});

test('slices never overlap, lie in the reel, hold their onset and anchor, and leave nothing loud out', () => {
  for (let seed = 0; seed < 3; seed++) {
    const { samples } = madeReel('mixed', seed);
    const reel = measuredReel(samples);
    for (const kind of ['percussive', 'mixed', 'sustained'] as const) {
      const slices = findSlices(reel, { ...sliceSettings[kind], shortest: 0 });
      let last = 0;
      for (const { start, end, onset, anchor } of slices) {
        expect(start).toBeGreaterThanOrEqual(last);
        expect(onset).toBeGreaterThanOrEqual(start);
        expect(anchor).toBeGreaterThanOrEqual(start);
        expect(Math.max(onset, anchor)).toBeLessThan(end);
        last = end;
      }
      expect(last).toBeLessThanOrEqual(samples.length);
      const peak = samples.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
      let from = 0;
      for (const end of [...slices, { start: samples.length, end: 0 }]) {
        const between = samples.subarray(from, end.start).reduce((most, x) => Math.max(most, Math.abs(x)), 0);
        expect(between).toBeLessThan(peak * 0.08);
        from = end.end;
      }
    }
  }
});

test('silence, noise alone, one take, and nothing at all', () => {
  expect(onsets(new Float32Array(RATE * 3))).toEqual([]);
  expect(onsets(new Float32Array(0))).toEqual([]);
  expect(onsets(noise(RATE * 3, 0.2)).length).toBeLessThanOrEqual(1);
  const one = joined(new Float32Array(RATE), hit(RATE, 0.5), new Float32Array(RATE));
  expect(onsets(one)).toHaveLength(1);
  expect(Math.abs(onsets(one)[0] - RATE)).toBeLessThan(0.01 * RATE);
});

test('tails that run into the next take are parted where it strikes', () => {
  const samples = noise(RATE * 8, 0.0005);
  const at = [0.5, 1.6, 2.7, 3.8, 4.9, 6].map((s) => Math.round(s * RATE));
  // A tail of a second and a half: never silent between two.
  for (const from of at)
    for (let i = 0; i < RATE * 1.5 && from + i < samples.length; i++)
      samples[from + i] += 0.5 * Math.exp(-i / (0.16 * RATE)) * Math.sin(i * 0.06);
  expect(fMeasure(onsets(samples, 'percussive'), at, 0.01 * RATE)).toBe(1);
});

test('"apart" joins what is closer, and settings say what silence and shortest are', () => {
  const parts = Array.from({ length: 12 }, (_, i) => [
    hit(RATE, 0.2, i % 3 === 0 ? 0.8 : 0.02),
    new Float32Array(RATE * 0.6),
  ]);
  const reel = measuredReel(joined(...parts.flat()));
  const cut = (by: Partial<typeof sliceSettings.mixed>) =>
    findSlices(reel, { ...sliceSettings.percussive, ...by }).length;
  expect(cut({})).toBe(12);
  expect(cut({ apart: 1.5 })).toBe(6);
  expect(cut({ quiet: 20 })).toBe(4);
  expect(cut({ shortest: 2 })).toBe(0);
});

test('announcements are told from takes, and takes from announcements', () => {
  const quiet = (seconds: number, seed: number) => noise(Math.round(RATE * seconds), 0.0004, seed);
  const takes = (kind: 'bar' | 'box', from: number) =>
    Array.from({ length: 4 }, (_, i) => joined(made(kind, from + i), quiet(1.2, i)));
  const reel = joined(
    quiet(1, 9),
    spoken(1),
    quiet(1, 8),
    ...takes('bar', 0),
    spoken(20),
    quiet(1, 7),
    ...takes('box', 9),
  );
  const slices = findSlices(measuredReel(reel), sliceSettings.mixed);
  expect(slices.map((s) => (s.spoken ? 'spoken' : 'take'))).toEqual([
    'spoken',
    'take',
    'take',
    'take',
    'take',
    'spoken',
    'take',
    'take',
    'take',
    'take',
  ]);
});

const reel: Sound = {
  ...soundOf(7, { fxName: 'Oar locks', category: 'BOATS', takeGroup: '1/oar', catId: 'BOATRow' }),
  format: {
    container: 'WAV',
    encoding: 'pcm',
    unsigned: false,
    littleEndian: true,
    rate: 48_000,
    channels: 1,
    bits: 24,
    blockAlign: 3,
    frames: 480_000,
    dataOffset: 44,
  },
  marks: { anchor: 5 },
};
const slice = (start: number, more: Partial<CutSlice> = {}): CutSlice => ({
  start,
  end: start + 1000,
  anchor: start + 100,
  ...more,
});
const named = (slices: CutSlice[], pattern: string, spoken: 'names' | 'leave' | 'keep' = 'names', first = 1) =>
  nameSlices([{ reel, slices }], { pattern, first, spoken }, new Map());

test('names: by pattern, numbered through, after announcements, own ones first, never two the same', () => {
  const slices = [
    slice(0, { spoken: true, said: 'wide' }),
    slice(2000),
    slice(100_000, { own: 'Creak' }),
    slice(5000, { spoken: true, said: 'close' }),
    slice(9000),
  ];
  expect(named(slices, '{reel} {number}').map((n) => n.name)).toEqual(['Oar locks 01', 'Creak', 'Oar locks 03']);
  expect(named(slices, '{category} [{said} ]{take}').map((n) => n.name)).toEqual([
    'BOATS wide 01',
    'Creak',
    'BOATS close 01',
  ]);
  expect(named(slices, '{reel}').map((n) => n.name)).toEqual(['Oar locks', 'Creak', 'Oar locks 2']);
  expect(named(slices, '{said}', 'leave')[0].name).toBe('Oar locks 01');
  expect(named([slice(100_000)], '{reel} {time}').map((n) => n.name)).toEqual(['Oar locks 00m02s']);
  expect(named(slices, '{number}', 'keep', 98).map((n) => n.name)).toEqual(['098', '099', 'Creak', '101', '102']);
});

test('records: a part with the labels of the reel, an anchor and a group of takes of its own', () => {
  const [first] = named([slice(2000, { placed: true })], '{reel} {take}');
  const made = sliceRecord(first, 99);
  expect(made).toMatchObject({
    excerpt: { start: 2000, end: 3000 },
    marks: { anchor: 100 },
    fields: { fxName: 'Oar locks 01', catId: 'BOATRow', take: '01', takeGroup: '1/oar' },
    from: { anchor: 'typed' },
  });
  expect(sliceRecord(named([slice(0)], '{reel}')[0], 1).from.anchor).toBeUndefined();
});

test('a part of a WAV file becomes a file of its own with the very same bytes of audio', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.constantFrom(16, 24, 32) as fc.Arbitrary<16 | 24 | 32>,
      fc.boolean(),
      fc.integer({ min: 1, max: 5 }),
      fc.nat(900),
      fc.integer({ min: 1, max: 90 }),
      async (bits, float, channels, start, length) => {
        const planes = Array.from({ length: channels }, (_, c) => noise(1000, 0.7, c + 1));
        const whole = memorySource(
          writeWav(planes, { rate: 44_100, bits: float ? 32 : bits, float }, { bext: { Description: 'x' } }),
        );
        const { format } = await readAudioFile(whole);
        const part = excerptFormat(format, { start, end: start + length });
        const {
          head,
          from,
          length: size,
          tail,
        } = (await wavPart(whole, part, {
          bext: { TimeReference: 77n },
          cues: [{ frame: 3, length: 0, label: 'Anchor' }],
        }))!;
        const own = memorySource(Buffer.concat([head, await whole.read(from, size), tail]));
        const file = await readAudioFile(own);
        expect(file.format).toMatchObject({ rate: 44_100, channels, bits: format.bits, frames: length });
        expect(file.warnings).toEqual([]);
        expect(file.labels.get('bext.TimeReference')).toBe('77');
        expect(await readFrames(own, file.format, 0, length)).toEqual(await readFrames(whole, format, start, length));
      },
    ),
    { numRuns: 60 },
  );
});

test('against a click: as often as asked, the click on the instant, never over full scale', () => {
  const plane = noise(RATE, 0.9);
  const at = 12_345;
  const [heard] = againstClick([plane], at, RATE, 3);
  const length = Math.round(2 * AROUND * RATE);
  expect(heard).toHaveLength(3 * length);
  expect(heard.reduce((most, x) => Math.max(most, Math.abs(x)), 0)).toBeLessThanOrEqual(1);
  const [silent] = againstClick([new Float32Array(RATE)], 100, RATE, 1);
  expect(silent.findIndex((x) => x !== 0)).toBe(length / 2);
});
