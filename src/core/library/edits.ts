/** Tables of the catalogue that edits may change. */
export type TableName =
  | 'roots'
  | 'intakes'
  | 'sounds'
  | 'tags'
  | 'pulls'
  | 'scenes'
  | 'tracks'
  | 'effects'
  | 'cues'
  | 'markers'
  | 'versions'
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
  /** Which undo takes it back: that of the library when absent, or that of one scene, `scene 7`. */
  scope?: string;
  /** `match`: refused as a whole where something else stands by now than what `before` says. Lists are merged all the same. */
  precondition?: 'match';
}

/** An edit was refused: something else stands by now than what it was made for. */
export class EditConflict extends Error {
  override name = 'EditConflict';

  constructor(
    readonly table: TableName,
    readonly id: number,
    readonly path: string,
  ) {
    super('it was changed elsewhere in the meantime, so nothing was done. Look at it as it is now, and try again');
  }
}

type Row = Record<string, unknown>;

/** Names that reach beyond a record into what all objects share. */
const FORBIDDEN = new Set(['__proto__', 'prototype', 'constructor']);

/** @throws Error for a path into a list: lists change by their members */
function set(row: Row, path: string, value: unknown): Row {
  const dot = path.indexOf('.');
  if (Array.isArray(row)) throw new Error(`“${path}” leads into a list; lists change by their members`);
  if (FORBIDDEN.has(dot < 0 ? path : path.slice(0, dot))) throw new Error(`“${path}” is no name of a value`);
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

/** By what a member of a list is told from others: its id where it has one, else all that it is. */
const memberKey = (member: unknown): string =>
  typeof member === 'object' && member !== null && 'id' in member ? `#${String(member.id)}` : JSON.stringify(member);

/**
 * Brings a list from what stands there now to what a change wants of it, by its members: what the change added is added,
 * beside what it stood beside; what it took out is taken out; what others did meanwhile stays. Where nobody did anything, the
 * outcome is `after` itself.
 */
export function mergeList(
  before: readonly unknown[],
  after: readonly unknown[],
  now: readonly unknown[],
): readonly unknown[] {
  if (JSON.stringify(before) === JSON.stringify(now)) return after;
  const was = new Map(before.map((m) => [memberKey(m), m]));
  const wanted = new Map(after.map((m) => [memberKey(m), m]));
  const there = new Map(now.map((m) => [memberKey(m), m]));
  // A member that was changed in itself is as the change wants it; one that others changed and this one did not stays theirs.
  const changed = (key: string) => JSON.stringify(was.get(key)) !== JSON.stringify(wanted.get(key));
  const member = (key: string) => (wanted.has(key) && (changed(key) || !there.has(key)) ? wanted : there).get(key);
  const order = [...wanted.keys()].filter((key) => there.has(key) || !was.has(key));
  const others = [...there.keys()].filter((key) => !wanted.has(key) && !was.has(key));
  // What others added goes behind the member that it stands behind now.
  const keys = [...there.keys()];
  for (const key of others) {
    const neighbours = keys.slice(0, keys.indexOf(key)).reverse();
    const beside = neighbours.map((n) => order.indexOf(n)).find((at) => at >= 0);
    order.splice(beside === undefined ? 0 : beside + 1, 0, key);
  }
  return order.map(member);
}

const same = (a: unknown, b: unknown): boolean => a === b || JSON.stringify(a) === JSON.stringify(b);
const listOr = (value: unknown): readonly unknown[] | undefined =>
  value === undefined ? [] : Array.isArray(value) ? value : undefined;

/** What a change makes of one value. */
function merged(before: unknown, after: unknown, now: unknown): unknown {
  if (!Array.isArray(before) && !Array.isArray(after)) return after;
  const [from, to, here] = [listOr(before), listOr(after), listOr(now)];
  if (!from || !to || !here || now === undefined) return after;
  const list = mergeList(from, to, here);
  return list.length === 0 && after === undefined ? undefined : list;
}

/**
 * A change as it is carried out on a record as it is now: with what really stands there before, and what stands there then. What
 * others did since the change was thought out is neither lost nor taken for its own.
 * @returns undefined when nothing is left to do
 * @throws EditConflict when it must match and does not
 */
export function settled(row: object | undefined, change: Change, match = false): Change | undefined {
  const { table, id } = change;
  if (!change.after) return row && { table, id, before: { ...row } };
  if (!change.before) {
    if (!row) return change;
    return changeOf(table, row as { id: number }, differences(row, { ...change.after, id }));
  }
  if (!row) {
    if (match) throw new EditConflict(table, id, '');
    return undefined;
  }
  const before: Patch = {};
  const after: Patch = {};
  for (const [path, wanted] of Object.entries(change.after)) {
    const now = valueAt(row, path);
    const was = change.before[path];
    const list = Array.isArray(was) || Array.isArray(wanted);
    if (match && !list && !same(now, was)) throw new EditConflict(table, id, path);
    const next = merged(was, wanted, now);
    if (same(now, next)) continue;
    before[path] = now;
    after[path] = next;
  }
  return Object.keys(after).length > 0 ? { table, id, before, after } : undefined;
}

/**
 * What of taking a change back still can be: values that others have changed since stay as they are.
 * @param change as it was carried out
 * @returns the change that takes it back, undefined for none; whether something has to stay; whether it is the very reversal
 */
export function takenBack(
  row: object | undefined,
  { table, id, before, after }: Change,
): { change?: Change; kept: boolean; exact: boolean } {
  if (!after) {
    if (row) return { kept: true, exact: false };
    return { change: { table, id, after: before }, kept: false, exact: true };
  }
  if (!row) return { kept: before !== undefined, exact: false };
  if (!before) return { change: { table, id, before: { ...row } }, kept: false, exact: same(row, { ...after, id }) };
  const back: Patch = {};
  let kept = false;
  let exact = true;
  for (const [path, value] of Object.entries(after)) {
    const untouched = same(valueAt(row, path), value);
    if (!untouched) exact = false;
    if (untouched || Array.isArray(value) || Array.isArray(before[path])) back[path] = before[path];
    else kept = true;
  }
  const change = Object.keys(back).length > 0 ? settled(row, { table, id, before: after, after: back }) : undefined;
  return { change, kept, exact };
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

/** The change that makes a record. */
export const additionOf = <T extends { id: number }>(table: TableName, row: T): Change => ({
  table,
  id: row.id,
  after: { ...row },
});

/** The change that takes a record away. */
export const removalOf = <T extends { id: number }>(table: TableName, row: T): Change => ({
  table,
  id: row.id,
  before: { ...row },
});

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
  /** Of a scene: all that it is made of, each after what it names. */
  rows?: BinnedRow[];
}

/** A record that went into the bin with another one. */
export interface BinnedRow {
  table: TableName;
  record: Record<string, unknown> & { id: number };
}

/** The changes that delete a record into the bin. @param binId a fresh id of the bin's */
export function binChanges(
  table: TableName,
  record: object & { id: number },
  binId: number,
  at: number,
  { soundIds, rows }: Pick<Binned, 'soundIds' | 'rows'> = {},
): Change[] {
  const along = { ...(soundIds ? { soundIds } : {}), ...(rows ? { rows } : {}) };
  const binned: Binned = { id: binId, at, table, record: { ...record }, ...along };
  // What names another record goes before it.
  return [
    ...[...(rows ?? [])].reverse().map((r): Change => ({ table: r.table, id: r.record.id, before: { ...r.record } })),
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
