import type { ByteSource } from '@core/files';
import type { ExpectedFile } from '@core/schemas';
import { makeFile, makeIn, NotWritten, openIn, removeFile, removeIn } from '../files/disk';
import { openFile, sizeOf } from '../files/roots';
import { READ } from '../files/sum';
import type { PublishedPlace, RootRecord } from '../store/store';

/** A place that files are put into. */
export interface Place {
  /** What lies at a path; undefined where nothing does. */
  read(path: string): Promise<Blob | undefined>;
  /** Bytes of what lies at a path. */
  size(path: string): Promise<number | undefined>;
  /** @param instead what it takes the place of, if anything */
  make(path: string, blob: Blob, instead?: ExpectedFile): Promise<ExpectedFile>;
  remove(path: string, expected: ExpectedFile): Promise<void>;
}

export function placeIn(handle: FileSystemDirectoryHandle): Place {
  return {
    read: (path) => openIn(handle, path),
    size: async (path) => (await openIn(handle, path))?.size,
    make: (path, blob, instead) => makeIn(handle, path, blob, instead),
    remove: (path, expected) => removeIn(handle, path, expected),
  };
}

export function placeAt(root: RootRecord, folder: string): Place {
  const at = (path: string) => [folder, path].filter(Boolean).join('/');
  return {
    async read(path) {
      const size = await sizeOf(root, at(path));
      if (size === undefined) return undefined;
      return blobOf(await openFile(root, at(path), size));
    },
    size: (path) => sizeOf(root, at(path)),
    make: (path, blob, instead) => makeFile(root, at(path), blob, instead),
    remove: (path, expected) => removeFile(root, at(path), expected),
  };
}

/** All of a source as a blob, which the browser may keep on the disk. */
export async function blobOf(source: Pick<ByteSource, 'size' | 'read'>): Promise<Blob> {
  const parts: BlobPart[] = [];
  for (let at = 0; at < source.size; at += READ)
    parts.push((await source.read(at, Math.min(READ, source.size - at))) as Uint8Array<ArrayBuffer>);
  return new Blob(parts);
}

/**
 * The folder of a title in a place.
 * @param create makes it where it is not there yet
 * @throws NotWritten where it is gone, or its root is
 */
export async function placeOf(
  target: PublishedPlace,
  title: string,
  roots: ReadonlyMap<number, RootRecord>,
  create = false,
): Promise<Place> {
  if (target.kind === 'folder') {
    const folder = await target.handle.getDirectoryHandle(title, { create }).catch((error: Error) => {
      throw error.name === 'NotFoundError' ? new NotWritten(`there is no folder ${title} any more`) : error;
    });
    return placeIn(folder);
  }
  const root = roots.get(target.rootId);
  if (!root) throw new NotWritten('that folder is not in the library any more');
  return placeAt(root, [target.folder, title].filter(Boolean).join('/'));
}
