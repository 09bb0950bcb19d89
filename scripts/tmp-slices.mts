import { readFileSync } from 'node:fs';
import { readAudioFile, memorySource, readFrames } from '@core/files';
import { findSlices, ReelCollector, sliceSettings } from '@core/suggest';
import { demoTruth, demoPath } from '../tests/helpers/demo';
import { madeReel, measuredReel, fMeasure } from '../tests/helpers/reels';
const truth = demoTruth();
for (const key of Object.keys(truth).filter((k) => k.startsWith('Own'))) {
  const source = memorySource(readFileSync(demoPath(key)), key);
  const f = (await readAudioFile(source)).format;
  const t0 = performance.now();
  const e = new ReelCollector(f.rate);
  for (let at = 0; at < f.frames; at += 65536) e.push(await readFrames(source, f, at, Math.min(65536, f.frames - at)));
  e.finish();
  const t1 = performance.now();
  let events = truth[key].events;
  if (key.includes('gate')) events = events.filter((_, i) => i % 2 === 0);
  for (const kind of ['percussive', 'mixed', 'sustained'] as const) {
    const s = findSlices(e, sliceSettings[kind]);
    console.log(key.slice(35), kind, (t1 - t0).toFixed(0), 'ms', s.length, s.filter((x) => x.spoken).length, fMeasure(s.map((x) => x.onset), events.map((x) => x * f.rate), 480).toFixed(2));
  }
}
for (const kind of ['percussive', 'mixed', 'sustained'] as const)
  for (let seed = 0; seed < 12; seed++) {
    const { samples, begins } = madeReel(kind, seed);
    const reel = measuredReel(samples);
    const own = findSlices(reel, sliceSettings[kind]), mixed = findSlices(reel, sliceSettings.mixed);
    const f = (s: typeof own, ms: number) => fMeasure(s.map((x) => x.onset), begins, 48 * ms).toFixed(2);
    console.log(kind, seed, begins.length, '| own', own.length, own.filter((x) => x.spoken).length, f(own, 10), f(own, 80), '| mixed', mixed.length, f(mixed, 10), f(mixed, 80));
  }
