import {
  begunAt,
  differencesHeard,
  fieldNames,
  likenessOf,
  LIKENESS_SIZE,
  nearest,
  parseQuery,
  withoutClause,
  SoundIndex,
  valueText,
  type Heard,
  type IndexedSound,
  type Request,
} from '@core/search';
import { argsortNumbers, allSteps, sortedTexts } from '@core/search/argsort';
import { argsort } from '@core/search/sweep';
import { TextPool } from '@core/search/text-pool';
import { WordTable } from '@core/search/word-table';
import { fold, searchWords } from '@core/naming';
import { catIdsMeant } from '@core/suggest';
import fc from 'fast-check';

const anyText = fc.oneof(fc.string(), fc.string({ unit: 'binary' }), fc.stringMatching(/^[a-cA-C0-2 _]{0,9}$/));

describe('what the index is made of', () => {
  test('sorting by numbers and texts is stable and agrees with the plain way', () => {
    const number = fc.oneof(
      fc.double({ noNaN: true }),
      fc.constantFrom(0, -0, 1, 1 + 1e-12, -1e-300, 1e300),
      fc.nat(3),
    );
    fc.assert(
      fc.property(fc.array(number, { size: '+1' }), fc.array(anyText), fc.boolean(), (numbers, texts, down) => {
        const slots = Uint32Array.from(numbers, (_, i) => i);
        argsortNumbers(slots, Float64Array.from(numbers), down);
        const sign = down ? -1 : 1;
        const plain = numbers.map((_, i) => i).sort((a, b) => sign * (numbers[a] - numbers[b] || 0) || a - b);
        // Differences of the smallest numbers vanish; comparing them does not.
        plain.sort((a, b) => (numbers[a] === numbers[b] ? a - b : sign * (numbers[a] < numbers[b] ? -1 : 1)));
        expect([...slots]).toEqual(plain);
        const order = texts
          .map((_, i) => i)
          .sort((a, b) => (texts[a] < texts[b] ? -1 : texts[a] > texts[b] ? 1 : a - b));
        expect([...allSteps(sortedTexts(texts))]).toEqual(order);
      }),
    );
    const many = Uint32Array.from({ length: 70_000 }, (_, i) => i);
    argsort(
      many,
      many.map((i) => (i * 2654435761) >>> 0),
    );
    for (let i = 1; i < many.length; i++)
      expect((many[i] * 2654435761) >>> 0 >= (many[i - 1] * 2654435761) >>> 0).toBe(true);
  });

  test('a pool gives its texts back and finds each that contains a part, across packing, and no text across a border', () => {
    fc.assert(
      fc.property(fc.array(anyText, { maxLength: 40 }), anyText, fc.nat(40), (texts, part, packed) => {
        const pool = new TextPool();
        texts.forEach((t, i) => {
          pool.push(t);
          if (i === packed) pool.pack();
        });
        expect(texts.map((_, i) => pool.get(i))).toEqual(texts);
        const wanted = fold(part);
        if (wanted === '') return;
        const found: number[] = [];
        pool.containing(wanted, (i) => found.push(i));
        expect(found).toEqual(texts.flatMap((t, i) => (fold(t).includes(wanted) ? [i] : [])));
      }),
    );
  });

  test('words are cut as everywhere else', () => {
    fc.assert(
      fc.property(fc.array(anyText), (texts) => {
        const table = new WordTable();
        for (const text of [...texts, 'HarborWinchSlow_03-wet']) {
          const count = table.cut(text);
          expect([...table.found.slice(0, count)].map((n) => table.words[n])).toEqual(searchWords(text));
        }
        expect(new Set(table.words).size).toBe(table.words.length);
      }),
    );
  });
});

const index = (sounds: Record<string, unknown>[], meant?: ConstructorParameters<typeof SoundIndex>[0]) => {
  const made = new SoundIndex(meant);
  made.put(sounds.map((fields, i) => ({ id: i + 1, fields }) as IndexedSound));
  return made;
};
const ids = (i: SoundIndex, text: string, more: Partial<Request> = {}) => [
  ...i.search({ query: parseQuery(text).query, ...more }).ids,
];

