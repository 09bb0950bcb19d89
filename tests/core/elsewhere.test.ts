import {
  anything,
  askOf,
  contourCode,
  contourOf,
  labelsOfOpen,
  licencesMeant,
  rowOf,
  widened,
  type OpenAsk,
} from '@core/elsewhere';
import { licences } from '@core/library';
import { conflictOf, creditOf, jobs } from '@core/scene';
import { checked, validators, type OpenPage } from '@core/schemas';
import fc from 'fast-check';
import { openSound } from '../helpers/open-sounds';

// What is asked of a service of open sounds, and what its answers become here.

const asks: [string, Partial<OpenAsk>, string[]][] = [
  ['', {}, []],
  ['ferry bell', { words: ['ferry', 'bell'] }, []],
  ['creak*', { words: ['creak*'] }, []],
  ['“slow drip” -tap', { words: ['slow', 'drip'], without: ['tap'] }, []],
  ['name:bell keywords:signal', { words: ['bell', 'signal'] }, []],
  ['bell length:<2s', { words: ['bell'], longest: 2 }, []],
  ['length:1s..3s', { shortest: 1, longest: 3 }, []],
  // A service knows nothing of what people here put on their sounds.
  ['bell stars:>3', { words: ['bell'] }, ['stars:>3']],
  ['bell loudness:>-20', { words: ['bell'] }, ['loudness:>-20']],
  ['bell OR horn', { words: ['bell|horn'] }, []],
  ['(bell OR horn OR gong*) ferry', { words: ['bell|horn|gong*', 'ferry'] }, []],
  ['ferry bell OR horn', { words: ['ferry', 'bell|horn'] }, []],
  ['licence:"cc by" author:vale bell', { words: ['bell'], licences: ['cc by'], by: ['vale'] }, []],
  ['licence:cc0 licence:by', { licences: ['cc0'] }, ['licence:by']],
  // An alternative half of which cannot be asked for is not asked for at all.
  ['bell OR stars:>3 horn', { words: ['horn'] }, ['bell OR stars:>3']],
  ['"fog horn" OR bell', {}, ['"fog horn" OR bell']],
  ['bell -licence:cc0', { words: ['bell'] }, ['-licence:cc0']],
];

test.each(asks)('%s is asked for as far as a service knows, and the rest is told', (text, ask, left) => {
  const made = askOf(text);
  expect(made.ask).toEqual({ ...anything, ...ask });
  expect(made.left).toEqual(left);
});

test('whatever is typed, what is left out is a part of what was typed, and nothing is asked twice', () => {
  fc.assert(
    fc.property(fc.string({ maxLength: 60 }), (text) => {
      const { ask, left } = askOf(text);
      for (const part of left) expect(text).toContain(part);
      for (const word of [...ask.words, ...ask.without]) expect(word.trim()).not.toBe('');
    }),
    { numRuns: 500 },
  );
});

test('what means as much is asked for as alternatives, each once, and the word itself first', () => {
  const near = new Map([
    ['ship', ['boat', 'vessel', 'ship']],
    ['bell', Array.from({ length: 40 }, (_, i) => `ring${i}`)],
  ]);
  const { ask } = askOf('ship OR boat creak* bell');
  const [ships, creak, bells] = widened(ask, near).words.map((word) => word.split('|'));
  expect(creak).toEqual(['creak*']);
  expect(ships.slice(0, 2).sort()).toEqual(['boat', 'ship']);
  expect(new Set(ships)).toEqual(new Set(['ship', 'boat', 'vessel']));
  expect([bells[0], bells.length]).toEqual(['bell', 13]);
});

test('a typed licence means those that begin with it, word by word', () => {
  const known = ['CC0 1.0', 'CC BY 4.0', 'CC BY-SA 4.0', 'CC BY-NC 4.0'];
  for (const [typed, meant] of [
    ['cc0', ['CC0 1.0']],
    ['CC BY', ['CC BY 4.0']],
    ['cc by-nc 4.0', ['CC BY-NC 4.0']],
    ['cc by*', known.slice(1)],
    ['cc', known.slice(1)],
    ['by', []],
  ] as const)
    expect([typed, licencesMeant(typed, known)]).toEqual([typed, meant]);
});

test('a contour comes out of its text as it went in', () => {
  fc.assert(
    fc.property(fc.int8Array({ minLength: 2, maxLength: 400 }), (values) => {
      const pairs = values.subarray(0, values.length & ~1);
      const made = contourOf({ contour: contourCode(pairs), seconds: 3, rate: 44_100 });
      expect([...made.pairs]).toEqual([...pairs]);
      expect(made.span * (pairs.length / 2)).toBeGreaterThanOrEqual(made.frames);
    }),
  );
});

test('its labels say of each where it comes from, and credits are as of any sound with that licence', () => {
  const item = openSound();
  const { fields, from } = labelsOfOpen(item, 'The commons');
  expect(Object.keys(from).sort()).toEqual(Object.keys(fields).sort());
  expect(new Set(Object.values(from))).toEqual(new Set(['site The commons']));
  expect(fields).toMatchObject({ licence: 'CC BY 4.0', author: 'Ines Fallow', page: item.page });
  const line = creditOf(rowOf(item, { sound: -2, root: -1 }, 'The commons'), 1);
  expect(line).toMatchObject({ credit: '“Ferry bell” by Ines Fallow, CC BY 4.0', page: item.page, conflict: '' });
});

test('what speaks against a licence is what its terms say, for each kind of job', () => {
  const table = licences.map(({ code }) =>
    [code, ...jobs.map((job) => (conflictOf(code, job) === '' ? 'may' : 'no'))].join(' '),
  );
  expect(table).toEqual([
    'Owned may may may',
    'CC0 1.0 may may may',
    'CC BY 4.0 may may may',
    'CC BY-SA 4.0 no no may',
    'CC BY-NC 4.0 no may may',
  ]);
  for (const job of jobs) for (const code of ['CC BY-ND 4.0', '']) expect(conflictOf(code, job)).not.toBe('');
});

test('an answer that breaks any rule is refused whole', () => {
  const page: OpenPage = {
    total: 1,
    page: 1,
    pages: 1,
    sounds: [openSound()],
    licences: { 'CC BY 4.0': 1 },
    authors: {},
  };
  const check = (value: unknown) => checked<OpenPage>(value, validators.openPage, 'the answer');
  expect(check(page)).toEqual(page);
  const [sound] = page.sounds;
  const broken: [string, object][] = [
    ['a scheme in an address', { original: { ...sound.original, href: 'javascript:alert(1)' } }],
    ['a host in an address', { original: { ...sound.original, href: '//elsewhere.example/x' } }],
    ['a way up', { preview: { ...sound.preview, href: 'v1/../../etc' } }],
    ['a page that is a script', { page: 'javascript:alert(1)' }],
    ['no length', { seconds: 0 }],
    ['a name of 10,000 letters', { title: 'a'.repeat(10_000) }],
    ['a sum that is none', { original: { ...sound.original, sha256: 'x' } }],
    ['a contour of halves', { contour: 'abc' }],
    ['a field that nobody knows', { run: 'now' }],
  ];
  for (const [, more] of broken)
    expect(() => check({ ...page, sounds: [{ ...sound, ...more }] })).toThrow(/the answer/);
});
