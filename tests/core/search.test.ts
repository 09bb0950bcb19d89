import { lengthBins, parseQuery, SoundIndex, type Request } from '@core/search';
import fc from 'fast-check';

const sounds = [
  {
    id: 11,
    fields: {
      fxName: 'Capstan groan, slow turn',
      catId: 'BOATMech',
      category: 'BOATS',
      library: 'Tidewrack',
      length: 3.4,
      licence: 'Owned',
      stars: 4,
      file: 'a47b.wav',
    },
  },
  {
    id: 12,
    fields: {
      fxName: 'Pier plank creak 04',
      catId: 'WOODMvmt',
      category: 'WOOD',
      library: 'Marram',
      length: 1.2,
      licence: 'CC BY 4.0',
      keywords: ['timber', 'dry'],
      added: Date.UTC(2026, 2, 14),
    },
  },
  {
    id: 13,
    fields: {
      fxName: 'Pier plank creaking 07',
      catId: 'WOODMvmt',
      category: 'WOOD',
      library: 'Marram',
      length: 1.6,
      licence: 'CC0 1.0',
      description: 'a timber creak under a slow boot',
      added: Date.UTC(2026, 3, 2),
    },
  },
  {
    id: 14,
    fields: {
      fxName: 'Fähre, Tür',
      description: 'door of a ferry',
      library: 'Own',
      length: 61,
      channels: 2,
      rate: 96000,
      file: 'HarborWinchSlow_03-wet.wav',
      folder: 'Boats/Deck gear',
    },
  },
  { id: 15, fields: { fxName: 'Silence', library: 'Own', length: 0.1 } },
] as const;

function indexed(): SoundIndex {
  const index = new SoundIndex();
  index.put(sounds);
  return index;
}

const find = (index: SoundIndex, text: string, more: Partial<Request> = {}) => [
  ...index.search({ query: parseQuery(text).query, ...more }).ids,
];
const sorted = (ids: number[]) => [...ids].sort((a, b) => a - b);

describe('query', () => {
  const answers: [string, number[]][] = [
    ['', [11, 12, 13, 14, 15]],
    ['creak ', [12, 13]],
    ['creak', [12, 13]],
    ['crea', [12, 13]],
    ['crea ', []],
    ['creak* ', [12, 13]],
    ['creaking ', [12, 13]],
    ['creak* -creaking ', []],
    ['"creaking"', [13]],
    ['creak 04 ', [12]],
    ['04 creak ', [12]],
    ['creak (wood OR boats) -slow', [12]],
    ['groan OR timber dry ', [11, 12]],
    ['NOT creak silence', [15]],
    ['creak AND NOT dry', [13]],
    ['"pier plank"', [12, 13]],
    ['"plank pier"', []],
    ['"timber creak"', [13]],
    ['name:"creak 04"', [12]],
    ['name:slow ', [11]],
    ['description:slow ', [13]],
    ['name:(capstan OR silence)', [11, 15]],
    ['licence:cc0', [13]],
    ['licence:"cc by"', [12]],
    ['cat:wood -name:07', [12]],
    ['length:<2s', [12, 13, 15]],
    ['length:1.2', [12]],
    ['length:>1min', [14]],
    ['length:1..4', [11, 12, 13]],
    ['length:..1200ms', [12, 15]],
    ['rate:96k', [14]],
    ['stars:>=4', [11]],
    ['added:2026-03', [12]],
    ['added:>2026-03', [13]],
    ['added:<2026-03-15', [12]],
    ['added:2026', [12, 13]],
    ['file:~47b', [11]],
    ['fahre', [14]],
    ['FÄHRE tur', [14]],
    ['harbor winch slow 03 wet boats deck gear ', [14]],
    ['harborwinchslow ', [14]],
    ['library:own length:<1', [15]],
  ];
  test.each(answers)('%j finds %j', (text, ids) => {
    expect(parseQuery(text).faults).toEqual([]);
    expect(sorted(find(indexed(), text))).toEqual(ids);
  });

  const broken: [string, number, RegExp, number[]][] = [
    ['creak "plank', 6, /quote is not closed/, [12, 13]],
    ['creak (dry', 6, /bracket is not closed/, [12]],
    ['creak) ', 5, /closes nothing/, [12, 13]],
    ['creak colour:red ', 6, /No field is called “colour”/, [12, 13]],
    ['creak length:long ', 13, /no value for length/, [12, 13]],
    ['creak OR ', 6, /both sides/, [12, 13]],
    ['creak length: ', 6, /Nothing follows/, [12, 13]],
    ['creak -', 6, /Nothing follows/, [12, 13]],
    ['creak () ', 6, /nothing in these brackets/, [12, 13]],
  ];
  test.each(broken)('%j is told at %d, and the rest is searched', (text, at, message, ids) => {
    const { faults } = parseQuery(text);
    expect(faults[0]).toMatchObject({ at, message: expect.stringMatching(message) });
    expect(sorted(find(indexed(), text))).toEqual(ids);
  });

  test('no text makes the parser fail, hang or point outside of it', () => {
    const index = indexed();
    const piece = fc.constantFrom(
      'creak',
      '"',
      '(',
      ')',
      '-',
      'OR',
      'AND',
      'NOT',
      'length:',
      'name:',
      '<',
      '..',
      '2s',
      '*',
      '~',
      ':',
      ' ',
      'ß',
      '😀',
    );
    fc.assert(
      fc.property(
        fc.oneof(
          fc.array(piece, { maxLength: 14 }).map((p) => p.join('')),
          fc.string({ unit: 'binary', maxLength: 30 }),
        ),
        (text) => {
          const { query, faults } = parseQuery(text);
          for (const f of faults) expect(f.at).toBeLessThanOrEqual(text.length);
          expect(index.search({ query }).ids.length).toBeLessThanOrEqual(5);
        },
      ),
      { numRuns: 400 },
    );
  });
});

