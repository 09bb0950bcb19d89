import { parseQuery, type Query } from '@core/search';

/** What a service of open sounds is asked for. */
export interface OpenAsk {
  /** Words that a sound has, all of them or any; one that ends in `*` is a beginning. */
  words: string[];
  any: boolean;
  /** Words that it has not. */
  without: string[];
  /** Licences of which it has one; any when empty. */
  licences: string[];
  authors: string[];
  /** Seconds. */
  shortest?: number;
  longest?: number;
  /** It is as near as can be to what this code was made from; see `likeCode`. */
  like?: string;
  order: 'fit' | 'newest' | 'longest' | 'shortest';
}

/** An ask that leaves nothing out. */
export const anything: OpenAsk = {
  ...{ words: [], any: false, without: [], licences: [], authors: [], order: 'fit' },
};

const wordsOf = (query: Query): string[] | undefined => {
  if (query.kind === 'word') return [query.prefix ? `${query.word}*` : query.word];
  return query.kind === 'phrase' ? query.words : undefined;
};

/** Fields by which words may be asked for: all that a service tells in words is searched at once. */
const IN_WORDS = ['fxName', 'description', 'keywords', 'tags'];

/**
 * A query of Find as what a service can be asked for: words that are had or not, licence, author and length. The rest is left out, and told.
 * @returns the ask, and the clauses that are not part of it, as they were written
 */
export function askOf(text: string): { ask: OpenAsk; left: string[] } {
  const ask: OpenAsk = { ...anything, words: [], without: [], licences: [], authors: [] };
  const { clauses } = parseQuery(`${text} `);
  const left: string[] = [];
  for (const { at, length, or } of clauses) {
    const written = text.slice(at, at + length);
    const { query, faults } = parseQuery(`${written} `);
    if (or || faults.length > 0 || !take(query, ask)) left.push(written);
  }
  return { ask, left };
}

/** Adds a clause to an ask. @returns whether it could be */
function take(query: Query, ask: OpenAsk): boolean {
  if (query.kind === 'all') return true;
  if (query.kind === 'and') {
    // All of it or nothing: half a clause would find what was not meant.
    const trial = { ...ask, words: [...ask.words], without: [...ask.without] };
    if (!query.parts.every((p) => take(p, trial))) return false;
    Object.assign(ask, trial);
    return true;
  }
  if (query.kind === 'not') {
    const words = wordsOf(query.part);
    if (!words || words.length !== 1 || !isInWords(query.part)) return false;
    ask.without.push(...words);
    return true;
  }
  if (query.kind === 'span') {
    if (query.field.key !== 'length') return false;
    const { min, max } = query.span;
    if (Number.isFinite(min)) ask.shortest = Math.max(ask.shortest ?? 0, min);
    if (Number.isFinite(max)) ask.longest = Math.min(ask.longest ?? Infinity, max);
    return true;
  }
  const words = wordsOf(query);
  if (!words || !isInWords(query)) return false;
  ask.words.push(...words);
  return true;
}

const isInWords = (query: Query): boolean =>
  (query.kind === 'word' || query.kind === 'phrase') && (!query.field || IN_WORDS.includes(query.field.key));
