import type { Tag } from '@core/library';
import { parseQuery, SoundIndex } from '@core/search';
import fc from 'fast-check';

const tags: Tag[] = [
  { id: 21, name: 'rusty iron' },
  { id: 22, name: '🔧 yard' },
  { id: 23, name: 'Rost' },
];

function indexed(): SoundIndex {
  const index = new SoundIndex();
  index.setTags(tags);
  index.put([
    { id: 1, fields: { fxName: 'Gate', tags: [21, 22] } },
    { id: 2, fields: { fxName: 'Iron bar', tags: [23] } },
    { id: 3, fields: { fxName: 'Rope' } },
  ]);
  return index;
}
const find = (index: SoundIndex, text: string, sort?: string) => [
  ...index.search({ query: parseQuery(text).query, sort: sort ? { key: sort, down: false } : undefined }).ids,
];

describe('tags in the index', () => {
  test.each([
    ['tag:iron ', [1]],
    ['tag:rus', [1]],
    ['tag:"rusty iron"', [1]],
    ['tag:"iron rusty"', []],
    ['tag:~sty', [1]],
    ['tag:yard ', [1]],
    ['-tag:rost rope', [3]],
    ['tag:21 ', []],
    ['"rusty iron"', [1]],
  ])('%s finds by name', (text, ids) => {
    expect(find(indexed(), text)).toEqual(ids);
  });

  test('a name outranks a tag, and both are found', () => {
    expect(find(indexed(), 'iron ')).toEqual([2, 1]);
  });

  test('another name is found at once, the old one no more, without a sound being put again', () => {
    const index = indexed();
    index.setTags([{ id: 21, name: 'oxide' }, tags[1], tags[2]]);
    expect(find(index, 'tag:oxide ')).toEqual([1]);
    expect(find(index, 'tag:rusty ')).toEqual([]);
    expect(find(index, 'tag:"rusty iron"')).toEqual([]);
    expect(find(index, 'tag:~xid')).toEqual([1]);
  });

  test('sorting by tags goes by their names, also after they have others', () => {
    const index = indexed();
    expect(find(index, '', 'tags')).toEqual([2, 1, 3]);
    index.setTags([{ id: 21, name: 'alpha' }, tags[1], tags[2]]);
    expect(find(index, '', 'tags')).toEqual([1, 2, 3]);
  });

  test('sounds of each tag and category are counted, removed ones are not', () => {
    const index = indexed();
    index.put([{ id: 4, fields: { tags: [22], catId: 'ROPEMvmt' } }]);
    expect(new Map(index.tagCounts())).toEqual(
      new Map([
        [21, 1],
        [22, 2],
        [23, 1],
      ]),
    );
    expect(index.counts('catId')).toEqual({ ROPEMvmt: 1 });
    index.remove([1, 4]);
    expect(index.tagCounts()).toEqual([[23, 1]]);
  });
});

describe('the order of the list', () => {
  test('an edited sound stays in its place, whatever was edited how often', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 12 }), { maxLength: 30 }), (edits) => {
        const index = new SoundIndex();
        const all = Array.from({ length: 12 }, (_, i) => i + 1);
        index.put(all.map((id) => ({ id, fields: { fxName: 'Gate', notes: 'same' } })));
        edits.forEach((id, n) => index.put([{ id, fields: { fxName: 'Gate', notes: `edit ${n}` } }]));
        expect(find(index, '')).toEqual(all);
        expect(find(index, 'gate ')).toEqual(all);
        expect(find(index, '', 'fxName')).toEqual(all);
      }),
    );
  });
});

describe('several languages of a field', () => {
  const index = new SoundIndex();
  index.put([
    {
      id: 1,
      fields: { description: 'Old gate', 'description@de': 'Altes Tor', 'keywords@fr': ['portail', 'vieux fer'] },
    },
    { id: 2, fields: { description: 'Tor', 'notes@de': 'nie' } },
  ]);

  test.each([
    ['tor ', [1, 2]],
    ['description:altes ', [1]],
    ['keywords:portail ', [1]],
    ['fer ', [1]],
    ['nie ', []],
  ])('%s', (text, ids) => {
    expect(find(index, text)).toEqual(ids);
  });
});
