import type { Folder } from '@core/library';
import type { Bitset } from './bitset';
import type { NumberColumn, TextColumn } from './columns';

/** A folder, and how many sounds lie right in it. */
export interface FolderCount extends Folder {
  count: number;
}

/** Leaves in a set the slots that have one number. */
export function keepEqual(set: Bitset, column: NumberColumn, value: number): void {
  set.each((slot) => {
    if (column.at(slot) !== value) set.delete(slot);
  });
}

/** Leaves in a set what lies in a folder, or in the folders inside of it. */
export function keepUnder(set: Bitset, roots: NumberColumn, folders: TextColumn, { rootId, folder }: Folder): void {
  const inside = folders.texts().map((text) => folder === '' || text === folder || text.startsWith(`${folder}/`));
  set.each((slot) => {
    if (roots.at(slot) !== rootId || !inside[folders.at(slot)]) set.delete(slot);
  });
}

/** The folders that have sounds right in them, by root and name. */
export function foldersOf(set: Bitset, roots: NumberColumn, folders: TextColumn): FolderCount[] {
  const counts = new Map<number, Map<string, number>>();
  const texts = folders.texts();
  set.each((slot) => {
    const root = roots.at(slot);
    if (Number.isNaN(root)) return;
    let own = counts.get(root);
    if (!own) counts.set(root, (own = new Map()));
    const text = texts[folders.at(slot)];
    own.set(text, (own.get(text) ?? 0) + 1);
  });
  return [...counts].flatMap(([rootId, own]) =>
    [...own].map(([folder, count]) => ({ rootId, folder, count })).sort((a, b) => (a.folder < b.folder ? -1 : 1)),
  );
}
