import {
  baseName,
  composeUcsName,
  fold,
  folderOf,
  parseUcsName,
  readableName,
  searchWords,
  splitName,
  takeOf,
  type UcsName,
} from '@core/naming';
import fc from 'fast-check';

const name = fc.string({ unit: 'grapheme', maxLength: 40 });
const camel = fc.array(fc.stringMatching(/^[A-Z][a-z]{1,7}$/), { minLength: 1, maxLength: 4 });

test.each([
  ['HarborWinchSlow_03-wet', ['Harbor', 'Winch', 'Slow', '03', 'wet']],
  ['rain24bit96k', ['rain', '24', 'bit', '96', 'k']],
  ['ÜberSeeMöwe', ['Über', 'See', 'Möwe']],
  ['HTMLPage', ['HTML', 'Page']],
  ['雨 音01', ['雨', '音', '01']],
  ['__--..', []],
  ['USBHiss', ['USB', 'Hiss']],
])('%s falls into %j', (text, words) => expect(splitName(text)).toEqual(words));

test('with nothing but its path, every word of name and folders finds a sound', () => {
  const words = searchWords('Boats/Deck gear/HarborWinchSlow_03-wet.wav');
  expect(words).toEqual(expect.arrayContaining(['harbor', 'winch', 'slow', 'wet', 'boats', 'deck', 'gear', '03']));
});

test('camel case falls into the words that it was made of, whatever separates runs of them', () => {
  fc.assert(
    fc.property(camel, camel, fc.constantFrom('_', '-', ' ', '.', ' - '), (a, b, by) => {
      expect(splitName(a.join('') + by + b.join(''))).toEqual([...a, ...b]);
      expect(searchWords(a.join('') + by + b.join(''))).toEqual(expect.arrayContaining([...a, ...b].map(fold)));
    }),
  );
});

test('splitting loses no letter and no digit, and folding twice is folding once', () => {
  fc.assert(
    fc.property(name, (text) => {
      const letters = (t: string) => t.match(/[\p{Lu}\p{Ll}\p{Lo}\p{Lm}\p{N}]/gu)?.join('') ?? '';
      expect(letters(splitName(text).join(''))).toBe(letters(text));
      expect(fold(fold(text))).toBe(fold(text));
      expect(readableName(text)).toBeDefined();
    }),
  );
});

test('folder and name make the path again', () => {
  const part = fc.stringMatching(/^[\w .-]{1,12}$/).filter((p) => p !== '.' && p !== '..');
  fc.assert(
    fc.property(
      fc.array(part, { maxLength: 4 }),
      part,
      fc.constantFrom('.wav', '.AIFF', ''),
      (folders, file, ending) => {
        const path = [...folders, file + ending].join('/');
        expect(folderOf(path)).toBe(folders.join('/'));
        const base = baseName(path);
        expect(path.slice(folders.join('/').length).replace(/^\//, '').startsWith(base)).toBe(true);
      },
    ),
  );
});

describe('UCS names', () => {
  const word = fc.stringMatching(/^[A-Za-z0-9]{1,10}$/);
  const ucs: fc.Arbitrary<UcsName> = fc.record(
    {
      catId: fc.constantFrom('BOATMech', 'DOORGate', 'WATRSplsh'),
      userCategory: word,
      vendorCategory: word,
      fxName: fc.array(word, { minLength: 1, maxLength: 4 }).map((w) => w.join(' ')),
      creatorId: word,
      sourceId: word,
      userData: fc.array(word, { minLength: 1, maxLength: 2 }).map((w) => w.join('_')),
    },
    { requiredKeys: ['catId', 'fxName', 'creatorId', 'sourceId'] },
  );
  const known = (id: string) => ['BOATMech', 'DOORGate', 'WATRSplsh'].includes(id);

  test('composing and parsing are each other’s inverse', () => {
    fc.assert(
      fc.property(ucs, (parts) => expect(parseUcsName(`Folder/${composeUcsName(parts)}.wav`, known)).toEqual(parts)),
    );
  });

  test('takes of one UCS name share a stem, and other names do not', () => {
    fc.assert(
      fc.property(ucs, fc.integer({ min: 1, max: 99 }), fc.integer({ min: 1, max: 99 }), (parts, one, two) => {
        const of = (take: number, fxName = parts.fxName) => {
          const numbered = `${fxName}x ${String(take).padStart(2, '0')}`;
          return takeOf(`${composeUcsName({ ...parts, fxName: numbered })}.wav`, numbered);
        };
        expect(of(one).group).toBe(of(two).group);
        expect(of(one).take).toBe(String(one).padStart(2, '0'));
        expect(of(one, `${parts.fxName}other`).group).not.toBe(of(one).group);
      }),
    );
  });
});

test('a name is never taken apart so far that nothing is left of it', () => {
  fc.assert(
    fc.property(name, (text) => {
      const { group: stem, take } = takeOf(`${text.replaceAll('/', '')}.wav`);
      expect(stem.startsWith('/')).toBe(true);
      if (take !== undefined) expect(stem.length).toBeGreaterThan(1);
    }),
  );
});
