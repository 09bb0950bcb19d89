import { guessColumns } from '@core/library';
import {
  categories,
  categoriesFromSheet,
  categoriesInAnyLanguage,
  categoryName,
  categoryOf,
  categoryWords,
  catIdOf,
  catIdsInAnyLanguage,
  Classifier,
  findCategories,
  foreignWords,
  isCatId,
  languageNames,
  languages,
  shipped,
  successorOf,
  type OwnCategory,
  useCategories,
} from '@core/suggest';
import { checkedFile, validators } from '@core/schemas';
import { parseQuery, SoundIndex } from '@core/search';
import { starters } from '@core/naming';

afterEach(() => useCategories([]));

describe('the list', () => {
  test('has all 82 categories, each CatID once, each row with six synonyms or more', () => {
    expect(new Set(shipped.map((c) => c.category)).size).toBe(82);
    expect(shipped.length).toBeGreaterThan(740);
    expect(new Set(shipped.map((c) => c.catId)).size).toBe(shipped.length);
    expect(shipped.filter((c) => c.synonyms.length < 6).map((c) => c.catId)).toEqual([]);
    expect(shipped.filter((c) => new Set(c.synonyms).size !== c.synonyms.length).map((c) => c.catId)).toEqual([]);
    expect(shipped.filter((c) => c.explanation.length < 4 || c.explanation.endsWith('.')).map((c) => c.catId)).toEqual(
      [],
    );
  });

  test('CatIDs are a CatShort in capitals and an abbreviation, names are in capitals', () => {
    const odd = shipped.filter(
      (c) =>
        !/^[A-Z]{2,5}[A-Z]?[A-Za-z]*$/.test(c.catId) || !(c.catId.startsWith(c.catShort) || c.catId === c.catShort),
    );
    expect(odd.map((c) => c.catId)).toEqual([]);
    expect(
      shipped.filter((c) => c.category !== c.category.toUpperCase() || c.subCategory !== c.subCategory.toUpperCase()),
    ).toEqual([]);
  });

  test.each([
    ['FEETHmn', 'FOOTSTEPS', 'HUMAN'],
    ['WATRSplsh', 'WATER', 'SPLASH'],
    ['METLImpt', 'METAL', 'IMPACT'],
    ['AMBForst', 'AMBIENCE', 'FOREST'],
    ['GUNPis', 'GUNS', 'PISTOL'],
    ['WHSH', 'SWOOSHES', 'WHOOSH'],
    ['UIClick', 'USER INTERFACE', 'CLICK'],
    ['VEHCar', 'VEHICLES', 'CAR'],
    ['DSGNRise', 'DESIGNED', 'RISER'],
    ['BIRDPrey', 'BIRDS', 'BIRD OF PREY'],
  ])('%s is %s, %s', (catId, category, subCategory) => {
    expect(categoryOf(catId)).toMatchObject({ category, subCategory });
  });
});

describe('the picker', () => {
  const first = (text: string) => findCategories(text)[0]?.catId;

  test.each([
    ['footstep', 'FEETHmn'],
    ['chopper', 'AEROHeli'],
    ['foghorn', 'BOATHorn'],
    ['doorwood', 'DOORWood'],
    ['DOORWood', 'DOORWood'],
    ['typewriter', 'COMMType'],
    ['rain metal', 'RAINMetl'],
    ['church bell', 'BELLLrg'],
    ['zipper', 'CLOTHZip'],
    ['thundr', 'WTHRThun'],
    ['elevtor', 'MACHElev'],
    ['helicoptor', 'AEROHeli'],
  ])('“%s” leads to %s first', (text, catId) => {
    expect(first(text)).toBe(catId);
  });

  test.each([
    ['Holz', 'WOOD'],
    ['métal', 'METAL'],
    ['lluvia', 'RAIN'],
    ['porta', 'DOORS'],
    ['風', 'WIND'],
    ['玻璃', 'GLASS'],
    ['Schri', 'FOOTSTEPS'],
  ])('“%s” finds %s in its own language', (text, category) => {
    expect(findCategories(text).map((c) => c.category)).toContain(category);
  });

  test('the first synonym of rows all over the list finds the row', () => {
    const sample = shipped.filter((_, i) => i % 7 === 3);
    const lost = sample.flatMap((c) =>
      findCategories(c.synonyms[0]).some((f) => f.catId === c.catId) ? [] : [c.catId],
    );
    expect(lost).toEqual([]);
  });

  test('nothing is found for nonsense, everything for nothing', () => {
    expect(findCategories('qqqzzzx')).toEqual([]);
    expect(findCategories('  ')).toHaveLength(categories.length);
  });
});

