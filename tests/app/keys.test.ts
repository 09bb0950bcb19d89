import {
  commands,
  distinct,
  giveKey,
  keyLabel,
  keysOf,
  ownKeys,
  resetKeys,
  withKey,
  type Command,
} from '@app/shared/controls/commands';
import fc from 'fast-check';

// Which key does what, on a screen whose newest part comes first.

const command = (label: string, ...keys: string[]): Command => ({ label, keys, run: () => undefined });
const screen = [command('Play', 'Space'), command('Loop', 'r'), command('Notes')];
const everywhere = [command('Undo', 'Ctrl+z'), command('Redo', 'Ctrl+Shift+z', 'Ctrl+y'), command('Play', 'p')];

beforeEach(() => {
  commands.splice(0, commands.length, screen, everywhere);
  resetKeys();
});

test('a label that stands in two parts is one command, the newest', () => {
  expect(distinct().map((c) => [c.label, keysOf(c)])).toEqual([
    ['Play', ['Space']],
    ['Loop', ['r']],
    ['Notes', []],
    ['Undo', ['Ctrl+z']],
    ['Redo', ['Ctrl+Shift+z', 'Ctrl+y']],
  ]);
});

test('a key belongs to the command that got it last, and only that; the others keep what else they have', () => {
  const keys = ['Space', 'r', 'Ctrl+z', 'Ctrl+y', 'x', '__proto__'];
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.nat(4), fc.option(fc.constantFrom(...keys), { nil: undefined })), { maxLength: 12 }),
      (gifts) => {
        resetKeys();
        for (const [at, key] of gifts) {
          const before = new Map(distinct().map((c) => [c.label, keysOf(c)]));
          const chosen = distinct()[at];
          const losing = giveKey(chosen, key).map((c) => c.label);
          expect(keysOf(chosen)).toEqual(key === undefined ? [] : [key]);
          for (const other of distinct()) {
            if (other.label === chosen.label) continue;
            const had = before.get(other.label)!;
            expect(keysOf(other)).toEqual(had.filter((k) => k !== key));
            expect(losing.includes(other.label)).toBe(key !== undefined && had.includes(key));
          }
        }
        for (const c of distinct()) resetKeys(c);
        expect(ownKeys.value).toEqual({});
      },
    ),
  );
});

test('controls say the key that does what they do now', () => {
  expect(withKey('Play or stop', 'Play')).toBe('Play or stop (Space)');
  giveKey(distinct()[0], 'Shift+ArrowUp');
  expect(withKey('Play or stop', 'Play')).toBe('Play or stop (Shift \u2191)');
  giveKey(distinct()[0]);
  expect(withKey('Play or stop', 'Play')).toBe('Play or stop');
  expect(withKey('Something', 'unknown')).toBe('Something');
});

test.each([
  ['+', '+'],
  ['Ctrl++', 'Ctrl +'],
  ['Shift+p', 'Shift P'],
  ['Ctrl+Shift+ArrowLeft', 'Ctrl Shift \u2190'],
  ['Space', 'Space'],
])('%s is written %s', (key, written) => expect(keyLabel(key)).toBe(written));

test('what every object has is no key that somebody chose', () => {
  commands.unshift([command('constructor', 'c')]);
  expect(keysOf(distinct()[0])).toEqual(['c']);
});
