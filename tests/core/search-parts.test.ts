import { fields, fieldOf, type FieldValue, type Tag } from '@core/library';
import { parseQuery, SoundIndex, valueIn, type IndexedSound } from '@core/search';
import { allSteps } from '@core/search/argsort';
import { Bitset } from '@core/search/bitset';
import { ListValues, SingleValues } from '@core/search/code-values';
import { NumberColumn, sortKey, TextColumn, VectorColumn } from '@core/search/columns';
import { fieldBit, MaskTable, searched } from '@core/search/masks';
import { Postings } from '@core/search/postings';
import { openSnapshot, packSnapshot, type Part } from '@core/search/snapshot';
import fc from 'fast-check';

describe('sets of slots', () => {
  const numbers = fc.uniqueArray(fc.nat(99), { maxLength: 40 });
  const made = (list: number[]) => {
    const set = new Bitset(100);
    for (const n of list) set.add(n);
    return set;
  };
  test('do what sets do', () => {
    fc.assert(
      fc.property(numbers, numbers, (a, b) => {
        const [inA, inB] = [new Set(a), new Set(b)];
        const sorted = (keep: (n: number) => boolean) => Array.from({ length: 100 }, (_, n) => n).filter(keep);
        expect([...made(a).list()]).toEqual(sorted((n) => inA.has(n)));
        expect([...made(a).and(made(b)).list()]).toEqual(sorted((n) => inA.has(n) && inB.has(n)));
        expect([...made(a).or(made(b)).list()]).toEqual(sorted((n) => inA.has(n) || inB.has(n)));
        expect([...made(a).andNot(made(b)).list()]).toEqual(sorted((n) => inA.has(n) && !inB.has(n)));
        expect(made(a).count()).toBe(inA.size);
        expect(made(a).empty).toBe(inA.size === 0);
        const visited: number[] = [];
        made(a).each((n) => visited.push(n));
        expect(visited).toEqual([...made(a).list()]);
        expect([...made(a).copy(300).list()]).toEqual([...made(a).list()]);
      }),
    );
  });
});

describe('columns', () => {
  const slots = (n: number) => Uint32Array.from({ length: n }, (_, i) => i);

  test.each([
    ['Gate 2', 'Gate 10'],
    ['a 007', 'a 8'],
    ['Ähre', 'Bahn'],
    ['x9y', 'x10'],
    ['', 'a'],
  ])('%j stands before %j', (a, b) => expect(sortKey(a) < sortKey(b)).toBe(true));

  test('texts keep their order over any run of additions, as if all had come at once', () => {
    const text = fc.oneof(fc.stringMatching(/^[a-cA-C]{0,3}\d{0,2}$/), fc.string({ unit: 'grapheme', maxLength: 3 }));
    fc.assert(
      fc.property(
        fc.array(fc.array(text, { maxLength: 60 }), { minLength: 1, maxLength: 4 }),
        fc.boolean(),
        (runs, down) => {
          const column = new TextColumn();
          const all = runs.flat();
          let slot = 0;
          for (const run of runs) {
            for (const t of run) column.set(slot++, t || undefined);
            // Sorting in between fixes an order that the next run has to fit into.
            column.sort(slots(slot), false);
          }
          const order = slots(all.length);
          column.sort(order, down);
          const key = (i: number) => sortKey(all[i]);
          const plain = [...slots(all.length)].sort((a, b) => {
            if ((all[a] === '') !== (all[b] === '')) return all[a] === '' ? 1 : -1;
            if (key(a) === key(b)) return a - b;
            return key(a) < key(b) !== down ? -1 : 1;
          });
          expect([...order]).toEqual(plain);
        },
      ),
      { numRuns: 200 },
    );
  });

  test('a slot that loses its value is empty, in every kind of column', () => {
    const [number, text] = [new NumberColumn(), new TextColumn()];
    number.set(3, 7);
    number.set(3, undefined);
    text.set(3, 'a');
    text.set(3, undefined);
    expect([number.at(3), number.at(9000), text.at(3), text.at(9000)]).toEqual([NaN, NaN, 0, 0]);
  });

  test('words that follow each other are found whatever stands between them, and parts of words are not', () => {
    const column = new TextColumn();
    ['Pier, plank (creak)', 'pier plankcreak', 'Pier-plank', 'pierplank', 'pier 𝔞 plank'].forEach((t, i) =>
      column.set(i, t),
    );
    const found = (words: string[]) =>
      [...column.codesWithPhrase(words)].flatMap((good, code) => (good ? [code - 1] : []));
    expect(found(['pier', 'plank'])).toEqual([0, 2]);
    expect(found(['plank', 'creak'])).toEqual([0]);
    expect(column.hasPhrase(1, ['plank', 'creak'])).toBe(true);
    expect(column.hasPhrase(0, ['plank'])).toBe(false);
  });

  test('vectors stand by slot, and can be taken away', () => {
    const column = new VectorColumn(2);
    column.set(5000, Int8Array.of(1, -2));
    column.set(2, Int8Array.of(3, 4));
    column.set(2, undefined);
    column.set(90_000, undefined);
    expect([column.has(5000), column.has(2), column.has(90_000)]).toEqual([true, false, false]);
    expect([...column.at(5000)]).toEqual([1, -2]);
  });
});

