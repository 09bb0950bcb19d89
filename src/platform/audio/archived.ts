import { BlobReader, ZipReader } from '@zip.js/zip.js';
import { fileIn, isArchive } from '../files/entries';
import { fileSource } from '../files/roots';
import { audioHashOf } from './audio-hash';

/** Bytes of a file that is unpacked to be recognised by its audio: it is held in memory meanwhile. */
const MOST = 512e6;

/**
 * What the audio of files is that lie in an archive, by their paths there: those that are none, or cannot be read, are left out.
 * A file that is no archive has none.
 * @returns see `Sound.hash`
 */
export async function hashesIn(archive: Blob, paths: readonly string[]): Promise<Map<string, string>> {
  const found = new Map<string, string>();
  if (!(await isArchive(archive))) return found;
  const wanted = new Set(paths);
  const reader = new ZipReader(new BlobReader(archive), { checkSignature: true });
  try {
    for await (const entry of reader.getEntriesGenerator()) {
      if (entry.directory || !wanted.has(entry.filename) || entry.uncompressedSize > MOST) continue;
      try {
        const hash = await audioHashOf(fileSource(await fileIn(entry)));
        if (hash !== undefined) found.set(entry.filename, hash);
      } catch {
        // It is known by its name, or not at all.
      }
    }
  } catch {
    // Of an archive that is damaged, what was read until there counts.
  } finally {
    await reader.close();
  }
  return found;
}
