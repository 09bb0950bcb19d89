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

type Word = Extract<Query, { kind: 'word' }>;
const isPlain = (query: Query): query is Word => query.kind === 'word' && !query.field && !query.literal;

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
 * What is looked for where nothing has all the words of a query: most of them, fewer from one to the next. A query that says exactly what
 * it means, by fields, quotes, AND, OR or NOT, has none; `text` is the query as it was written.
 */
export function relaxed(query: Query, text: string): Query[] {
  if (query.kind !== 'and' || /["():*~]|(^|\s)(-|(AND|OR|NOT)(?=\s))/.test(text)) return [];
  const words = query.parts.filter((p) => !isPlain(p) || !little.has(p.word));
  if (words.length < 2 || words.length > WORDS) return [];
  const made: Query[] = [];
  for (let least = words.length - 1; least >= 1; least--) made.push({ kind: 'most', parts: words, least });
  return made;
}