describe('words that mean the same', () => {
  test.each([
    ['harbours ', 'harbor'],
    ['colour ', 'Colored'],
    ['creaking ', 'creaks'],
    ['tyre ', 'tires'],
    ['knives ', 'knife'],
  ])('%s finds %s', (text, name) => expect(ids(index([{ fxName: name }]), text)).toEqual([1]));

  test('the word itself stands before its forms, and those before what only means it', () => {
    const made = index([{ fxName: 'Door', catId: 'WOODMvmt' }, { fxName: 'Squeaks' }, { fxName: 'Squeak' }], (word) =>
      word === 'squeak' ? ['WOODMvmt'] : [],
    );
    expect(ids(made, 'squeak ')).toEqual([3, 2, 1]);
    // A NOT takes out what has the word, not what merely means it.
    expect(ids(made, '-squeak ')).toEqual([1]);
    expect(ids(made, 'squeak* ')).toEqual([2, 3].sort((a, b) => b - a));
  });

  test('own pairs work both ways, behind the word itself, and end when they are taken away', () => {
    const made = index([{ fxName: 'Lorry' }, { fxName: 'Truck' }]);
    made.setAlike([['lorry', 'truck']]);
    expect(ids(made, 'truck ')).toEqual([2, 1]);
    expect(ids(made, 'lorry ')).toEqual([1, 2]);
    made.setAlike([]);
    expect(ids(made, 'truck ')).toEqual([2]);
  });

  test('the category list knows synonyms in any form, and other languages', () => {
    expect(catIdsMeant('creaking', false).length).toBeGreaterThan(0);
    expect(catIdsMeant('holz', false)).toContain('WOODMvmt');
    expect(catIdsMeant('constructor', false)).toEqual([]);
  });

  test('of equals, those with stars come first', () =>
    expect(ids(index([{ fxName: 'Gate' }, { fxName: 'Gate', stars: 4 }]), 'gate ')).toEqual([2, 1]));
});

describe('narrowing', () => {
  const made = index([
    { fxName: 'Gate a', library: 'Tide', keywords: ['wet', 'iron'], loudness: -20 },
    { fxName: 'Gate b', library: 'Marsh', keywords: ['iron'], loudness: -30 },
    { fxName: 'Rope', library: 'Marsh' },
  ]);
  const all: Request = { query: { kind: 'all' } };

  test('leaves out, goes by ranges, and looks inside of earlier results', () => {
    expect(ids(made, '', { without: { keywords: ['wet'] } })).toEqual([2, 3]);
    expect(ids(made, '', { facets: { keywords: ['iron'] }, without: { library: ['Tide'] } })).toEqual([2]);
    expect(ids(made, '', { facets: { keywords: [''] } })).toEqual([3]);
    expect(ids(made, '', { without: { keywords: [''] } })).toEqual([1, 2]);
    expect(ids(made, '', { without: { author: [''] } })).toEqual([]);
    expect(ids(made, '', { ranges: { loudness: [-30, -20] } })).toEqual([2]);
    const step = { query: parseQuery('gate ').query };
    expect(ids(made, '-a ', { inside: [step] })).toEqual([2]);
    expect(ids(made, '', { inside: [step, { ...all, facets: { library: ['Tide'] } }] })).toEqual([1]);
  });

  test('counts the values of lists one by one, as many as asked for, and those that contain a text', () => {
    const found = made.find(all);
    expect(found.facet('keywords', 1)).toEqual({ values: [{ value: 'iron', count: 2 }], distinct: 3 });
    expect(found.facet('keywords', 9, 'we').values).toEqual([{ value: 'wet', count: 1 }]);
    expect(found.facet('loudness', 9)).toEqual({ values: [], distinct: 0 });
  });

  test('histograms hold every number once, the highest too', () => {
    const { edges, counts } = made.find(all).histogram('loudness');
    expect(counts.reduce((a, b) => a + b)).toBe(2);
    expect(edges[0]).toBe(-30);
    expect(edges[edges.length - 1]).toBeGreaterThan(-20);
    for (const key of ['tempo', 'fxName', 'constructor']) expect(made.find(all).histogram(key).counts).toEqual([0]);
  });

  test('thousands of values that nearly all differ are counted by text, not by place', () => {
    const large = index(Array.from({ length: 45_000 }, (_, i) => ({ fxName: i % 9 === 0 ? 'Same' : `Name ${i}` })));
    const facet = large.find(all).facet('fxName', 2);
    expect(facet.values[0]).toEqual({ value: 'Same', count: 5000 });
    expect(facet.distinct).toBe(40_001);
    expect(large.find(all).facet('fxName', 3, 'name 4499').values).toHaveLength(3);
  });

  test('the first rows are those of the whole list, however many answer alike', () => {
    const name = fc.constantFrom('gate', 'gates', 'gate rope', 'rope');
    fc.assert(
      fc.property(
        fc.array(fc.record({ fxName: name, stars: fc.nat(2) }), { maxLength: 80 }),
        fc.integer({ min: 1, max: 9 }),
        (list, most) => {
          const own = index(list);
          for (const text of ['gate ', 'g', '']) {
            const request = { query: parseQuery(text).query };
            expect([...own.find(request).first(most)]).toEqual([...own.find(request).rows().ids].slice(0, most));
          }
        },
      ),
    );
  });

  test('rows of a search that is not the newest are refused, not wrong', () => {
    const old = made.find({ query: parseQuery('gate ').query });
    made.find(all);
    expect(old.current).toBe(false);
    expect(() => old.rows()).toThrow(/Another search/);
  });
});