describe('sets of fields', () => {
  test('are worth the highest weight that counts', () => {
    const table = new MaskTable();
    const [name, text] = [fieldBit('fxName')!, fieldBit('description')!];
    const both = table.code(name | text);
    expect(table.masks[both]).toBe(name | text);
    expect(table.code(name | text)).toBe(both);
    const weight = (key: string) => searched.find((f) => f.key === key)!.weight;
    expect(table.worth()[both]).toBe(Math.max(weight('fxName'), weight('description')));
    expect(table.worth(fieldOf('description'))[both]).toBe(weight('description'));
    expect(table.worth(fieldOf('keywords'))[both]).toBe(0);
    expect([...table.only('fxName')].map(Boolean)).toEqual(table.masks.map((m) => (m & name) !== 0));
    expect(fieldBit('loudness')).toBeUndefined();
  });
});

describe('postings', () => {
  test('each slot’s words stand in one segment that counts, however often they are put', () => {
    const words = fc.array(fc.constantFrom('a', 'b', 'c', 'd'), { maxLength: 3 });
    fc.assert(
      fc.property(fc.array(fc.record({ slot: fc.nat(9), words }), { maxLength: 60 }), (puts) => {
        const postings = new Postings();
        const live = new Bitset(10);
        const truth = new Map<number, Set<string>>();
        for (const { slot, words: own } of puts) {
          const { builder, own: take } = postings.begin(10, live, 10);
          live.add(slot);
          take(slot);
          for (const word of own) builder.word(word, slot, 1);
          postings.end(builder, live, 10);
          truth.set(slot, new Set(own));
        }
        for (const word of ['a', 'b', 'c', 'd']) {
          const found: number[] = [];
          for (const { segment, serial, stale } of postings.parts) {
            const at = segment.numberOf(word);
            if (at < 0) continue;
            const { starts, slots } = segment.parts;
            for (const slot of slots.slice(starts[at], starts[at + 1])) {
              const counts = postings.owner[slot] === serial;
              // A segment that says it is not stale need not be checked slot by slot.
              if (!stale) expect(counts).toBe(true);
              if (counts) found.push(slot);
            }
          }
          const expected = [...truth].filter(([, own]) => own.has(word)).map(([slot]) => slot);
          expect(found.sort((a, b) => a - b)).toEqual(expected.sort((a, b) => a - b));
        }
        // Segments of like size are merged: there are never many.
        expect(postings.parts.length).toBeLessThanOrEqual(8);
      }),
    );
  });
});

test('a snapshot file gives its parts back, whatever their kind and length', () => {
  const part = fc.oneof(
    fc.uint8Array(),
    fc.uint16Array(),
    fc.uint32Array(),
    fc.float64Array({ noNaN: true }),
  ) as unknown as fc.Arbitrary<Part>;
  fc.assert(
    fc.property(fc.dictionary(fc.string({ minLength: 1 }), part, { noNullPrototype: true }), (given) => {
      const pieces = allSteps(packSnapshot('fields', { n: 1 }, new Map(Object.entries(given))));
      const file = new Uint8Array(pieces.flatMap((p) => [...p]));
      const { facts, parts } = openSnapshot(file.buffer, 'fields');
      expect(facts).toEqual({ n: 1 });
      expect(Object.fromEntries([...parts].map(([k, v]) => [k, [...v]]))).toEqual(
        Object.fromEntries(Object.entries(given).map(([k, v]) => [k, [...v]])),
      );
      expect(() => openSnapshot(file.buffer, 'other fields')).toThrow(/other fields/);
    }),
  );
  expect(() => openSnapshot(new ArrayBuffer(3), '')).toThrow(/empty/);
});

test('a table has the values that were put, field by field, of the sounds that are there', () => {
  const index = new SoundIndex();
  const sounds: IndexedSound[] = [
    { id: 4, fields: { fxName: 'Gate', keywords: ['wet', 'iron'], tags: [7, 9], stars: 3 } },
    { id: 6, fields: { fxName: 'Gone' } },
    { id: 8, fields: { length: 1.5 } },
  ];
  index.put(sounds);
  index.remove([6]);
  const keys = fields.map((f) => f.key);
  const table = index.table(keys)!;
  expect([...table.ids]).toEqual([4, 8]);
  const read = (row: number) => {
    const values = keys.flatMap((key): [string, FieldValue][] => {
      const value = valueIn(table, fieldOf(key), row);
      return value === undefined ? [] : [[key, value]];
    });
    return Object.fromEntries(values);
  };
  expect([read(0), read(1)]).toEqual([sounds[0].fields, sounds[2].fields]);
  expect(index.table(['description@de'])).toBeUndefined();
});

