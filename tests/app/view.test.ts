import { inOrderOf, placeOf, queryOf, queryOfText, textOfQuery, viewOf, wide } from '@app/stores/view';
import { likeCode, LIKENESS_SIZE } from '@core/search';
import fc from 'fast-check';
import { keyLabel, keyName } from '@app/shared/controls/commands';
import { count, dayName, decibels, seconds, things, timeLeft } from '@app/shared/controls/format';

describe('keys', () => {
  const press = (key: string, held: Partial<KeyboardEventInit> = {}) =>
    keyName({ key, ctrlKey: false, altKey: false, shiftKey: false, metaKey: false, ...held } as KeyboardEvent);
  test.each([
    [' ', {}, 'Space'],
    ['N', { shiftKey: true }, 'Shift+n'],
    ['?', { shiftKey: true }, '?'],
    ['z', { ctrlKey: true }, 'Ctrl+z'],
    ['Z', { ctrlKey: true, shiftKey: true }, 'Ctrl+Shift+z'],
    ['z', { metaKey: true }, 'Ctrl+z'],
    ['ArrowLeft', { altKey: true }, 'Alt+ArrowLeft'],
    ['.', {}, '.'],
  ])('%j with %j is %s', (key, held, name) => expect(press(key, held)).toBe(name));

  test('are written for people', () => {
    expect(['Ctrl+Shift+z', 'Alt+ArrowLeft', 'Escape', 'Space', '.'].map(keyLabel)).toEqual([
      'Ctrl Shift Z',
      'Alt ←',
      'Esc',
      'Space',
      '.',
    ]);
  });
});

test('numbers are written with their units, and never as NaN', () => {
  expect([seconds(1.234), seconds(64.24), seconds(3600)]).toEqual(['1.23', '1:04.2', '60:00.0']);
  expect([decibels(-9.44), decibels(-Infinity)]).toEqual(['-9.4 dB', '-∞ dB']);
  expect([count(1204311), things(1, 'sound'), things(2000, 'sound')]).toEqual(['1,204,311', '1 sound', '2,000 sounds']);
  expect([timeLeft(0.2), timeLeft(40), timeLeft(400)]).toEqual(['under a second left', '40 s left', '7 min left']);
});

test('days are called as people call them', () => {
  const day = (ago: number) => {
    const d = new Date(Date.now() - ago * 86_400_000);
    return `${d.getFullYear()}-${String(d.getMonth() + 1).padStart(2, '0')}-${String(d.getDate()).padStart(2, '0')}`;
  };
  expect([dayName(day(0)), dayName(day(1))]).toEqual(['today', 'yesterday']);
  expect(dayName('2020-02-29')).toBe(new Date(2020, 1, 29).toLocaleDateString());
});

describe('the view in the URL', () => {
  const facet = fc.dictionary(
    fc.constantFrom('catId', 'library', 'licence', 'kind'),
    fc.uniqueArray(fc.string({ minLength: 1 }), { minLength: 1, maxLength: 3 }),
  );
  const limit = fc.oneof(fc.constantFrom(0.2, -23.5, 1e21, 1e-7), fc.double({ noNaN: true, noDefaultInfinity: true }));
  const range = fc
    .tuple(fc.oneof(limit, fc.constant(-Infinity)), fc.oneof(limit, fc.constant(Infinity)))
    .map(([a, b]): [number, number] => [a + 0, b + 0]);
  const narrowing = {
    text: fc.string({ unit: 'grapheme' }),
    facets: facet,
    without: facet,
    ranges: fc.dictionary(fc.constantFrom('length', 'loudness', 'added'), range),
    pullId: fc.option(fc.nat(), { nil: undefined }),
    intakeId: fc.option(fc.nat(), { nil: undefined }),
    nearId: fc.option(fc.nat(), { nil: undefined }),
    unheardIn: fc.option(fc.nat(), { nil: undefined }),
    asOf: fc.option(fc.nat(), { nil: undefined }),
    heardOn: fc.constantFrom('2026-03-14', undefined),
    under: fc.option(fc.record({ rootId: fc.nat(), folder: fc.string({ unit: 'grapheme' }) }), { nil: undefined }),
    like: fc.option(
      fc.record({
        name: fc.string({ unit: 'grapheme' }),
        code: fc
          .tuple(fc.int8Array({ minLength: LIKENESS_SIZE, maxLength: LIKENESS_SIZE }), fc.boolean())
          .map(([vector, voice]) => likeCode(vector, voice)),
      }),
      { nil: undefined },
    ),
  };
  const view = fc.record({
    sort: fc.option(fc.record({ key: fc.constantFrom('length', 'fxName'), down: fc.boolean() }), { nil: undefined }),
    ...narrowing,
    fold: fc.constantFrom(true, undefined),
    trail: fc.array(fc.record(narrowing), { maxLength: 4 }),
    soundId: fc.option(fc.nat(), { nil: undefined }),
  });

  test('comes back as it was put there, through a real URL', () => {
    fc.assert(
      fc.property(view, (v) => {
        expect(viewOf(queryOfText(textOfQuery(queryOf(v))))).toEqual(v);
      }),
    );
  });

  test('whatever a link says, it gives a view that can be shown', () => {
    expect(
      viewOf({
        pull: 'x',
        sound: '-3',
        'r.length': '2-',
        'r.x': '..y',
        sort: '',
        q: ['a', 'b'],
        'f.kind': [null, 'Loop'],
        step: ['q=a&step=q%3Db', null],
      }),
    ).toEqual({
      text: '',
      facets: { kind: ['Loop'] },
      without: {},
      ranges: {},
      sort: undefined,
      fold: undefined,
      trail: [{ ...wide(), text: 'a' }],
      pullId: undefined,
      intakeId: undefined,
      soundId: undefined,
    });
  });

  test('Find and Label share it, other stages begin on their own', () => {
    const v = { ...wide(), text: 'creak', trail: [] };
    expect([placeOf('label', v), placeOf('spot', v)]).toEqual([
      { name: 'label', query: { q: 'creak' } },
      { name: 'spot', query: {} },
    ]);
  });
});

test('rows found again keep their places, new ones come last, and what they stand for goes with them', () => {
  const id = fc.integer({ min: 1, max: 40 });
  fc.assert(
    fc.property(fc.uniqueArray(id), fc.uniqueArray(id), (listed, found) => {
      const { ids, takes } = inOrderOf(Uint32Array.from(listed), {
        ids: Uint32Array.from(found),
        takes: Uint32Array.from(found, (i) => i * 10),
      });
      const kept = listed.filter((i) => found.includes(i));
      expect([...ids]).toEqual([...kept, ...found.filter((i) => !listed.includes(i))]);
      expect([...takes]).toEqual([...ids].map((i) => i * 10));
    }),
  );
});
