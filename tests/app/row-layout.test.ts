import { rowAt, rowTop, stretchOf, TALLEST, type RowLayout } from '@app/shared/list/row-layout';
import fc from 'fast-check';

const layout: fc.Arbitrary<RowLayout> = fc.integer({ min: 1, max: 1_000_000 }).chain((count) =>
  fc.record({
    count: fc.constant(count),
    height: fc.integer({ min: 20, max: 60 }),
    opened: fc.option(fc.record({ index: fc.nat(count - 1), extra: fc.integer({ min: 1, max: 400 }) }), {
      nil: undefined,
    }),
    headings: fc.option(
      fc.record({
        rows: fc.uniqueArray(fc.nat(count - 1), { maxLength: 5 }).map((rows) => rows.sort((a, b) => a - b)),
        extra: fc.integer({ min: 1, max: 40 }),
      }),
      { nil: undefined },
    ),
  }),
);

test('each pixel belongs to the row that covers it, also below an opened one', () => {
  fc.assert(
    fc.property(layout, fc.double({ min: 0, max: 1, maxExcluded: true, noNaN: true }), (rows, share) => {
      const place = Math.floor(share * rowTop(rows, rows.count));
      const row = rowAt(rows, place);
      expect(rowTop(rows, row)).toBeLessThanOrEqual(place);
      expect(rowTop(rows, row + 1)).toBeGreaterThan(place);
    }),
  );
});

test('places beyond either end are the first row and the last', () => {
  fc.assert(
    fc.property(layout, (rows) => {
      expect(rowAt(rows, -5)).toBe(0);
      expect(rowAt(rows, rowTop(rows, rows.count) + 1000)).toBe(rows.count - 1);
    }),
  );
});

test('however many rows there are, the last is in sight when all is scrolled', () => {
  fc.assert(
    fc.property(layout, fc.integer({ min: 100, max: 2000 }), (rows, view) => {
      const { total, ratio } = stretchOf(rows, view);
      expect(total).toBeLessThanOrEqual(TALLEST);
      const real = rowTop(rows, rows.count);
      if (real <= TALLEST) expect({ total, ratio }).toEqual({ total: real, ratio: 1 });
      else expect((total - view) * ratio).toBeCloseTo(real - view, 3);
    }),
  );
});
