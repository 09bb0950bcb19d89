import { voicePart } from '@core/audio';
import { closer, likenessOf, LIKENESS_SIZE, nearest, voiceWeights, type Closely } from '@core/search';
import { kinds, made } from '../helpers/creatures';
import { demoPath, demoTruth } from '../helpers/demo';
import { measure, measureFile } from '../helpers/measure';
import { imitations, sing } from '../helpers/voice';

jest.setTimeout(300_000);

const takes = /^(Tidewrack|Sluice).*\.wav$/;
let keys: string[];
let vectors: Int8Array;
const closely: Closely[] = [];
beforeAll(async () => {
  keys = Object.keys(demoTruth()).filter((k) => takes.test(k) || /rain on.*\(near\)\.wav$/.test(k));
  vectors = new Int8Array(keys.length * LIKENESS_SIZE);
  for (const [i, key] of keys.entries()) {
    const { facts, curves, peaks, file } = await measureFile(demoPath(key));
    const { rate } = file.format;
    const vector = likenessOf({ rate, ...peaks, ...curves, ...facts });
    vectors.set(vector, i * LIKENESS_SIZE);
    closely.push({ vector, ...curves, ...facts });
  }
});
const vectorAt = (i: number) => vectors.slice(i * LIKENESS_SIZE, (i + 1) * LIKENESS_SIZE);

/** Mean average precision over sounds that are of one kind with others. @param looks of each, nearest first, itself left out */
function precision(kinds: readonly string[], looks: (i: number) => number[]): number {
  const each = kinds.flatMap((kind, i) => {
    const own = kinds.filter((k, j) => j !== i && k === kind).length;
    if (own === 0) return [];
    let hits = 0;
    return looks(i).reduce((s, j, place) => (kinds[j] === kind ? s + ++hits / (place + 1) : s), 0) / own;
  });
  expect(each.length).toBeGreaterThan(40);
  return each.reduce((a, b) => a + b) / each.length;
}

const stem = (key: string) =>
  key
    .replace(/_TWA.*|\.wav$/, '')
    .replace(/[\s_-]*\d+$/, '')
    .toLowerCase();

test('the takes of a sound are the nearest to each other: mean average precision 0.7, and 0.85 by a closer look', () => {
  const all = keys.flatMap((key, i) => (takes.test(key) ? [i] : []));
  const kinds = all.map((i) => stem(keys[i]));
  const quick = (i: number) =>
    [...nearest(vectorAt(all[i]), vectors, Uint32Array.from(all), all.length)]
      .map((j) => all.indexOf(j))
      .filter((j) => j !== i);
  const close = (i: number) => {
    const first = quick(i);
    return closer(
      closely[all[i]],
      first.map((j) => closely[all[j]]),
    ).map((place) => first[place]);
  };
  expect(precision(kinds, quick)).toBeGreaterThanOrEqual(0.7);
  expect(precision(kinds, close)).toBeGreaterThanOrEqual(0.85);
});

test('voices, creatures and blows that are made otherwise than the demo’s are told apart: 0.7', async () => {
  const sounds = kinds.flatMap((kind) => Array.from({ length: 6 }, (_, take) => ({ kind, take })));
  const looked: Closely[] = [];
  for (const { kind, take } of sounds) {
    const { facts, curves, peaks } = await measure([made(kind, take)]);
    looked.push({ vector: likenessOf({ rate: 48000, ...peaks, ...curves, ...facts }), ...curves, ...facts });
  }
  const found = precision(
    sounds.map((s) => s.kind),
    (i) => closer(looked[i], looked).filter((j) => j !== i),
  );
  expect(found).toBeGreaterThanOrEqual(0.7);
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
