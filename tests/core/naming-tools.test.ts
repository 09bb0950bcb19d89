import {
  caseForms,
  fieldsOf,
  inCase,
  NamePattern,
  nameFaults,
  PatternFault,
  RecipeRun,
  ShortNames,
  starters,
  stem,
  UCS_PATTERN,
  type Outcome,
  type Step,
  type Texts,
} from '@core/naming';
import { isField } from '@core/library';
import fc from 'fast-check';

describe('stems', () => {
  test.each([
    ['sliding', 'slides', 'slide', 'slid'],
    ['harbours', 'harbors', 'harbour'],
    ['dripping', 'drips', 'drip', 'dripped'],
    ['squeaky', 'squeaks', 'squeaking', 'squeak'],
    ['matches', 'match', 'matching'],
    ['tyres', 'tire', 'tires', 'tyre'],
    ['knives', 'knife'],
    ['centre', 'center', 'centres'],
  ])('%s has the stem of its kin', (first, ...others) => {
    for (const other of others) expect(stem(other)).toBe(stem(first));
  });

  test('words that only look like forms of others stay apart', () => {
    expect(stem('glass')).not.toBe(stem('glas'));
    expect(stem('bus')).toBe('bus');
    expect(stem('ring')).toBe('ring');
    expect(stem('bed')).toBe('bed');
    expect(stem('wing')).not.toBe(stem('w'));
    expect(stem('犬')).toBe('犬');
  });

  test('a stem is the same however often it is taken of a plural', () => {
    fc.assert(
      fc.property(fc.stringMatching(/^[b-df-hj-np-rtv-z]{2,6}[aiou][b-df-hj-np-rtv-w]$/), (word) => {
        expect(stem(`${word}s`)).toBe(stem(word));
      }),
    );
  });
});

describe('case', () => {
  test.each([
    ['title', 'the wind in the willows of UCS', 'The Wind in the Willows of UCS'],
    ['title', 'DOOR CREAK AND SLAM', 'Door Creak and Slam'],
    ['title', 'boots on', 'Boots On'],
    ['title', 'SM57 at 96k on 4x4', 'SM57 at 96k on 4x4'],
    ['title', "the sailor's rope", "The Sailor's Rope"],
    ['sentence', 'Heavy Rain ON Tin', 'Heavy rain ON tin'],
    ['sentence', 'ALL CAPS HERE', 'All caps here'],
    ['camel', 'harbor winch  slow-wet', 'harborWinchSlowWet'],
    ['upper', 'straße', 'STRASSE'],
    ['lower', 'ÄÖ İ', 'äö i̇'],
    ['first', 'élan vital', 'Élan vital'],
  ] as const)('%s of “%s”', (form, text, wanted) => {
    expect(inCase(text, form)).toBe(wanted);
  });

  // In capitals and small letters mixed, what is all in capitals is a code; once all is large, nothing is.
  test('each form, taken twice of small letters, is what it was after once', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...caseForms),
        fc.string({ unit: fc.constantFrom(...'abcxyz -_1é') }),
        (form, text) => {
          const once = inCase(text, form);
          // Joined words begin anew wherever camel case stands; all other forms rest.
          if (form !== 'camel') expect(inCase(once, form)).toBe(once);
          if (form !== 'camel') expect(once.toLowerCase()).toBe(text.toLowerCase());
        },
      ),
    );
  });
});

