/** Tables of the catalogue that edits may change. */
export type TableName =
  | 'roots'
  | 'intakes'
  | 'sounds'
  | 'tags'
  | 'pulls'
  | 'scenes'
  | 'cues'
  | 'problems'
  | 'stamps'
  | 'recipes'
  | 'shortNames'
  | 'categories'
  | 'searches'
  | 'alikes'
  | 'bin';

/** Values by dotted path into a record, such as `fields.fxName`; undefined stands for "not there". */
export type Patch = Record<string, unknown>;

/**
 * One changed record.
 * `before` undefined: the record is made, `after` being its whole. `after` undefined: it is removed, `before` being its whole.
 * Both: only the named paths change.
 */
export interface Change {
  table: TableName;
  id: number;
  before?: Patch;
  after?: Patch;
}

/** A change to the catalogue, as plain data: what, before and after. */
export interface Edit {
  /** What was done, for the undo menu and the history: `Edit name of 3 sounds`. */
  label: string;
  /** Milliseconds since 1970. */
  at: number;
  changes: Change[];
  /** What did it: `typed` when absent; `recipe Clean names`, `sheet yard.csv`, `suggestion`, `stamp Rust`, `restore`. */
  by?: string;
  /** False for what the program did by itself, such as taking files in or marking a sound as heard. */
  undoable: boolean;
}

type Row = Record<string, unknown>;

function set(row: Row, path: string, value: unknown): Row {
  const dot = path.indexOf('.');
  if (dot < 0) {
    const copy = { ...row };
    if (value === undefined) delete copy[path];
    else copy[path] = value;
    return copy;
  }
  const head = path.slice(0, dot);
  return { ...row, [head]: set((row[head] as Row | undefined) ?? {}, path.slice(dot + 1), value) };
}

/** The value at a dotted path; undefined where there is none. */
export function valueAt(row: object, path: string): unknown {
  return path.split('.').reduce<unknown>((at, key) => (at as Row | undefined)?.[key], row);
}

/**
 * Applies one change to a record.
 * @param row the record as it is; undefined when there is none
 * @returns the record as it will be, undefined when it is removed; the input is left as it was
 */
export function applyChange<T extends object>(row: T | undefined, change: Change): T | undefined {
  if (!change.after) return undefined;
  if (!change.before) return { ...change.after, id: change.id } as unknown as T;
  // The record went in the meantime (another tab removed it): there is nothing to change any more.
  if (!row) return undefined;
  return Object.entries(change.after).reduce<Row>((r, [path, value]) => set(r, path, value), row as Row) as T;
}

/** The edit that takes this one back. */
export function invert(edit: Edit): Edit {
  return {
    ...edit,
    changes: edit.changes.map(({ before, after, ...rest }) => ({ ...rest, before: after, after: before })).reverse(),
  };
}

/** A change that sets paths of a record to new values; undefined when all of them are so already. */
export function changeOf(table: TableName, row: { id: number }, after: Patch): Change | undefined {
  const before: Patch = {};
  const changed: Patch = {};
  for (const [path, value] of Object.entries(after)) {
    const old = valueAt(row, path);
    if (JSON.stringify(old) === JSON.stringify(value)) continue;
    before[path] = old;
    changed[path] = value;
  }
  return Object.keys(changed).length > 0 ? { table, id: row.id, before, after: changed } : undefined;
}

/** What was deleted, kept until it is restored or the bin is emptied. */
export interface Binned {
  id: number;
  /** Milliseconds since 1970. */
  at: number;
  table: TableName;
  record: Record<string, unknown> & { id: number; name?: string };
  /** Of a tag: the sounds that had it. */
  soundIds?: number[];
}

/** The changes that delete a record into the bin. @param binId a fresh id of the bin's */
export function binChanges(
  table: TableName,
  record: object & { id: number },
  binId: number,
  at: number,
  soundIds?: number[],
): Change[] {
  const binned: Binned = { id: binId, at, table, record: { ...record }, ...(soundIds ? { soundIds } : {}) };
  return [
    { table, id: record.id, before: { ...record } },
    { table: 'bin', id: binId, after: { ...binned } },
  ];
}

/** The paths in which two records differ, with the values of the second; fields and their origins one by one. */
export function differences(from: object, to: object): Patch {
  const patch: Patch = {};
  const compare = (a: Row, b: Row, prefix: string, deep: boolean) => {
    for (const key of new Set([...Object.keys(a), ...Object.keys(b)])) {
      if (deep && (key === 'fields' || key === 'from'))
        compare((a[key] as Row) ?? {}, (b[key] as Row) ?? {}, `${key}.`, false);
      else if (JSON.stringify(a[key]) !== JSON.stringify(b[key])) patch[prefix + key] = b[key];
    }
  };
  compare(from as Row, to as Row, '', true);
  return patch;
}
