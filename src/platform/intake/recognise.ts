import type { KnownFile, ListedFile } from '@core/library';
import { rootLikeness } from '@core/library';
import { listFiles } from '../files/roots';
import type { RootRecord } from '../store/store';
import type { IntakeReader } from './intake';
import type { Asked, IntakeCatalogue } from './root-run';

/** Files of a folder whose heads and tails are looked at before it is taken for a root that moved. */
const PROBED = 8;

/**
 * Finds which of some roots a folder is that was renamed or moved: by what lies where in it, and then by heads and tails of some of it.
 * @returns undefined when it is none of them
 * @throws RootUnavailable when the folder cannot be read
 */
export async function recognise(
  catalogue: IntakeCatalogue,
  reader: Asked<IntakeReader, 'quickHash'>,
  folder: RootRecord,
  absent: readonly number[],
): Promise<number | undefined> {
  const files: ListedFile[] = [];
  for await (const listed of listFiles(folder)) files.push(...listed.files);
  const alike: { id: number; share: number; known: KnownFile[] }[] = [];
  for (const id of absent) {
    const known = await catalogue.followed(id);
    const share = rootLikeness(known, files);
    if (share > 0) alike.push({ id, share, known });
  }
  const byPath = new Map(files.map((f) => [f.path, f]));
  for (const { id, known } of alike.sort((a, b) => b.share - a.share)) {
    const there = known.filter((k) => k.quickHash !== undefined && byPath.get(k.path)?.size === k.size);
    const step = Math.max(1, Math.floor(there.length / PROBED));
    const probed = there.filter((_, i) => i % step === 0).slice(0, PROBED);
    const hashes = await Promise.all(probed.map((k) => reader.quickHash(folder, byPath.get(k.path)!)));
    if (probed.length > 0 && probed.every((k, i) => k.quickHash === hashes[i])) return id;
  }
  return undefined;
}
