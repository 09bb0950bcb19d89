import { allSteps } from '@core/search/argsort';
import { LIKENESS_SIZE, parseQuery, SoundIndex, type IndexedSound, type Request } from '@core/search';
import fc from 'fast-check';

const word = fc.constantFrom('creak', 'creaks', 'Gate', 'Möwe', '🚢 yard', 'sm57', 'wet', '霧笛');
const sound = fc.record(
  {
    fxName: fc.array(word, { maxLength: 3 }).map((w) => w.join(' ')),
    description: fc.string({ unit: 'grapheme', maxLength: 12 }),
    keywords: fc.array(word, { maxLength: 2 }),
    tags: fc.subarray([21, 22]),
    library: fc.constantFrom('Tide', 'Marsh'),
    length: fc.constantFrom(0.4, 1, 60),
    stars: fc.integer({ min: 1, max: 5 }),
  },
  { requiredKeys: ['fxName'] },
);
const tags = [
  { id: 21, name: 'rust' },
  { id: 22, name: 'yard' },
];
const requests: Request[] = [
  ...['', 'creak', 'gate OR rust', '"creak gate"', 'name:~ate', '-wet', 'stars:>2', 'möwe', '霧'].map((text) => ({
    query: parseQuery(text).query,
  })),
  { query: { kind: 'all' }, sort: { key: 'fxName', down: true } },
  { query: { kind: 'all' }, sort: { key: 'length', down: false }, intakeId: 1 },
  { query: { kind: 'all' }, facets: { library: ['Tide'] }, without: { keywords: ['wet'] } },
];

function joined(pieces: Uint8Array[]): ArrayBuffer {
  const all = new Uint8Array(pieces.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const p of pieces) {
    all.set(p, at);
    at += p.length;
  }
  return all.buffer;
}
function opened(buffer: ArrayBuffer): SoundIndex {
  const index = new SoundIndex();
  index.load(buffer);
  index.setTags(tags);
  return index;
}
const answers = (index: SoundIndex) =>
  requests.map((r) => {
    const { ids, facets, lengths } = index.search(r);
    return { ids: [...ids], facets, lengths };
  });
const steps = fc.array(
  fc.record({ id: fc.integer({ min: 1, max: 14 }), fields: fc.option(sound, { nil: undefined }) }),
  { maxLength: 30 },
);
function run(index: SoundIndex, list: { id: number; fields?: object }[]): void {
  for (const { id, fields } of list)
    if (fields) index.put([{ id, intakeId: id % 2, fields: fields as IndexedSound['fields'] }]);
    else index.remove([id]);
}

describe('a snapshot of the index', () => {
  test('answers as the index did, and goes on taking edits as it would have', () => {
    fc.assert(
      fc.property(steps, steps, (before, after) => {
        const index = new SoundIndex();
        index.setTags(tags);
        run(index, before);
        for (const [n, id] of [3, 5, 9].entries()) index.setVector(id, new Int8Array(LIKENESS_SIZE).fill(n + 1));
        // A snapshot of what came out of a snapshot is one like any other.
        const once = joined(allSteps(index.save({ rev: 7 })));
        const twice = joined(allSteps(opened(once).save({ rev: 7 })));
        expect(twice.byteLength).toBe(once.byteLength);
        const copy = opened(twice);
        for (const id of [3, 5, 9]) expect(copy.vectorOf(id)).toEqual(index.vectorOf(id));
        expect(copy.size).toBe(index.size);
        expect(answers(copy)).toEqual(answers(index));
        run(index, after);
        run(copy, after);
        expect(answers(copy)).toEqual(answers(index));
      }),
      { numRuns: 150 },
    );
  });

  test('hands back what was given along', () => {
    const index = new SoundIndex();
    expect(new SoundIndex().load(joined(allSteps(index.save({ rev: 7, store: 'x' }))))).toMatchObject({
      rev: 7,
      store: 'x',
    });
  });

  test('that was changed or cut off anywhere is refused, and never answers wrongly', () => {
    const index = new SoundIndex();
    run(index, [
      { id: 3, fields: { fxName: 'Gate', library: 'Tide', length: 2 } },
      { id: 5, fields: { fxName: 'Creak', keywords: ['wet'] } },
    ]);
    index.setVector(3, new Int8Array(LIKENESS_SIZE).fill(9));
    const good = new Uint8Array(joined(allSteps(index.save({ rev: 1 }))));
    const expected = JSON.stringify(answers(index));
    fc.assert(
      fc.property(fc.nat(good.length - 1), fc.integer({ min: 1, max: 255 }), fc.boolean(), (at, by, cut) => {
        const bad = good.slice(0, cut ? at : undefined);
        if (!cut) bad[at] ^= by;
        let copy: SoundIndex;
        try {
          copy = opened(bad.buffer);
        } catch (error) {
          expect((error as Error).message).toMatch(/\w/);
          return;
        }
        // What lies between the parts may change without harm.
        expect(JSON.stringify(answers(copy))).toBe(expected);
      }),
      // A head that calls a part by another name, once taken for one without it.
      { numRuns: 600, examples: [[2337, 1, false]] },
    );
  });
});
