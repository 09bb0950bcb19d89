import { isMadeBy, patchesOf, quickHashOf, sizeAfter, type ByteSource, type Splice } from '@core/files';
import {
  checked,
  validators,
  type ExpectedFile,
  type RemoveRequest,
  type RenameRequest,
  type WriteRequest,
} from '@core/schemas';
import { createXXHash64 } from 'hash-wasm';
import type { RootRecord } from '../store/store';
import { isDenied, mayWrite, writeInto } from './folders';
import { copyFolder, fileSource, handleOf, openFile, RootUnavailable, serverRoots, sizeOf } from './roots';

/** One file was not written, and is as it was; says why. */
export class NotWritten extends Error {
  override name = 'NotWritten';
}

/** Nothing more can be written for now: the disk is full, the server is away, or it is not allowed. */
export class WritingStopped extends Error {
  override name = 'WritingStopped';

  /** @param known whether the file in hand is surely as it was */
  constructor(
    message: string,
    readonly known = true,
  ) {
    super(message);
  }
}

/** Where the audio lies in a file, before and after. */
type AudioPlace = WriteRequest['audio'];

/**
 * Why files of a root cannot be written, in words; undefined where they can.
 * @param when `later`: the browser may still ask; `asking`: it asks now, which only works in a click; `now`: it has to allow it already
 */
export async function whyNotWritten(root: RootRecord, when: 'later' | 'asking' | 'now'): Promise<string | undefined> {
  if (root.removed) return `“${root.name}” was taken out`;
  if (root.kind === 'team')
    return 'it lies in a library of the team; its labels are shared there, and not written into its file';
  if (root.kind === 'copied')
    return 'its files were copied into the browser; the ones on the disk are not within reach';
  if (root.kind === 'server') {
    const served = (await serverRoots()).find((r) => r.id === root.serverId);
    if (!served) return `“${root.name}” is not served now`;
    return served.writes ? undefined : 'its folder is served for reading; start with --write to have files written';
  }
  for (const handle of root.handles ?? []) {
    if (handle.kind === 'file') return 'it was added by itself; add its folder to have it written';
    const folder = handle as FileSystemDirectoryHandle;
    const may = when === 'later' ? !(await isDenied(folder)) : await mayWrite(folder, when === 'asking');
    if (!may) return `the browser was not allowed to write to “${root.name}”`;
  }
  return undefined;
}

