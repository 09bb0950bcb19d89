import type { Sound, Span } from '@core/library';
import type { SoundTable } from '@core/search';
import type { Store } from '../store/store';

/** Where a sound lies, as files tell it that are read elsewhere: by the root's name, the path below it, and what its audio is. */
export interface Place {
  root: string;
  path: string;
  /** Which part of the file it is, in frames; all of it when absent. */
  part?: Span;
  /** XXH128 of the samples. */
  hash?: string;
}

/** Places whose rows are read at once. */
const ROWS = 500;

/**
 * Finds sounds by their places: where the path is the same, or else wherever the same audio lies now.
 * @param files the fields `folder` and `file` of all listed sounds
 * @returns the id for each place; undefined where there is none
 */
export async function idsOfPlaces(
  store: Store,
  files: SoundTable,
  places: readonly Place[],
): Promise<(number | undefined)[]> {
  const [folder, file] = [files.columns.folder, files.columns.file] as { codes: Uint32Array; texts: string[] }[];
  const wanted = new Map<string, number[]>(places.map((p) => [p.path, []]));
  files.ids.forEach((id, row) => {
    const within = folder.texts[folder.codes[row]];
    wanted.get(`${within ? `${within}/` : ''}${file.texts[file.codes[row]]}`)?.push(id);
  });
  const roots = new Map((await store.roots.toArray()).map((r) => [r.id, r.name]));
  const rows: Sound[] = [];
  const candidates = [...new Set([...wanted.values()].flat())];
  for (let from = 0; from < candidates.length; from += ROWS)
    rows.push(...(await store.sounds.bulkGet(candidates.slice(from, from + ROWS))).filter((s) => s !== undefined));
  const key = (root: string | undefined, path: string, part?: Span) =>
    `${root}/${path}${part ? `#${part.start}-${part.end}` : ''}`;
  const byPath = new Map(rows.map((s) => [key(roots.get(s.rootId), s.path, s.excerpt), s.id]));
  const found = places.map((p) => byPath.get(key(p.root, p.path, p.part)));
  const hashes = new Map<string, number | undefined>();
  places.forEach((p, i) => {
    if (found[i] === undefined && p.hash) hashes.set(p.hash, undefined);
  });
  if (hashes.size > 0)
    await store.sounds.each((s) => {
      if (s.hash !== undefined && hashes.has(s.hash)) hashes.set(s.hash, s.id);
    });
  return found.map((id, i) => id ?? (places[i].hash === undefined ? undefined : hashes.get(places[i].hash)));
}
