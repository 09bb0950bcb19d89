import { fold } from '@core/naming';
import { parseQuery, type Query } from '@core/search';

/** What a service of open sounds is asked for. */
export interface OpenAsk {
  /** Words that a sound has, all of them or any; one that ends in `*` is a beginning, and `a|b` is one of both. */
  words: string[];
  any: boolean;
  /** Words that it has not. */
  without: string[];
  /** Licences of which it has one; any when empty. */
  licences: string[];
  authors: string[];
  /** Words that the name of its author has. */
  by: string[];
  /** Seconds. */
  shortest?: number;
  longest?: number;
  /** It is as near as can be to what this code was made from; see `likeCode`. */
  like?: string;
  order: 'fit' | 'newest' | 'longest' | 'shortest';
}

/** An ask that leaves nothing out. */
export const anything: OpenAsk = {
  ...{ words: [], any: false, without: [], licences: [], authors: [], by: [], order: 'fit' },
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
  const ask: OpenAsk = { ...anything, words: [], without: [], licences: [], authors: [], by: [] };
  const { clauses } = parseQuery(`${text} `);
  const left: string[] = [];
  clauses.forEach(({ at, or }, i) => {
    if (or) return;
    // Alternatives are asked for together, or not at all.
    let last = i;
    while (clauses[last + 1]?.or) last++;
    const written = text.slice(at, clauses[last].at + clauses[last].length);
    const { query, faults } = parseQuery(`${written} `);
    if (faults.length > 0 || !take(query, ask)) left.push(written);
  });
  return { ask, left };
}

/** Adds a clause to an ask. @returns whether it could be */
function take(query: Query, ask: OpenAsk): boolean {
  if (query.kind === 'all') return true;
  if (query.kind === 'and') {
    // All of it or nothing: half a clause would find what was not meant.
    const trial = {
      ...ask,
      words: [...ask.words],
      without: [...ask.without],
      licences: [...ask.licences],
      by: [...ask.by],
    };
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
  if (query.kind === 'or') {
    const each = query.parts.map((part) => (isInWords(part) ? wordsOf(part) : undefined));
    if (!each.every((words) => words?.length === 1)) return false;
    ask.words.push(each.flat().join('|'));
    return true;
  }
  const words = wordsOf(query);
  if (!words) return false;
  const key = query.kind === 'word' || query.kind === 'phrase' ? query.field?.key : undefined;
  // Of two licences a sound has one at the most.
  if (key === 'licence' && ask.licences.length === 0) ask.licences.push(words.join(' '));
  else if (key === 'author') ask.by.push(...words);
  else if (isInWords(query)) ask.words.push(...words);
  else return false;
  return true;
}

/** Words that are asked for beside one at the most. */
const WIDEST = 12;

/**
 * The same ask for whatever means as much: each word or one that stands near it.
 * @param near by word, the nearest first
 */
export function widened(ask: OpenAsk, near: ReadonlyMap<string, readonly string[]>): OpenAsk {
  const wide = (word: string) =>
    [...new Set([word, ...word.split('|').flatMap((one) => (near.get(one) ?? []).slice(0, WIDEST))])].join('|');
  return { ...ask, words: ask.words.map(wide) };
}

/**
 * Licences that a typed one may mean, such as `cc by` for CC BY 4.0, but not for CC BY-SA 4.0.
 * @param known by their full names
 */
export function licencesMeant(typed: string, known: readonly string[]): string[] {
  const wanted = fold(typed.replace(/\*$/, ''));
  return known.filter((name) => {
    const own = fold(name);
    return own === wanted || own.startsWith(typed.endsWith('*') ? wanted : `${wanted} `);
  });
}

const isInWords = (query: Query): boolean =>
  (query.kind === 'word' || query.kind === 'phrase') && (!query.field || IN_WORDS.includes(query.field.key));
