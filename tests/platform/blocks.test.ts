import type { Change } from '@core/library';
import { stepsOf } from '@platform/store/store';
import fc from 'fast-check';

const change = fc.record({
  table: fc.constantFrom('sounds' as const, 'tags' as const, 'pulls' as const),
  id: fc.integer({ min: 1, max: 2000 }),
});

describe('the changes of an edit in blocks', () => {
  test('hold every change once; those of one record keep their order', () => {
    fc.assert(
      fc.property(fc.array(change, { maxLength: 1500 }), (list) => {
        const changes: Change[] = list.map((c, n) => ({ ...c, before: { n }, after: { n: n + 1 } }));
        const all = stepsOf(9, changes).flatMap((s) => s.changes);
        expect(all).toHaveLength(changes.length);
        const order = (of: readonly Change[], table: string, id: number) =>
          of.filter((c) => c.table === table && c.id === id).map((c) => c.before!.n);
        for (const { table, id } of list.slice(0, 20)) expect(order(all, table, id)).toEqual(order(changes, table, id));
      }),
      { numRuns: 30 },
    );
  });

  test('each is of one table, and its key says which ids can lie in it', () => {
    fc.assert(
      fc.property(fc.array(change, { minLength: 1, maxLength: 1500 }), (list) => {
        const steps = stepsOf(9, list as Change[]);
        steps.forEach((s, i) => {
          expect(s).toMatchObject({ seq: 9, block: i });
          expect(s.changes.length).toBeLessThanOrEqual(500);
          expect(s.changes.every((c) => c.table === s.table && c.id >= s.first && c.id <= s.last)).toBe(true);
          expect([s.changes[0].id, s.changes.at(-1)!.id]).toEqual([s.first, s.last]);
        });
      }),
      { numRuns: 30 },
    );
  });

  test('an edit of nothing has none', () => {
    expect(stepsOf(1, [])).toEqual([]);
  });
});
