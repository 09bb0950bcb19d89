import type { Field } from '@core/library';
import { fieldByQueryName, isNumeric } from '@core/library';
import { fold, searchWords } from '@core/naming';
import type { Span } from './values';
import { numberSpan } from './values';

/** A query as a tree. Words are folded; `field` limits a clause to one field. */
export type Query =
  | { kind: 'all' }
  /** `literal` leaves other forms of the word and synonyms out. */
  | { kind: 'word'; word: string; prefix: boolean; literal?: boolean; field?: Field }
  | { kind: 'phrase'; words: string[]; field?: Field }
  | { kind: 'contains'; text: string; field: Field }
  /** `text` is the span as it was written. */
  | { kind: 'span'; span: Span; text: string; field: Field }
  | { kind: 'and' | 'or'; parts: Query[] }
  | { kind: 'not'; part: Query };

/** What is wrong with a query text, and where. */
export interface QueryFault {
  /** Characters from the start. */
  at: number;
  length: number;
  message: string;
}

/** A clause that stands at the top of a query, as it was written. */
export interface Clause {
  at: number;
  length: number;
  /** Whether it stands behind an OR. */
  or: boolean;
}

export interface ParsedQuery {
  /** The longest valid part. */
  query: Query;
  faults: QueryFault[];
  clauses: Clause[];
}

/** Clauses inside of clauses; deeper ones would take more stack than there is. */
const DEEPEST = 100;