describe('languages', () => {
  test('each category has a name in each of the eight', () => {
    for (const name of new Set(shipped.map((c) => c.category)))
      for (const l of languages)
        expect([name, l, (categoryWords.get(name)?.[l] ?? []).length > 0]).toEqual([name, l, true]);
    expect(Object.keys(languageNames)).toEqual([...languages]);
    expect(foreignWords.get('regen')).toContain('rain');
  });

  test('a word means categories, when begun from four letters on', () => {
    expect(categoriesInAnyLanguage('feuer', false)).toEqual(['FIRE']);
    expect(categoriesInAnyLanguage('feue', true)).toContain('FIRE');
    expect(categoriesInAnyLanguage('feu', true)).toEqual(['FIRE']);
    expect(categoriesInAnyLanguage('fe', true)).toEqual([]);
    expect(catIdsInAnyLanguage('holz', false)).toContain('WOODImpt');
  });

  test('a search in another language finds sounds of the category, behind those that have the word', () => {
    const index = new SoundIndex(catIdsInAnyLanguage);
    index.put([
      { id: 1, fields: { fxName: 'Plank drop', catId: 'WOODImpt' } },
      { id: 2, fields: { fxName: 'Holz', catId: 'FIREBurn' } },
      {
        id: 3,
        fields: { fxName: 'Gate', 'description@de': 'Altes Holztor, Holz auf Holz', 'keywords@fr': ['bois', 'vieux'] },
      },
      { id: 4, fields: { fxName: 'Gong', catId: 'METLTonl' } },
    ]);
    const find = (text: string) => [...index.search({ query: parseQuery(text).query }).ids];
    expect(find('holz ')).toEqual([2, 3, 1]);
    expect(find('vieux ')).toEqual([3]);
    expect(find('category:holz ')).toEqual([1]);
    expect(find('name:holz ')).toEqual([2]);
    expect(find('-holz gong')).toEqual([4]);
  });
});

describe('own rows and newer lists', () => {
  const own = (catId: string, more: Partial<OwnCategory> = {}): OwnCategory => ({
    id: 1,
    own: true,
    category: 'LOCKS',
    subCategory: 'SLUICE',
    catId,
    catShort: 'LOCK',
    explanation: 'Gates that hold water',
    synonyms: ['sluice gate', 'weir gate'],
    ...more,
  });

  test('stand beside ours, are found, and go again', () => {
    useCategories([own('LOCKSlui')]);
    expect(categoryOf('LOCKSlui')?.subCategory).toBe('SLUICE');
    expect(findCategories('weir gate')[0].catId).toBe('LOCKSlui');
    expect(categoryName('LOCKSlui')).toBe('Locks, sluice');
    expect(categories).toHaveLength(shipped.length + 1);
    useCategories([]);
    expect(categoryOf('LOCKSlui')).toBeUndefined();
    expect(categoryName('LOCKSlui')).toBe('LOCKSlui');
  });

  test('a row of a newer list takes the place of ours, in its place', () => {
    useCategories([own('WOODImpt', { category: 'WOOD', subCategory: 'IMPACT', explanation: 'New words' })]);
    expect(categoryOf('WOODImpt')?.explanation).toBe('New words');
    expect(categories).toHaveLength(shipped.length);
    expect(categories.findIndex((c) => c.catId === 'WOODImpt')).toBe(shipped.findIndex((c) => c.catId === 'WOODImpt'));
  });
});

describe('a newer sheet of the list', () => {
  const head = ['CatID', 'Category', 'SubCategory', 'CatShort', 'Explanations', 'Synonyms - Comma Separated'];
  const read = (rows: string[][], columns = head) => categoriesFromSheet({ columns, rows, faults: [] });
  const ours = (catId: string) => {
    const c = shipped.find((s) => s.catId === catId)!;
    return [c.catId, c.category, c.subCategory, c.catShort, c.explanation, c.synonyms.join(', ')];
  };

  test('that says what we say brings nothing', () => {
    expect(read(shipped.map((c) => ours(c.catId)))).toEqual([]);
  });

  test('brings rows that are new or differ, in whatever order its columns stand', () => {
    const other = [...ours('WOODImpt')];
    other[4] = 'New words';
    const found = read([other, ['NEWThing', 'New', 'Thing', 'NEW', 'Something', 'a, b,, c ']]);
    expect(found.map((c) => [c.catId, c.explanation])).toEqual([
      ['WOODImpt', 'New words'],
      ['NEWThing', 'Something'],
    ]);
    expect(found[1]).toEqual({
      catId: 'NEWThing',
      category: 'NEW',
      subCategory: 'THING',
      catShort: 'NEW',
      explanation: 'Something',
      synonyms: ['a', 'b', 'c'],
      own: false,
    });
  });

  test('what it leaves out stays, rows without a CatID are passed over', () => {
    const short = ['Category', 'SubCategory', 'CatID'];
    expect(
      read(
        [
          ['WOOD', 'IMPACT', 'WOODImpt'],
          ['', '', ''],
          ['WOOD', 'X', 'no id'],
        ],
        short,
      ),
    ).toEqual([]);
    const [renamed] = read([['WOOD', 'BLOW', 'WOODImpt']], short);
    expect(renamed).toMatchObject({ subCategory: 'BLOW', catShort: 'WOOD' });
    expect(renamed.synonyms).toEqual(categoryOf('WOODImpt')!.synonyms);
  });

  test('is refused when it is none', () => {
    expect(() => read([['a.wav', 'x']], ['Filename', 'Text'])).toThrow(/columns Category, SubCategory and CatID/);
    expect([isCatId('WOODImpt'), isCatId('WO'), isCatId('WOOD Impt'), isCatId('W/D')]).toEqual([
      true,
      false,
      false,
      false,
    ]);
  });
});

