import { catIdOf, categoryOf } from '@core/suggest';
import {
  decodeText,
  guessColumns,
  matchSheet,
  neutral,
  readDelimited,
  restored,
  sheetCells,
  sheetOf,
  writeDelimited,
  type Matchable,
  type MatchedRow,
  type Policy,
} from '@core/library';
import fc from 'fast-check';
import { soundOf } from '../helpers/catalogue';

const bytes = (text: string) => new TextEncoder().encode(text);
const tags = new Map([
  [11, 'rusty'],
  [12, 'a, b'],
]);

describe('reading', () => {
  test.each([
    ['commas', 'Filename,Text\r\na.wav,"one, two"\r\n'],
    ['semicolons', 'Filename;Text\na.wav;one, two\n'],
    ['tabs', 'Filename\tText\na.wav\tone, two'],
    ['a mark before', '\ufeffFilename,Text\na.wav,"one, two"'],
    ['empty lines', '\n\nFilename,Text\n\na.wav,"one, two"\n,\n\n'],
  ])('cells between %s', (_, text) => {
    expect(readDelimited(bytes(text))).toMatchObject({ columns: ['Filename', 'Text'], rows: [['a.wav', 'one, two']] });
  });

  test('line ends and quotes inside of a cell are kept', () => {
    expect(readDelimited(bytes('A,B\n"x\r\ny","say ""hi"""\n')).rows).toEqual([['x\r\ny', 'say "hi"']]);
  });

  test.each([
    ['UTF-8', [...bytes('Fähre')]],
    ['Windows-1252', [0x46, 0xe4, 0x68, 0x72, 0x65]],
    ['UTF-16 little', [0xff, 0xfe, ...[...'Fähre'].flatMap((c) => [c.charCodeAt(0), 0])]],
    ['UTF-16 big', [0xfe, 0xff, ...[...'Fähre'].flatMap((c) => [0, c.charCodeAt(0)])]],
  ])('%s is understood', (_, raw) => {
    expect(decodeText(Uint8Array.from(raw)).replace(/^\ufeff/, '')).toBe('Fähre');
  });

  test('curly quotes and dashes of Windows-1252 come out as such', () => {
    expect(decodeText(Uint8Array.from([0x93, 0x61, 0x94, 0x96]))).toBe('“a”–');
  });

  test.each([
    ['', /empty/],
    ['\n\n  \n', /empty/],
    ['Filename,Text\n', /one row only/],
    ['PK\u0000\u0001', /no text file/],
  ])('“%s” is refused in words', (text, message) => {
    expect(() => readDelimited(bytes(text))).toThrow(message);
  });

  test('a quote that is never closed, a row too long and a giant cell are told by row, the rest is read', () => {
    const open = readDelimited(bytes('A,B\n1,2\n"3,4\n5,6\n'));
    expect(open.faults[0].message).toMatch(/quote/);
    expect(open.rows[0]).toEqual(['1', '2']);
    const long = sheetOf([['A', 'B'], ['1', '2', '3', ''], ['4']]);
    expect(long.rows).toEqual([
      ['1', '2'],
      ['4', ''],
    ]);
    expect(long.faults).toEqual([
      { row: 2, message: 'has 3 cells under 2 columns; the rest is left out'.replace('3 cells', '4 cells') },
    ]);
    const giant = sheetOf([
      ['A', 'B'],
      ['x'.repeat(10_000_000), '2'],
    ]);
    expect(giant.rows).toEqual([['', '2']]);
    expect(giant.faults[0].message).toBe('the cell under “A” has 10000000 characters and is left out');
  });

  test('nothing that comes in breaks the reader', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 300 }), (raw) => {
        try {
          const sheet = readDelimited(raw);
          for (const row of sheet.rows) expect(row).toHaveLength(sheet.columns.length);
        } catch (error) {
          expect((error as Error).message).toMatch(/empty|one row|no text/);
        }
      }),
    );
  });
});

