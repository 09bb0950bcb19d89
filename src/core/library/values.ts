import type { Field, FieldValue } from './field';
import { licences } from './licence';

/** Names of tags by their ids. */
export type TagNames = ReadonlyMap<number, string>;

/** A day as `2026-03-14`; with the time, when it has one. */
function dateText(at: number): string {
  const iso = new Date(at).toISOString();
  return iso.endsWith('T00:00:00.000Z') ? iso.slice(0, 10) : iso;
}

/** Words of a list in one text: a comma between them; one inside of a word is kept by a backslash. */
export const joinWords = (words: readonly string[]): string => words.map((w) => w.replace(/[\\,]/g, '\\$&')).join(', ');

/** The words of a text; the inverse of {@link joinWords}. Semicolons and line ends part words as well. */
export function splitWords(text: string): string[] {
  const words: string[] = [];
  let word = '';
  for (let i = 0; i < text.length; i++) {
    if (text[i] === '\\' && /[\\,]/.test(text[i + 1] ?? '')) word += text[++i];
    else if (/[,;\n]/.test(text[i])) {
      words.push(word.trim());
      word = '';
    } else word += text[i];
  }
  return [...new Set([...words, word.trim()])].filter(Boolean);
}

/** A value as people type it and sheets hold it; the inverse of {@link valueFrom}. Empty for none. */
export function textOf(field: Field, value: FieldValue | undefined, tags: TagNames): string {
  if (value === undefined) return '';
  if (field.type === 'tags')
    return joinWords((value as readonly number[]).map((id) => tags.get(id) ?? '').filter(Boolean));
  if (Array.isArray(value)) return joinWords(value as readonly string[]);
  if (field.type === 'date') return dateText(value as number);
  return String(value);
}

/** Value of a text: tags as their names, for whoever gives them ids. */
export type Typed = { value: FieldValue | undefined } | { tagNames: string[] } | { fault: string };

const dated = /^(\d{4})(?:-(\d{1,2})(?:-(\d{1,2})(?:T.*)?)?)?$/;

/** A typed text as the value of a field; an empty one is no value. Faults say what was expected. */
export function valueFrom(field: Field, text: string): Typed {
  const typed = text.trim();
  if (typed === '') return field.type === 'tags' ? { tagNames: [] } : { value: undefined };
  switch (field.type) {
    case 'tags':
      return { tagNames: splitWords(typed) };
    case 'list':
      return { value: splitWords(typed) };
    case 'number':
    case 'stars': {
      const number = Number(typed.replace(',', '.').replace(/\s*[a-zA-Z%★]+$/, ''));
      if (!/\d/.test(typed) || !Number.isFinite(number)) return { fault: `“${typed}” is no number` };
      if (field.type === 'stars' && (number < 0 || number > 5 || !Number.isInteger(number)))
        return { fault: `stars go from 0 to 5, not ${typed}` };
      return { value: field.type === 'stars' && number === 0 ? undefined : number };
    }
    case 'date': {
      const at = dated.test(typed) ? Date.parse(typed.includes('T') ? typed : isoDay(typed)) : NaN;
      return Number.isNaN(at) ? { fault: `“${typed}” is no date; write it as 2026-03-14` } : { value: at };
    }
    case 'choice':
      if (field.key === 'licence') {
        const code = licences.find((l) => l.code.toLowerCase() === typed.toLowerCase())?.code;
        return { value: code ?? typed };
      }
      return { value: typed };
    default:
      return { value: field.type === 'longtext' ? text.replace(/\r\n?/g, '\n').trim() : typed };
  }
}

function isoDay(text: string): string {
  const [, year, month = '1', day = '1'] = dated.exec(text)!;
  return `${year}-${month.padStart(2, '0')}-${day.padStart(2, '0')}`;
}
