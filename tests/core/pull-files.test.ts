import { checkedFile, validators, type PullFile } from '@core/schemas';

describe('pull files', () => {
  const good: PullFile = {
    format: 'cormorant-pull',
    version: 1,
    name: 'Ferry',
    shelf: 'Night/Boats',
    sounds: [
      { root: 'Yard', path: 'a.wav', hash: '0123456789abcdef', note: 'grit' },
      { root: 'Yard', path: 'b.wav' },
      { root: 'Yard', path: 'b.wav', part: { start: 10, end: 20 } },
    ],
  };
  const read = (file: unknown) => checkedFile<PullFile>(JSON.stringify(file, null, 1), validators.pullFile, 'x.json');

  test('are read as they are written', () => {
    expect(read(good)).toEqual(good);
    expect(read({ ...good, sounds: [], live: { root: 'Yard', folder: '' } })).toMatchObject({ live: { root: 'Yard' } });
  });

  test.each([
    ['another format', { ...good, format: 'cormorant-project' }, /line 2, format/],
    ['a newer version', { ...good, version: 2 }, /line 3, version/],
    ['no name', { ...good, name: '' }, /line 4, name/],
    ['a hash that is none', { ...good, sounds: [{ root: 'a', path: 'b', hash: '../x' }] }, /sounds, 0, hash/],
    ['something that nobody asked for', { ...good, run: 'x' }, /x\.json is not as expected/],
    ['a sound without a path', { ...good, sounds: [{ root: 'a' }] }, /sounds, 0/],
    ['no object at all', [1, 2], /x\.json is not as expected/],
  ])('%s is refused, with the line', (_, file, said) => expect(() => read(file)).toThrow(said));

  test('what is no JSON is told by its line', () => {
    expect(() => checkedFile('{\n"format": "cormorant-pull",,\n}', validators.pullFile, 'x.json')).toThrow(/line 2/);
  });
});
