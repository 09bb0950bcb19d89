import { voicePart } from '@core/audio';
import { likenessOf, LIKENESS_SIZE, nearest, voiceWeights } from '@core/search';
import { demoPath, demoTruth } from '../helpers/demo';
import { measure, measureFile } from '../helpers/measure';
import { imitations, sing } from '../helpers/voice';

jest.setTimeout(300_000);

const takes = /^(Tidewrack|Sluice).*\.wav$/;
let keys: string[];
let vectors: Int8Array;
beforeAll(async () => {
  keys = Object.keys(demoTruth()).filter((k) => takes.test(k) || /rain on.*\(near\)\.wav$/.test(k));
  vectors = new Int8Array(keys.length * LIKENESS_SIZE);
  for (const [i, key] of keys.entries()) {
    const { facts, curves, peaks, file } = await measureFile(demoPath(key));
    const { rate } = file.format;
    vectors.set(likenessOf({ rate, ...peaks, ...curves, ...facts }), i * LIKENESS_SIZE);
  }
});
const vectorAt = (i: number) => vectors.slice(i * LIKENESS_SIZE, (i + 1) * LIKENESS_SIZE);

test('the takes of a sound are the nearest to each other: mean average precision 0.7 or better', () => {
  const stem = (key: string) =>
    key
      .replace(/_TWA.*|\.wav$/, '')
      .replace(/[\s_-]*\d+$/, '')
      .toLowerCase();
  const all = Uint32Array.from(keys, (_, i) => i).filter((i) => takes.test(keys[i]));
  const precisions = [...all].flatMap((i) => {
    const own = [...all].filter((j) => j !== i && stem(keys[j]) === stem(keys[i])).length;
    if (own === 0) return [];
    const near = [...nearest(vectorAt(i), vectors, all, all.length)].filter((j) => j !== i);
    let hits = 0;
    const sum = near.reduce((s, j, place) => (stem(keys[j]) === stem(keys[i]) ? s + ++hits / (place + 1) : s), 0);
    return [sum / own];
  });
  expect(precisions.length).toBeGreaterThan(100);
  const mean = precisions.reduce((a, b) => a + b) / precisions.length;
  expect(mean).toBeGreaterThanOrEqual(0.7);
});

test('a sound done with the voice finds its family among the first ten', async () => {
  const all = Uint32Array.from(keys, (_, i) => i);
  const missed: string[] = [];
  const shares: Record<string, number> = {};
  for (const [what, { right, sung }] of Object.entries(imitations)) {
    let good = 0;
    for (let seed = 1; seed <= 6; seed++) {
      const voice = voicePart(sing(sung, seed), 48000);
      const { facts, curves, peaks } = await measure([voice]);
      const own = likenessOf({ rate: 48000, ...peaks, ...curves, ...facts });
      const first = [...nearest(own, vectors, all, 10, voiceWeights)].map((i) => keys[i]);
      const hits = first.filter((key) => right.test(key)).length;
      good += hits;
      if (hits === 0) missed.push(`${what} ${seed}: ${first.join('; ')}`);
    }
    shares[what] = good / 60;
  }
  if (process.env.CORMORANT_PRINT) console.log(shares, missed);
  // Now and then somebody does a ratchet that is nearer to a chain.
  expect(missed.length).toBeLessThanOrEqual(2);
  expect(Object.values(shares).every((share) => share > 0.05)).toBe(true);
});

test('the voice is cut out of the room around it, and silence is told', () => {
  const voice = sing(imitations['a splash, pshh'].sung, 3);
  const part = voicePart(voice, 48000);
  // A quarter of a second of room lies before and behind.
  expect(part.length / 48000).toBeGreaterThan(0.7);
  expect(part.length / 48000).toBeLessThan(1.7);
  expect(part.reduce((most, s) => Math.max(most, Math.abs(s)), 0)).toBeCloseTo(1, 5);
  expect(voicePart(new Float32Array(48000), 48000)).toHaveLength(0);
  expect(voicePart(new Float32Array(3), 48000)).toHaveLength(0);
});
