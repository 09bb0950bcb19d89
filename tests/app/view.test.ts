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
