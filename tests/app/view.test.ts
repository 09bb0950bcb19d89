import { placeOf, queryOf, viewOf } from '@app/stores/view';
import fc from 'fast-check';
import { keyLabel, keyName } from '@app/shared/commands';
import { count, decibels, seconds, things, timeLeft } from '@app/shared/format';

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

describe('the view in the URL', () => {
  const facet = fc.dictionary(
    fc.constantFrom('catId', 'library', 'licence', 'kind'),
    fc.uniqueArray(fc.string({ minLength: 1 }), { minLength: 1, maxLength: 3 }),
  );
  const view = fc.record({
    text: fc.string({ unit: 'grapheme' }),
    sort: fc.option(fc.record({ key: fc.constantFrom('length', 'fxName'), down: fc.boolean() }), { nil: undefined }),
    facets: facet,
    length: fc.option(fc.constantFrom<[number, number]>([0, 0.2], [0.4, 1.6], [25.6, 1e9]), { nil: undefined }),
    pullId: fc.option(fc.nat(), { nil: undefined }),
    intakeId: fc.option(fc.nat(), { nil: undefined }),
    soundId: fc.option(fc.nat(), { nil: undefined }),
  });

  test('comes back as it was put there, through a real URL', () => {
    fc.assert(
      fc.property(view, (v) => {
        const search = new URLSearchParams(
          Object.entries(queryOf(v)).flatMap(([k, x]) => [x].flat().map((y) => [k, y])),
        );
        const query: Record<string, string | string[]> = {};
        for (const key of new Set(search.keys()))
          query[key] = search.getAll(key).length > 1 ? search.getAll(key) : search.get(key)!;
        expect(viewOf(query)).toEqual(v);
      }),
    );
  });

  test('whatever a link says, it gives a view that can be shown', () => {
    expect(viewOf({ pull: 'x', sound: '-3', length: '2-', sort: '', q: ['a', 'b'], 'f.kind': [null, 'Loop'] })).toEqual(
      {
        text: '',
        facets: { kind: ['Loop'] },
        sort: undefined,
        length: undefined,
        pullId: undefined,
        intakeId: undefined,
        soundId: undefined,
      },
    );
  });

  test('Find and Label share it, other stages begin on their own', () => {
    const v = { text: 'creak', facets: {} };
    expect([placeOf('label', v), placeOf('spot', v)]).toEqual([
      { name: 'label', query: { q: 'creak' } },
      { name: 'spot', query: {} },
    ]);
  });
});
