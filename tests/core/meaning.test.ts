import { bases, meaning } from '@core/meaning';

const lexicon = meaning();
const near = (word: string) => lexicon.of(word).map((n) => n.word);

test.each([
  ['doors', 'door'],
  ['knocked', 'knock'],
  ['scraping', 'scrape'],
  ['dripping', 'drip'],
  ['flies', 'fly'],
  ['crashes', 'crash'],
  ['geese', 'goose'],
  ['broken', 'break'],
  ['creaky', 'creak'],
])('%s may be a form of %s', (form, base) => expect(bases(form)).toContain(base));

test.each([
  ['dog', 'collie', 'kind'],
  ['collie', 'sheepdog', 'general'],
  ['break', 'breakage', 'form'],
  ['footsteps', 'footfall', 'same'],
  ['whoosh', 'swoosh', 'same'],
  ['door', 'lock', 'part'],
  ['lid', 'jar', 'whole'],
  ['metal', 'iron', 'kind'],
])('near %s stands %s, as its %s', (word, other, kinship) =>
  expect(lexicon.of(word)).toContainEqual({ word: other, kinship, distance: expect.any(Number) }),
);

test('what is hardly ever meant is left out, and nothing stands near itself', () => {
  expect(near('dog')).not.toContain('chase');
  for (const word of ['dog', 'rain', 'gates', 'engine', 'thunder', 'nothingofthekind'])
    expect(near(word)).not.toContain(word);
  expect(near('nothingofthekind')).toEqual([]);
});

test('nearest stand first', () => {
  for (const word of ['boat', 'rain', 'metal', 'crash']) {
    const distances = lexicon.of(word).map((n) => n.distance);
    expect(distances).toEqual([...distances].sort((a, b) => a - b));
    expect(distances.length).toBeGreaterThan(3);
  }
});

test.each([
  ['wave', 'waves', true],
  ['wave', 'wav', false],
  ['plan', 'plane', false],
  ['bar', 'bare', false],
  ['creak', 'creaking', true],
  ['creak', 'creaky', true],
  ['harbors', 'harbour', true],
  ['aluminium', 'aluminum', true],
  ['snorgle', 'snorgles', true],
])('%s and %s are forms of one word: %s', (a, b, same) => {
  expect(lexicon.sameWord(a, b)).toBe(same);
  expect(lexicon.sameWord(b, a)).toBe(same);
});