describe('order and facets', () => {
  test('a word in the name stands before the same word in the description', () => {
    expect(find(indexed(), 'slow ')).toEqual([11, 13, 14]);
    expect(find(indexed(), 'creak ')[0]).toBe(12);
  });

  test('sorting puts what has no value last, both ways', () => {
    const by = (key: string, down: boolean) => find(indexed(), '', { sort: { key, down } });
    expect(by('length', false)).toEqual([15, 12, 13, 11, 14]);
    expect(by('length', true)).toEqual([14, 11, 13, 12, 15]);
    expect(by('stars', true)[0]).toBe(11);
    expect(by('stars', false)[0]).toBe(11);
    expect(by('fxName', false)).toEqual([11, 14, 12, 13, 15]);
  });

  test('a pull lists its own sounds in its own order', () => {
    expect(find(indexed(), '', { within: [14, 11, 99] })).toEqual([14, 11]);
  });

  test('facets count what would be there if nothing of their own were chosen', () => {
    const result = indexed().search({ query: parseQuery('').query, facets: { library: ['Marram', 'Own'] } });
    expect(sorted([...result.ids])).toEqual([12, 13, 14, 15]);
    expect(result.facets.library).toEqual([
      { value: 'Marram', count: 2 },
      { value: 'Own', count: 2 },
      { value: 'Tidewrack', count: 1 },
    ]);
    expect(result.facets.licence.find((f) => f.value === 'Owned')).toBeUndefined();
  });

  test('the length histogram puts each sound into the bin that holds it', () => {
    const { lengths } = indexed().search({ query: { kind: 'all' } });
    expect(lengths.reduce((a, b) => a + b)).toBe(5);
    for (const { fields } of sounds) {
      const bin = lengthBins.findLastIndex((from) => from <= fields.length);
      expect(lengths[bin]).toBeGreaterThan(0);
    }
    expect(find(indexed(), '', { ranges: { length: [1, 2] } })).toEqual([12, 13]);
  });
});

test('after any run of changes the index answers as a fresh one does', () => {
  const word = fc.constantFrom('creak', 'creaks', 'boat', 'wet', 'dry', 'pawl', 'chain');
  const name = fc.array(word, { minLength: 1, maxLength: 4 }).map((w) => w.join(' '));
  const change = fc.oneof(
    fc.record({ id: fc.integer({ min: 1, max: 25 }), name, stars: fc.nat(5) }),
    fc.record({ id: fc.integer({ min: 1, max: 25 }) }),
  );
  fc.assert(
    fc.property(fc.array(change, { minLength: 5, maxLength: 60 }), word, (changes, wanted) => {
      const index = new SoundIndex();
      const truth = new Map<number, { id: number; fields: { fxName: string; stars: number } }>();
      for (const c of changes) {
        if ('name' in c) {
          const sound = { id: c.id, fields: { fxName: c.name, stars: c.stars } };
          truth.set(c.id, sound);
          index.put([sound]);
        } else {
          truth.delete(c.id);
          index.remove([c.id]);
        }
      }
      for (const [id, s] of truth) {
        s.fields.stars = (s.fields.stars + 1) % 6;
        index.setValue(id, 'stars', s.fields.stars);
      }
      const fresh = new SoundIndex();
      fresh.put([...truth.values()]);
      expect(index.size).toBe(truth.size);
      for (const text of [`${wanted} `, `-${wanted} `, `${wanted}* stars:>2`, `"${wanted} wet"`]) {
        expect(sorted(find(index, text))).toEqual(sorted(find(fresh, text)));
      }
    }),
    { numRuns: 120 },
  );
});
