import { fold } from '@core/naming';
import { meaning } from '@core/meaning';
import { loosened, parseQuery, plainWords, SoundIndex, type IndexedSound } from '@core/search';
import { nearWords } from '@core/suggest';
import fc from 'fast-check';

const names = [
  'Foghorn harbor mouth',
  'Boot step oak',
  'Wind reeds dry',
  'Rain timber roof',
  'Gate hinge squeal',
  'Ferry hull bump',
  'Fog bank, horn of a ship',
  'Heavy iron thud',
  'The pier in the rain',
];
const sounds: IndexedSound[] = names.map((fxName, i) => ({ id: i + 1, fields: { fxName } }));
const index = new SoundIndex();
index.put(sounds);
index.setAlike(nearWords);
const found = (text: string) =>
  [...index.search({ query: loosened(parseQuery(text).query) }).ids].map((id) => names[id - 1]);

test.each<[string, string[]]>([
  ['fog horn', ['Fog bank, horn of a ship', 'Foghorn harbor mouth']],
  ['fog ho', ['Fog bank, horn of a ship', 'Foghorn harbor mouth']],
  ['far fog horn', []],
  ['wind in the reeds', ['Wind reeds dry']],
  ['rain on wood', ['Rain timber roof']],
  ['footsteps oak', ['Boot step oak']],
  ['gate squeaks', ['Gate hinge squeal']],
  ['boat bumps', ['Ferry hull bump']],
  ['large metal knock', ['Heavy iron thud']],
  ['in the rain', ['The pier in the rain', 'Rain timber roof']],
  ['the', ['The pier in the rain']],
  ['"in the rain"', ['The pier in the rain']],
  ['rain -wood', ['Rain timber roof', 'The pier in the rain']],
  ['rain -timber', ['The pier in the rain']],
])('%s', (text, expected) => expect(found(text).sort()).toEqual(expected.sort()));

test('a word itself stands before what only means it', () => {
  expect(found('horn')[0]).toBe('Fog bank, horn of a ship');
  expect(found('thud')[0]).toBe('Heavy iron thud');
});

test('whatever a query finds as it is written is found all the same', () => {
  const word = fc.constantFrom('fog', 'horn', 'rain', 'the', 'in', 'wood', 'gate', 'step', 'of', 'foghorn', 'hull');
  const clause = fc.oneof(
    word,
    word.map((w) => `-${w}`),
    word.map((w) => `name:${w}`),
    fc.tuple(word, word).map(([a, b]) => `(${a} OR ${b} ${a})`),
  );
  fc.assert(
    fc.property(fc.array(clause, { maxLength: 6 }), (clauses) => {
      const { query } = parseQuery(clauses.join(' '));
      const strict = index.search({ query }).ids;
      const loose = new Set(index.search({ query: loosened(query) }).ids);
      for (const id of strict) expect(loose.has(id)).toBe(true);
    }),
    { numRuns: 500 },
  );
});

test('words that stand for each other are single, folded and in one group each', () => {
  const all = nearWords.flat();
  for (const w of all) expect(fold(w)).toBe(w);
  expect(all.filter((w) => !/^[a-z]+$/.test(w))).toEqual([]);
  expect(new Set(all).size).toBe(all.length);
  for (const group of nearWords) expect(group.length).toBeGreaterThan(1);
});