describe('name patterns', () => {
  const values = { catId: 'BOATMech', fxName: 'Winch Slow', creatorId: 'TWA', sourceId: 'TIDE' };
  const of = (v: Record<string, string | undefined>) => (key: string) => v[key];

  test('the pattern of the category system makes its names and reads them', () => {
    const ucs = new NamePattern(UCS_PATTERN);
    expect(ucs.keys).toEqual([
      'catId',
      'userCategory',
      'vendorCategory',
      'fxName',
      'creatorId',
      'sourceId',
      'userData',
    ]);
    expect(ucs.compose(of(values))).toBe('BOATMech_Winch Slow_TWA_TIDE');
    const full = { ...values, userCategory: 'Deck', vendorCategory: 'WIN', userData: 'take 3_wet' };
    expect(ucs.compose(of(full))).toBe('BOATMech-Deck_WIN-Winch Slow_TWA_TIDE_take 3_wet');
    expect(ucs.parse('BOATMech-Deck_WIN-Winch Slow_TWA_TIDE_take 3_wet')).toEqual(full);
    expect(ucs.parse('BOATMech_Winch Slow_TWA_TIDE')).toEqual(values);
  });

  test('borders of what is not known are left off at the end, and the name still reads back', () => {
    const ucs = new NamePattern(UCS_PATTERN);
    const name = ucs.compose(of({ catId: 'RAINMetl', fxName: 'Roof' }));
    expect(name).toBe('RAINMetl_Roof');
    expect(ucs.parse(name)).toEqual({ catId: 'RAINMetl', fxName: 'Roof' });
  });

  const word = fc.stringMatching(/^[A-Za-z0-9äöü][A-Za-z0-9äöü ]{0,10}[A-Za-z0-9]$/);
  test.each([
    UCS_PATTERN,
    '{library} - {fxName} ({take})',
    '[{project}~]{scene}.{take}',
    '{fxName}',
    'A{take}B{scene}C',
  ])('composing with %s and parsing are inverse for values without its borders', (source) => {
    const pattern = new NamePattern(source);
    const groups = [...source.matchAll(/\[([^\]]*)\]/g)].map((m) => m[1]).join();
    const record = Object.fromEntries(
      pattern.keys.map((k) => [k, groups.includes(`{${k}}`) ? fc.option(word, { nil: undefined }) : word]),
    );
    fc.assert(
      fc.property(fc.record(record), (filled) => {
        const known = Object.fromEntries(Object.entries(filled).filter(([, v]) => v !== undefined)) as Record<
          string,
          string
        >;
        // Letters that the pattern itself is made of are borders there.
        fc.pre(!source.startsWith('A{') || !/[BC]/.test(Object.values(known).join('')));
        expect(pattern.parse(pattern.compose(of(known)))).toEqual(known);
      }),
    );
  });

  test.each([
    ['{fxName', 0, /brace is not closed/],
    ['{fxName}]', 8, /closes nothing/],
    ['[{fxName}', 0, /bracket is not closed/],
    ['{fxName}{take}', 8, /something between/],
    ['{take}[{fxName}]', 7, /something between/],
    ['{take}_{take}', 7, /stands twice/],
    ['[a[b]]', 2, /cannot hold another/],
    ['plain', 0, /names no field/],
    ['{}', 0, /names no field/],
    ['{a b}', 0, /names no field/],
    ['{fxName}}', 8, /opens nothing/],
  ])('%s is refused at character %i', (source, at, message) => {
    let fault: unknown;
    try {
      new NamePattern(source);
    } catch (error) {
      fault = error;
    }
    expect(fault).toBeInstanceOf(PatternFault);
    expect((fault as PatternFault).at).toBe(at);
    expect((fault as PatternFault).message).toMatch(message);
  });

  test('any text is a pattern or a fault with a place inside of it, never another error', () => {
    fc.assert(
      fc.property(fc.string({ unit: fc.constantFrom(...'{}[]ab-_^.\\$+ ') }), fc.string(), (source, name) => {
        try {
          new NamePattern(source).parse(name);
        } catch (error) {
          expect(error).toBeInstanceOf(PatternFault);
          expect((error as PatternFault).at).toBeLessThanOrEqual(source.length);
        }
      }),
    );
  });

  test.each([
    ['a/b.wav', /“\/” is not allowed/],
    ['what?.wav', /“\?” is not allowed/],
    ['a\u0007b.wav', /character 7/],
    ['con.wav', /device/],
    ['.hidden', /may not begin/],
    ['space .wav ', /may not begin or end/],
    [`${'ä'.repeat(130)}.wav`, /264 bytes are too long/],
    ['.wav', /empty|begin/],
  ])('%s cannot be a file name', (name, message) => {
    expect(nameFaults(name).join('; ')).toMatch(message);
  });

  test('good names are good', () => {
    for (const name of ['BOATMech_Winch_TWA_TIDE.wav', 'Fähre 🚢 (wet).aif', 'console.wav', 'a.b.c.flac'])
      expect(nameFaults(name)).toEqual([]);
  });
});

