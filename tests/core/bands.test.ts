import { meaning } from '@core/meaning';
import { loosened, parseQuery, plainWords, SoundIndex, type IndexedSound, type Request } from '@core/search';
import fc from 'fast-check';

// Whatever is asked and however it is narrowed: bands add up, rows stand once, and the first rows are the first of all.

const word = fc.constantFrom(
  'door',
  'doors',
  'creak',
  'rain',
  'bird',
  'owl',
  'bright',
  'dry',
  'loud',
  'in',
  '🚢',
  '__proto__',
);
const sound = fc.record({
  fxName: fc.array(word, { minLength: 1, maxLength: 4 }).map((w) => w.join(' ')),
  takeGroup: fc.constantFrom('a', 'b', 'c'),
  library: fc.constantFrom('Tide', 'Marsh'),
  brightness: fc.integer({ min: 50, max: 9000 }),
  loudness: fc.integer({ min: -60, max: 0 }),
});
const request = fc.record(
  {
    reach: fc.constantFrom('words' as const, 'meant' as const),
    facets: fc.constant({ library: ['Tide'] }),
    without: fc.constant({ library: ['Marsh'] }),
    fold: fc.constant({ opened: ['a'] }),
    sort: fc.constant({ key: 'loudness', down: true }),
    leave: fc.constant([2, 5]),
  },
  { requiredKeys: [] },
);
const clause = fc.oneof(
  word,
  word.map((w) => `-${w}`),
  word.map((w) => `"${w}"`),
);

test('bands add up to the results, and every row stands once, its reason at hand', () => {
  fc.assert(
    fc.property(
      fc.array(sound, { maxLength: 30 }),
      fc.array(clause, { maxLength: 6 }),
      request,
      fc.subarray([1, 2, 3, 7]),
      (list, clauses, more, removed) => {
        const index = new SoundIndex(undefined, meaning());
        index.put(list.map((fields, i): IndexedSound => ({ id: i + 1, fields })));
        index.remove(removed);
        const text = clauses.join(' ');
        const { query } = parseQuery(text);
        const asked: Request = { ...more, query: loosened(query), words: plainWords(query, text) };
        const finding = index.find(asked);
        const { ids, bands, takes } = finding.rows();
        expect([...finding.first(4)]).toEqual([...ids.slice(0, 4)]);
        expect(new Set(ids).size).toBe(ids.length);
        expect(removed.some((id) => ids.includes(id))).toBe(false);
        expect(finding.results.count()).toBe(finding.count);
        if (bands.length > 0) expect(bands.reduce((sum, b) => sum + b.count, 0)).toBe(finding.count);
        bands.forEach((b, i) => expect(b.at).toBeGreaterThanOrEqual(bands[i - 1]?.at ?? 0));
        if (!more.fold) expect(takes.length).toBe(finding.count);
        for (const id of ids.slice(0, 2))
          expect(index.why(asked, id).map((r) => r.asked)).toEqual(
            expect.arrayContaining(asked.words!.map((w) => w.word)),
          );
      },
    ),
    { numRuns: 1500 },
  );
});