test('ids that come out of order are found, listed in order, and keep their places', () => {
  const id = fc.integer({ min: 1, max: 40 });
  fc.assert(
    fc.property(
      fc.array(fc.uniqueArray(id, { minLength: 1, maxLength: 6 }), { minLength: 1, maxLength: 12 }),
      (batches) => {
        const index = new SoundIndex();
        const there = new Set<number>();
        for (const batch of batches) {
          index.put(batch.map((n) => ({ id: n, fields: { fxName: 'Gate', length: n % 3 } })));
          batch.forEach((n) => there.add(n));
        }
        const all = [...there].sort((a, b) => a - b);
        for (const text of ['', 'gate ', 'g']) {
          const request = { query: parseQuery(text).query };
          expect([...index.search(request).ids]).toEqual(all);
          expect([...index.find(request).first(2)]).toEqual(all.slice(0, 2));
        }
        const { ids } = index.search({ query: { kind: 'all' }, sort: { key: 'length', down: false } });
        expect([...ids]).toEqual([...all].sort((a, b) => (a % 3) - (b % 3) || a - b));
      },
    ),
  );
});

describe('values behind codes', () => {
  /** How often each value occurs, counted the slow way. */
  const counted = (values: string[][], counts: number[]) => {
    const totals = new Map<string, number>();
    values.forEach((all, code) =>
      all.forEach((v) => counts[code] && totals.set(v, (totals.get(v) ?? 0) + counts[code])),
    );
    return totals;
  };
  const grows = fc.array(
    fc.tuple(fc.array(fc.constantFrom('wood', 'rope', 'Wood', 'é', ''), { maxLength: 4 }), fc.nat(3)),
    {
      maxLength: 40,
    },
  );

  test('are counted alike however the codes came, list or single', () => {
    fc.assert(
      fc.property(grows, fc.nat(40), (codes, first) => {
        const lists = codes.map(([values]) => values);
        const texts = lists.map((values) => values.join('+'));
        for (const [made, slow] of [
          [new ListValues((code) => lists[code]), lists],
          [new SingleValues((code) => texts[code]), texts.map((t) => [t])],
        ] as const) {
          // Codes are added as sounds come in.
          for (const until of [Math.min(first, codes.length), codes.length]) {
            allSteps(made.extend(until));
            const counts = codes.slice(0, until).map(([, n]) => n);
            const totals = made.totals(Uint32Array.from(counts));
            const found = [...totals].flatMap((n, value): [string, number][] => (n > 0 ? [[made.text(value), n]] : []));
            expect(new Map(found)).toEqual(counted(slow.slice(0, until), counts));
            // Equal texts are one value, wherever they stand.
            expect(new Set(found.map(([text]) => text)).size).toBe(found.length);
          }
        }
      }),
    );
  });

  test('a facet counts every sound once, also where ids came out of order and a field is missing at the end', () => {
    const index = new SoundIndex();
    const ids = [50, 7, 31, 90, 8, 2, 60, 41];
    // The last slots have no licence at all: the column ends before them, in the middle of the ids.
    index.put(ids.map((id, i) => ({ id, fields: { licence: i % 2 ? 'Owned' : 'CC0 1.0' } })));
    index.put(Array.from({ length: 1500 }, (_, i) => ({ id: 1000 - (i % 900) + i * 1000, fields: {} })));
    index.put([{ id: 1, fields: {} }]);
    const { values } = index.find({ query: { kind: 'all' } }).facet('licence', 10);
    const sum = values.reduce((total, v) => total + v.count, 0);
    expect(sum).toBe(index.size);
    expect(values.filter((v) => v.value !== '')).toEqual([
      { value: 'CC0 1.0', count: 4 },
      { value: 'Owned', count: 4 },
    ]);
  });

  test('a facet of 300,000 values lists the most frequent ones, and finds single ones by a part', () => {
    const index = new SoundIndex();
    const sounds = Array.from({ length: 300_000 }, (_, i) => ({
      id: i + 2,
      fields: { file: i % 1000 === 0 ? 'the same.wav' : `recorder ${i}.wav`, tags: [i % 2 ? 5 : 6] },
    }));
    index.setTags([
      { id: 5, name: 'Odd' },
      { id: 6, name: 'Even' },
    ] as Tag[]);
    for (let from = 0; from < sounds.length; from += 50_000) index.put(sounds.slice(from, from + 50_000));
    const found = index.find({ query: { kind: 'all' } });
    const facet = found.facet('file', 60);
    expect(facet.values[0]).toEqual({ value: 'the same.wav', count: 300 });
    expect([facet.distinct, facet.values.length]).toEqual([299_701, 60]);
    expect(found.facet('file', 60, 'recorder 123456').values).toEqual([{ value: 'recorder 123456.wav', count: 1 }]);
    // Tags are looked for by their names, though they are kept by their ids.
    expect(found.facet('tags', 60, 'eve').values).toEqual([{ value: '6', count: 150_000 }]);
  });
});
