import { readFileSync } from 'node:fs';
import { memorySource, readAudioFile, readFrames } from '@core/files';
import { findSlices, ReelCollector, sliceSettings } from '@core/suggest';
import { demoPath, demoTruth } from '../tests/helpers/demo';
import { fMeasure } from '../tests/helpers/reels';

/** Frames that are read at once. */
const BLOCK = 1 << 19;
/** Seconds. */
const HOUR = 3600;

/** How well reels are cut whose events are known, and how fast an hour of them. */
export async function slicing(line: (what: string, measured: string, reach: string) => void): Promise<void> {
  let [right, found, known] = [0, 0, 0];
  for (const [key, { events, rate }] of Object.entries(demoTruth()).filter(([k]) => k.startsWith('Own recordings'))) {
    const source = memorySource(new Uint8Array(readFileSync(demoPath(key))), key);
    const { format } = await readAudioFile(source);
    const reel = new ReelCollector(format.rate);
    for (let at = 0; at < format.frames; at += BLOCK)
      reel.push(await readFrames(source, format, at, Math.min(BLOCK, format.frames - at)));
    reel.finish();
    const takes = events.filter((_, i) => !key.includes('gate') || i % 2 === 0).map((s) => s * rate);
    const onsets = findSlices(reel, sliceSettings.mixed).map((s) => s.onset);
    right += (fMeasure(onsets, takes, 0.01 * rate) * (onsets.length + takes.length)) / 2;
    found += onsets.length;
    known += takes.length;
  }
  line('Slices of the six reels, within 10 ms, F-measure', ((2 * right) / (found + known)).toFixed(3), '0.95');
  const [key] = Object.keys(demoTruth()).filter((k) => k.includes('REEL_01'));
  const source = memorySource(new Uint8Array(readFileSync(demoPath(key))), key);
  const { format } = await readAudioFile(source);
  const reel = new ReelCollector(format.rate);
  const from = performance.now();
  let first = 0;
  for (let at = 0; at < HOUR * format.rate; at += BLOCK) {
    const start = at % (format.frames - BLOCK);
    reel.push(await readFrames(source, format, start, BLOCK));
    if (first > 0 || performance.now() - from < 700) continue;
    findSlices(reel, sliceSettings.mixed);
    first = performance.now() - from;
  }
  reel.finish();
  const cut = performance.now();
  const slices = findSlices(reel, sliceSettings.mixed).length;
  const done = performance.now();
  line(
    'An hour of 48 kHz stereo, 24 bit, decoded and cut on one core',
    `${((done - from) / 1000).toFixed(1)} s, first slices after ${(first / 1000).toFixed(1)} s; cut anew by other settings in ${Math.round(done - cut)} ms (${slices} slices)`,
    '20 s, 2 s',
  );
}
