import { Bitset } from '@core/search/bitset';
import { argsort, MOST_LISTED, Sweep } from '@core/search/sweep';
import { Random } from '@core/synth';
import fc from 'fast-check';

// The loops over all slots against the obvious ones.

const SETS = 6;
const occurrence = fc.record({ slot: fc.nat(199), set: fc.nat(SETS - 1) });
const run = fc.record({
  listed: fc.array(occurrence, { maxLength: 150, size: 'max' }),
  worth: fc.array(fc.nat(60), { minLength: SETS, maxLength: SETS }),
  serial: fc.option(fc.integer({ min: 1, max: 3 }), { nil: undefined }),
});

test('the best of each slot is found, added where it counts, and forgotten', () => {
  fc.assert(
    fc.property(
      fc.array(run, { minLength: 1, maxLength: 4 }),
      fc.array(fc.integer({ min: 1, max: 3 }), { minLength: 200, maxLength: 200 }),
      fc.integer({ min: 1, max: 200 }),
      fc.boolean(),
      (runs, owners, slots, scored) => {
        const sweep = new Sweep();
        sweep.grow(slots);
        const owner = Uint16Array.from(owners);
        const best = new Array<number>(slots).fill(0);
        for (const { listed, worth, serial } of runs) {
          const here = listed.filter((o) => o.slot < slots);
          sweep.raise(
            Uint8Array.from(worth),
            Uint16Array.from(here, (o) => o.set),
            Uint32Array.from(here, (o) => o.slot),
            serial === undefined ? undefined : { owner, serial },
          );
          for (const { slot, set } of here)
            if (serial === undefined || owners[slot] === serial) best[slot] = Math.max(best[slot], worth[set]);
        }
        sweep.scores.fill(7, 0, slots);
        const found = sweep.gather(slots, scored);
        expect([...found.list()]).toEqual(best.flatMap((b, slot) => (b > 0 ? [slot] : [])));
        expect([...sweep.scores.subarray(0, slots)]).toEqual(best.map((b) => 7 + (scored ? b : 0)));
        expect(sweep.best.every((b) => b === 0)).toBe(true);
      },
    ),
  );
});

test('slots above a place are listed in order, however few at a time', () => {
  const slot = fc.record({
    score: fc.constantFrom(0, 1, 2, 1022, 1023, 1024, 40_000),
    merit: fc.nat(31),
    in: fc.boolean(),
  });
  fc.assert(
    fc.property(
      fc.array(slot, { minLength: 1, maxLength: 120, size: 'max' }),
      fc.oneof(fc.constant(-1), fc.nat(32767)),
      fc.integer({ min: 1, max: 40 }),
      (all, least, room) => {
        const sweep = new Sweep();
        sweep.grow(all.length);
        const set = new Bitset(all.length);
        all.forEach((s, i) => {
          sweep.scores[i] = s.score;
          sweep.merits[i] = s.merit;
          if (s.in) set.add(i);
        });
        const listed: number[] = [];
        for (let from = 0; from < all.length;) {
          const { slots, next } = sweep.better(set, from, least, room);
          expect(slots.length).toBeLessThanOrEqual(room);
          expect(next).toBeGreaterThan(from);
          listed.push(...slots);
          from = next;
        }
        const better = (s: (typeof all)[number]) => Math.min(1023, s.score) * 32 + s.merit > least;
        expect(listed).toEqual(all.flatMap((s, i) => (s.in && better(s) ? [i] : [])));
      },
    ),
  );
});

test('more slots than fit at once, and more occurrences, are all looked at; growing keeps what is there', () => {
  const random = new Random(5);
  const count = 200_000;
  const sweep = new Sweep();
  sweep.grow(10);
  sweep.merits[3] = 9;
  sweep.scores[3] = 77;
  sweep.grow(count);
  expect([sweep.merits[3], sweep.scores[3], sweep.merits[4]]).toEqual([9, 77, 0]);
  const slots = Uint32Array.from({ length: count }, () => Math.floor(random.next() * count));
  sweep.raise(Uint8Array.of(0, 5), new Uint16Array(count).fill(1), slots);
  const found = sweep.gather(count, true);
  expect(found.count()).toBe(new Set(slots).size);
  expect([...slots].every((slot) => found.has(slot))).toBe(true);
  const all = new Bitset(count);
  for (let i = 0; i < count; i++) all.add(i);
  const { slots: first, next } = sweep.better(all, 0, -1, count);
  expect([first.length, next]).toEqual([MOST_LISTED, MOST_LISTED]);
});

test('sorting by keys is stable, for any number of slots', () => {
  fc.assert(
    fc.property(
      fc.array(
        fc.oneof(fc.nat(3), fc.integer({ min: 0, max: 2 ** 32 - 1 }), fc.constantFrom(2 ** 22, 2 ** 11, 2 ** 31)),
        {
          maxLength: 300,
          size: 'max',
        },
      ),
      (keys) => {
        const slots = Uint32Array.from(keys, (_, i) => keys.length - i);
        const plain = [...slots.keys()].sort((a, b) => keys[a] - keys[b] || a - b).map((i) => slots[i]);
        argsort(slots, Uint32Array.from(keys));
        expect([...slots]).toEqual(plain);
      },
    ),
  );
});
