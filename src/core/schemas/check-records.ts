import type { Binned, Built, Sound, TableName } from '@core/library';
import { records as byTable, type Validator } from '../generated/validators';
import { recordValidator } from './records';

/** The places of a fault, such as `fields/stars`. */
export interface RecordFault {
  path: string;
  message: string;
  /** A property that is missing there, or does not belong there. */
  missing?: string;
  extra?: string;
}

function faultOf(validator: Validator, data: unknown, before = ''): RecordFault | undefined {
  if (validator(data)) return undefined;
  const fault = validator.errors?.[0];
  const path = (before + (fault?.instancePath ?? '')).split('/').filter(Boolean).join('/');
  const { missingProperty: missing, additionalProperty: extra } = fault?.params ?? {};
  return { path, message: fault?.message ?? 'is wrong', missing, extra };
}

/**
 * Holds a record against the shape that its table has: types, ranges, what has to be there and what may not.
 * @returns the first fault; undefined for a good record
 */
export function recordFault(table: TableName, record: unknown): RecordFault | undefined {
  const fault = faultOf(byTable[recordValidator(table)], record);
  if (fault) return fault;
  if (table === 'sounds') {
    const { excerpt, marks, format } = record as Sound;
    const backward = [excerpt, marks.region, marks.loop, ...(marks.regions ?? [])].some((s) => s && s.end < s.start);
    if (backward) return { path: 'marks', message: 'has a part that ends before it begins' };
    if (format.encoding !== 'coded' && format.blockAlign < 1)
      return { path: 'format/blockAlign', message: 'must be at least 1' };
  }
  if (table === 'bin') {
    const { table: first, record: whole, rows = [] } = record as Binned;
    const kept = [{ at: '', table: first, record: whole }, ...rows.map((r, i) => ({ at: `rows/${i}/`, ...r }))];
    for (const { at, table: of, record: inside } of kept) {
      if (!(recordValidator(of) in byTable)) return { path: `${at}table`, message: 'is no table' };
      const inner = recordFault(of, inside);
      if (inner) return { path: `${at}record/${inner.path}`, message: inner.message };
    }
  }
  return undefined;
}

/** A fault in words: `“Rust” (tags 7) cannot be used: name must be string`. */
export function faultInWords(table: TableName, record: unknown, { path, message }: RecordFault): string {
  const { id, name } = (typeof record === 'object' && record !== null ? record : {}) as {
    id?: unknown;
    name?: unknown;
  };
  const called = typeof name === 'string' && name ? `“${name.slice(0, 60)}” ` : '';
  return `${called}(${table} ${String(id).slice(0, 20)}): ${path || 'the whole'} ${message}`;
}

/** What a record refers to: one other that it cannot be without, or lists of which members may go. */
export interface Reference {
  table: TableName;
  id: number;
  /** Where it stands; of a list, the list. */
  path: string;
  /** Whether the record makes no sense without it. */
  needed: boolean;
}

type Loose = Record<string, unknown>;

/** Every other record that a good record names. */
export function referencesOf(table: TableName, record: object): Reference[] {
  const row = record as Loose;
  const one = (of: TableName, path: string): Reference => ({
    table: of,
    id: row[path] as number,
    path,
    needed: true,
  });
  const many = (of: TableName, path: string, ids: unknown): Reference[] =>
    ((ids as readonly number[] | undefined) ?? []).map((id) => ({ table: of, id, path, needed: false }));
  switch (table) {
    case 'sounds':
      return [
        ...[one('roots', 'rootId'), ...many('tags', 'fields.tags', (row.fields as Loose).tags)],
        ...many('sounds', 'built', (row.built as Built | undefined)?.of),
      ];
    case 'pulls':
      return many('sounds', 'soundIds', row.soundIds);
    case 'cues':
      return [
        ...[one('scenes', 'sceneId'), one('tracks', 'trackId'), one('sounds', 'soundId')],
        ...many('sounds', 'tried', row.tried),
      ];
    case 'effects':
      return [
        one('scenes', 'sceneId'),
        ...many('tracks', 'lineId', row.lineId === 0 ? [] : [row.lineId]),
        ...many('tracks', 'line', row.line === undefined ? [] : [row.line]),
        ...many('sounds', 'sound', row.sound === undefined ? [] : [(row.sound as { id: number }).id]),
      ];
    case 'tracks':
      return [one('scenes', 'sceneId'), ...many('tracks', 'into', row.into === undefined ? [] : [row.into])];
    case 'markers':
    case 'versions':
      return [one('scenes', 'sceneId')];
    case 'intakes':
    case 'problems':
      return [one('roots', 'rootId')];
    case 'stamps':
      return many('tags', 'values.tags', (row.values as Loose).tags);
    default:
      return [];
  }
}

/** What a property has where it was beyond use and its record cannot be without it. */
const replacements: Record<string, unknown> = {
  name: 'Without a name',
  path: 'unknown',
  fields: {},
  from: {},
  warnings: [],
  soundIds: [],
  words: [],
  synonyms: [],
  values: {},
  steps: [],
  marks: { anchor: -1 },
};
const numbers = new Set([
  'order',
  'at',
  'size',
  'modified',
  'added',
  'created',
  'started',
  'intakeId',
  'gain',
  'fadeIn',
  'fadeOut',
]);

/**
 * Mends a record as far as that can be: what is wrong is taken out, or replaced by nothing where something has to stand.
 * @returns the good record; undefined for one of which too little is left
 */
export function mended<T extends object>(table: TableName, record: T): T | undefined {
  const copy = structuredClone(record) as unknown as Loose;
  for (let tries = 0; tries < 1000; tries++) {
    const fault = recordFault(table, copy);
    if (!fault) return copy as unknown as T;
    const parts = fault.path === '' ? [] : fault.path.split('/');
    const { missing, extra } = fault;
    if (missing ?? extra) parts.push((missing ?? extra)!);
    let at: Loose = copy;
    for (const part of parts.slice(0, -1)) at = at[part] as Loose;
    const last = parts[parts.length - 1];
    if (last === undefined || typeof at !== 'object' || at === null) return undefined;
    if (extra) delete at[last];
    else if (missing || parts.length === 1) {
      const value = numbers.has(last) ? 0 : structuredClone(replacements[last]);
      if (value === undefined && (missing || !(last in at))) return undefined;
      if (value === undefined || JSON.stringify(at[last]) === JSON.stringify(value)) {
        // It stood already and did not help, or nothing can stand in its place.
        if (!(last in at)) return undefined;
        delete at[last];
      } else at[last] = value;
    } else if (Array.isArray(at)) at.splice(Number(last), 1);
    else delete at[last];
  }
  return undefined;
}
