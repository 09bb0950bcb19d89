import { dithered, levellingGain, plainShape, type Shape } from '@core/audio';
import { memorySource, readAudioFile, readFrames, writeWav } from '@core/files';
import { describe as describeSound, fieldOf, textOf, wavLabelsOf, type Sound } from '@core/library';
import { Taker, type TakeHow, type Taken } from '@platform/out/taker';
import type { RootRecord } from '@platform/store/store';
import { unzipSync } from 'fflate';
import fc from 'fast-check';
import { soundOf } from '../helpers/catalogue';
import { fileHandle, folderHandle } from '../helpers/handles';
import { apart, rms, sine } from '../helpers/signals';

const RATE = 44100;
const planes = [sine(440, RATE, 50000, 0.5), sine(660, RATE, 50000, 0.25)];
const bytes = writeWav(planes, { rate: RATE, bits: 32, float: true });
const root: RootRecord = { id: 2, name: 'Tapes', kind: 'picked', handles: [fileHandle('a.wav', bytes)], added: 0 };
const how: TakeHow = { bits: 32, float: true, dither: false, shaped: true, region: true };

async function taken(name: string, marks: Partial<Sound['marks']> = {}, fields: Sound['fields'] = {}): Promise<Taken> {
  const { format } = await readAudioFile(memorySource(bytes));
  return {
    item: { sound: { id: 1, path: 'a.wav', size: bytes.length, format }, root },
    sound: { fields, marks: { anchor: -1, ...marks } },
    name,
  };
}
const take = (all: Taken[], more: Partial<TakeHow> = {}, folder?: FileSystemDirectoryHandle) =>
  new Taker().take(all, new Map([[4, 'Wet']]), { ...how, ...more }, folder, () => undefined);
async function read(data: Uint8Array) {
  const file = await readAudioFile(memorySource(data));
  return { file, audio: await readFrames(memorySource(data), file.format, 0, file.format.frames) };
}
const blobBytes = async (blob: Blob | undefined) => new Uint8Array(await blob!.arrayBuffer());

describe('a sound that is taken', () => {
  test('whole and plain, it is the file’s own audio to the bit, at its own rate', async () => {
    const { file, audio } = await read(await blobBytes((await take([await taken('x.wav')])).blob));
    expect(file.format).toMatchObject({ rate: RATE, bits: 32, channels: 2, frames: 50000 });
    audio.forEach((p, c) => expect(apart(p, planes[c])).toBe(0));
  });

  test('its region and shape are what was heard; its anchor goes along where it lies within', async () => {
    const shape: Shape = { ...plainShape, speed: 2, channels: 'mono', gain: -6.0206 };
    const one = await taken('x.wav', { region: { start: 10000, end: 30000 }, shape, anchor: 15000 });
    const { file, audio } = await read(await blobBytes((await take([one], { rate: 48000 })).blob));
    expect(file.format).toMatchObject({ rate: 48000, channels: 1, frames: Math.ceil(10000 * (48000 / RATE)) });
    expect(file.cues).toEqual([{ frame: Math.round(2500 * (48000 / RATE)), label: 'Anchor', length: 0 }]);
    expect(rms(audio[0].subarray(500, 9000))).toBeCloseTo(
      0.5 * Math.hypot(0.25 * Math.SQRT1_2, 0.125 * Math.SQRT1_2),
      3,
    );
    const outside = await taken('x.wav', { region: { start: 10000, end: 30000 }, anchor: 5 });
    expect((await read(await blobBytes((await take([outside])).blob))).file.cues).toEqual([]);
  });

  test('comes as FLAC with its labels, and says so where that cannot be', async () => {
    const one = await taken('x.flac', {}, { fxName: 'Gull, near', description: 'über dem Pier', tags: [4] });
    const answer = await take([one], { bits: 24, float: false, flac: true });
    expect(answer.blob?.type).toBe('audio/flac');
    const file = await readAudioFile(memorySource(await blobBytes(answer.blob)));
    expect(file.format).toMatchObject({ container: 'FLAC', bits: 24, rate: RATE, frames: 50000 });
    expect(file.labels.get('vorbis.TITLE')).toBe('Gull, near');
    expect(file.labels.get('vorbis.DESCRIPTION')).toBe('über dem Pier');
  });

  test('several come as an archive, with the reason for each that could not', async () => {
    const gone = await taken('gone.wav');
    const other = { ...gone, item: { ...gone.item, sound: { ...gone.item.sound, path: 'gone.wav' } } };
    const answer = await take([await taken('a.wav'), other, await taken('b.wav')], { bits: 16, float: false });
    expect(answer).toMatchObject({
      written: 2,
      clipped: 0,
      missing: [{ name: 'gone.wav', reason: expect.stringMatching(/not in “Tapes”/) }],
    });
    const files = unzipSync(await blobBytes(answer.blob));
    expect(Object.keys(files)).toEqual(['a.wav', 'b.wav']);
    expect((await read(files['b.wav'])).file.format).toMatchObject({ bits: 16, frames: 50000 });
  });

  test('a folder keeps what it has: a name that is taken gets a number', async () => {
    const folder = folderHandle('Out', {});
    await take([await taken('a.wav')], {}, folder);
    await take([await taken('a.wav', { region: { start: 0, end: 100 } })], {}, folder);
    const sizes = await Promise.all(
      ['a.wav', 'a 2.wav'].map(async (n) => (await (await folder.getFileHandle(n)).getFile()).size),
    );
    expect(sizes[0]).toBeGreaterThan(sizes[1]);
  });

  test('what does not fit is counted, and float keeps it', async () => {
    const loud = () => taken('x.wav', { shape: { ...plainShape, gain: 12 } });
    expect((await take([await loud()], { bits: 24, float: false })).clipped).toBeGreaterThan(10000);
    const float = await take([await loud()]);
    expect(float.clipped).toBe(0);
    expect((await read(await blobBytes(float.blob))).audio[0].some((x) => x > 1.5)).toBe(true);
  });
});