describe('words that a program knows by itself', () => {
  // Names of files are anything: these are also names of what every JavaScript object has.
  test.each(['constructor', 'toString', '__proto__', 'hasOwnProperty', 'valueOf'])(
    '%s is a word like any other',
    (word) => {
      const classifier = new Classifier(categories);
      const name = `${word} door creak`;
      expect(classifier.rank({ name, folder: word })[0].catId).toBe('DOORCrek');
      classifier.learn({ name: word, folder: '' }, 'METLFric');
      expect(() => classifier.rank({ name: word, folder: '' })).not.toThrow();
      expect(guessColumns([word, 'Filename'])).toEqual([undefined, 'file']);
      expect(() => findCategories(word)).not.toThrow();
      useCategories([
        {
          id: 1,
          own: true,
          category: word,
          subCategory: word,
          catId: 'constructor',
          catShort: '',
          explanation: word,
          synonyms: [word],
        },
      ]);
      const [first] = new Classifier(categories).rank({ name: word.toLowerCase(), folder: '' });
      expect(first.probability).toBeGreaterThan(0);
    },
  );
});

describe('files of recipes and stamps from elsewhere', () => {
  const recipe = (steps: unknown[]) =>
    JSON.stringify({ format: 'cormorant-recipes', version: 1, recipes: [{ name: 'R', steps }] }, null, 2);
  const read = (text: string) => checkedFile(text, validators.recipeFile, 'a.recipe.json');

  test('what we ship passes the check', () => {
    for (const { name, steps } of starters) expect([name, read(recipe([...steps]))]).toEqual([name, expect.anything()]);
  });

  test.each([
    ['{"format": ', /no JSON: line 1/],
    ['{\n  "a": 1,\n  oops\n}', /no JSON: line 3/],
    ['[]', /line 1, must be object/],
    [recipe([{ kind: 'conjure', on: true }]), /line 8, recipes, 0, steps, 0.*kind/],
    [
      recipe([
        { kind: 'clear', on: true, to: 'notes' },
        { kind: 'clear', on: 'yes', to: 'notes' },
      ]),
      /line 15, recipes, 0, steps, 1, on: must be boolean/,
    ],
    [recipe([{ kind: 'trim', on: true, to: 'fxName', side: 'middle', count: 0 }]), /side: must be equal to one of/],
    [recipe([{ kind: 'pad', on: true, to: 'fxName', side: 'end', with: ' ', width: -1 }]), /width: must be >= 0/],
    [recipe([{ kind: 'copy', on: true, to: 'fxName' }]), /must have required property 'from'/],
    [recipe([{ kind: 'clear', on: true, to: 'notes', run: 'rm' }]), /must NOT have additional properties/],
    [JSON.stringify({ format: 'cormorant-recipes', version: 2, recipes: [] }), /version: must be equal to constant/],
  ])('%#: the line and the fault are told', (text, message) => {
    expect(() => read(text)).toThrow(message);
  });

  test('a stamp holds texts by field and nothing else', () => {
    const stamps = (values: unknown) =>
      JSON.stringify({ format: 'cormorant-stamps', version: 1, stamps: [{ name: 'Yard', values }] });
    const check = (text: string) => checkedFile(text, validators.stampFile, 'Stamps.json');
    expect(check(stamps({ library: 'Yard' }))).toMatchObject({ stamps: [{ name: 'Yard' }] });
    expect(() => check(stamps({ library: 5 }))).toThrow(
      /Stamps.json is not as expected: line 1, stamps, 0, values, library: must be string/,
    );
  });
});

describe('corrected CatIDs', () => {
  afterEach(() => useCategories([]));

  test('Category and SubCategory name a CatID, however they are written', () => {
    for (const c of categories) expect(catIdOf(c.category.toLowerCase(), ` ${c.subCategory} `)).toBe(c.catId);
    expect(catIdOf('DOORS', 'NONE')).toBeUndefined();
  });

  test('a sheet that has another CatID for a pair takes the place of ours, and says what became of it', () => {
    expect(successorOf('MAGCSpel')).toBe('MAGSpel');
    expect(categoryOf('MAGSpel')).toMatchObject({ category: 'MAGIC', catShort: 'MAG' });
    expect(successorOf('DOORWood')).toBeUndefined();
    const row = { ...categoryOf('MAGSpel')!, catId: 'MAGSpell', id: 1, own: false };
    useCategories([row]);
    expect(categoryOf('MAGSpel')).toBeUndefined();
    expect(categories.filter((c) => c.category === 'MAGIC' && c.subCategory === row.subCategory)).toEqual([row]);
    expect(successorOf('MAGSpel')).toBe('MAGSpell');
    expect(successorOf('MAGCSpel')).toBe('MAGSpell');
    // A row that somebody made by hand stands beside ours.
    useCategories([{ ...row, own: true }]);
    expect(categoryOf('MAGSpel')).toBeDefined();
  });
});