describe('where too little has all the words', () => {
  const ask = (text: string, among = index) => {
    const { query } = parseQuery(text);
    return among.search({ query: loosened(query), words: plainWords(query, text) });
  };
  const told = (text: string) => {
    const { ids, bands } = ask(text);
    const headed = bands.map((b, i) => [
      b.word ?? b.least ?? b.kind,
      [...ids.slice(b.at, bands[i + 1]?.at)].map((id) => names[id - 1]).sort(),
    ]);
    return headed.length > 0 || ids.length === 0 ? headed : [['words', [...ids].map((id) => names[id - 1]).sort()]];
  };

  test('most of them are looked for, fewer only where that finds nothing', () => {
    expect(told('rain timber trombone ')).toEqual([['trombone', ['Rain timber roof']]]);
    expect(told('rain reeds trombone tuba ')).toEqual([
      [1, ['Rain timber roof', 'The pier in the rain', 'Wind reeds dry']],
    ]);
    expect(told('rain tuba ')).toEqual([['tuba', ['Rain timber roof', 'The pier in the rain']]]);
    expect(told('tuba trombone ')).toEqual([]);
    expect(told('rain wood ')).toEqual([
      ['meant', ['Rain timber roof']],
      ['wood', ['The pier in the rain']],
    ]);
    expect(told('gate hinge step ')).toEqual([['step', ['Gate hinge squeal']]]);
  });

  test.each(['rain AND tuba', 'rain OR tuba', 'rain -tuba', '"rain tuba"', 'name:rain tuba', 'rain tub*', 'the'])(
    'a query that says exactly what it means is taken at its word: %s',
    (text) => expect(plainWords(parseQuery(text).query, text)).toEqual([]),
  );

  test('they are the sounds that counting by hand finds, each in one band', () => {
    const word = fc.constantFrom('fog', 'horn', 'rain', 'gate', 'oak', 'hull', 'pier', 'tuba', 'iron', 'roof');
    fc.assert(
      fc.property(fc.uniqueArray(word, { minLength: 2, maxLength: 8 }), (words) => {
        const single = words.map((w) => new Set(ask(`${w} `).ids));
        const has = (id: number) => single.filter((s) => s.has(id)).length;
        const best = Math.max(...sounds.map((s) => has(s.id)));
        // With few that have all of them, those that lack one of three or more are listed, too.
        const least = Math.max(1, best === words.length && best > 2 ? best - 1 : best);
        const { ids, bands } = ask(`${words.join(' ')} `);
        // Words side by side may stand as one, which counting does not see.
        if (words.join(' ').includes('fog horn')) return;
        expect([...ids].sort()).toEqual(sounds.map((s) => s.id).filter((id) => has(id) >= least));
        for (const [i, { word: lacking, at }] of bands.entries())
          if (lacking)
            for (const id of ids.slice(at, bands[i + 1]?.at)) {
              expect(single[words.indexOf(lacking as never)].has(id)).toBe(false);
              expect(has(id)).toBe(words.length - 1);
            }
      }),
    );
  });

  test('more than a few with all the words are enough', () => {
    const many = new SoundIndex();
    const list = Array.from({ length: 15 }, (_, i) => `rain on tin roof ${i}`);
    many.put([...list, 'rain on tin'].map((fxName, i) => ({ id: i + 1, fields: { fxName } })));
    expect(ask('rain tin roof ', many).ids).toHaveLength(15);
    expect(ask('rain tin roof 4 ', many).ids).toHaveLength(15);
  });
});

describe('with the lexicon', () => {
  const list = [
    'Collie barks',
    'Wave on shingle',
    'Waver, uncertain',
    'Door opens',
    'Doors',
    'Breakage of a plate',
    'Plan of a boat',
    'Plane passes',
  ];
  const known = new SoundIndex(undefined, meaning());
  known.put(list.map((fxName, i) => ({ id: i + 1, fields: { fxName, file: `${fxName}.wav` } })));
  const finds = (text: string) => [...known.search({ query: parseQuery(text).query }).ids].map((id) => list[id - 1]);

  test.each<[string, string[]]>([
    ['dog ', ['Collie barks']],
    ['wav ', []],
    ['doors ', ['Doors', 'Door opens']],
    ['break ', ['Breakage of a plate']],
    ['plan ', ['Plan of a boat']],
  ])('%s', (text, expected) => expect(finds(text)).toEqual(expected));

  test('a word itself stands before its other forms, and those before what is only a kind of it', () => {
    expect(finds('wave ')[0]).toBe('Wave on shingle');
    expect(finds('doors ')).toEqual(['Doors', 'Door opens']);
  });
});
