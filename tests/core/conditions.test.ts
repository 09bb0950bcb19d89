import {
  comparisonsOf,
  conditionsOf,
  newCondition,
  parseQuery,
  queryText,
  type ConditionGroup,
  type Query,
} from '@core/search';
import { fieldByQueryName, fields } from '@core/library';
import fc from 'fast-check';

/** A query as it is meant: the typed end of a word is none once something follows it. */
const meant = (text: string) => parseQuery(`${text} `).query;

/** Without brackets around single things and inside of nothing, which say nothing. */
function plain(query: Query): unknown {
  if (query.kind === 'not') return { not: plain(query.part) };
  if (query.kind !== 'and' && query.kind !== 'or') return JSON.parse(JSON.stringify(query));
  return query.parts.length === 1 ? plain(query.parts[0]) : { [query.kind]: query.parts.map(plain) };
}

const word = fc.constantFrom('wood', 'Creak', 'naïve', 'm2', '水', 'or', 'not', 'harbours');
const clause = fc.letrec<{ any: string; clause: string }>((tie) => ({
  clause: fc.oneof(
    word,
    word.map((w) => `${w}*`),
    fc.tuple(word, word).map(([a, b]) => `"${a} ${b}"`),
    fc.tuple(fc.constantFrom('name', 'library', 'keywords'), word).map(([f, w]) => `${f}:${w}`),
    fc.constantFrom(
      'length:<2s',
      'length:1..3',
      'stars:>=3',
      'tempo:90..',
      'added:>2026-03',
      'file:~47b',
      'name:~"a (b"',
      'length:250ms',
    ),
    tie('any').map((t) => `(${t})`),
    tie('any').map((t) => `length:(<2s OR >1m)${t.length % 2 ? '' : ' x'}`),
    tie('clause').map((t) => `-${t}`),
  ),
  any: fc
    .tuple(fc.array(tie('clause'), { minLength: 1, maxLength: 4 }), fc.constantFrom(' ', ' OR ', ' AND '))
    .map(([c, by]) => c.join(by)),
}));

test('a query shown as conditions and written again means the same', () => {
  fc.assert(
    fc.property(clause.any, (text) => {
      const query = meant(text);
      const written = queryText(conditionsOf(query));
      expect(parseQuery(`${written} `).faults).toEqual([]);
      expect(plain(meant(written))).toEqual(plain(query));
      // Written once, it stays as it is.
      expect(queryText(conditionsOf(meant(written)))).toBe(written);
    }),
    { numRuns: 2000 },
  );
});

test.each([
  ['creak -door', 'creak -door'],
  ['(wood OR metal) length:<2s', '(wood OR metal) length:<2s'],
  ['length:(<1s OR >1m)', 'length:<1s OR length:>1m'],
  ['NOT NOT rain', '-(-rain)'],
  ['name:~"low rum"', 'name:~"low rum"'],
  ['name:(old rope)', 'name:old name:rope'],
  ['', ''],
])('%s is written %s', (text, written) => {
  expect(queryText(conditionsOf(meant(text)))).toBe(written);
});

test('every comparison that a field allows is written so that it reads back, and what says nothing is left out', () => {
  for (const field of [undefined, ...fields])
    for (const how of comparisonsOf(field)) {
      const value =
        field?.type === 'date'
          ? '2026-03-14'
          : field && how.length >= 2 && comparisonsOf(field)[0] === 'is'
            ? '4'
            : 'low door';
      const condition = {
        ...newCondition(field),
        how,
        value,
        to: how === 'between' ? (field?.type === 'date' ? '2026-04' : '5') : undefined,
      };
      const empty = newCondition(field);
      const group: ConditionGroup = {
        kind: 'group',
        not: false,
        any: true,
        parts: [empty, condition, { ...condition, not: true }],
      };
      const text = queryText(group);
      const { query, faults } = parseQuery(`${text} `);
      expect([text, faults]).toEqual([text, []]);
      expect(query.kind === 'or' && query.parts[1]).toMatchObject({ kind: 'not' });
      if (field && how !== 'has' && how !== 'begins') {
        expect(text.startsWith(`${field.query[0]}:`)).toBe(true);
        expect(conditionsOf(query).parts[0]).toMatchObject({ how, field: field.query[0], value: condition.value });
      }
    }
  // Signs that would break out of a condition are left out of it.
  const sly = { ...newCondition(fieldByQueryName('name')), how: 'contains' as const, value: 'a" OR -b (' };
  expect(meant(queryText({ kind: 'group', not: false, any: false, parts: [sly] }))).toMatchObject({
    kind: 'contains',
    text: 'a or -b (',
  });
});
