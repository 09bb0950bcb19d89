import { readSceneFile, SCENES, SCENES_MOST, type SceneFile } from '@core/scene';
import { BlobReader, ZipReader, type FileEntry } from '@zip.js/zip.js';
import { Room } from '../store/room';
import type { RootRecord } from '../store/store';
import { boundedTo, textIn } from './entries';
import { copyFolder } from './roots';

/** A file that lies in the archive of a scene. */
export interface ArchivedFile {
  /** Below `media` in the archive. */
  media: string;
  /** Below the root into which it goes. */
  path: string;
  /** Bytes. */
  size: number;
}

/** What became of a file of an archive. */
export interface Unpacked extends ArchivedFile {
  /** When it was written, milliseconds since 1970; absent where it was not. */
  modified?: number;
  /** Why it was not. */
  reason?: string;
}

/** What a scene file holds. */
export interface SceneArchive {
  file: SceneFile;
  /** Bytes of what lies in it beside its text, by its path below `media`. */
  media: Map<string, number>;
}

const plainly = (message: string) => (/^(it|its) /.test(message) ? message : `the archive is damaged (${message})`);

/** All files of an archive by name, for as long as `use` needs them. @throws Error in words */
async function withEntries<T>(file: Blob, use: (entries: Map<string, FileEntry>) => Promise<T>): Promise<T> {
  const reader = new ZipReader(new BlobReader(file), { checkSignature: true });
  try {
    const entries = new Map<string, FileEntry>();
    for await (const entry of reader.getEntriesGenerator()) if (!entry.directory) entries.set(entry.filename, entry);
    return await use(entries);
  } finally {
    await reader.close();
  }
}

/** Reads what a scene file holds; its audio stays where it is. @throws Error in words */
export async function readSceneArchive(file: Blob, name: string): Promise<SceneArchive> {
  const { text, media } = await withEntries(file, async (entries) => {
    const entry = entries.get(SCENES.text);
    if (!entry) throw new Error(`it is an archive without ${SCENES.text}, and no scene file`);
    if (entry.uncompressedSize > SCENES_MOST) throw new Error('its text is larger than that of any scene');
    const inside = [...entries].filter(([path]) => path.startsWith(SCENES.media));
    return {
      text: await textIn(entry),
      media: new Map(inside.map(([path, { uncompressedSize }]) => [path.slice(SCENES.media.length), uncompressedSize])),
    };
  }).catch((error: Error) => {
    throw new Error(`${name} cannot be read: ${plainly(error.message)}`, { cause: error });
  });
  return { file: readSceneFile(text, name), media };
}

/** Writes one file of an archive to its place below a folder, and no more of it than it said it has. */
async function unpackOne(
  entry: FileEntry,
  top: FileSystemDirectoryHandle,
  { path, size }: ArchivedFile,
): Promise<number> {
  if (entry.uncompressedSize !== size) throw new Error('it is not as long in the archive as it should be');
  const steps = path.split('/');
  let folder = top;
  for (const part of steps.slice(0, -1)) folder = await folder.getDirectoryHandle(part, { create: true });
  const name = steps.at(-1)!;
  const handle = await folder.getFileHandle(name, { create: true });
  try {
    const out = await handle.createWritable();
    const { readable, writable } = boundedTo(size);
    await Promise.all([entry.getData(writable), readable.pipeTo(out)]);
    return (await handle.getFile()).lastModified;
  } catch (error) {
    await folder.removeEntry(name).catch(() => undefined);
    throw error;
  }
}

/**
 * Writes files of an archive into the private file system, where a root keeps them whose files were copied in. What cannot be read is told, and the rest goes on.
 * @param told after each file, with the share of all bytes
 * @throws NoRoom before anything is written
 */
export async function unpackInto(
  root: Pick<RootRecord, 'id'>,
  file: Blob,
  wanted: readonly ArchivedFile[],
  told: (share: number) => void,
): Promise<Unpacked[]> {
  const all = wanted.reduce((sum, { size }) => sum + size, 0);
  await new Room().need(all);
  const top = await copyFolder(root);
  return withEntries(file, async (entries) => {
    const answers: Unpacked[] = [];
    let done = 0;
    for (const one of wanted) {
      const { media, size } = one;
      const entry = entries.get(SCENES.media + media);
      try {
        if (!entry) throw new Error('it is not in the archive');
        answers.push({ ...one, modified: await unpackOne(entry, top, one) });
      } catch (error) {
        answers.push({ ...one, reason: (error as Error).message });
      }
      told((done += size) / Math.max(1, all));
    }
    return answers;
  });
}
