import { keyLabel, keyName } from '@app/shared/controls/commands';
import { bytes, count, decibels, ended, seconds, things, timeLeft } from '@app/shared/controls/format';
import { arrivalText } from '@app/intake/arrivals';

test.each([
  [0.5, '0.50'],
  [59.994, '59.99'],
  [60, '1:00.0'],
  [64.2, '1:04.2'],
  [3725.04, '62:05.0'],
])('a length of %d s reads %s', (value, text) => expect(seconds(value)).toBe(text));

test.each([
  [0, '0 B'],
  [812, '812 B'],
  [1000, '1.0 KB'],
  [4_200_000, '4.2 MB'],
  [5e12, '5.0 TB'],
  [9e18, '9000000.0 TB'],
])('%d bytes read %s', (value, text) => expect(bytes(value)).toBe(text));

test('numbers of things, and time left, in words', () => {
  expect([things(1, 'sound'), things(0, 'sound'), things(30_000, 'file'), count(1234567)]).toEqual([
    '1 sound',
    '0 sounds',
    '30,000 files',
    '1,234,567',
  ]);
  expect([timeLeft(0.4), timeLeft(42), timeLeft(600)]).toEqual(['under a second left', '42 s left', '10 min left']);
  expect([decibels(-9.42), decibels(-Infinity)]).toEqual(['-9.4 dB', '-∞ dB']);
});

test('an intake says what it brought, and nothing when it brought nothing', () => {
  expect(arrivalText({ added: 0 })).toBe('');
  expect(arrivalText({ added: 0, changed: 0, moved: 0, gone: 0 })).toBe('');
  expect(arrivalText({ added: 1200, changed: 3, moved: 1, gone: 2 })).toBe(
    '1,200 sounds, 3 read again, 1 moved, 2 missing',
  );
});

describe('keys', () => {
  const press = (key: string, held: Partial<KeyboardEvent> = {}) =>
    keyName({ key, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...held } as KeyboardEvent);

  test.each([
    ['a', {}, 'a'],
    ['A', { shiftKey: true }, 'Shift+a'],
    ['?', { shiftKey: true }, '?'],
    [' ', {}, 'Space'],
    ['z', { ctrlKey: true }, 'Ctrl+z'],
    ['Z', { metaKey: true, shiftKey: true }, 'Ctrl+Shift+z'],
    ['ArrowRight', { altKey: true }, 'Alt+ArrowRight'],
    ['/', {}, '/'],
  ])('%s with %o is called %s', (key, held, name) => expect(press(key, held)).toBe(name));

  test('are written for people', () => {
    expect([keyLabel('Ctrl+Shift+z'), keyLabel('ArrowUp'), keyLabel('Escape'), keyLabel('g')]).toEqual([
      'Ctrl Shift Z',
      '↑',
      'Esc',
      'G',
    ]);
  });
});

test('a sentence ends once, whatever is told in it', () => {
  for (const text of ['It was not made: the disk is full', 'It was not made: the disk is full.'])
    expect(ended(text)).toBe('It was not made: the disk is full.');
  expect(ended('Who is there?')).toBe('Who is there?');
});
