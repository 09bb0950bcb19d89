import {
  applyChange,
  backedUp,
  Batch,
  binChanges,
  changeOf,
  differences,
  fieldOf,
  invert,
  isField,
  joinWords,
  labelPatch,
  languageOf,
  mayPropose,
  mergeTags,
  removeTag,
  restoreChanges,
  splitTag,
  splitWords,
  stampable,
  stampChanges,
  stamped,
  tagChange,
  textOf,
  valueFrom,
  valuesFrom,
  type Change,
  type Edit,
  type Sound,
  type Stamp,
  type Tag,
} from '@core/library';
import { ShortNames, type Step } from '@core/naming';
import { categoryOf } from '@core/suggest';
import fc from 'fast-check';
import { soundOf } from '../helpers/catalogue';

const tags: Tag[] = [
  { id: 11, name: 'rusty' },
  { id: 12, name: 'Oxidised' },
  { id: 13, name: '🔧 yard' },
];
const tagNames = new Map(tags.map((t) => [t.id, t.name]));
/** Rows after changes, by table and id. */
function after(changes: readonly Change[], sounds: readonly Sound[], there: readonly Tag[] = tags) {
  const rows = new Map<string, object | undefined>([
    ...sounds.map((s) => [`sounds/${s.id}`, s] as const),
    ...there.map((t) => [`tags/${t.id}`, t] as const),
  ]);
  for (const c of changes) rows.set(`${c.table}/${c.id}`, applyChange(rows.get(`${c.table}/${c.id}`), c));
  return {
    tagsOf: (id: number) => (rows.get(`sounds/${id}`) as Sound).fields.tags,
    tag: (id: number) => (rows.get(`tags/${id}`) as Tag | undefined)?.name,
  };
}

describe('values as texts', () => {
  test('words of a list, whatever they hold, are read back as they were', () => {
    const word = fc.string({ minLength: 1 }).filter((w) => w.trim() === w && w !== '' && !/[;\n]/.test(w));
    fc.assert(
      fc.property(fc.uniqueArray(word, { maxLength: 6 }), (words) => {
        expect(splitWords(joinWords(words))).toEqual(words);
      }),
    );
    expect(splitWords('a, b;c\nd,, a')).toEqual(['a', 'b', 'c', 'd']);
  });

  test.each([
    ['fxName', 'Gate'],
    ['keywords', ['iron', 'lock, of the gate', 'back\\slash']],
    ['stars', 4],
    ['tempo', 92.5],
    ['recorded', Date.UTC(2026, 2, 14)],
    ['licence', 'CC BY 4.0'],
    ['kind', 'Loop'],
    ['description@de', 'Ein Tor'],
  ] as const)('%s is typed as it is shown', (key, value) => {
    const text = textOf(fieldOf(key), value, tagNames);
    expect(valueFrom(fieldOf(key), text)).toEqual({ value });
  });

  test('tags are typed by their names', () => {
    expect(textOf(fieldOf('tags'), [11, 13, 99], tagNames)).toBe('rusty, 🔧 yard');
    expect(valueFrom(fieldOf('tags'), 'rusty, new one')).toEqual({ tagNames: ['rusty', 'new one'] });
    expect(valueFrom(fieldOf('tags'), ' ')).toEqual({ tagNames: [] });
  });

  test.each([
    ['tempo', 'fast', /no number/],
    ['stars', '7', /0 to 5/],
    ['stars', '2.5', /0 to 5/],
    ['recorded', 'yesterday', /write it as 2026-03-14/],
    ['recorded', '2026-13-40', /no date/],
  ])('%s refuses “%s”', (key, text, message) => {
    const read = valueFrom(fieldOf(key), text);
    expect('fault' in read && read.fault).toMatch(message);
  });

  test('numbers may have a comma, a unit, stars a sign; no stars are no value', () => {
    expect(valueFrom(fieldOf('tempo'), '92,5 BPM')).toEqual({ value: 92.5 });
    expect(valueFrom(fieldOf('stars'), '3★')).toEqual({ value: 3 });
    expect(valueFrom(fieldOf('stars'), '0')).toEqual({ value: undefined });
    expect(valueFrom(fieldOf('licence'), 'cc by 4.0')).toEqual({ value: 'CC BY 4.0' });
    expect(valueFrom(fieldOf('recorded'), '2026-3')).toEqual({ value: Date.UTC(2026, 2, 1) });
    expect(valueFrom(fieldOf('notes'), ' a\r\nb ')).toEqual({ value: 'a\nb' });
  });

  test('several texts become values, or the first fault names its field', () => {
    expect(valuesFrom({ fxName: 'Gate', tags: 'rusty' })).toEqual({
      values: { fxName: 'Gate' },
      tagNames: { tags: ['rusty'] },
    });
    expect(valuesFrom({ fxName: 'Gate', tempo: 'fast' })).toEqual({ fault: 'Tempo: “fast” is no number' });
  });
});

