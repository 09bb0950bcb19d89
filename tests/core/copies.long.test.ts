import { bitsApart, findCopies, type Printed } from '@core/audio';
import { readAudioFile, memorySource, writeWav } from '@core/files';
import { betterOf, factPatch, type Sound } from '@core/library';
import { render, type FamilyName } from '@core/synth';
import fc from 'fast-check';
import { soundOf } from '../helpers/catalogue';
import { measure } from '../helpers/measure';
import { noise } from '../helpers/signals';

jest.setTimeout(240_000);
const families: FamilyName[] = [
  'pawl',
  'barHit',
  'creak',
  'slap',
  'wind',
  'foghorn',
  'scrape',
  'rain',
  'motor',
  'boots',
];
const made = (family: FamilyName, seed: number) =>
  render({ family, seed, rate: 48000, seconds: 1.6, channels: 2 }).planes;

test('a rename, a relabel and another container keep the hash; one other sample does not', async () => {
  const planes = made('pawl', 3).map((p) => p.map((x) => Math.round(x * 8388607) / 8388608));
  const { hash } = await measure(planes);
  expect((await measure(planes, 48000, [777])).hash).toBe(hash);
  const labelled = writeWav(planes, { rate: 48000, bits: 24 }, { info: { INAM: 'Other name' } });
  expect((await readAudioFile(memorySource(labelled))).labels.get('INFO.INAM')).toBe('Other name');
  expect((await measure(planes, 44100)).hash).not.toBe(hash);
  expect((await measure([planes[0]])).hash).not.toBe(hash);
  const other = planes.map((p) => p.slice());
  other[1][9000] += 1 / 8388608;
  expect((await measure(other)).hash).not.toBe(hash);
});

test('level, a cut at the head and coarse samples keep the fingerprint; another take has another', async () => {
  for (const family of families) {
    const planes = made(family, 3);
    const { print } = await measure(planes);
    const quiet = (await measure(planes.map((p) => p.map((x) => x / 4)))).print;
    expect(bitsApart(print, quiet, 0)).toBeLessThan(0.01);
    const coarse = (await measure(planes.map((p) => p.map((x) => Math.round(x * 2048) / 2048)))).print;
    expect(bitsApart(print, coarse, 0)).toBeLessThan(0.28);
    const cut = (await measure(planes.map((p) => p.slice(4800)))).print;
    expect(Math.min(...[5, 6, 7].map((o) => bitsApart(cut, print, o)))).toBeLessThan(0.28);
    const take = (await measure(made(family, 4))).print;
    for (let o = -20; o <= 20; o++) expect(bitsApart(print, take, o)).toBeGreaterThan(0.28);
  }
});

test('groups hold together whatever the order, and no sound is in two', async () => {
  const prints: Printed[] = [];
  for (const [i, family] of families.slice(0, 5).entries()) {
    const planes = made(family, i);
    const variants = [planes, planes.map((p) => p.map((x) => x / 2)), planes.map((p) => p.slice(4000))];
    for (const v of variants) {
      const { hash, print } = await measure(v);
      prints.push({ id: prints.length + 10, hash, print });
    }
  }
  prints.push({ ...prints[0], id: 90 });
  const expected = [[10, 11, 12, 90], ...[13, 16, 19, 22].map((n) => [n, n + 1, n + 2])];
  fc.assert(
    fc.property(fc.shuffledSubarray(prints, { minLength: prints.length }), (shuffled) => {
      const groups = findCopies(shuffled).map((g) => [...g.ids].sort((a, b) => a - b));
      expect(groups.sort((a, b) => a[0] - b[0])).toEqual(expected);
    }),
    { numRuns: 8 },
  );
  expect(findCopies([prints[0], { ...prints[0], id: 90 }])).toEqual([{ kind: 'exact', ids: [10, 90] }]);
  expect(findCopies([])).toEqual([]);
});

describe('which copy to keep', () => {
  const base = soundOf(1, { added: 5 });
  const as = (
    id: number,
    over: Partial<Sound['format']>,
    fields: Sound['fields'] = {},
    from: Sound['from'] = {},
  ): Sound => ({
    ...base,
    id,
    format: { ...base.format, ...over },
    fields: { ...base.fields, ...fields },
    from,
  });

  test.each([
    ['lossless before lossy', as(1, { container: 'MP3' }), as(2, { rate: 44100 }), 2, 'WAV keeps every sample'],
    ['the higher rate', as(1, { rate: 96000, frames: 96000 }), as(2, {}), 1, '96 kHz'],
    ['more bits', as(1, { bits: 16 }), as(2, {}), 2, '24 bit'],
    [
      'more labels',
      as(1, {}),
      as(2, {}, { description: 'Gate', catId: 'DOORGate' }, { description: 'typed', catId: 'file iXML.ASWG.catId' }),
      2,
      'labels',
    ],
    ['the one that is there', as(1, { rate: 96000 }, { state: 'Missing' }), as(2, {}), 2, 'its file is there'],
    ['the first that came', as(1, {}, { added: 9 }), as(2, {}), 2, 'the first that came in'],
  ])('%s', (_, a, b, best, reason) => {
    const better = betterOf([a, b]);
    expect(better.id).toBe(best);
    expect(better.reasons.join(', ')).toContain(reason);
    expect(betterOf([b, a])).toEqual(better);
  });
});

test('facts become fields, and what was typed or read stays', async () => {
  const { facts, hash } = await measure([noise(48000, 0.3)]);
  const sound = {
    ...soundOf(1, { tempo: 90, kind: 'Loop', loudness: -1 }),
    from: { tempo: 'typed', kind: 'name', loudness: 'measured' },
  } as Sound;
  const patch = factPatch(sound, facts, hash);
  expect(patch).toMatchObject({
    hash,
    'fields.loudness': facts.loudness,
    'from.loudness': 'measured',
    'fields.onsets': facts.onsets.length,
    'fields.layout': 'Mono',
  });
  expect(Object.keys(patch)).not.toEqual(expect.arrayContaining(['fields.tempo']));
  expect(Object.keys(patch)).not.toEqual(expect.arrayContaining(['fields.kind']));
});