test('labels written into a file are read again as they were', async () => {
  const text = fc.stringMatching(/^[A-Za-zäöüß][A-Za-z0-9äöüß ,.]{0,30}[a-z]$/);
  const keys = ['fxName', 'description', 'catId', 'author', 'library', 'copyright', 'microphone', 'project'] as const;
  await fc.assert(
    fc.asyncProperty(
      fc.record(Object.fromEntries(keys.map((k) => [k, text])) as Record<(typeof keys)[number], typeof text>),
      async (fields) => {
        const sound = soundOf(1, fields);
        const data = writeWav([new Float32Array(10)], { rate: 48000, bits: 16 }, wavLabelsOf(sound, new Map(), 3));
        const file = await readAudioFile(memorySource(data));
        const again = describeSound(
          file,
          { rootId: 1, rootName: 'R', path: 'a.wav', size: data.length, modified: 1, intakeId: 1, now: 1 },
          () => undefined,
        );
        for (const key of keys) expect(textOf(fieldOf(key), again.fields[key], new Map())).toBe(fields[key].trim());
        expect(again.marks.anchor).toBe(3);
      },
    ),
    { numRuns: 40 },
  );
});

test('dither leaves noise that knows nothing of the signal, where rounding alone leaves its overtones', () => {
  // A tone of less than one step of 16 bits: rounded alone it is gone.
  const quiet = sine(997, 48000, 48000, 0.4 / 32768);
  const rounded = (plane: Float32Array) => plane.map((x) => Math.round(x * 32768) / 32768);
  expect(rms(rounded(quiet))).toBe(0);
  const [noisy] = dithered([quiet], 16);
  const out = rounded(noisy);
  const part = (f: number) =>
    Math.hypot(
      ...[Math.sin, Math.cos].map((w) => out.reduce((sum, x, i) => sum + x * w((2 * Math.PI * f * i) / 48000), 0)),
    ) / 24000;
  expect(part(997) * 32768).toBeCloseTo(0.4, 1);
  for (const overtone of [2, 3, 5, 7]) expect(part(997 * overtone) * 32768).toBeLessThan(0.03);
  // White: each band of a quarter of the spectrum has a quarter of the energy, seen through first differences.
  const noise = out.map((x, i) => (x - quiet[i]) * 32768);
  const mean = noise.reduce((a, b) => a + b, 0) / noise.length;
  expect(Math.abs(mean)).toBeLessThan(0.02);
  for (const lag of [1, 2, 3, 7]) {
    const together = noise.reduce((sum, x, i) => sum + (i >= lag ? x * noise[i - lag] : 0), 0) / noise.length;
    expect(Math.abs(together) / rms(Float32Array.from(noise)) ** 2).toBeLessThan(0.03);
  }
  expect(dithered([quiet], 16)[0]).toEqual(noisy);
});

test.each([
  [-30, -12, -23, 7],
  [-30, -5, -23, 4],
  [-10, -0.5, -23, -13],
  [undefined, -3, -23, 0],
  [-Infinity, -Infinity, -23, 0],
  [-40, undefined, -23, 17],
])('a sound of %s LUFS and %s dBTP is brought to %i LUFS by %i dB', (loudness, peak, target, gain) => {
  expect(levellingGain(loudness, peak, target)).toBeCloseTo(gain, 9);
});