describe('fields in several languages', () => {
  test('a field of any language is one of the registry', () => {
    expect(isField('description@pt-BR')).toBe(true);
    expect(isField('fxName@de')).toBe(false);
    expect(isField('description@')).toBe(false);
    expect(isField('description@ not')).toBe(false);
    expect(fieldOf('keywords@fr')).toMatchObject({
      key: 'keywords@fr',
      type: 'list',
      edited: true,
      label: 'Keywords (fr)',
    });
    expect(languageOf('keywords@fr')).toEqual({ base: 'keywords', language: 'fr' });
    expect(() => fieldOf('nothing@fr')).toThrow(/no field/);
  });
});

describe('labels', () => {
  const labelling = { origin: 'typed' as const, category: categoryOf };

  test('a category brings its words, and may keep the old ones for the vendor', () => {
    const old = soundOf(1, { category: 'Old_stuff', subCategory: 'Doors' });
    expect(labelPatch(old, { catId: 'DOORWood' }, { ...labelling, keepVendor: true })).toEqual({
      'fields.catId': 'DOORWood',
      'from.catId': 'typed',
      'fields.category': 'DOORS',
      'from.category': 'typed',
      'fields.subCategory': 'WOOD',
      'from.subCategory': 'typed',
      'fields.vendorCategory': 'Old stuff Doors',
      'from.vendorCategory': 'typed',
    });
    expect(labelPatch(old, { catId: 'DOORWood' }, labelling)).not.toHaveProperty(['fields.vendorCategory']);
    const vendor = (fields: Record<string, string>, catId = 'DOORWood') =>
      labelPatch(soundOf(1, fields), { catId }, { ...labelling, keepVendor: true })['fields.vendorCategory'];
    expect(vendor({ category: 'Old', vendorCategory: 'Mine' })).toBe('Mine Old');
    expect(vendor({ category: 'Old', vendorCategory: 'Very Old' })).toBeUndefined();
    // What the list itself says is no vendor's word; what a CatID that it does not have stood for is one.
    expect(vendor({ catId: 'DOORMetl', category: 'DOORS', subCategory: 'METAL' })).toBeUndefined();
    expect(vendor({ catId: 'OWNDoor', category: 'OWN', subCategory: 'DOOR' })).toBe('OWN DOOR');
    expect(vendor({ catId: 'DOORMetl', category: 'Old gates' })).toBe('Old gates');
    const both = { catId: 'DOORWood', vendorCategory: 'Said' };
    expect(labelPatch(soundOf(1, { category: 'Old' }), both, { ...labelling, keepVendor: true })).toMatchObject({
      'fields.vendorCategory': 'Said',
    });
    expect(vendor({ category: 'DOORS', subCategory: 'WOOD' })).toBeUndefined();
  });

  test('an empty value takes the field and its origin away; what is so already keeps its origin', () => {
    const sound = soundOf(1, { notes: 'n', fxName: 'Gate' });
    expect(labelPatch(sound, { notes: '', fxName: 'Gate', keywords: [], stars: 0 }, labelling)).toEqual({
      'fields.notes': undefined,
      'from.notes': undefined,
    });
  });

  test.each([
    ['name', true],
    ['folder', true],
    ['suggested', true],
    ['typed', false],
    ['file iXML.ASWG.fxName', false],
    ['recipe Clean', false],
    ['sheet yard.csv', false],
    ['stamp Yard', false],
  ] as const)('a proposal may take the place of a value from %s: %s', (origin, may) => {
    expect(mayPropose({ fields: { fxName: 'a' }, from: { fxName: origin } }, 'fxName')).toBe(may);
    expect(mayPropose({ fields: {}, from: {} }, 'fxName')).toBe(true);
  });
});

