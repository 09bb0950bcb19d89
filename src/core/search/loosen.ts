import type { Query } from './query';

/** Words that say nothing of a sound; asked for beside others, they are passed over. */
const little = new Set([
  'a',
  'an',
  'and',
  'at',
  'by',
  'for',
  'from',
  'in',
  'into',
  'of',
  'off',
  'on',
  'onto',
  'the',
  'to',
  'with',
]);
/** Joined pairs that are looked for at the most: a query of more words is precise enough. */
const MOST = 6;

export type PlainWord = Extract<Query, { kind: 'word' }>;
const isPlain = (query: Query): query is PlainWord => query.kind === 'word' && !query.field && !query.literal;

/**
 * What people mean by a query, who do not type it as a librarian would: little words between others do not count, and two words
 * side by side may stand as one (`fog horn` also finds `foghorn`). Everything that the query finds as it is written is still found.
 */
export function loosened(query: Query): Query {
  switch (query.kind) {
    case 'or':
      return { kind: 'or', parts: query.parts.map(loosened) };
    case 'not':
      // What is to be left out is left out as it is written.
      return query;
    case 'and': {
      const parts = query.parts.map(loosened);
      const said = parts.filter((p) => !isPlain(p) || !little.has(p.word));
      const kept = said.length > 0 ? said : parts;
      const strict: Query = kept.length === 1 ? kept[0] : { kind: 'and', parts: kept };
      const joined: Query[] = [];
      for (let i = 0; i + 1 < parts.length && joined.length < MOST; i++) {
        const [a, b] = [parts[i], parts[i + 1]];
        if (!isPlain(a) || !isPlain(b) || little.has(a.word) || little.has(b.word)) continue;
        const others = kept.filter((p) => p !== a && p !== b);
        // The joined word first, as it stands: where no sound has it, nothing else is looked at.
        joined.push({ kind: 'and', parts: [{ ...b, word: a.word + b.word, literal: true }, ...others] });
      }
      return joined.length === 0 ? strict : { kind: 'or', parts: [strict, ...joined] };
    }
    default:
      return query;
  }
}

/** Words of which some may be given up at the most. */
const WORDS = 8;

/**
 * The words of a query that says no more than them, of which some may be given up, or may be heard instead of read; little ones are left
 * out. A query that says exactly what it means, by fields, quotes, AND, OR or NOT, has none.
 * @param text the query as it was written
 */
export function plainWords(query: Query, text: string): PlainWord[] {
  if (/["():*~]|(^|\s)(-|(AND|OR|NOT)(?=\s))/.test(text)) return [];
  const parts = query.kind === 'and' ? query.parts : [query];
  const words = parts.filter(isPlain);
  const said = words.filter((p) => !little.has(p.word));
  return words.length < parts.length || said.length > WORDS ? [] : said;
}
