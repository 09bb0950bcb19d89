import type { Field, FieldValue } from '@core/library';
import { NumberColumn, type Column } from './columns';

/** Fields of all sounds, column by column; see `valueIn`. */
export interface SoundTable {
  ids: Uint32Array;
  columns: Record<string, { numbers: Float64Array } | { codes: Uint32Array; texts: string[] }>;
}

/** A value out of a table; lists come as lists. */
export function valueIn(table: SoundTable, field: Field, row: number): FieldValue | undefined {
  const column = table.columns[field.key];
  if ('numbers' in column) return Number.isNaN(column.numbers[row]) ? undefined : column.numbers[row];
  const text = column.texts[column.codes[row]];
  if (text === '') return undefined;
  if (field.type === 'tags') return text.split(', ').map(Number);
  return field.type === 'list' ? text.split(', ') : text;
}

/** Makes a table of some slots. @returns undefined when a field has no column */
export function tableOf(
  slots: Uint32Array,
  ids: Uint32Array,
  columns: ReadonlyMap<string, Column>,
  keys: readonly string[],
): SoundTable | undefined {
  const made: SoundTable['columns'] = {};
  for (const key of keys) {
    const column = columns.get(key);
    if (!column) return undefined;
    if (column instanceof NumberColumn) made[key] = { numbers: Float64Array.from(slots, (slot) => column.at(slot)) };
    else made[key] = { codes: slots.map((slot) => column.at(slot)), texts: column.texts() };
  }
  return { ids: slots.map((slot) => ids[slot]), columns: made };
}