describe('tags', () => {
  const sounds = [soundOf(1, { tags: [12, 13] }), soundOf(2, { tags: [11, 12] }), soundOf(3, { tags: [13] })];

  test('merging leaves every sound with the one that stays, once, in its place', () => {
    const state = after(mergeTags(tags[0], [tags[1]], sounds.slice(0, 2)), sounds);
    expect(state.tagsOf(1)).toEqual([11, 13]);
    expect(state.tagsOf(2)).toEqual([11]);
    expect(state.tagsOf(3)).toEqual([13]);
    expect(state.tag(12)).toBeUndefined();
    expect(state.tag(11)).toBe('rusty');
  });

  test('splitting keeps the identity with the first part and makes the others', () => {
    const state = after(splitTag(tags[1], ['worn', 'red'], tags, sounds.slice(0, 2), [21, 22]), sounds);
    expect(state.tag(12)).toBe('worn');
    expect(state.tag(22)).toBe('red');
    expect(state.tagsOf(1)).toEqual([12, 22, 13]);
    expect(state.tagsOf(2)).toEqual([11, 12, 22]);
  });

  test('parts that are tags already are used, and then the old one goes', () => {
    const state = after(splitTag(tags[1], ['RUSTY', '🔧 yard'], tags, sounds.slice(0, 2), [21, 22]), sounds);
    expect(state.tag(12)).toBeUndefined();
    expect(state.tagsOf(1)).toEqual([11, 13]);
    expect(state.tagsOf(2)).toEqual([11, 13]);
  });

  test('removing takes it off every sound, and undo brings all of it back', () => {
    const changes = removeTag(tags[2], [sounds[0], sounds[2]]);
    const state = after(changes, sounds);
    expect(state.tagsOf(1)).toEqual([12]);
    expect(state.tagsOf(3)).toBeUndefined();
    const back = after([...changes, ...invert({ label: '', at: 0, undoable: true, changes } as Edit).changes], sounds);
    expect(back.tagsOf(1)).toEqual([12, 13]);
    expect(back.tag(13)).toBe('🔧 yard');
  });

  test('giving a sound what it has is no change', () => {
    expect(tagChange(sounds[0], [12, 13, 12])).toBeUndefined();
    expect(tagChange(sounds[0], [])).toMatchObject({ after: { 'fields.tags': undefined } });
  });
});

describe('stamps', () => {
  const stamp: Stamp = {
    id: 5,
    name: 'Yard',
    values: { library: 'Sluice Yard', keywords: ['yard'], tags: [13], catId: 'METLImpt' },
  };

  test('lists are added to, all else is replaced, a category brings its words', () => {
    const sound = soundOf(1, { library: 'Old', keywords: ['wet', 'yard'], tags: [11] });
    const patch = stamped(sound, stamp, categoryOf);
    expect(patch).toMatchObject({
      'fields.library': 'Sluice Yard',
      'from.library': 'stamp Yard',
      'fields.tags': [11, 13],
      'fields.catId': 'METLImpt',
      'fields.category': 'METAL',
      'fields.subCategory': 'IMPACT',
    });
    expect(patch).not.toHaveProperty(['fields.keywords']);
  });

  test('stamping twice changes nothing more', () => {
    const [change] = stampChanges([soundOf(1)], stamp, categoryOf);
    const once = applyChange(soundOf(1), change)!;
    expect(stampChanges([once], stamp, categoryOf)).toEqual([]);
  });

  test('only what people may edit goes into a stamp', () => {
    expect(stampable(soundOf(1, { library: 'a', loudness: -20, keywords: ['x'] })).sort()).toEqual([
      'fxName',
      'keywords',
      'library',
    ]);
  });
});

describe('recipes over sounds', () => {
  const none = new ShortNames([]);
  const batch = (...steps: Step[]) => new Batch({ steps }, none, tagNames);

  test('a plan tells before and after of each written field, and only real changes', () => {
    const plan = batch(
      { kind: 'case', on: true, to: 'fxName', form: 'upper' },
      { kind: 'clear', on: true, to: 'notes' },
    ).plan(soundOf(1, { fxName: 'Gate' }), 0);
    expect(plan).toEqual({
      before: { fxName: 'Gate', notes: '' },
      after: { fxName: 'GATE', notes: '' },
      changed: ['fxName'],
      values: { values: { fxName: 'GATE' }, tagNames: {} },
    });
  });

  test('lists, tags and numbers are worked on as texts and come back as what they are', () => {
    const plan = batch(
      { kind: 'set', on: true, to: 'keywords', text: '{keywords}, {library}' },
      { kind: 'set', on: true, to: 'tags', text: '{tags}, new' },
      { kind: 'set', on: true, to: 'stars', text: '4' },
    ).plan(soundOf(1, { keywords: ['a'], tags: [11] }), 0);
    expect('values' in plan && plan.values).toEqual({
      values: { keywords: ['a', 'Tests'], stars: 4 },
      tagNames: { tags: ['rusty', 'new'] },
    });
  });

  test('a value that its field refuses is a fault of the sound, fields that are measured cannot be written', () => {
    expect(batch({ kind: 'set', on: true, to: 'stars', text: 'many' }).plan(soundOf(1), 0)).toMatchObject({
      step: -1,
      fault: 'Stars: “many” is no number',
    });
    const forbidden = batch({ kind: 'set', on: true, to: 'length', text: '1' });
    expect(forbidden.faults).toEqual([{ step: 0, message: '“length” is no field that can be used here' }]);
    expect(forbidden.plan(soundOf(1), 0)).toHaveProperty('fault');
  });
});

