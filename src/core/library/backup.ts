import { additionOf, removalOf } from './edits';
import type { Change, TableName } from './edits';
import { differences } from './edits';

/** The version of the backup's format that is written; older ones are read. */
export const BACKUP_VERSION = 5;

/** Tables that a backup holds, in the order in which they are written. */
export const backedUp: readonly TableName[] = [
  'roots',
  'intakes',
  'sounds',
  'tags',
  'pulls',
  'scenes',
  'tracks',
  'effects',
  'cues',
  'markers',
  'versions',
  'stamps',
  'recipes',
  'shortNames',
  'categories',
  'searches',
  'alikes',
  'bin',
];

/** The first line of a backup. */
export interface BackupHead {
  format: 'cormorant-backup';
  version: number;
  /** Milliseconds since 1970. */
  made: number;
  counts: Partial<Record<TableName, number>>;
}

/** The last line: how many lines stand before it, and their XXH3 checksum. */
export interface BackupEnd {
  end: true;
  lines: number;
  checksum: string;
}

/** One record of a backup. A later line about the same record takes the place of an earlier one. */
export interface BackupLine {
  table: TableName;
  record?: { id: number } & Record<string, unknown>;
  /** The id of a record that went while the backup was written. */
  gone?: number;
}

/** Names of values that are others now, by table: of records themselves, and of what stands in their fields. */
const renamed: Partial<Record<TableName, Readonly<Record<string, string>>>> = {
  sounds: { trace: 'quickHash', stem: 'takeGroup' },
};

/** A record, or a patch of one, with the names that its values have now. */
export function renamedRecord<T extends { id: number }>(table: TableName, record: T): T {
  const names = renamed[table];
  if (!names) return record;
  const name = (key: string): string => {
    const dot = key.lastIndexOf('.') + 1;
    return key.slice(0, dot) + (names[key.slice(dot)] ?? key.slice(dot));
  };
  const over = (of: object) =>
    Object.fromEntries(Object.entries(of).map(([key, value]) => [name(key), value as unknown]));
  const next = over(record) as Record<string, unknown>;
  for (const part of ['fields', 'from'])
    if (typeof next[part] === 'object' && next[part] !== null) next[part] = over(next[part]);
  return next as T;
}

/** What restoring a table would do. */
export interface TableDifference {
  table: TableName;
  /** Records that are in the backup alone, differ, are the same, are in the catalogue alone. */
  added: number;
  changed: number;
  same: number;
  onlyHere: number;
}

interface Row {
  id: number;
}

/**
 * The changes that bring a table back to what a backup holds.
 * @param now the table as it is
 * @param remove whether records that the backup does not have are taken out
 */
export function restoreChanges(
  table: TableName,
  kept: readonly Row[],
  now: readonly Row[],
  remove: boolean,
): { changes: Change[]; difference: TableDifference } {
  const byId = new Map(now.map((row) => [row.id, row]));
  const changes: Change[] = [];
  const difference: TableDifference = { table, added: 0, changed: 0, same: 0, onlyHere: 0 };
  for (const row of kept) {
    const here = byId.get(row.id);
    byId.delete(row.id);
    if (!here) {
      difference.added++;
      changes.push(additionOf(table, row));
      continue;
    }
    const after = differences(here, row);
    // Handles of folders cannot be written into a file: those that are here stay.
    delete after.handles;
    const paths = Object.keys(after);
    if (paths.length === 0) {
      difference.same++;
      continue;
    }
    difference.changed++;
    const at = (path: string): unknown =>
      path.split('.').reduce<unknown>((v, key) => (v as Record<string, unknown> | undefined)?.[key], here);
    changes.push({ table, id: row.id, before: Object.fromEntries(paths.map((p) => [p, at(p)])), after });
  }
  difference.onlyHere = byId.size;
  if (remove) for (const row of byId.values()) changes.push(removalOf(table, row));
  return { changes, difference };
}
