import { fields, fieldByQueryName, type Field } from '@core/library';
import { fold } from '@core/naming';
import { canFacet } from './finding';

/** What stands at the caret of a query and may be completed. */
export interface Begun {
  /** Characters of the query that a completion replaces. */
  from: number;
  to: number;
  /** The field whose value is begun; undefined for a word or the name of a field. */
  field?: Field;
  /** What stands there of the value, word or name, folded. */
  part: string;
}

/** Finds what is begun at the caret: a word, the name of a field, or the value of one; undefined between words. */
export function begunAt(text: string, caret: number): Begun | undefined {
  const before = text.slice(0, caret);
  const quoted = /([\p{L}]+):"([^"]*)$/u.exec(before);
  const bare = quoted ? null : /(?:^|[\s(])-?((?:([\p{L}]+):)?([^\s()":~<>=]*))$/u.exec(before);
  const [name, part] = quoted ? [quoted[1], quoted[2]] : [bare?.[2], bare?.[3]];
  if (part === undefined) return undefined;
  const field = name === undefined ? undefined : fieldByQueryName(name);
  if (name !== undefined && (!field || !canFacet(field))) return undefined;
  if (field === undefined && part === '') return undefined;
  const length = quoted ? part.length + 1 : part.length;
  const rest = quoted ? /^[^"]*"?/.exec(text.slice(caret))![0] : /^[^\s()":]*/.exec(text.slice(caret))![0];
  return { from: caret - length, to: caret + rest.length, field, part: fold(part) };
}

/** The value of a field as a query has it. */
export function valueText(value: string): string {
  return /^[\p{L}\p{M}\p{N}]+$/u.test(value) ? value : `"${value.replace(/"/g, '')}"`;
}

/** Names of fields that begin with a text; each field once, under its first name that does. */
export function fieldNames(part: string): { name: string; field: Field }[] {
  return fields.flatMap((field) => {
    const name = field.query.find((n) => n.startsWith(part));
    return name ? [{ name, field }] : [];
  });
}