describe('cells that a spreadsheet would run', () => {
  test.each(['=1+1', '+cmd', '@SUM(A1)', '-2+3', '\t=x', "'=x", "''+a"])(
    '%s is made harmless and comes back',
    (text) => {
      expect(neutral(text)).toMatch(/^'/);
      expect(restored(neutral(text))).toBe(text);
    },
  );

  test.each(['-12.5', '+4', 'plain', "'quoted'", '', 'a=b'])('%s stays as it is', (text) => {
    expect(neutral(text)).toBe(text);
    expect(restored(text)).toBe(text);
  });

  test('whatever is written is read back the same', () => {
    const cell = fc.string({ unit: fc.constantFrom(...`'"=+-@,;\t\n ab1ü🚢`) }).filter((c) => c.trim() === c);
    fc.assert(
      fc.property(
        fc.array(fc.tuple(cell, cell), { minLength: 1, maxLength: 6 }),
        fc.constantFrom(',' as const, '\t' as const),
        (rows, delimiter) => {
          fc.pre(rows.every((r) => r.some((c) => c !== '')));
          const text = writeDelimited([['Head one', 'Head two'], ...rows], delimiter);
          const sheet = sheetOf(sheetCellsOf(text, delimiter));
          expect(sheet.rows).toEqual(rows);
        },
      ),
    );
  });
});

/** Cells of a written sheet, parsed apart from our reader's guess of what parts them. */
function sheetCellsOf(text: string, delimiter: string): string[][] {
  const rows: string[][] = [[]];
  let cell = '';
  let quoted = false;
  const body = text.replace(/^\ufeff/, '');
  for (let i = 0; i < body.length; i++) {
    const c = body[i];
    if (quoted && c === '"' && body[i + 1] === '"') cell += body[++i];
    else if (c === '"') quoted = !quoted;
    else if (!quoted && c === delimiter) {
      rows[rows.length - 1].push(cell);
      cell = '';
    } else if (!quoted && c === '\r' && body[i + 1] === '\n') {
      rows[rows.length - 1].push(cell);
      cell = '';
      rows.push([]);
      i++;
    } else cell += c;
  }
  return rows.slice(0, -1);
}

describe('what columns are', () => {
  test('is guessed from the heads of this trade, of the registry and of other languages', () => {
    expect(
      guessColumns([
        'Filename',
        'Cat ID',
        'FX Name',
        'Description',
        'KEYWORDS',
        'Description (de)',
        'Rating',
        'Price',
        'Library',
        'keywords@fr',
      ]),
    ).toEqual([
      'file',
      'catId',
      'fxName',
      'description',
      'keywords',
      'description@de',
      'stars',
      undefined,
      'library',
      'keywords@fr',
    ]);
  });

  test('no field is given twice, and what is measured is not filled from sheets', () => {
    expect(guessColumns(['Description', 'Comment', 'Length', 'Loudness', 'Fingerprint', 'Path'])).toEqual([
      'description',
      undefined,
      undefined,
      undefined,
      'hash',
      'path',
    ]);
  });
});

const list = { has: (id: string) => categoryOf(id) !== undefined, idOf: catIdOf };

describe('matching', () => {
  const sound = (id: number, path: string, fields = {}, hash?: string): Matchable => ({
    ...soundOf(id, fields),
    path,
    hash,
  });
  const sounds = [
    sound(1, 'Iron/pawl-01.wav', { description: 'Pawl' }, 'aa11'),
    sound(2, 'Iron/pawl-02.wav', { keywords: ['wet', 'iron'] }, 'bb22'),
    sound(3, 'Timber/knock.aif'),
    sound(4, 'Rope/knock.aif'),
  ];
  const match = (head: string[], rows: string[][], policies: Record<string, Policy> = {}): MatchedRow[] =>
    matchSheet({ columns: head, rows, faults: [] }, guessColumns(head), policies, sounds, tags, list);

  test('by name with or without ending, by path from above or below, by fingerprint', () => {
    const by = (head: string, text: string) => match([head, 'Notes'], [[text, 'n']])[0];
    expect(by('Filename', 'PAWL-01.WAV')).toMatchObject({
      soundId: 1,
      by: 'file',
      state: 'new',
      texts: { notes: 'n' },
    });
    expect(by('Filename', 'pawl-02')).toMatchObject({ soundId: 2 });
    expect(by('Filename', 'Timber/knock.aif')).toMatchObject({ soundId: 3 });
    expect(by('Path', 'D:\\Library\\Rope\\knock.aif')).toMatchObject({ soundId: 4 });
    expect(by('Path', 'knock.aif')).toMatchObject({ state: 'twice' });
    expect(by('Filename', 'knock.aif')).toMatchObject({ state: 'twice' });
    expect(by('Fingerprint', 'BB22')).toMatchObject({ soundId: 2, by: 'hash' });
    expect(by('Filename', 'nothing.wav')).toMatchObject({ state: 'missing', texts: {} });
    expect(by('Filename', '')).toMatchObject({ state: 'missing' });
  });

  test('a fingerprint is trusted before a name, and a renamed file is found by it', () => {
    expect(match(['Filename', 'Fingerprint', 'Notes'], [['renamed.wav', 'aa11', 'n']])[0]).toMatchObject({
      soundId: 1,
      by: 'hash',
    });
    expect(match(['Filename', 'Fingerprint', 'Notes'], [['pawl-02.wav', 'ffff', 'n']])[0]).toMatchObject({
      soundId: 2,
      by: 'file',
    });
  });

  test('copies share a fingerprint: name or path tell them apart', () => {
    const copies = [sound(1, 'a/one.wav', {}, 'cc'), sound(2, 'b/two.wav', {}, 'cc'), sound(3, 'b/one.wav', {}, 'cc')];
    const rows = [
      ['one.wav', 'b/one.wav', 'cc'],
      ['two.wav', '', 'cc'],
      ['one.wav', '', 'cc'],
      ['', '', 'cc'],
    ];
    const head = ['Filename', 'Path', 'Fingerprint'];
    const found = matchSheet({ columns: head, rows, faults: [] }, guessColumns(head), {}, copies, tags, list);
    expect(found.map((r) => r.soundId ?? r.state)).toEqual([3, 2, 'twice', 'twice']);
  });

  test('CatID, Category and SubCategory are three columns: two of them stand for the third, and what is in no list is refused', () => {
    const head = ['Filename', 'CatID', 'Category', 'SubCategory', 'Notes'];
    expect(guessColumns(head)).toEqual(['file', 'catId', 'category', 'subCategory', 'notes']);
    const row = (...cells: string[]) => match(head, [['pawl-01.wav', ...cells, 'n']])[0];
    expect(row('', 'Doors', 'wood')).toMatchObject({ state: 'new', texts: { catId: 'DOORWood', notes: 'n' } });
    expect(row('', '', '')).toMatchObject({ state: 'new', texts: { notes: 'n' } });
    expect(row('FEETHmn', 'DOORS', 'WOOD').texts).toEqual({ catId: 'FEETHmn', notes: 'n' });
    for (const [cells, reason] of [
      [['DOORNone', '', ''], 'the CatID “DOORNone” is not in the category list'],
      [['', 'DOORS', 'JAM'], 'the category list has no “DOORS, JAM”'],
      [['', 'DOORS', ''], 'the Category “DOORS” needs a SubCategory beside it'],
      [['', '', 'WOOD'], 'the SubCategory “WOOD” stands without a Category'],
    ] as const)
      expect(row(...cells)).toEqual({ row: 0, state: 'refused', soundId: 1, by: 'file', texts: {}, reason });
    const named = match(['Filename', 'Category', 'SubCategory'], [['pawl-01.wav', 'DOORS', 'WOOD']])[0];
    expect(named.texts).toEqual({ catId: 'DOORWood' });
  });

  test('two rows of one sound: the second one is told', () => {
    expect(
      match(
        ['Filename', 'Notes'],
        [
          ['pawl-01.wav', 'a'],
          ['pawl-01.wav', 'b'],
        ],
      ).map((r) => r.state),
    ).toEqual(['new', 'twice']);
  });

  test.each<[Policy, string, MatchedRow['state'], Record<string, string>]>([
    ['fill', 'Gear', 'conflict', {}],
    ['replace', 'Gear', 'conflict', { description: 'Gear' }],
    ['append', 'Gear', 'conflict', { description: 'Pawl Gear' }],
    ['leave', 'Gear', 'same', {}],
    ['replace', 'Pawl', 'same', {}],
    ['replace', '', 'same', {}],
  ])('%s with “%s” is %s', (policy, said, state, texts) => {
    expect(match(['Filename', 'Description'], [['pawl-01.wav', said]], { description: policy })[0]).toMatchObject({
      state,
      texts,
    });
  });

  test('words of lists are added once, in any spelling of the list', () => {
    const add = (text: string, policy: Policy) =>
      match(['Filename', 'Keywords'], [['pawl-02.wav', text]], { keywords: policy })[0];
    expect(add('iron; rusty', 'append').texts).toEqual({ keywords: 'wet, iron, rusty' });
    expect(add('wet;iron', 'replace').state).toBe('same');
    expect(add('iron', 'append').texts).toEqual({});
  });

  test('what was written of any sounds changes none of them when it is read again', () => {
    const text = fc
      .string({ unit: fc.constantFrom(...'ab ,;=-"\n🚢') })
      .map((t) => t.trim())
      .filter(Boolean);
    const fields = fc.record(
      {
        description: text,
        keywords: fc.uniqueArray(
          text.filter((t) => !/[;\n]/.test(t)),
          { minLength: 1, maxLength: 3 },
        ),
        tags: fc.constant([11, 12]),
        stars: fc.integer({ min: 1, max: 5 }),
        notes: text,
      },
      { requiredKeys: [] },
    );
    fc.assert(
      fc.property(fc.array(fields, { minLength: 1, maxLength: 5 }), (all) => {
        const own = all.map((f, i) => sound(i + 1, `Folder ${i}/same name.wav`, f, i % 2 ? undefined : `hash${i}`));
        const keys = ['description', 'keywords', 'tags', 'stars', 'notes'];
        const written = writeDelimited(sheetCells(own, keys, tags), ',');
        const sheet = readDelimited(bytes(written));
        const policies = Object.fromEntries(keys.map((k) => [k, 'replace' as const]));
        const rows = matchSheet(sheet, guessColumns(sheet.columns), policies, own, tags, list);
        expect(rows.map((r) => r.state)).toEqual(own.map(() => 'same'));
        expect(rows.map((r) => r.soundId)).toEqual(own.map((s) => s.id));
      }),
    );
  });
});