describe('differences, bin and backup', () => {
  const row = fc.record(
    {
      id: fc.constant(7),
      name: fc.string(),
      fields: fc.dictionary(
        fc.constantFrom('fxName', 'notes', 'stars', 'description@de'),
        fc.oneof(fc.string(), fc.integer()),
      ),
      from: fc.dictionary(fc.constantFrom('fxName', 'notes'), fc.string()),
      marks: fc.record({ anchor: fc.integer() }),
    },
    { requiredKeys: ['id', 'fields', 'from'] },
  );

  test('applying the differences of two records to the first gives the second', () => {
    fc.assert(
      fc.property(row, row, (a, b) => {
        const patch = differences(a, b);
        const made = applyChange(a, { table: 'sounds', id: 7, before: {}, after: patch });
        expect(JSON.parse(JSON.stringify(made))).toEqual(JSON.parse(JSON.stringify(b)));
      }),
    );
  });

  test('restoring brings back any table, and undo what was there before', () => {
    const rows = fc.uniqueArray(fc.record({ id: fc.nat(8), name: fc.string() }), {
      selector: (r) => r.id,
      maxLength: 8,
    });
    const apply = (now: Map<number, object>, changes: readonly Change[]) => {
      for (const c of changes) {
        const next = applyChange(now.get(c.id), c);
        if (next) now.set(c.id, next);
        else now.delete(c.id);
      }
      return now;
    };
    const table = (list: readonly { id: number }[]) => new Map<number, object>(list.map((r) => [r.id, r]));
    const sorted = (m: Map<number, object>) => [...m.values()].sort((a, b) => (a as Tag).id - (b as Tag).id);
    fc.assert(
      fc.property(rows, rows, (kept, now) => {
        const { changes, difference } = restoreChanges('pulls', kept, now, true);
        const there = apply(table(now), changes);
        expect(sorted(there)).toEqual(sorted(table(kept)));
        expect(sorted(apply(there, invert({ label: '', at: 0, undoable: true, changes }).changes))).toEqual(
          sorted(table(now)),
        );
        expect(difference.added + difference.changed + difference.same).toBe(kept.length);
        const soft = apply(table(now), restoreChanges('pulls', kept, now, false).changes);
        expect(soft.size).toBe(new Set([...kept, ...now].map((r) => r.id)).size);
      }),
    );
  });

  test('handles of folders stay as they are here', () => {
    const here = [{ id: 2, name: 'Root', handles: ['handle'] }];
    expect(restoreChanges('roots', [{ id: 2, name: 'Root' }] as never, here, false).changes).toEqual([]);
    const { changes } = restoreChanges('roots', [{ id: 2, name: 'Other' }] as never, here, false);
    expect(applyChange(here[0], changes[0])).toEqual({ id: 2, name: 'Other', handles: ['handle'] });
  });

  test('what is deleted goes into the bin whole', () => {
    const [gone, kept] = binChanges('stamps', { id: 4, name: 'Yard' } as { id: number }, 9, 1000, { soundIds: [1, 2] });
    expect(applyChange({ id: 4 }, gone)).toBeUndefined();
    expect(applyChange(undefined, kept)).toEqual({
      id: 9,
      at: 1000,
      table: 'stamps',
      record: { id: 4, name: 'Yard' },
      soundIds: [1, 2],
    });
  });

  test('a backup holds everything that people make', () => {
    for (const table of [
      'sounds',
      'tags',
      'pulls',
      'stamps',
      'recipes',
      'shortNames',
      'categories',
      'bin',
      'scenes',
      'cues',
    ] as const)
      expect(backedUp).toContain(table);
    expect(changeOf('sounds', soundOf(1), {})).toBeUndefined();
  });
});