describe('short names', () => {
  const table = new ShortNames([
    { name: 'Tidewrack Audio', short: 'TWA' },
    { name: 'Sluice Yard', short: 'SLY' },
    { name: 'tidewrack audio', short: 'OTHER' },
  ]);

  test('are looked up both ways, in any case; the first entry counts', () => {
    expect(table.shorten(' tidewrack AUDIO ')).toBe('TWA');
    expect(table.expand('sly')).toBe('Sluice Yard');
    expect(table.shorten('Marram')).toBeUndefined();
    expect(table.expand('')).toBeUndefined();
  });
});

describe('recipes', () => {
  const shortNames = new ShortNames([{ name: 'Tidewrack Audio', short: 'TWA' }]);
  const run = (steps: (Step | Omit<Step, 'on'>)[], texts: Texts, index = 0): Outcome =>
    new RecipeRun({ steps: steps.map((s) => ({ on: true, ...s }) as Step) }, shortNames, isField).over(texts, index);
  const texts = (steps: (Step | Omit<Step, 'on'>)[], before: Texts, index = 0) => {
    const outcome = run(steps, before, index);
    if ('fault' in outcome) throw new Error(outcome.fault);
    return outcome.texts;
  };
  type S = Omit<Extract<Step, { kind: 'replace' }>, 'on'>;
  const replace = (find: string, by: string, more: Partial<S> = {}) =>
    ({ kind: 'replace', to: 'fxName', find, with: by, matchCase: false, wholeWords: false, ...more }) as Step;
  const pattern = (find: string, by: string, matchCase = false) =>
    ({ kind: 'pattern', to: 'fxName', find, with: by, matchCase }) as Step;

  test.each<[string, Step, Texts, Texts]>([
    ['copy', { kind: 'copy', on: true, from: 'file', to: 'fxName' }, { file: 'a.wav' }, { fxName: 'a.wav' }],
    [
      'set with fields',
      { kind: 'set', on: true, to: 'notes', text: '{library}: {take}{scene}' },
      { library: 'Yard', take: '3' },
      { notes: 'Yard: 3' },
    ],
    ['clear', { kind: 'clear', on: true, to: 'notes' }, { notes: 'x' }, { notes: '' }],
    [
      'trim spaces and signs',
      { kind: 'trim', on: true, to: 'fxName', side: 'both', count: 0, characters: '-]^' },
      { fxName: ' -^ a-b ]-' },
      { fxName: 'a-b' },
    ],
    [
      'trim one side',
      { kind: 'trim', on: true, to: 'fxName', side: 'start', count: 0 },
      { fxName: '  a ' },
      { fxName: 'a ' },
    ],
    [
      'trim characters, emoji whole',
      { kind: 'trim', on: true, to: 'fxName', side: 'end', count: 2 },
      { fxName: 'abc🚢d' },
      { fxName: 'abc' },
    ],
    [
      'trim both ends by count',
      { kind: 'trim', on: true, to: 'fxName', side: 'both', count: 1 },
      { fxName: '(a)' },
      { fxName: 'a' },
    ],
    [
      'title case',
      { kind: 'case', on: true, to: 'fxName', form: 'title' },
      { fxName: 'gate of iron' },
      { fxName: 'Gate of Iron' },
    ],
    [
      'split',
      { kind: 'split', on: true, from: 'fxName', by: '-', into: ['fxName', 'notes'] },
      { fxName: 'gate - slam - wet' },
      { fxName: 'gate', notes: 'slam-wet' },
    ],
    [
      'join without the empty',
      { kind: 'join', on: true, of: ['fxName', 'take', 'scene'], with: ' / ', to: 'notes' },
      { fxName: 'gate', scene: '4' },
      { notes: 'gate / 4' },
    ],
    ['pad', { kind: 'pad', on: true, to: 'take', width: 3, with: '0', side: 'start' }, { take: '7' }, { take: '007' }],
    [
      'pad nothing',
      { kind: 'pad', on: true, to: 'take', width: 3, with: '0', side: 'start' },
      { take: '' },
      { take: '' },
    ],
    [
      'short name',
      { kind: 'shortName', on: true, from: 'author', to: 'creatorId', way: 'shorten' },
      { author: 'tidewrack audio' },
      { creatorId: 'TWA' },
    ],
    [
      'long name',
      { kind: 'shortName', on: true, from: 'creatorId', to: 'author', way: 'expand' },
      { creatorId: 'twa' },
      { author: 'Tidewrack Audio' },
    ],
  ])('%s', (_, step, before, wanted) => {
    expect(texts([step], before)).toMatchObject(wanted);
  });

  test('text is replaced as text, and in whole words where asked', () => {
    expect(texts([replace('.', '-')], { fxName: 'a.b$c' })).toEqual({ fxName: 'a-b$c' });
    expect(texts([replace('cat', '$1')], { fxName: 'cat Cat' })).toEqual({ fxName: '$1 $1' });
    expect(texts([replace('cat', 'dog', { wholeWords: true })], { fxName: 'cat concat kätzcat' })).toEqual({
      fxName: 'dog concat kätzcat',
    });
    expect(texts([replace('Cat', 'x', { matchCase: true })], { fxName: 'Cat cat' })).toEqual({ fxName: 'x cat' });
  });

  test('patterns catch and put back', () => {
    expect(texts([pattern('(\\w+)_(\\w+)', '$2 $1')], { fxName: 'slam_Gate' })).toEqual({ fxName: 'Gate slam' });
    expect(texts([pattern('[A-Z]', '', true)], { fxName: 'aBc' })).toEqual({ fxName: 'ac' });
  });

  test('numbers count the sounds in their order', () => {
    const step = { kind: 'number', to: 'fxName', start: 5, by: 10, digits: 3, place: 'before', join: '_' } as Step;
    expect(texts([step], { fxName: 'hit' }, 2)).toEqual({ fxName: '025_hit' });
    expect(texts([{ ...step, place: 'after' } as Step], { fxName: 'hit' })).toEqual({ fxName: 'hit_005' });
    expect(texts([{ ...step, place: 'instead' } as Step], { fxName: 'hit' })).toEqual({ fxName: '005' });
    expect(texts([step], { fxName: '' })).toEqual({ fxName: '005' });
  });

  test('steps work on what those before left, those that are off do nothing', () => {
    const steps = [replace('a', 'b'), { ...replace('b', 'c'), on: false }, replace('b', 'd')];
    expect(texts(steps, { fxName: 'a' })).toEqual({ fxName: 'd' });
  });

  test.each([
    ['is', 'GATE', true],
    ['isNot', 'gate', false],
    ['contains', 'at', true],
    ['lacks', 'x', true],
    ['filled', undefined, true],
    ['empty', undefined, false],
    ['above', '3', false],
  ] as const)('a condition “%s %s” holds: %s', (test, value, holds) => {
    const step = { kind: 'clear', to: 'notes', when: { field: 'fxName', test, value } } as unknown as Step;
    expect(texts([step], { fxName: 'gate', notes: 'n' }).notes).toBe(holds ? '' : 'n');
  });

  test('numbers are compared as numbers', () => {
    const step = {
      kind: 'clear',
      to: 'notes',
      when: { field: 'length', test: 'above', value: '9' },
    } as unknown as Step;
    expect(texts([step], { length: '12.5', notes: 'n' }).notes).toBe('');
    expect(
      texts([{ ...step, when: { field: 'length', test: 'below', value: '9' } } as Step], { length: '', notes: 'n' })
        .notes,
    ).toBe('n');
  });

  test('what cannot be done says in which step and why, and leaves the sound alone', () => {
    const lookUp = { kind: 'shortName', to: 'creatorId', from: 'author', way: 'shorten' } as Step;
    expect(run([replace('a', 'b'), lookUp], { fxName: 'a', author: 'Nobody' })).toEqual({
      fault: '“Nobody” is not in the table of short names',
      step: 1,
    });
    const bad = new RecipeRun({ steps: [{ ...pattern('(', ''), on: true }] }, shortNames, isField);
    expect(bad.faults[0].message).toMatch(/pattern cannot be read/);
    expect(run([{ kind: 'copy', from: 'nosuch', to: 'fxName' } as Step], {})).toMatchObject({
      step: 0,
      fault: expect.stringContaining('nosuch'),
    });
    expect(run([replace('', 'x')], { fxName: 'a' })).toMatchObject({ fault: 'there is nothing to look for' });
    expect(run([{ kind: 'split', from: 'fxName', by: '', into: ['notes'] } as unknown as Step], {})).toMatchObject({
      step: 0,
    });
    expect(run([{ kind: 'split', from: 'fxName', by: ',', into: [] } as unknown as Step], {})).toMatchObject({
      fault: 'a field is not chosen yet',
    });
  });

  test('a watcher sees each step before it begins', () => {
    const seen: number[] = [];
    const steps = [replace('a', 'b'), { ...replace('b', 'c'), on: false }, pattern('c', 'd')].map((s): Step => ({
      ...s,
      on: s.on !== false,
    }));
    new RecipeRun(
      { steps },
      shortNames,
      () => true,
      (step) => seen.push(step),
    ).over({ fxName: 'a' });
    expect(seen).toEqual([0, 2]);
  });

  test('the recipes that ship use fields that there are, and run', () => {
    for (const recipe of starters) {
      const prepared = new RecipeRun(recipe, shortNames, isField);
      expect([recipe.name, prepared.faults]).toEqual([recipe.name, []]);
      for (const step of recipe.steps) expect(fieldsOf(step).writes.length).toBeGreaterThan(0);
    }
    const clean = starters.find((r) => r.name === 'Clean up names')!;
    expect(texts(clean.steps, { fxName: '-gate_iron..slam  take 03' })).toEqual({ fxName: 'Gate Iron Slam' });
  });

  test('inputs stay as they were, whatever the steps', () => {
    const step = fc.oneof(
      fc.record({
        kind: fc.constant('replace' as const),
        on: fc.boolean(),
        to: fc.constantFrom('fxName', 'notes'),
        find: fc.string({ minLength: 1 }),
        with: fc.string(),
        matchCase: fc.boolean(),
        wholeWords: fc.boolean(),
      }),
      fc.record({
        kind: fc.constant('case' as const),
        on: fc.boolean(),
        to: fc.constantFrom('fxName', 'notes'),
        form: fc.constantFrom(...caseForms),
      }),
      fc.record({
        kind: fc.constant('copy' as const),
        on: fc.boolean(),
        from: fc.constantFrom('fxName', 'notes'),
        to: fc.constantFrom('fxName', 'notes'),
      }),
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 5 }), fc.string(), fc.string(), (steps, fxName, notes) => {
        const before = { fxName, notes };
        const outcome = new RecipeRun({ steps }, shortNames, isField).over(before);
        expect(before).toEqual({ fxName, notes });
        expect(Object.keys('texts' in outcome ? outcome.texts : {}).sort()).toEqual(['fxName', 'notes']);
      }),
    );
  });
});
