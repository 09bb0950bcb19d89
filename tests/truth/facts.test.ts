import { demoPath, demoTruth } from '../helpers/demo';
import { measureFile } from '../helpers/measure';
import { ffmpegSays, testWith } from '../helpers/programs';

testWith('ffmpeg')(
  'agrees with ffmpeg on 50 files of the demo: loudness within 0.1 LU, true peak within 0.2 dB',
  async () => {
    const keys = Object.keys(demoTruth()).filter((k) => /\.(wav|aif)$/.test(k) && !k.startsWith('Own'));
    const apart: string[] = [];
    let compared = 0;
    for (const key of keys.filter((_, i) => i % 4 === 0)) {
      if (compared === 50) break;
      const { facts, file } = await measureFile(demoPath(key));
      const said = ffmpegSays('-i', demoPath(key), '-af', 'ebur128=peak=true', '-f', 'null', '-');
      const summary = said.slice(said.lastIndexOf('Summary'));
      const loudness = Number(/I:\s+(-?[\d.]+) LUFS/.exec(summary)![1]);
      const peak = Number(/Peak:\s+(-?[\d.]+|-inf) dBFS/.exec(summary)?.[1].replace('-inf', '-Infinity'));
      // A block that lies on the gate itself falls to either side by rounding; such a file says nothing.
      const gate = Number(/Threshold:\s+(-?[\d.]+) LUFS/.exec(summary)![1]);
      if ([...said.matchAll(/ M:\s*(-?[\d.]+)/g)].some(([, m]) => Math.abs(Number(m) - gate) < 0.15)) continue;
      compared++;
      // Both gate by blocks of 0.4 s; of what is shorter ffmpeg says nothing, and -70 stands for silence.
      if (
        file.format.frames >= 0.4 * file.format.rate &&
        loudness > -70 &&
        Math.abs(loudness - facts.loudness!) > 0.1 + 0.05
      )
        apart.push(`${key}: ${loudness} LUFS, we say ${facts.loudness}`);
      if (Math.abs(peak - (facts.truePeak ?? -Infinity)) > 0.2 + 0.05)
        apart.push(`${key}: ${peak} dBTP, we say ${facts.truePeak}`);
    }
    expect(apart).toEqual([]);
    expect(compared).toBe(50);
  },
  120_000,
);

test('onsets of the demo’s noted events: F-measure 0.9 within 20 ms', async () => {
  // Sounds of which every event is noted; a creak or rain has more starts than its plan names.
  const noted =
    /pawlClack_wet|ironBarHit|latchSnap|sheetBoom|tyreThump|plankDrop|postKnock|Pawl Clack|Ratchet Run|Windlass Crank|Oar Lock|REEL_0[34]/;
  const keys = Object.keys(demoTruth()).filter((k) => noted.test(k) && /\.(wav|aif)$/.test(k));
  expect(keys.length).toBeGreaterThan(50);
  const truth = demoTruth();
  let [hits, found, there] = [0, 0, 0];
  for (const key of keys) {
    const { facts, file } = await measureFile(demoPath(key));
    // Two touches closer than the ear tells apart count as one.
    const events = truth[key].events.filter((e, i, all) => i === 0 || e - all[i - 1] >= 0.05);
    const onsets = facts.onsets.map((o) => o / file.format.rate);
    const used = new Set<number>();
    for (const event of events) {
      const at = onsets.findIndex((o, i) => !used.has(i) && Math.abs(o - event) <= 0.02);
      if (at >= 0) used.add(at);
    }
    hits += used.size;
    found += onsets.length;
    there += events.length;
  }
  expect((2 * hits) / (found + there)).toBeGreaterThan(0.9);
}, 120_000);