/** What the server answered to a request that writes; what it refuses is told in its words. @throws NotWritten, WritingStopped */
async function answered<T>(root: RootRecord, what: string, request: RequestInit): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api/roots/${root.serverId}/${what}`, { method: 'POST', ...request });
  } catch {
    throw new WritingStopped('the Cormorant server does not answer; start it again', false);
  }
  const answer = (await response.json().catch(() => ({}))) as { error?: string };
  if (response.ok) return answer as T;
  const reason = answer.error ?? `the server answered with ${response.status}`;
  // What is said of one file leaves the others alone.
  if ([400, 404, 409, 413].includes(response.status)) throw new NotWritten(reason);
  // What the server itself did not expect may have happened before or after the file was written.
  throw new WritingStopped(reason, response.status !== 500);
}

const said = (answer: unknown) =>
  checked<ExpectedFile>(answer, validators.writtenFile, 'what the server says of a written file');
const asJson = (body: WriteRequest | RenameRequest | RemoveRequest): RequestInit => ({
  headers: { 'Content-Type': 'application/json' },
  body: JSON.stringify(body),
});

/** Waits until nothing of a root is being written any more that was on its way, such as for a page that was closed. */
export async function atRest(root: RootRecord): Promise<void> {
  // Where the server does not answer, nothing is on its way.
  if (root.kind === 'server') await answered(root, 'rest', {}).catch(() => undefined);
}

const CHUNK = 1 << 20;

async function hashOf(file: File, offset: number, length: number): Promise<string> {
  const hash = await createXXHash64();
  for (let at = 0; at < length; at += CHUNK)
    hash.update(new Uint8Array(await file.slice(offset + at, offset + Math.min(length, at + CHUNK)).arrayBuffer()));
  return hash.digest();
}

const told = async (file: File): Promise<ExpectedFile> => ({
  size: file.size,
  modified: file.lastModified,
  hash: await quickHashOf(fileSource(file)),
});

/** What the browser failed with, as one file's matter or as the end of it all. */
function inWords(error: unknown): Error {
  const { name, message } = error as Error;
  if (error instanceof NotWritten || error instanceof WritingStopped || error instanceof RootUnavailable) return error;
  if (name === 'QuotaExceededError')
    return new WritingStopped('the disk is full; the file is as it was. Make room and go on');
  if (name === 'NotAllowedError' || name === 'SecurityError')
    return new WritingStopped('the browser is not allowed to write there any more');
  if (name === 'NoModificationAllowedError')
    return new NotWritten('it is in use by another program, or for reading only');
  if (name === 'NotFoundError') return new NotWritten('it is not there any more');
  return new NotWritten(message);
}

/** Does something in a picked folder; what the browser fails with is told in our words. */
const inPicked = <T>(task: Promise<T>): Promise<T> =>
  task.catch((error: unknown) => {
    throw inWords(error);
  });

/** Opens a file of a picked folder, and holds it against what is expected of it. */
async function pickedFile(root: RootRecord, path: string, expected: ExpectedFile) {
  const handle = await handleOf(root, path);
  const file = await handle.getFile();
  const now = await told(file);
  if (now.size !== expected.size || now.hash !== expected.hash)
    throw new NotWritten('it was changed by another program meanwhile; look through the folder again');
  return { handle, file };
}

/** The browser writes to a copy of its own, which takes the file's place when it is closed: all of it or nothing. */
async function writePicked(
  root: RootRecord,
  path: string,
  expected: ExpectedFile,
  splice: Splice,
  audio: AudioPlace,
): Promise<ExpectedFile> {
  const { handle, file } = await pickedFile(root, path, expected);
  const sound = await hashOf(file, audio.before, audio.length);
  const patches = patchesOf(splice);
  const out = await handle.createWritable({ keepExistingData: patches !== undefined });
  try {
    if (patches) {
      for (const { offset, bytes } of patches)
        await out.write({ type: 'write', position: offset, data: bytes as Uint8Array<ArrayBuffer> });
      await out.truncate(sizeAfter(splice));
    } else
      for (const piece of splice.pieces)
        await out.write(
          'bytes' in piece
            ? (piece.bytes as Uint8Array<ArrayBuffer>)
            : file.slice(piece.from, piece.from + piece.length),
        );
  } catch (error) {
    await out.abort();
    throw error;
  }
  await out.close();
  const written = await handle.getFile();
  if ((await hashOf(written, audio.after, audio.length)) !== sound)
    throw new WritingStopped(
      'its audio did not come out the same; load the page anew, and take the writing back',
      false,
    );
  return told(written);
}

/**
 * Writes a file of a root: all of it or nothing.
 * @returns what it is now
 * @throws NotWritten, WritingStopped, RootUnavailable
 */
export async function writeFile(
  root: RootRecord,
  path: string,
  expected: ExpectedFile,
  splice: Splice,
  audio: AudioPlace,
): Promise<ExpectedFile> {
  if (root.kind === 'server') {
    const pieces = splice.pieces.map((p) => ('bytes' in p ? { base64: toBase64(p.bytes) } : p));
    return said(await answered(root, 'write', asJson({ path, ...expected, pieces, audio })));
  }
  return inPicked(writePicked(root, path, expected, splice, audio));
}

function toBase64(bytes: Uint8Array): string {
  let text = '';
  for (let at = 0; at < bytes.length; at += 0x8000) text += String.fromCharCode(...bytes.subarray(at, at + 0x8000));
  return btoa(text);
}

type Movable = FileSystemFileHandle & { move?(name: string): Promise<void> };

async function renamePicked(
  root: RootRecord,
  path: string,
  name: string,
  expected: ExpectedFile,
): Promise<ExpectedFile> {
  const { handle } = await pickedFile(root, path, expected);
  const movable = handle as Movable;
  if (!movable.move) throw new NotWritten('this browser cannot rename files; it keeps its name');
  const there = await handleOf(root, inFolderOf(path, name)).catch(() => undefined);
  if (there && !(await there.isSameEntry(handle))) throw new NotWritten(`there is another file called ${name} already`);
  await movable.move(name);
  return told(await handle.getFile());
}

/** Gives a file of a root another name in its folder; never one that another file has. @throws NotWritten, WritingStopped */
export async function renameFile(
  root: RootRecord,
  path: string,
  name: string,
  expected: ExpectedFile,
): Promise<ExpectedFile> {
  if (root.kind === 'server') return said(await answered(root, 'rename', asJson({ path, ...expected, name })));
  return inPicked(renamePicked(root, path, name, expected));
}

/** The path of another name in a file's folder. */
export const inFolderOf = (path: string, name: string): string => path.slice(0, path.lastIndexOf('/') + 1) + name;

/** The file at a place, where it is what a splice makes; undefined for any other. @throws RootUnavailable */
export async function madeBy(root: RootRecord, path: string, splice: Splice): Promise<ByteSource | undefined> {
  const size = sizeAfter(splice);
  if ((await sizeOf(root, path)) !== size) return undefined;
  const source = await openFile(root, path, size);
  return (await isMadeBy(splice, source)) ? source : undefined;
}

/** The folders and the name of a path. */
function partsOf(path: string): { folders: string[]; name: string } {
  const folders = path.split('/');
  return { name: folders.pop()!, folders };
}

const pickedFolder = async (root: RootRecord): Promise<FileSystemDirectoryHandle> => {
  if (root.kind === 'copied') return copyFolder(root);
  const folder = (root.handles ?? []).find((h) => h.kind === 'directory');
  if (!folder) throw new NotWritten(`“${root.name}” holds single files; choose a folder`);
  return folder as FileSystemDirectoryHandle;
};

/**
 * Makes a file in a folder, with the folders that it lies in.
 * @param instead what it takes the place of: that one is there until it does. Without it, nothing may be there
 * @throws NotWritten, WritingStopped
 */
export async function makeIn(
  top: FileSystemDirectoryHandle,
  path: string,
  data: Blob,
  instead?: ExpectedFile,
): Promise<ExpectedFile> {
  const { folders, name } = partsOf(path);
  return inPicked(
    (async () => {
      let folder = top;
      for (const part of folders) folder = await folder.getDirectoryHandle(part, { create: true });
      const there = await folder.getFileHandle(name).catch((error: DOMException) => {
        if (error.name === 'NotFoundError') return undefined;
        throw new NotWritten(`there is a folder called ${name} already`);
      });
      if (there && !instead) throw new NotWritten(`there is a file at ${path} already`);
      if (there) isStill(await told(await there.getFile()), instead!);
      try {
        await writeInto(folder, name, data);
      } catch (error) {
        // What was not written whole is not left lying about, empty.
        if (!there) await folder.removeEntry(name).catch(() => undefined);
        throw error;
      }
      return told(await (await folder.getFileHandle(name)).getFile());
    })(),
  );
}

/** Holds a file against what is expected of it. @throws NotWritten */
function isStill(now: ExpectedFile, { size, hash }: ExpectedFile): void {
  if (now.size !== size || now.hash !== hash)
    throw new NotWritten('it was changed by another program since; it is left as it is');
}

/** A file below a folder; undefined where there is none. */
export async function openIn(top: FileSystemDirectoryHandle, path: string): Promise<File | undefined> {
  const { folders, name } = partsOf(path);
  try {
    let folder = top;
    for (const part of folders) folder = await folder.getDirectoryHandle(part);
    return await (await folder.getFileHandle(name)).getFile();
  } catch (error) {
    if ((error as Error).name === 'NotFoundError') return undefined;
    throw inWords(error);
  }
}

/** Removes a file that is what is expected of it, and the folders that are empty then. @throws NotWritten, WritingStopped */
export async function removeIn(top: FileSystemDirectoryHandle, path: string, expected: ExpectedFile): Promise<void> {
  const { folders, name } = partsOf(path);
  return inPicked(
    (async () => {
      const way = [top];
      for (const part of folders) way.push(await way.at(-1)!.getDirectoryHandle(part));
      const now = await told(await (await way.at(-1)!.getFileHandle(name)).getFile());
      isStill(now, expected);
      await way.at(-1)!.removeEntry(name);
      // The first folder that holds something else ends it.
      for (let depth = folders.length; depth > 0; depth--)
        if (
          !(await way[depth - 1].removeEntry(folders[depth - 1]).then(
            () => true,
            () => false,
          ))
        )
          return;
    })(),
  );
}

/**
 * Makes a file of a root: all of it or nothing.
 * @param instead what it takes the place of: that one is there until it does. Without it, nothing may be there
 * @throws NotWritten, WritingStopped, RootUnavailable
 */
export async function makeFile(
  root: RootRecord,
  path: string,
  data: Blob,
  instead?: ExpectedFile,
): Promise<ExpectedFile> {
  if (root.kind !== 'server') return makeIn(await pickedFolder(root), path, data, instead);
  const request = { headers: { 'Content-Type': 'application/octet-stream' }, body: data };
  const query = new URLSearchParams({ path });
  if (instead) query.set('instead', [instead.size, instead.modified, instead.hash].join());
  return said(await answered(root, `make?${query}`, request));
}

/** Removes a file of a root that is what is expected of it. @throws NotWritten, WritingStopped, RootUnavailable */
export async function removeFile(root: RootRecord, path: string, expected: ExpectedFile): Promise<void> {
  if (root.kind === 'server') await answered(root, 'remove', asJson({ path, ...expected }));
  else await removeIn(await pickedFolder(root), path, expected);
}
