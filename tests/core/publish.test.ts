import { contentsOf, licenceText, planLibrary, treeOf, UNLABELLED, type PublishHow, type Sound } from '@core/library';
import { nameFaults } from '@core/naming';
import fc from 'fast-check';
import { soundOf } from '../helpers/catalogue';

const how = (by: Partial<PublishHow> = {}): PublishHow => ({
  title: 'T',
  tree: '{library}/{category}',
  names: '',
  format: { kind: 'own' },
  ...by,
});
const sound = (id: number, path: string, fields: Record<string, string> = {}): Sound => ({
  ...soundOf(id, { library: 'Yard', ...fields }),
  path,
  size: 1000 * id,
});
const paths = (sounds: Sound[], by?: Partial<PublishHow>) => planLibrary(sounds, how(by), new Map()).map((r) => r.path);

test('folders and names by fields; what lacks one is told and has a folder of its own', () => {
  const [gate, bare] = planLibrary(
    [sound(1, 'a/gate.wav', { category: 'DOORS', fxName: 'Gate' }), sound(2, 'b/x.flac')],
    how({ names: '{fxName} [take {take}]' }),
    new Map(),
  );
  expect(gate).toMatchObject({ path: 'Yard/DOORS/Gate.wav', lacks: ['Take'], faults: [], bytes: 1000 });
  expect(bare.path).toBe(`Yard/${UNLABELLED}/Sound 2.flac`);
  expect(bare.lacks).toEqual(expect.arrayContaining(['Category', 'Take']));
  expect(paths([sound(1, 'a/gate.wav')], { tree: 'Sold/{library}', format: { kind: 'flac' } })).toEqual([
    'Sold/Yard/gate.flac',
  ]);
  expect(paths([sound(1, 'a/gate.wav')], { tree: '' })).toEqual(['gate.wav']);
});

test('two of one path, also by case alone, are told apart and it is said', () => {
  const rows = planLibrary(
    [sound(1, 'a/Gate.wav'), sound(2, 'b/gate.WAV'), sound(3, 'c/gate.wav')],
    how({ tree: '' }),
    new Map(),
  );
  expect(rows.map((r) => r.path)).toEqual(['Gate.wav', 'gate 2.WAV', 'gate 3.wav']);
  expect(rows[1].notes).toContain('another one has this name, so it got a number');
});

test('what file systems refuse is written otherwise, or told; missing files and 32-bit FLAC are faults', () => {
  const [odd] = planLibrary(
    [sound(1, 'x.wav', { category: 'A/B: "C"', fxName: 'x'.repeat(300) })],
    how({ names: '{fxName}' }),
    new Map(),
  );
  expect(odd.path.split('/')[1]).toBe('A-B- -C-');
  expect(odd.faults.join()).toContain('255 are allowed');
  expect(planLibrary([sound(1, 'x.wav', { state: 'Missing' })], how(), new Map())[0].faults).toEqual([
    'its file is missing',
  ]);
  expect(planLibrary([sound(1, 'x.wav')], how({ format: { kind: 'flac', bits: 32 } }), new Map())[0].faults).toEqual([
    'FLAC holds 16 or 24 bit',
  ]);
});

test('whatever fields say, no path leaves the library, and no two are one', () => {
  const text = fc.string({ maxLength: 30, unit: fc.constantFrom(...'ab/\\.:*? "<>|é日\u0001'.split('')) });
  fc.assert(
    fc.property(fc.array(fc.tuple(text, text, text), { minLength: 1, maxLength: 20 }), (given) => {
      const sounds = given.map(([library, category, fxName], i) =>
        sound(i + 1, 'a.wav', { library, category, fxName }),
      );
      const rows = planLibrary(sounds, how({ names: '{fxName}' }), new Map());
      expect(new Set(rows.map((r) => r.path.toLowerCase())).size).toBe(rows.length);
      for (const { path, faults } of rows)
        for (const part of path.split('/')) if (faults.length === 0) expect(nameFaults(part)).toEqual([]);
    }),
    { numRuns: 300 },
  );
});

test('the tree counts what lies in it, folders first, closed ones without their content', () => {
  const rows = planLibrary(
    [sound(1, 'b2.wav', { category: 'DOORS' }), sound(2, 'b10.wav', { category: 'DOORS' }), sound(3, 'a.wav')],
    how(),
    new Map(),
  );
  const shown = treeOf(rows).map((l) => `${' '.repeat(l.depth)}${l.name} ${l.count} ${l.bytes} ${l.lacking}`);
  expect(shown).toEqual([
    'Yard 3 6000 1',
    ' DOORS 2 3000 0',
    '  b2.wav 1 1000 0',
    '  b10.wav 1 2000 0',
    ` ${UNLABELLED} 1 3000 1`,
    '  a.wav 1 3000 1',
  ]);
  expect(treeOf(rows, new Set(['Yard/DOORS'])).map((l) => l.name)).toEqual(['Yard', 'DOORS', UNLABELLED, 'a.wav']);
});

test('contents and licence to read', () => {
  const sounds = [
    sound(1, 'a.wav', { licence: 'CC BY 4.0', description: 'Oak\ngate' }),
    sound(2, 'b.wav'),
    sound(3, 'c.wav', { licence: 'CC BY 4.0' }),
  ];
  const rows = planLibrary(sounds, how({ tree: '{library}' }), new Map());
  expect(contentsOf('Doors', rows, (id) => sounds[id - 1])).toBe(
    'Doors\r\n=====\r\n\r\n3 sounds\r\n\r\nYard (3)\r\n  a.wav  0:01.0  Oak gate\r\n  b.wav  0:01.0\r\n  c.wav  0:01.0\r\n',
  );
  const text = licenceText('Doors', sounds, 'Mine.');
  expect(text).toContain('Mine.\r\n');
  expect(text).toContain(
    'CC BY 4.0: 2 sounds\r\n  https://creativecommons.org/licenses/by/4.0/\r\n  Name the author. Paid work is allowed.',
  );
  expect(text).toContain('Not stated: 1 sound');
});
