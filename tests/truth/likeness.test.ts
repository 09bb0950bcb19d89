import { likenessOf, LIKENESS_SIZE, nearest } from '@core/search';
import { demoPath, demoTruth } from '../helpers/demo';
import { measureFile } from '../helpers/measure';

jest.setTimeout(300_000);

test('the takes of a sound are the nearest to each other: mean average precision 0.7 or better', async () => {
  const keys = Object.keys(demoTruth()).filter((k) => /^(Tidewrack|Sluice).*\.wav$/.test(k));
  const stem = (key: string) =>
    key
      .replace(/_TWA.*|\.wav$/, '')
      .replace(/[\s_-]*\d+$/, '')
      .toLowerCase();
  const vectors = new Int8Array(keys.length * LIKENESS_SIZE);
  for (const [i, key] of keys.entries()) {
    const { facts, curves, peaks, file } = await measureFile(demoPath(key));
    const { rate } = file.format;
    vectors.set(likenessOf({ rate, ...peaks, ...curves, ...facts }), i * LIKENESS_SIZE);
  }
  const all = Uint32Array.from(keys, (_, i) => i);
  const precisions = keys.flatMap((key, i) => {
    const takes = keys.filter((k, j) => j !== i && stem(k) === stem(key)).length;
    if (takes === 0) return [];
    const own = vectors.slice(i * LIKENESS_SIZE, (i + 1) * LIKENESS_SIZE);
    const near = [...nearest(own, vectors, all, keys.length)].filter((j) => j !== i);
    let hits = 0;
    const sum = near.reduce((s, j, place) => (stem(keys[j]) === stem(key) ? s + ++hits / (place + 1) : s), 0);
    return [sum / takes];
  });
  expect(precisions.length).toBeGreaterThan(100);
  const mean = precisions.reduce((a, b) => a + b) / precisions.length;
  expect(mean).toBeGreaterThanOrEqual(0.7);
});
