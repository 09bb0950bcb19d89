import { readFileSync } from 'node:fs';
import { readAudioFile, memorySource, readFrames } from '@core/files';
import { findSlices, sliceSettings } from '@core/suggest';
import { madeReel, measuredReel } from '../tests/helpers/reels';
import { noise } from '../tests/helpers/signals';
const say: Float32Array[] = [];
for (let i = 1; i <= 8; i++) {
  const s = memorySource(readFileSync(`/tmp/say${i}.wav`), 'x');
  const f = (await readAudioFile(s)).format;
  const [m] = await readFrames(s, f, 0, f.frames);
  const n = Math.floor(m.length * 48000 / f.rate);
  say.push(Float32Array.from({ length: n }, (_, k) => { const p = k * f.rate / 48000, j = Math.floor(p), w = p - j; return 0.6 * (m[j] * (1 - w) + (m[j + 1] ?? 0) * w); }));
}
let tp = 0, fp = 0, fn = 0, lost = 0;
for (const kind of ['percussive', 'mixed', 'sustained'] as const) for (let seed = 0; seed < 12; seed++) {
  const { samples, begins } = madeReel(kind, seed);
  // insert speech before every 4th take
  const at = begins.filter((_, i) => i % 5 === 0).map((b) => Math.max(0, b - 14000));
  let out: number[] = []; const parts: Float32Array[] = []; let from = 0; const truth: number[][] = []; let pos = 0;
  at.forEach((a, i) => {
    const head = samples.subarray(from, a); parts.push(head); pos += head.length; from = a;
    const w = say[(seed + i) % 8]; const q = noise(w.length + 48000, 0.0006, i + 1); w.forEach((x, k) => (q[k + 12000] += x));
    truth.push([pos + 12000, pos + 12000 + w.length]); parts.push(q); pos += q.length;
  });
  parts.push(samples.subarray(from));
  const all = new Float32Array(parts.reduce((s, p) => s + p.length, 0)); let o = 0; for (const p of parts) { all.set(p, o); o += p.length; }
  const s = findSlices(measuredReel(all), sliceSettings[kind]);
  const sp = s.filter((x) => x.spoken);
  const hit = truth.filter(([a, b]) => sp.some((x) => x.onset < b && x.end > a)).length;
  tp += hit; fn += truth.length - hit; fp += sp.filter((x) => !truth.some(([a, b]) => x.onset < b && x.end > a)).length;
  const takes = s.filter((x) => !x.spoken).length;
  lost += Math.abs(takes - begins.length);
  console.log(kind, seed, `spoken ${truth.length} found ${hit} of ${sp.length}; takes ${begins.length} ${takes}`);
}
console.log({ tp, fp, fn, lost });
