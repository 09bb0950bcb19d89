import { fieldOf, fields, type FieldValue, type Tag } from '@core/library';
import { fold, searchWords, stem } from '@core/naming';
import { parseQuery, SoundIndex, type IndexedSound, type Query } from '@core/search';
import fc from 'fast-check';

// The index against the obvious way to do it: look at every sound, one after another.

const searched = fields.filter((f) => f.weight > 0);
const textOf = (value: FieldValue | undefined) =>
  value === undefined ? '' : Array.isArray(value) ? value.join(' ') : String(value);
const plain = (text: string) =>
  ` ${fold(text)
    .replace(/[^\p{L}\p{M}\p{N}]+/gu, ' ')
    .trim()} `;

/** @param forms whether other forms of a word count; `left` where only behind a NOT, as what is left out */
function matches(query: Query, { fields: f }: IndexedSound, forms: boolean | 'left' = true): boolean {
  switch (query.kind) {
    case 'all':
      return true;
    case 'and':
      return query.parts.every((p) => matches(p, { id: 0, fields: f }, forms));
    case 'or':
      return query.parts.some((p) => matches(p, { id: 0, fields: f }, forms));
    case 'not':
      return !matches(query.part, { id: 0, fields: f }, forms !== false);
    case 'word': {
      const looked = query.field ? [query.field] : searched;
      return looked.some((field) => {
        const value = f[field.key];
        if (value === undefined) return false;
        const words = field.weight > 0 ? searchWords(textOf(value)) : plain(textOf(value)).trim().split(' ');
        const also = forms === true && field.weight > 0 && !query.literal;
        return words.some(
          (w) =>
            w === query.word || (query.prefix && w.startsWith(query.word)) || (also && stem(w) === stem(query.word)),
        );
      });
    }
    case 'phrase': {
      const looked = query.field ? [query.field] : searched;
      return looked.some((field) => {
        const value = f[field.key];
        return (
          value !== undefined &&
          plain(Array.isArray(value) ? value.join(', ') : String(value)).includes(` ${query.words.join(' ')} `)
        );
      });
    }
    case 'contains': {
      const value = f[query.field.key];
      return fold(Array.isArray(value) ? value.join(', ') : String(value ?? '')).includes(query.text);
    }
    case 'span': {
      const value = f[query.field.key];
      if (typeof value !== 'number') return false;
      const { min, max, openMin, openMax } = query.span;
      return (openMin ? value > min : value >= min) && (openMax ? value < max : value <= max);
    }
  }
}

const word = fc.constantFrom('creak', 'creaks', 'Gate', 'gateSlam', 'slow', 'Möwe', 'sm57', 'wet', 'old');
const words = (max: number) => fc.array(word, { minLength: 1, maxLength: max });
const sound = fc.record(
  {
    fxName: words(3).map((w) => w.join(' ')),
    description: words(4).map((w) => w.join(', ')),
    keywords: words(2),
    library: fc.constantFrom('Tide', 'Marsh'),
    length: fc.constantFrom(0.4, 1, 2.5, 60),
    stars: fc.integer({ min: 1, max: 5 }),
    force: fc.integer({ min: 0, max: 100 }),
    state: fc.constant('Missing'),
    stem: fc.constantFrom('a', 'b', 'c'),
  },
  { requiredKeys: ['fxName'] },
);
const clause = fc.oneof(
  word,
  word.map((w) => `${w.slice(0, 3)}*`),
  fc.tuple(word, word).map(([a, b]) => `"${a} ${b}"`),
  fc.tuple(fc.constantFrom('name', 'text', 'keyword', 'library', 'state'), word).map(([f, w]) => `${f}:${w}`),
  fc.constantFrom(
    'length:<2s',
    'length:1..3',
    'stars:>=3',
    'force:>50',
    'force:0..10',
    'state:missing',
    'name:~ate',
    'library:~sh',
  ),
);
const queryText: fc.Arbitrary<string> = fc.letrec<{ q: string }>((tie) => ({
  q: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    clause,
    fc.tuple(tie('q'), tie('q')).map(([a, b]) => `${a} ${b}`),
    fc.tuple(tie('q'), tie('q')).map(([a, b]) => `(${a} OR ${b})`),
    tie('q').map((a) => `-(${a})`),
  ),
})).q;

