import { fieldOf, isField } from '@core/library';
import { earWords, loosened, parseQuery, plainWords, SoundIndex, type IndexedSound } from '@core/search';
import fc from 'fast-check';

const ask = (text: string) => {
  const { query } = parseQuery(text);
  return { query: loosened(query), words: plainWords(query, text) };
};
const bell = (id: number, brightness: number, more: Record<string, string | number> = {}): IndexedSound => ({
  id,
  fields: { fxName: `Bell ${id}`, brightness, ...more },
});

test('each word is answered by facts that are measured', () => {
  expect(earWords.size).toBeGreaterThan(60);
  for (const sides of earWords.values())
    for (const { key } of sides) {
      expect(isField(key)).toBe(true);
      expect(fieldOf(key).type).toBe('number');
    }
});

test('among the sounds that the other words mean, those with most of it are heard, best first, below labelled ones', () => {
  const index = new SoundIndex();
  const bells = Array.from({ length: 12 }, (_, i) => bell(i + 1, 1000 + 100 * i));
  // Brighter than any bell, but no bell.
  index.put([
    ...bells,
    bell(20, 100, { description: 'bright' }),
    { id: 30, fields: { fxName: 'Glass', brightness: 9000 } },
  ]);
  const { ids, bands } = index.search(ask('bright bell '));
  expect(bands.map((b) => b.kind)).toEqual(['words', 'heard']);
  expect(ids[0]).toBe(20);
  expect([...ids.slice(1)]).toEqual([12, 11, 10, 9, 8]);
  expect([...index.search(ask('dark bell ')).ids]).toEqual([20, 1, 2, 3, 4]);
  expect(index.why(ask('bright bell '), 12)).toMatchObject([
    { asked: 'bright', how: 'heard', compared: [{ than: 'brighter', share: 12 / 13 }] },
    { asked: 'bell', how: 'word', found: 'bell', field: 'fxName' },
  ]);
  expect(index.search({ ...ask('bright bell '), reach: 'words' }).ids).toHaveLength(1);
});

test('what nobody measured is not heard, and where all are alike none is more so', () => {
  const index = new SoundIndex();
  index.put(Array.from({ length: 9 }, (_, i) => bell(i + 1, 500)));
  index.put([{ id: 20, fields: { fxName: 'Bell' } }]);
  expect(index.search({ ...ask('bright bell '), reach: 'meant' }).ids).toHaveLength(0);
});

test('however the facts lie, what is heard is above two thirds of the others, and about a third of them', () => {
  const value = fc.double({ min: 0, max: 1e4, noNaN: true });
  fc.assert(
    fc.property(fc.uniqueArray(value, { minLength: 12, maxLength: 60 }), (values) => {
      const index = new SoundIndex();
      index.put(values.map((brightness, i) => bell(i + 1, brightness)));
      const { ids } = index.search({ ...ask('bright bell '), reach: 'meant' });
      expect(Math.abs(ids.length - values.length / 3)).toBeLessThanOrEqual(1);
      const heard = new Set(ids);
      const lowest = Math.min(...[...ids].map((id) => values[id - 1]));
      values.forEach((v, i) => expect(heard.has(i + 1)).toBe(v >= lowest));
    }),
  );
});

test('why a sound is there: the word, a form, what stands for it, its tag and its category, or that it lacks it', () => {
  const index = new SoundIndex((word) => (word === 'door' ? ['PORTWood'] : []), {
    of: (word) => (word === 'dog' ? [{ word: 'collie', kinship: 'kind' }] : []),
    sameWord: () => true,
  });
  index.setTags([{ id: 4, name: 'rusty' }]);
  index.put([
    { id: 1, fields: { fxName: 'Collies bark', description: 'creaking' } },
    { id: 2, fields: { fxName: 'Gate', catId: 'PORTWood', tags: [4] } },
  ]);
  const why = (text: string, id: number) => index.why(ask(text), id);
  expect(why('dog ', 1)).toEqual([{ asked: 'dog', how: 'meant', found: 'collies', field: 'fxName', kinship: 'kind' }]);
  expect(why('creaks trombone ', 1)).toEqual([
    { asked: 'creaks', how: 'form', found: 'creaking', field: 'description' },
    { asked: 'trombone', how: 'lacking' },
  ]);
  expect(why('door rusty ', 2)).toMatchObject([
    { asked: 'door', how: 'category', found: 'portwood' },
    { asked: 'rusty', how: 'word', found: '#4', field: 'tags' },
  ]);
  expect(why('-dog collie*', 1)).toMatchObject([{ asked: 'collie', how: 'word', found: 'collies' }]);
});
