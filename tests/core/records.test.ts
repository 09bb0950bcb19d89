import type { TableName } from '@core/library';
import { mended, recordFault, referencesOf } from '@core/schemas';
import fc from 'fast-check';
import { brokenAt, examples, placesIn } from '../helpers/records';

const tables = Object.keys(examples) as TableName[];

test.each(tables)('a good record of %s is good, and broken in any one place it is not', (table) => {
  const good = examples[table];
  expect(recordFault(table, good)).toBeUndefined();
  for (const place of placesIn(good))
    for (const wrong of [null, { x: { y: 1 } }, NaN, true, [[]]]) {
      const broken = brokenAt(good, place, wrong);
      // A flag may be true.
      if (wrong === true && typeof valueAt(good, place) === 'boolean') continue;
      expect([table, place.join('.'), wrong, recordFault(table, broken) !== undefined]).toEqual([
        table,
        place.join('.'),
        wrong,
        true,
      ]);
    }
});
const valueAt = (record: object, path: readonly (string | number)[]): unknown =>
  path.reduce<unknown>((at, key) => (at as Record<string | number, unknown>)[key], record);

test.each([
  ['an id beyond what the index counts', 'tags', ['id'], 2 ** 53],
  ['an id below one', 'tags', ['id'], 0],
  ['a tag without a name', 'tags', ['name'], ''],
  ['fields that are null', 'sounds', ['fields'], null],
  ['stars beyond five', 'sounds', ['fields', 'stars'], 6],
  ['tags by name', 'sounds', ['fields', 'tags'], ['rusty']],
  ['a region that ends before it begins', 'sounds', ['marks', 'region'], { start: 9, end: 1 }],
  ['samples of no bytes', 'sounds', ['format', 'blockAlign'], 0],
  ['a name that is a prototype', 'sounds', ['extra'], 1],
  ['a step of no kind', 'recipes', ['steps', 0, 'kind'], 'explode'],
  ['a bin that holds a broken record', 'bin', ['record'], { id: 4, name: 5 }],
  ['a bin with a broken record beside it', 'bin', ['rows', 0, 'record'], { id: 4, name: 5 }],
  ['a bin of no table', 'bin', ['table'], 'nosuch'],
] as const)('%s is refused', (_, table, path, value) => {
  expect(recordFault(table, brokenAt(examples[table], path, value))).toBeDefined();
});

test('whatever is broken, mending gives a good record or none, and never throws', () => {
  const wrong = fc.oneof(
    fc.constant(null),
    fc.constant(undefined),
    fc.constant(2 ** 60),
    fc.jsonValue({ maxDepth: 2 }),
  );
  const broken = fc.constantFrom(...tables).chain((table) => {
    const spots = fc.constantFrom(...placesIn(examples[table]));
    return fc.tuple(fc.constant(table), fc.array(fc.tuple(spots, wrong), { minLength: 1, maxLength: 3 }));
  });
  let saved = 0;
  fc.assert(
    fc.property(broken, ([table, breaks]) => {
      let record = examples[table];
      for (const [place, value] of breaks)
        try {
          record = brokenAt(record, place, value);
        } catch {
          // An earlier break took away what stood around this place.
        }
      const good = mended(table, record);
      if (good) {
        saved++;
        expect(recordFault(table, good)).toBeUndefined();
      }
    }),
    { numRuns: 2000 },
  );
  expect(saved).toBeGreaterThan(500);
});

test('a record without its name, or with a wrong label, keeps everything else', () => {
  expect(mended('tags', { id: 4 })).toEqual({ id: 4, name: 'Without a name' });
  const sound = brokenAt(examples.sounds, ['fields', 'stars'], 99);
  const good = mended('sounds', sound) as unknown as { fields: Record<string, unknown> };
  expect(good.fields).not.toHaveProperty('stars');
  expect(good.fields.keywords).toEqual(['rope']);
  expect(mended('cues', { id: 4, name: 'step' } as { id: number })).toBeUndefined();
});

test('what a record cannot be without is told from members of its lists', () => {
  const of = (table: TableName) => referencesOf(table, examples[table]).map((r) => [r.table, r.id, r.needed]);
  expect(of('cues')).toEqual([
    ['scenes', 6, true],
    ['tracks', 17, true],
    ['sounds', 7, true],
    ['sounds', 7, false],
  ]);
  expect(of('pulls')).toEqual([['sounds', 7, false]]);
  expect(of('sounds')).toEqual([
    ['roots', 2, true],
    ['tags', 4, false],
    ['sounds', 7, false],
  ]);
});