const made = (list: Record<string, FieldValue | undefined>[]): IndexedSound[] =>
  list.map((f, i) => ({ id: i + 1, fields: f as Record<string, FieldValue> }));

test('every query finds what looking at each sound finds', () => {
  fc.assert(
    fc.property(fc.array(sound, { maxLength: 25 }), queryText, (list, text) => {
      const sounds = made(list);
      const index = new SoundIndex();
      index.put(sounds.slice(0, 9));
      index.put(sounds.slice(9));
      const { query, faults } = parseQuery(text);
      expect(faults).toEqual([]);
      const found = [...index.search({ query }).ids].sort((a, b) => a - b);
      expect(found).toEqual(sounds.filter((s) => matches(query, s)).map((s) => s.id));
    }),
    { numRuns: 10_000 },
  );
});

test('bands are told apart as looking at each sound tells them, and rows stand in their order', () => {
  fc.assert(
    fc.property(fc.array(sound, { maxLength: 25 }), queryText, fc.integer({ min: 1, max: 6 }), (list, text, most) => {
      const sounds = made(list);
      const index = new SoundIndex();
      index.put(sounds);
      const { query } = parseQuery(text);
      const finding = index.find({ query });
      const { ids, bands } = finding.rows();
      const own = sounds.filter((s) => matches(query, s, 'left'));
      const rest = sounds.filter((s) => matches(query, s) && !own.includes(s));
      if (rest.length === 0) expect(bands).toEqual([]);
      else {
        const told = [own, rest].flatMap((b, i) =>
          b.length > 0 ? [{ kind: i ? 'forms' : 'words', n: b.length }] : [],
        );
        expect(bands.map((b) => ({ kind: b.kind, n: b.count }))).toEqual(told);
        expect(new Set(ids.slice(bands.at(-1)!.at))).toEqual(new Set(rest.map((s) => s.id)));
      }
      expect([...finding.first(most)]).toEqual([...ids].slice(0, most));
      expect([...index.find({ query, reach: 'words' }).rows().ids].sort((a, b) => a - b)).toEqual(
        sounds.filter((s) => matches(query, s, false)).map((s) => s.id),
      );
    }),
    { numRuns: 2000 },
  );
});

test('after any edits the index answers as one that was built anew', () => {
  const step = fc.oneof(
    fc.record({ kind: fc.constant('put' as const), id: fc.integer({ min: 1, max: 12 }), fields: sound }),
    fc.record({ kind: fc.constant('remove' as const), id: fc.integer({ min: 1, max: 12 }) }),
    fc.record({
      kind: fc.constant('stars' as const),
      id: fc.integer({ min: 1, max: 12 }),
      stars: fc.integer({ min: 1, max: 5 }),
    }),
  );
  fc.assert(
    fc.property(fc.array(step, { maxLength: 40, size: 'max' }), queryText, (steps, text) => {
      const index = new SoundIndex();
      const model = new Map<number, IndexedSound>();
      for (const s of steps) {
        if (s.kind === 'put') {
          const next = { id: s.id, fields: s.fields as Record<string, FieldValue> };
          index.put([next]);
          model.delete(s.id);
          model.set(s.id, next);
        } else if (s.kind === 'remove') {
          index.remove([s.id]);
          model.delete(s.id);
        } else if (model.has(s.id)) {
          index.setValue(s.id, 'stars', s.stars);
          model.set(s.id, { id: s.id, fields: { ...model.get(s.id)!.fields, stars: s.stars } });
        }
      }
      const { query } = parseQuery(text);
      const { ids, facets, lengths } = index.search({ query });
      const expected = [...model.values()].filter((s) => matches(query, s));
      expect([...ids].sort((a, b) => a - b)).toEqual(expected.map((s) => s.id).sort((a, b) => a - b));
      expect(index.size).toBe(model.size);
      expect(lengths.reduce((a, b) => a + b, 0)).toBe(expected.filter((s) => s.fields.length !== undefined).length);
      for (const value of ['Tide', 'Marsh']) {
        const count = expected.filter((s) => s.fields.library === value).length;
        expect(facets.library.find((f) => f.value === value)?.count ?? 0).toBe(count);
      }
    }),
    { numRuns: 600 },
  );
});

