import 'fake-indexeddb/auto';
import Dexie, { type Table } from 'dexie';
import fc from 'fast-check';
import { readRuns } from '@platform/store/runs';

// Rows that lie close together are read in one go: nobody may notice but by the clock.

interface Row {
  id: number;
  said: string;
}
let db: Dexie;
let rows: Table<Row, number>;
let asked: string[];

beforeEach(async () => {
  db = new Dexie('runs');
  asked = [];
  // Below ours: what reaches the browser.
  db.use({
    stack: 'dbcore',
    name: 'asked',
    level: -1,
    create: (down) => ({
      ...down,
      table(name) {
        const table = down.table(name);
        return {
          ...table,
          getMany: (q) => (asked.push(`${q.keys.length} rows`), table.getMany(q)),
          query: (q) => (asked.push('a run'), table.query(q)),
        };
      },
    }),
  });
  db.use(readRuns);
  db.version(1).stores({ rows: 'id', named: 'name', pairs: '[a+b]' });
  await db.open();
  rows = db.table('rows');
});
afterEach(() => db.delete());

test('any ids, in any order, more than once or never there, come back as if each had been asked for', async () => {
  const id = fc.integer({ min: 0, max: 60 });
  const ids = fc.oneof(fc.array(id, { maxLength: 80 }), fc.array(fc.oneof(id, fc.integer()), { maxLength: 80 }));
  await fc.assert(
    fc.asyncProperty(fc.uniqueArray(id, { maxLength: 60 }), ids, async (there, wanted) => {
      await rows.clear();
      await rows.bulkPut(there.map((id) => ({ id, said: `it is ${id}` })));
      const one = (id: number) => (there.includes(id) ? { id, said: `it is ${id}` } : undefined);
      expect(await rows.bulkGet(wanted)).toEqual(wanted.map(one));
      // Within a transaction it sees what that one did before, and what follows is still part of it.
      await db.transaction('rw', rows, async () => {
        await rows.put({ id: 7, said: 'anew' });
        const [seven] = await rows.bulkGet([7, ...wanted]);
        await rows.put({ ...seven!, said: `${seven!.said} twice` });
      });
      expect((await rows.get(7))?.said).toBe('anew twice');
    }),
  );
});

test('one question for what lies together, single ones for what does not', async () => {
  const ids = Array.from({ length: 1000 }, (_, i) => i + 1);
  await rows.bulkPut(ids.map((id) => ({ id, said: '' })));
  await rows.bulkGet(ids);
  await rows.bulkGet(ids.filter((id) => id % 3 > 0));
  expect(asked.splice(0)).toEqual(['a run', 'a run']);
  await rows.bulkGet(ids.filter((id) => id % 7 === 0));
  await rows.bulkGet([1, 2, 3]);
  expect(asked.splice(0)).toEqual(['142 rows', '3 rows']);
});

test('tables whose rows are found by a name or by two values are asked as ever', async () => {
  const names = Array.from({ length: 40 }, (_, i) => `n${i}`);
  await db.table('named').bulkPut(names.map((name) => ({ name })));
  expect(await db.table('named').bulkGet(names)).toHaveLength(40);
  const pairs = names.map((_, i) => [i, -i]);
  await db.table('pairs').bulkPut(pairs.map(([a, b]) => ({ a, b })));
  expect(await db.table('pairs').bulkGet(pairs)).toEqual(pairs.map(([a, b]) => ({ a, b })));
  expect(asked).toEqual(['40 rows', '40 rows']);
});
