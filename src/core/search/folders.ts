import type { Bitset } from './bitset';
import type { NumberColumn, TextColumn } from './columns';

/** A folder of a root. */
export interface Folder {
  rootId: number;
  /** Below the root, with `/` between folders; empty for the root itself. */
  folder: string;
}

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
  const codes = new Map<number, Uint32Array>();
  set.each((slot) => {
    const root = roots.at(slot);
    if (Number.isNaN(root)) return;
    let own = codes.get(root);
    if (!own) codes.set(root, (own = new Uint32Array(folders.length)));
    own[folders.at(slot)]++;
  });
  for (const [root, own] of codes) {
    const byText = new Map<string, number>();
    // Where most texts differ, equal ones may have several codes.
    own.forEach((count, code) => {
      if (count > 0) byText.set(folders.text(code), (byText.get(folders.text(code)) ?? 0) + count);
    });
    counts.set(root, byText);
  }
  return [...counts].flatMap(([rootId, own]) =>
    [...own].map(([folder, count]) => ({ rootId, folder, count })).sort((a, b) => (a.folder < b.folder ? -1 : 1)),
  );
}
