import { FLOOR_DB, rowFrequency, SpectrogramColumn, spectrogramSize, waveColumns } from '@core/audio';
import { memorySource, readAudioFile, readFrames, writeWav } from '@core/files';
import fc from 'fast-check';
import { sine } from '../helpers/signals';

test('columns hold the lowest, highest and mean level of their part, and leave no sample out', () => {
  const plane = fc.array(fc.float({ min: -1, max: 1, noNaN: true }), { minLength: 1, maxLength: 300 });
  fc.assert(
    fc.property(plane, fc.integer({ min: 1, max: 300 }), (samples, wanted) => {
      const count = Math.min(wanted, samples.length);
      const { from, to, low, high, rms } = waveColumns([Float32Array.from(samples)], 7, count);
      expect([from, to]).toEqual([7, 7 + samples.length]);
      const squares = low[0].map((_, x) => {
        const part = samples
          .slice(Math.floor((x * samples.length) / count), Math.floor(((x + 1) * samples.length) / count))
          .map(Math.fround);
        expect([low[0][x] + 0, high[0][x] + 0]).toEqual([Math.min(...part) + 0, Math.max(...part) + 0]);
        return part.reduce((sum, v) => sum + v * v, 0);
      });
      const energy = squares.reduce((a, b) => a + b, 0);
      expect(energy).toBeCloseTo(Math.fround(samples.map(Math.fround).reduce((sum, v) => sum + v * v, 0)), 2);
      expect(rms[0].every((v, x) => v <= Math.max(-low[0][x], high[0][x]) + 1e-6)).toBe(true);
    }),
  );
});

test.each([60, 250, 1000, 5000, 15000])(
  'a tone of %i Hz stands brightest in its row of a spectrogram, at its level',
  (frequency) => {
    const rows = 192;
    const rate = 48000;
    const column = new SpectrogramColumn(4096, rows, rate);
    const values = new Uint8Array(rows);
    column.of(sine(frequency, rate, 4096, 0.5), values);
    const brightest = values.indexOf(Math.max(...values));
    // As near as a transform of this size tells tones apart.
    expect(Math.abs(rowFrequency(brightest, rows, rate) - frequency)).toBeLessThan(
      Math.max(rate / 4096, frequency * 0.03),
    );
    const db = FLOOR_DB + (values[brightest] / 255) * -FLOOR_DB;
    expect(db).toBeGreaterThan(-6.1 - 2);
    expect(db).toBeLessThan(-6 + 0.5);
    column.of(new Float32Array(4096), values);
    expect(Math.max(...values)).toBe(0);
  },
);

test('spectra are long where little is seen of time, and short where much is', () => {
  expect(spectrogramSize(800 * 4800, 800)).toBe(4096);
  expect(spectrogramSize(800 * 64, 800)).toBe(512);
  expect(spectrogramSize(1, 800)).toBe(512);
});

test.each([32, 64] as const)(
  'samples of %i bit that are no numbers are read as silence, and the others stay',
  async (bits) => {
    const bytes = writeWav([Float32Array.of(0.5, 0.25, -0.5, 1.5)], { rate: 48000, bits: 32, float: true });
    const { format } = await readAudioFile(memorySource(bytes));
    const wide = new Uint8Array(bytes.length + 16);
    wide.set(bytes.subarray(0, format.dataOffset));
    const view = new DataView(wide.buffer);
    [NaN, 0.25, -Infinity, 1.5].forEach((v, i) =>
      bits === 32
        ? view.setFloat32(format.dataOffset + 4 * i, v, true)
        : view.setFloat64(format.dataOffset + 8 * i, v === -Infinity ? 1e300 : v, true),
    );
    const as = { ...format, bits, blockAlign: bits / 8 };
    expect([...(await readFrames(memorySource(wide), as, 0, 4))[0]]).toEqual([0, 0.25, 0, 1.5]);
  },
);