describe('completion', () => {
  test.each([
    ['cre', 3, { from: 0, to: 3, part: 'cre' }],
    ['a cre b', 5, { from: 2, to: 5, part: 'cre' }],
    ['wet -Cre', 8, { from: 5, to: 8, part: 'cre' }],
    ['licence:c', 9, { from: 8, to: 9, part: 'c' }],
    ['library:"Tide W', 15, { from: 8, to: 15, part: 'tide w' }],
    ['library:', 8, { from: 8, to: 8, part: '' }],
  ])('%j at %d', (text, caret, expected) => expect(begunAt(text, caret)).toMatchObject(expected));

  test.each([
    ['', 0],
    ['wet ', 4],
    ['length:2', 8],
    ['colour:x', 8],
  ])('nothing is begun in %j at %d', (text, caret) => expect(begunAt(text, caret)).toBeUndefined());

  test('are counted by the sounds that have them, whatever was edited and taken out since', () => {
    const word = fc.constantFrom('creak', 'creaks', 'gate', 'gale', 'oar');
    const act = fc.record({
      id: fc.integer({ min: 1, max: 6 }),
      words: fc.array(word, { maxLength: 3 }),
      out: fc.boolean(),
    });
    fc.assert(
      fc.property(fc.array(act, { maxLength: 30 }), (acts) => {
        const made = new SoundIndex();
        const there = new Map<number, Set<string>>();
        for (const { id, words, out } of acts) {
          if (out) made.remove([id]);
          else made.put([{ id, fields: { fxName: words.join(' '), description: words.join(' ') } }]);
          if (out) there.delete(id);
          else there.set(id, new Set(words));
        }
        const counts = new Map<string, number>();
        for (const words of there.values()) for (const w of words) counts.set(w, (counts.get(w) ?? 0) + 1);
        expect(new Map(made.words('', 10).map((w) => [w.value, w.count]))).toEqual(counts);
      }),
    );
  });

  test('words and fields are offered, and values come back as they are', () => {
    expect(index([{ fxName: 'Creak creaking' }, { fxName: 'creak' }]).words('crea', 5)).toEqual([
      { value: 'creak', count: 2 },
      { value: 'creaking', count: 1 },
    ]);
    expect(fieldNames('lic').map((f) => f.name)).toEqual(['licence']);
    expect([valueText('Own'), valueText('CC BY 4.0'), valueText('a"b')]).toEqual(['Own', '"CC BY 4.0"', '"ab"']);
  });
});

