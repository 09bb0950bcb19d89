import { fieldByQueryName, isNumeric, type Field } from '@core/library';
import { fold } from '@core/naming';
import type { Query } from './query';

/** How a condition compares: texts by the first four, numbers and dates by the others. */
export type Comparison =
  'has' | 'begins' | 'phrase' | 'contains' | 'is' | 'under' | 'upTo' | 'over' | 'from' | 'between';

/** One condition of a query, as a form shows it. */
export interface Condition {
  kind: 'condition';
  not: boolean;
  /** By its name in queries; undefined for any field. */
  field?: string;
  how: Comparison;
  value: string;
  /** The upper end of `between`. */
  to?: string;
}

/** Conditions of which all, or any, have to hold. */
export interface ConditionGroup {
  kind: 'group';
  not: boolean;
  any: boolean;
  parts: (Condition | ConditionGroup)[];
}

const signs = { is: '', under: '<', upTo: '<=', over: '>', from: '>=' } as const;
const bySign = new Map(Object.entries(signs).map(([how, sign]) => [sign as string, how as Comparison]));

/** The comparisons that a field allows; contains needs a field. */
export function comparisonsOf(field: Field | undefined): Comparison[] {
  if (field && isNumeric(field)) return ['is', 'under', 'upTo', 'over', 'from', 'between'];
  return field ? ['has', 'begins', 'phrase', 'contains'] : ['has', 'begins', 'phrase'];
}

/** A condition that says nothing yet. */
export const newCondition = (field?: Field): Condition => ({
  kind: 'condition',
  not: false,
  field: field?.query[0],
  how: comparisonsOf(field)[0],
  value: '',
});

const group = (any: boolean, parts: ConditionGroup['parts']): ConditionGroup => ({
  kind: 'group',
  not: false,
  any,
  parts,
});

function spanCondition(field: string, text: string): Condition {
  const [value, to] = text.split('..');
  if (to !== undefined) return { kind: 'condition', not: false, field, how: 'between', value, to };
  const [, sign, rest] = /^(<=|>=|<|>|=)?(.*)$/.exec(text)!;
  return { kind: 'condition', not: false, field, how: bySign.get(sign ?? '') ?? 'is', value: rest };
}

function partOf(query: Query): Condition | ConditionGroup {
  const text = (how: Comparison, value: string, field?: Field): Condition => ({
    kind: 'condition',
    not: false,
    field: field?.query[0],
    how,
    value,
  });
  switch (query.kind) {
    case 'all':
      return group(false, []);
    case 'and':
    case 'or':
      return group(query.kind === 'or', query.parts.map(partOf));
    case 'not': {
      const part = partOf(query.part);
      return part.not ? { ...group(false, [part]), not: true } : { ...part, not: true };
    }
    case 'word':
      return text(query.literal ? 'begins' : 'has', query.word, query.field);
    case 'phrase':
      return text('phrase', query.words.join(' '), query.field);
    case 'contains':
      return text('contains', query.text, query.field);
    case 'span':
      return spanCondition(query.field.query[0], query.text);
  }
}

/** A query as conditions; the inverse of {@link queryText} but for the spelling. */
export function conditionsOf(query: Query): ConditionGroup {
  const part = partOf(query);
  return part.kind === 'group' && !part.not
    ? part
    : group(false, part.kind === 'group' && part.parts.length === 0 ? [] : [part]);
}

const runs = (text: string) => fold(text).match(/[\p{L}\p{M}\p{N}]+/gu) ?? [];
const unquoted = (text: string) => text.replace(/["\s]+/g, ' ').trim();

/** The text of a condition without what it may be left out by; undefined while it says nothing. */
function conditionText({ field, how, value, to }: Condition): string | undefined {
  const words = runs(value);
  const scope = field === undefined || !fieldByQueryName(field) ? '' : `${field}:`;
  switch (how) {
    case 'has':
      if (words.length === 0) return undefined;
      return scope + (words.length > 1 ? `(${words.join(' ')})` : words[0]);
    case 'begins': {
      if (words.length === 0) return undefined;
      const all = [...words.slice(0, -1), `${words[words.length - 1]}*`];
      return scope + (all.length > 1 ? `(${all.join(' ')})` : all[0]);
    }
    case 'phrase':
      return words.length > 0 ? `${scope}"${words.join(' ')}"` : undefined;
    case 'contains': {
      const part = unquoted(value);
      if (!part || !scope) return undefined;
      return /[\s()]/.test(part) ? `${scope}~"${part}"` : `${scope}~${part}`;
    }
    case 'between': {
      const [low, high] = [unquoted(value).replace(/\s/g, ''), unquoted(to ?? '').replace(/\s/g, '')];
      return (low || high) && scope ? `${scope}${low}..${high}` : undefined;
    }
    default: {
      const number = unquoted(value).replace(/\s/g, '');
      return number && scope ? `${scope}${signs[how]}${number}` : undefined;
    }
  }
}

function partText(part: Condition | ConditionGroup, alone: boolean): string | undefined {
  if (part.kind === 'condition') {
    const text = conditionText(part);
    return text && (part.not ? `-${text}` : text);
  }
  const texts = part.parts.flatMap((p) => partText(p, false) ?? []);
  if (texts.length === 0) return undefined;
  const text = texts.join(part.any ? ' OR ' : ' ');
  return part.not ? `-(${text})` : alone ? text : `(${text})`;
}

/** Conditions as the text of a query; those that say nothing yet are left out. */
export function queryText(conditions: ConditionGroup): string {
  return partText(conditions, true) ?? '';
}