test('sorting puts every sound in its place and what has no value last', () => {
  fc.assert(
    fc.property(
      fc.array(sound, { maxLength: 30 }),
      fc.constantFrom('length', 'stars', 'fxName', 'force'),
      fc.boolean(),
      (list, key, down) => {
        const sounds = made(list);
        const index = new SoundIndex();
        index.put(sounds);
        const { ids } = index.search({ query: { kind: 'all' }, sort: { key, down } });
        expect(new Set(ids).size).toBe(sounds.length);
        const values = [...ids].map((id) => sounds[id - 1].fields[key]);
        if (fieldOf(key).type === 'text') return;
        const numbers = values.filter((v) => v !== undefined) as number[];
        expect(values.slice(numbers.length).every((v) => v === undefined)).toBe(true);
        expect(numbers).toEqual([...numbers].sort((a, b) => (down ? b - a : a - b)));
      },
    ),
  );
});

const tag = (id: number, name: string) => ({ id, name }) as Tag;

test('an order that is kept is never an older one, whatever was edited between two looks', () => {
  const key = fc.constantFrom('stars', 'fxName', 'tags');
  const step = fc.oneof(
    fc.record({ put: fc.integer({ min: 1, max: 12 }), fields: sound, tags: fc.subarray([1, 2]) }),
    fc.record({ stars: fc.integer({ min: 1, max: 5 }), of: fc.integer({ min: 1, max: 12 }) }),
    fc.record({ tag: fc.constantFrom('ample', 'wet') }),
    fc.record({ sort: fc.record({ key, down: fc.boolean() }), text: fc.constantFrom('', 'gate', 'r') }),
  );
  fc.assert(
    fc.property(
      fc.array(step, { minLength: 10, maxLength: 40, size: 'max' }),
      fc.integer({ min: 1, max: 5 }),
      (steps, most) => {
        const index = new SoundIndex();
        const model = new Map<number, IndexedSound>();
        let tags: Tag[] = [];
        for (const s of steps) {
          if ('put' in s) {
            const next = { id: s.put, fields: { ...s.fields, tags: s.tags } as Record<string, FieldValue> };
            index.put([next]);
            model.set(s.put, next);
          } else if ('of' in s) {
            const before = model.get(s.of);
            if (!before) continue;
            index.setValue(s.of, 'stars', s.stars);
            model.set(s.of, { ...before, fields: { ...before.fields, stars: s.stars } });
          } else if ('tag' in s) index.setTags((tags = [tag(1, 'mid'), tag(2, s.tag)]));
          else {
            const fresh = new SoundIndex();
            fresh.setTags(tags);
            fresh.put([...model.values()].sort((a, b) => a.id - b.id));
            const request = { query: parseQuery(s.text).query, sort: s.sort };
            const all = [...fresh.find(request).rows().ids];
            expect([...index.find(request).first(most)]).toEqual(all.slice(0, most));
            expect([...index.find(request).rows().ids]).toEqual(all);
          }
        }
      },
    ),
    { numRuns: 200 },
  );
});

test('folding shows one row a stem and loses none: the counts add up, and opened stems show all', () => {
  fc.assert(
    fc.property(fc.array(sound, { maxLength: 30 }), fc.subarray(['a', 'b', 'c']), (list, opened) => {
      const sounds = made(list);
      const index = new SoundIndex();
      index.put(sounds);
      const whole = index.search({ query: { kind: 'all' } });
      expect([...whole.takes]).toEqual(sounds.map(() => 1));
      const { ids, takes, facets } = index.search({ query: { kind: 'all' }, fold: { opened } });
      const stemOf = (id: number) => sounds[id - 1].fields.takeGroup as string | undefined;
      for (const stem of ['a', 'b', 'c']) {
        const own = sounds.filter((s) => s.fields.takeGroup === stem);
        const rows = [...ids].filter((id) => stemOf(id) === stem);
        expect(rows).toHaveLength(opened.includes(stem) ? own.length : Math.min(1, own.length));
        if (own.length > 0) expect(takes[ids.indexOf(rows[0])]).toBe(own.length);
        // Takes stand together.
        expect(rows).toEqual([...ids].slice(ids.indexOf(rows[0]), ids.indexOf(rows[0]) + rows.length));
      }
      expect([...ids].filter((id) => stemOf(id) === undefined)).toHaveLength(
        sounds.filter((s) => s.fields.takeGroup === undefined).length,
      );
      expect(facets).toEqual(whole.facets);
    }),
  );
});
