import { memorySource, readAudioFile, readFrames } from '@core/files';
import { findSlices, ReelCollector, sliceSettings } from '@core/suggest';
import { readFileSync } from 'node:fs';
import { demoPath, demoTruth } from '../helpers/demo';
import { fMeasure } from '../helpers/reels';

// The demo's reels, whose events are known, at the settings to begin with. A swing of the gate ends in its latch: two events, one take.

const reels = Object.entries(demoTruth()).filter(([key]) => key.startsWith('Own recordings'));

test.each(reels)('%s', async (key, { events, rate }) => {
  const source = memorySource(new Uint8Array(readFileSync(demoPath(key))), key);
  const { format } = await readAudioFile(source);
  const reel = new ReelCollector(format.rate);
  for (let at = 0; at < format.frames; at += 65_536)
    reel.push(await readFrames(source, format, at, Math.min(65_536, format.frames - at)));
  reel.finish();
  const takes = events.filter((_, i) => !key.includes('gate') || i % 2 === 0).map((s) => s * rate);
  const slices = findSlices(reel, sliceSettings.mixed);
  expect(slices.some((s) => s.spoken)).toBe(false);
  expect(
    fMeasure(
      slices.map((s) => s.onset),
      takes,
      0.01 * rate,
    ),
  ).toBeGreaterThanOrEqual(0.95);
  // Each take is whole: the next one has not begun before it ends.
  for (const [i, { end }] of slices.entries()) expect(end).toBeLessThanOrEqual(slices[i + 1]?.start ?? format.frames);
});