describe('odd queries', () => {
  test.each([
    ['a word of 10,000 characters', 'x'.repeat(10_000)],
    ['2,000 words', 'gate '.repeat(2000)],
    ['200 brackets', `${'('.repeat(200)}gate${')'.repeat(200)}`],
    ['10,000 signs', '-'.repeat(10_000)],
    ['5,000 NOTs', 'NOT '.repeat(5000)],
    ['every control character', Array.from({ length: 32 }, (_, i) => String.fromCharCode(i)).join('gate')],
    ['a pattern', '^(.*)+$[a-z]{1,9}\\w'],
    ['text from right to left', 'שער OR باب'],
  ])('%s is answered', (_, text) => {
    const { query } = parseQuery(text);
    expect(index([{ fxName: 'Gate' }]).search({ query }).ids.length).toBeLessThanOrEqual(1);
  });

  test('clauses are told apart as they were written', () => {
    const text = 'creak -door OR "a b" (x OR y) length:<2s';
    const { clauses } = parseQuery(`${text} `);
    expect(clauses.map((c) => text.slice(c.at, c.at + c.length))).toEqual([
      'creak',
      '-door',
      '"a b"',
      '(x OR y)',
      'length:<2s',
    ]);
    expect(clauses.map((c) => c.or)).toEqual([false, false, true, false, false]);
  });

  test.each([
    ['rope creak', 1, 'rope'],
    ['rope creak', 0, 'creak'],
    ['rope OR chain wet', 1, 'rope wet'],
    ['rope OR chain wet', 0, 'chain wet'],
    ['-wet "slow creak" length:<2s', 1, '-wet length:<2s'],
    ['(rope OR chain) AND wet', 0, 'wet'],
    ['rope', 0, ''],
  ])('%s without clause %i is %s', (text, n, rest) => {
    const { clauses } = parseQuery(`${text} `);
    expect(withoutClause(text, clauses[n])).toBe(rest);
  });
});

describe('likeness', () => {
  const rate = 48000;
  const heard = (
    level: (seconds: number) => number,
    bands: (b: number) => number,
    more: Partial<Heard> = {},
  ): Heard => {
    const span = 480;
    const pairs = new Int8Array(400);
    for (let i = 0; i < 200; i++) pairs[2 * i + 1] = Math.round(127 * level((i * span) / rate));
    return { rate, span, pairs, spectrum: Float32Array.from({ length: 48 }, (_, b) => bands(b)), onsets: [0], ...more };
  };
  const hit = (gain: number) =>
    heard(
      (t) => gain * Math.exp(-t * 8),
      (b) => 20 * Math.log10(gain) - b,
    );
  const swell = heard(
    (t) => Math.min(1, t),
    (b) => -Math.abs(b - 30) * 2,
    { noisiness: 0.9 },
  );

  test('level does not count, everything else does', () => {
    const [loud, soft, other] = [hit(1), hit(0.25), swell].map(likenessOf);
    const all = new Int8Array([...other, ...soft, ...loud]);
    expect(loud).toHaveLength(LIKENESS_SIZE);
    expect([...nearest(loud, all, Uint32Array.of(0, 1, 2), 3)]).toEqual([2, 1, 0]);
    expect([...nearest(loud, all, Uint32Array.of(0), 3)]).toEqual([0]);
    expect(differencesHeard(loud, soft)).toEqual([]);
    expect(differencesHeard(loud, other)).toContain('brighter');
    expect(differencesHeard(other, loud)).toContain('quicker attack');
  });

  test('silence and a single sample are compared without harm', () => {
    for (const h of [
      heard(
        () => 0,
        () => -Infinity,
      ),
      { ...hit(1), pairs: new Int8Array(2) },
      { ...hit(1), onsets: [] },
    ])
      expect(likenessOf(h).every((v) => Number.isFinite(v))).toBe(true);
  });

  test('the nearest are the nearest', () => {
    const vector = fc.array(fc.integer({ min: -127, max: 127 }), {
      minLength: LIKENESS_SIZE,
      maxLength: LIKENESS_SIZE,
    });
    fc.assert(
      fc.property(fc.array(vector, { minLength: 1, maxLength: 12 }), fc.integer({ min: 1, max: 5 }), (list, most) => {
        const all = Int8Array.from(list.flat());
        const far = (v: number[]) => v.reduce((sum, x, i) => sum + (x - list[0][i]) ** 2, 0);
        const plain = list.map((_, i) => i).sort((a, b) => far(list[a]) - far(list[b]) || a - b);
        const found = nearest(
          Int8Array.from(list[0]),
          all,
          Uint32Array.from(list, (_, i) => i),
          most,
        );
        expect([...found]).toEqual(plain.slice(0, most));
      }),
      { numRuns: 60 },
    );
  });
});
