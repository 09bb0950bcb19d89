import { memorySource, readAudioFile, writeWav } from '@core/files';
import type { RootRecord } from '@platform/store/store';
import { Viewer } from '@platform/audio/viewer';
import { joined, sine } from '../helpers/signals';

const RATE = 48000;
async function item(...planes: Float32Array[]) {
  const bytes = writeWav(planes, { rate: RATE, bits: 24 });
  const file = new File([bytes as Uint8Array<ArrayBuffer>], 'a.wav');
  const { format } = await readAudioFile(memorySource(bytes));
  const root: RootRecord = { id: -1, name: 'here', kind: 'picked', files: [file], added: 0 };
  return { sound: { id: 1, path: 'a.wav', size: file.size, format }, root };
}
/** Two seconds of a low tone, then two of a high one, louder on the right. */
const left = joined(sine(200, RATE, 2 * RATE, 0.2), sine(5000, RATE, 2 * RATE, 0.2));
const right = left.map((x) => 2 * x);

test('a waveform has its lowest, highest and mean level where they are, down to single samples', async () => {
  const viewer = new Viewer();
  const two = await item(left, right);
  const wave = (await viewer.wave(two, 0, 4 * RATE, 400))!;
  for (const x of [0, 100, 399]) {
    expect(wave.high[0][x]).toBeCloseTo(0.2, 1);
    expect(wave.low[1][x]).toBeCloseTo(-0.4, 1);
    expect(wave.rms[1][x]).toBeCloseTo(0.4 / Math.SQRT2, 1);
  }
  const near = (await viewer.wave(two, 1000, 1010, 400))!;
  expect(near.low[0]).toHaveLength(10);
  near.low[0].forEach((x, i) => expect(x).toBeCloseTo(left[1000 + i], 5));
  expect(await viewer.wave(two, 50, 50, 400)).toBeUndefined();
});

test('a spectrogram is brightest where its tones are, whatever part is looked at', async () => {
  const viewer = new Viewer();
  const two = await item(left, right);
  const loudest = (values: Uint8Array, rows: number, column: number) => {
    const one = [...values.subarray(column * rows, (column + 1) * rows)];
    const row = one.indexOf(Math.max(...one));
    return 40 * (RATE / 2 / 40) ** ((row + 0.5) / rows);
  };
  const whole = (await viewer.spectrogram(two, 0, 4 * RATE, 80, 96))!;
  expect(loudest(whole.values, 96, 20) / 200).toBeCloseTo(1, 0);
  expect(loudest(whole.values, 96, 60) / 5000).toBeCloseTo(1, 0);
  const end = (await viewer.spectrogram(two, 3 * RATE, 4 * RATE, 10, 96))!;
  for (let x = 0; x < 10; x++) expect(loudest(end.values, 96, x) / 5000).toBeCloseTo(1, 0);
});

test('a newer look makes an older one end', async () => {
  const viewer = new Viewer();
  const two = await item(left, right);
  const old = viewer.spectrogram(two, 0, 4 * RATE, 400, 96);
  const fresh = viewer.spectrogram(two, 0, RATE, 50, 96);
  expect(await old).toBeUndefined();
  expect((await fresh)?.columns).toBe(50);
});

test('the crossing of zero nearest to an edge is found in the file; one far away leaves the edge alone', async () => {
  const viewer = new Viewer();
  const two = await item(left, right);
  // A tone of 200 Hz crosses every 120 frames.
  expect(Math.abs((await viewer.crossing(two, 12_050)) - 12_000)).toBeLessThan(2);
  expect(Math.abs((await viewer.crossing(two, 5)) - 0)).toBeLessThan(3);
  const steady = await item(new Float32Array(5000).fill(0.5));
  expect(await new Viewer().crossing(steady, 2500)).toBe(2500);
});
