import { quickHashOf } from '@core/files';
import type { ExpectedFile } from '@core/schemas';
import { NotWritten, WritingStopped } from '../files/disk';
import { fileSource } from '../files/roots';
import { sumOf } from '../files/sum';
import type { Place } from './publish-places';

/** Where what is handed over says what its files are, as `sha256sum -c` reads it. */
export const SUMS = 'checksums.sha256';

/** A file's sum and its path. */
export interface Sum {
  path: string;
  sum: string;
}

/** Sums as a file of an earlier time tells them, by path. */
export function sumsIn(text: string): Map<string, string> {
  const found = new Map<string, string>();
  for (const line of text.split(/\r?\n/)) {
    const [, sum, path] = /^([0-9a-f]{64}) [ *](.+)$/.exec(line) ?? [];
    if (sum) found.set(path, sum);
  }
  return found;
}

export const sumsText = (sums: readonly Sum[]): string =>
  [...sums]
    .sort((a, b) => (a.path < b.path ? -1 : 1))
    .map(({ path, sum }) => `${sum}  ${path}\n`)
    .join('');

/** What there is to know of a file before it is put into its place. */
export interface ToHandOver {
  path: string;
  blob: Blob;
  sum: string;
  /** Its sum of an earlier time: only what still has it is replaced. */
  before?: string;
  /** It is always ours, whatever lies there. */
  own?: boolean;
  /** Notes what is about to be made, so that a page that is closed meanwhile leaves nothing that nobody knows of. @param there what it takes the place of */
  noting?: (planned: ExpectedFile, there: Blob | undefined) => Promise<HandOverNote>;
}

/** A note of a file that is being put into its place. */
export interface HandOverNote {
  /** It lies there; it was not read again yet. */
  made(now: ExpectedFile): Promise<unknown>;
  /** It was not made: what was there is as it was. */
  dropped(): Promise<unknown>;
}

/**
 * Puts a file into its place, and reads it again.
 * @returns false where it was there already, and the same
 * @throws NotWritten where somebody else’s file lies there; WritingStopped where it does not read as it was written
 */
export async function handOver(place: Place, { path, blob, sum, before, own, noting }: ToHandOver): Promise<boolean> {
  const there = await place.read(path);
  if (there) {
    const now = await sumOf(there);
    if (now === sum) return false;
    if (!own && now !== before) throw new NotWritten('there is another file in its place, which is left as it is');
  }
  // When it was written says nothing here: its content was just looked at.
  const byContent = async (file: Blob) => ({
    ...{ size: file.size, modified: 0, hash: await quickHashOf(fileSource(file as File)) },
  });
  const instead = there && (await byContent(there));
  const note = await noting?.(await byContent(blob), there);
  let now: ExpectedFile;
  try {
    now = await place.make(path, blob, instead);
  } catch (error) {
    if (!(error instanceof WritingStopped) || error.known) await note?.dropped();
    throw error;
  }
  await note?.made(now);
  const written = await place.read(path);
  if (!written || (await sumOf(written)) !== sum)
    throw new WritingStopped('it does not read as it was written; the disk may be damaged');
  return true;
}