const isSpace = (c: string) => /\s/.test(c);
const wordEnd = /[\s()"]/;

/** Recursive descent over the grammar of docs/formats.md; never throws, what it cannot use becomes a fault. */
class Parser {
  at = 0;
  readonly faults: QueryFault[] = [];
  readonly clauses: Clause[] = [];
  private depth = 0;

  constructor(private readonly text: string) {}

  private fault(at: number, length: number, message: string): void {
    this.faults.push({ at, length: Math.max(1, length), message });
  }

  private skipSpace(): void {
    while (this.at < this.text.length && isSpace(this.text[this.at])) this.at++;
  }

  /** The keyword (AND, OR, NOT in capitals) that stands here, without taking it. */
  private keyword(): string | undefined {
    return /^(AND|OR|NOT)(?![^\s()"])/.exec(this.text.slice(this.at, this.at + 4))?.[1];
  }

  query(inGroup: boolean, field?: Field): Query {
    const any: Query[] = [];
    let all: Query[] = [];
    const closeAnd = () => {
      if (all.length > 0) any.push(all.length === 1 ? all[0] : { kind: 'and', parts: all });
      all = [];
    };
    for (;;) {
      this.skipSpace();
      if (this.at >= this.text.length) break;
      if (this.text[this.at] === ')') {
        if (inGroup) break;
        this.fault(this.at, 1, 'This bracket closes nothing.');
        this.at++;
        continue;
      }
      const keyword = this.keyword();
      if (keyword === 'OR' || keyword === 'AND') {
        const at = this.at;
        this.at += keyword.length;
        this.skipSpace();
        const ends = this.at >= this.text.length || this.text[this.at] === ')';
        if (all.length === 0 || ends) this.fault(at, keyword.length, `${keyword} needs something on both sides.`);
        if (keyword === 'OR') closeAnd();
        continue;
      }
      const at = this.at;
      const clause = this.clause(field);
      if (!inGroup) this.clauses.push({ at, length: this.at - at, or: all.length === 0 && any.length > 0 });
      if (clause) all.push(clause);
    }
    closeAnd();
    if (any.length === 0) return { kind: 'all' };
    return any.length === 1 ? any[0] : { kind: 'or', parts: any };
  }

  private clause(field?: Field): Query | undefined {
    const at = this.at;
    const minus = this.text[this.at] === '-';
    const not = minus || this.keyword() === 'NOT';
    if (not) {
      this.at += minus ? 1 : 3;
      if (!minus) this.skipSpace();
      if (this.at >= this.text.length || (minus && isSpace(this.text[this.at]))) {
        this.fault(at, this.at - at, 'Nothing follows to be left out.');
        return undefined;
      }
      if (++this.depth > DEEPEST) return this.tooDeep(at);
      const part = this.clause(field);
      this.depth--;
      return part && { kind: 'not', part };
    }
    const c = this.text[this.at];
    if (c === '(') return this.group(field);
    if (c === '"') return this.phrase(field);
    return this.fieldOrWord(field);
  }

  private tooDeep(at: number): undefined {
    this.fault(at, 1, `Clauses go ${DEEPEST} deep at most.`);
    this.at = this.text.length;
    return undefined;
  }

  private group(field?: Field): Query | undefined {
    const at = this.at++;
    if (++this.depth > DEEPEST) return this.tooDeep(at);
    const query = this.query(true, field);
    this.depth--;
    if (this.text[this.at] === ')') this.at++;
    else this.fault(at, 1, 'This bracket is not closed.');
    if (query.kind === 'all') {
      this.fault(at, this.at - at, 'There is nothing in these brackets.');
      return undefined;
    }
    return query;
  }

  /** Takes what stands in quotes from `at` on. */
  private quoted(at: number): string {
    const end = this.text.indexOf('"', at + 1);
    if (end < 0) this.fault(at, 1, 'This quote is not closed.');
    this.at = end < 0 ? this.text.length : end + 1;
    return this.text.slice(at + 1, end < 0 ? undefined : end);
  }

  private phrase(field?: Field): Query | undefined {
    const inside = this.quoted(this.at);
    const words = fold(inside).match(/[\p{L}\p{M}\p{N}]+/gu);
    return words ? { kind: 'phrase', words, field } : undefined;
  }

  private fieldOrWord(field?: Field): Query | undefined {
    const at = this.at;
    const named = /^([\p{L}]+):/u.exec(this.text.slice(at, at + 40));
    if (!named) return field && isNumeric(field) ? this.value(field) : this.word(field);
    this.at += named[0].length;
    const own = fieldByQueryName(named[1]);
    if (!own) this.fault(at, named[1].length, `No field is called “${named[1]}”.`);
    if (this.at >= this.text.length || isSpace(this.text[this.at])) {
      if (own) this.fault(at, named[0].length, `What should ${own.label.toLowerCase()} be? Nothing follows the colon.`);
      return undefined;
    }
    const value = this.value(own);
    return own ? value : undefined;
  }

  private value(field?: Field): Query | undefined {
    const c = this.text[this.at];
    if (c === '(') return this.group(field);
    if (c === '"') return this.phrase(field);
    const at = this.at;
    if (c === '~') {
      const text = this.text[at + 1] === '"' ? this.quoted(++this.at) : this.take().slice(1);
      return text && field ? { kind: 'contains', text: fold(text), field } : undefined;
    }
    if (!field || !isNumeric(field)) return this.word(field);
    const text = this.take();
    const span = numberSpan(field, text);
    if (typeof span !== 'string') return { kind: 'span', span, text, field };
    this.fault(at, text.length, span);
    return undefined;
  }

  /** Takes everything up to a space, bracket or quote. */
  private take(): string {
    const from = this.at;
    while (this.at < this.text.length && !wordEnd.test(this.text[this.at])) this.at++;
    if (this.at === from) this.at++;
    return this.text.slice(from, this.at);
  }

  private word(field?: Field): Query | undefined {
    const text = this.take();
    const star = text.endsWith('*');
    const words = searchWords(text.replace(/\*+$/, ''));
    // Sloppily joined words such as `wood-creak` are both meant; of a mixed run the whole already says it all.
    const runs = fold(text).match(/[\p{L}\p{M}\p{N}]+/gu) ?? words;
    const typing = this.at >= this.text.length;
    const parts = runs.map((word, i): Query => ({
      kind: 'word',
      word,
      prefix: i === runs.length - 1 && (star || typing),
      literal: (star && i === runs.length - 1) || undefined,
      field,
    }));
    if (parts.length === 0) return undefined;
    return parts.length === 1 ? parts[0] : { kind: 'and', parts };
  }
}

/**
 * Parses a query text (grammar: docs/formats.md). The last word, if nothing follows it yet, matches as a beginning, so
 * that results appear while it is typed. Never throws: faults say what could not be used and where.
 */
export function parseQuery(text: string): ParsedQuery {
  const parser = new Parser(text);
  const query = parser.query(false);
  return { query, faults: parser.faults, clauses: parser.clauses };
}

/** A query's text without one of its clauses, and without the OR or AND that stood before or behind that. */
export function withoutClause(text: string, { at, length }: Pick<Clause, 'at' | 'length'>): string {
  const before = text.slice(0, at).replace(/(^|\s)(OR|AND)\s*$/, '$1');
  let behind = text.slice(at + length);
  if (before.trim() === '') behind = behind.replace(/^\s*(OR|AND)(?=\s)/, '');
  return `${before.trimEnd()} ${behind.trimStart()}`.trim();
}

/** Whether a query asks for words, by which its answers can be ranked. */
export function hasWords(query: Query): boolean {
  if (query.kind === 'and' || query.kind === 'or') return query.parts.some(hasWords);
  return query.kind === 'word' || query.kind === 'phrase';
}
