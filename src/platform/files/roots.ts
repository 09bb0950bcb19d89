import { memorySource, type ByteSource, type Edges } from '@core/files';
import type { ListedFile, ListedProblem, Listing } from '@core/library';
import { checked, validators, type ServerList, type ServerRoot } from '@core/schemas';
import type { RootRecord } from '../store/store';
import { fetchedFile } from './fetched';

/** A root cannot be read now; says why and what to do. */
export class RootUnavailable extends Error {
  // Kept when the error crosses from a worker, where the class itself is lost.
  override name = 'RootUnavailable';

  constructor(
    message: string,
    /** Whether the user can allow it again with a click. */
    readonly askAgain = false,
  ) {
    super(message);
  }
}

/** A root is there and has nothing in it, where there was something: most likely its drive is not mounted. */
export class RootEmptied extends RootUnavailable {
  constructor(
    name: string,
    /** Files that it held. */
    readonly files: number,
  ) {
    super(
      `“${name}” is empty, and held ${files} sounds. Is its drive connected? They stay as they are, and are out of reach for now.`,
    );
  }
}

/** One file of a root is not where it was, or may not be read. */
export class FileGone extends Error {
  override name = 'FileGone';
}

/** What is said where a server does not answer. */
const silent = {
  server: 'The Cormorant server does not answer. Start it again with npm start.',
  elsewhere: 'The site that it comes from does not answer.',
  team: 'The team’s server does not answer, and the file was not fetched before.',
};

async function answer(url: string, init?: RequestInit, from: keyof typeof silent = 'server'): Promise<Response> {
  let response: Response;
  try {
    // Whoever is of the team shows that.
    response = await fetch(url, from === 'team' ? { ...init, credentials: 'include' } : init);
  } catch {
    throw new RootUnavailable(silent[from]);
  }
  if (response.ok) return response;
  const said = (await response.json().catch(() => undefined)) as { error?: string } | undefined;
  const reason = said?.error ?? `The server answered with ${response.status}.`;
  // 404 is about one file, all else about the root or the server.
  throw response.status === 404 ? new FileGone(reason) : new RootUnavailable(reason);
}

/** The roots that our own server offers. */
export async function serverRoots(): Promise<ServerRoot[]> {
  return checked(await (await answer('/api/roots')).json(), validators.serverRoots, "the server's list of roots");
}

/** Has our own server open the folder of a file in the desktop's file manager. @throws Error with the reason in words */
export async function revealFolder(root: RootRecord, path: string): Promise<void> {
  await answer(`/api/roots/${root.serverId}/open`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify([path]),
  });
}

/** Whether files of a root come over HTTP. */
const isServed = ({ kind }: RootRecord): boolean => kind === 'server' || kind === 'team';
const sideOf = ({ kind, base }: RootRecord): keyof typeof silent =>
  kind === 'team' ? 'team' : base === undefined ? 'server' : 'elsewhere';

/** The address of a file of a root that comes over HTTP. */
export function serverUrl(root: RootRecord, path: string): string {
  const encoded = path.split('/').map(encodeURIComponent).join('/');
  if (root.kind === 'team') return root.base! + encoded;
  return root.base !== undefined ? root.base + path : `/roots/${root.serverId}/${encoded}`;
}

/** Bytes that are asked for at once of a team: what is more counts as a whole file there. */
const HEARD = 4 << 20;

function httpSource(url: string, name: string, size: number, from: keyof typeof silent): ByteSource {
  const part = async (offset: number, end: number): Promise<Uint8Array> => {
    const response = await answer(url, { headers: { Range: `bytes=${offset}-${end - 1}` } }, from);
    const bytes = new Uint8Array(await response.arrayBuffer());
    return response.status === 206 ? bytes : bytes.subarray(offset, end);
  };
  return {
    name,
    size,
    async read(offset, length) {
      const end = Math.min(size, offset + length);
      if (end <= offset) return new Uint8Array(0);
      if (from !== 'team' || end - offset <= HEARD) return part(offset, end);
      const whole = new Uint8Array(end - offset);
      for (let at = offset; at < end; at += HEARD) whole.set(await part(at, Math.min(end, at + HEARD)), at - offset);
      return whole;
    },
  };
}

/**
 * Fetches beginnings and ends of many files of a server root by one request: a label reader needs little more of each, and a
 * request costs more than reading it.
 * @returns by file in order; undefined for one that is not there, and for all of other kinds of roots
 */
export async function fetchEdges(root: RootRecord, files: readonly ListedFile[]): Promise<(Edges | undefined)[]> {
  if (root.kind !== 'server' || root.base !== undefined || files.length === 0) return files.map(() => undefined);
  const response = await answer(`/api/roots/${root.serverId}/edges`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(files.map((f) => f.path)),
  });
  const bytes = new Uint8Array(await response.arrayBuffer());
  const view = new DataView(bytes.buffer);
  let at = 0;
  return files.map(({ size }) => {
    if (at + 8 > bytes.length) return undefined;
    const [head, tail] = [view.getInt32(at, true), view.getInt32(at + 4, true)];
    at += 8;
    if (head < 0) return undefined;
    const edges = { head: bytes.subarray(at, at + head), tail: bytes.subarray(at + head, at + head + tail) };
    at += head + tail;
    // A file that grew or shrank since it was listed is read by itself.
    return head + tail > size ? undefined : edges;
  });
}

/** A source over a file of the browser's. */
export function fileSource(file: Blob, name = (file as File).name): ByteSource {
  return {
    name,
    size: file.size,
    read: async (offset, length) => new Uint8Array(await file.slice(offset, offset + length).arrayBuffer()),
  };
}

/** What reading a picked file or folder failed with, in words. */
function handleReason(error: unknown): string {
  const { name, message } = error as Error;
  if (name === 'NotFoundError') return 'it went while the folder was looked through';
  if (name === 'NotAllowedError' || name === 'NotReadableError' || name === 'SecurityError')
    return 'it may not be read: the browser, or this user, has no permission for it';
  return `it cannot be read: ${message}`;
}

type Found = ListedFile | ListedProblem;

async function described(handle: FileSystemFileHandle, path: string): Promise<Found> {
  try {
    const file = await handle.getFile();
    return { path, size: file.size, modified: file.lastModified };
  } catch (error) {
    return { path, reason: handleReason(error) };
  }
}

async function* walk(folder: FileSystemDirectoryHandle, prefix: string): AsyncGenerator<Found> {
  try {
    for await (const [name, handle] of folder.entries()) {
      if (name.startsWith('.')) continue;
      if (handle.kind === 'directory') yield* walk(handle as FileSystemDirectoryHandle, `${prefix}${name}/`);
      else yield await described(handle as FileSystemFileHandle, prefix + name);
    }
  } catch (error) {
    // Of the root itself it means that there is none any more.
    if (prefix === '') throw error;
    yield { path: prefix.slice(0, -1), reason: handleReason(error), folder: true };
  }
}

/** The private file system's folder for a root whose files were copied in. */
export async function copyFolder(root: Pick<RootRecord, 'id'>): Promise<FileSystemDirectoryHandle> {
  const top = await navigator.storage.getDirectory();
  const copies = await top.getDirectoryHandle('copied', { create: true });
  return copies.getDirectoryHandle(String(root.id), { create: true });
}

async function handlesOf(root: RootRecord): Promise<(FileSystemDirectoryHandle | FileSystemFileHandle)[]> {
  if (root.kind === 'copied') return [await copyFolder(root)];
  for (const handle of root.handles ?? []) {
    if ((await handle.queryPermission?.({ mode: 'read' })) === 'prompt') {
      throw new RootUnavailable(`The browser asks again before “${root.name}” may be read.`, true);
    }
  }
  return root.handles ?? [];
}

const BATCH = 500;

/** The lines of a response as they come in. */
async function* linesOf(response: Response): AsyncGenerator<string> {
  const reader = response.body!.pipeThrough(new TextDecoderStream()).getReader();
  let rest = '';
  for (;;) {
    const { done, value } = await reader.read();
    if (done) break;
    const lines = (rest + value).split('\n');
    rest = lines.pop()!;
    yield* lines;
  }
  if (rest) yield rest;
}

async function* handleFiles(root: RootRecord): AsyncGenerator<Found> {
  for (const handle of await handlesOf(root)) {
    if (handle.kind === 'directory') yield* walk(handle as FileSystemDirectoryHandle, '');
    else yield await described(handle as FileSystemFileHandle, handle.name);
  }
}

/** Lists every file below a root, some hundred at a time as they are found, and what is there that cannot be read. @throws RootUnavailable */
export async function* listFiles(root: RootRecord): AsyncGenerator<Listing> {
  if (root.kind === 'team') throw new RootUnavailable(`“${root.name}” is a library of the team, and no folder.`);
  if (root.kind === 'server') {
    try {
      for await (const line of linesOf(await answer(`/api/roots/${root.serverId}/files`)))
        yield checked<ServerList>(JSON.parse(line), validators.serverList, 'the list of files');
      return;
    } catch (error) {
      if (error instanceof FileGone) throw new RootUnavailable(error.message);
      if (error instanceof SyntaxError || error instanceof TypeError)
        throw new RootUnavailable(
          'The Cormorant server broke off while it listed the files. Is the drive still connected?',
        );
      throw error;
    }
  }
  let batch: Listing = { files: [], problems: [] };
  try {
    for await (const found of handleFiles(root)) {
      if ('reason' in found) batch.problems.push(found);
      else batch.files.push(found);
      if (batch.files.length + batch.problems.length < BATCH) continue;
      yield batch;
      batch = { files: [], problems: [] };
    }
  } catch (error) {
    if (error instanceof RootUnavailable) throw error;
    throw new RootUnavailable(`“${root.name}” cannot be read any more. Is its drive connected?`);
  }
  if (batch.files.length + batch.problems.length > 0) yield batch;
}

/** The handle of a file in a picked or copied root. @throws RootUnavailable, FileGone */
export async function handleOf(root: RootRecord, path: string): Promise<FileSystemFileHandle> {
  try {
    for (const handle of await handlesOf(root)) {
      if (handle.kind === 'file') {
        if (handle.name === path) return handle as FileSystemFileHandle;
        continue;
      }
      const parts = path.split('/');
      let folder = handle as FileSystemDirectoryHandle;
      for (const part of parts.slice(0, -1)) folder = await folder.getDirectoryHandle(part);
      return await folder.getFileHandle(parts[parts.length - 1]);
    }
  } catch (error) {
    if (error instanceof RootUnavailable) throw error;
  }
  throw new FileGone(`${path} is not in “${root.name}” any more.`);
}

async function fileOf(root: RootRecord, path: string): Promise<File> {
  const loose = root.files?.find((f) => f.name === path);
  if (loose) return loose;
  const handle = await handleOf(root, path);
  try {
    return await handle.getFile();
  } catch {
    throw new FileGone(`${path} is not in “${root.name}” any more.`);
  }
}

/** How large a file is now; undefined where there is none. @throws RootUnavailable */
export async function sizeOf(root: RootRecord, path: string): Promise<number | undefined> {
  try {
    if (!isServed(root)) return (await fileOf(root, path)).size;
    const { headers } = await answer(serverUrl(root, path), { method: 'HEAD' }, sideOf(root));
    return Number(headers.get('Content-Length'));
  } catch (error) {
    if (error instanceof FileGone) return undefined;
    throw error;
  }
}

/** Opens a file of a root. @param size bytes, as listed */
export async function openFile(root: RootRecord, path: string, size: number): Promise<ByteSource> {
  if (root.kind === 'team') {
    const kept = await fetchedFile(serverUrl(root, path));
    if (kept) return fileSource(kept, path);
  }
  if (isServed(root)) return httpSource(serverUrl(root, path), path, size, sideOf(root));
  if (size === 0) return memorySource(new Uint8Array(0), path);
  return fileSource(await fileOf(root, path), path);
}

/** A URL that a media element can play from. */
export async function mediaUrl(root: RootRecord, path: string): Promise<string> {
  if (isServed(root)) return serverUrl(root, path);
  return URL.createObjectURL(await fileOf(root, path));
}

/** Throws the copies of a root away. */
export async function dropCopies({ id }: Pick<RootRecord, 'id'>): Promise<void> {
  const top = await navigator.storage.getDirectory();
  const copies = await top.getDirectoryHandle('copied', { create: true });
  await copies.removeEntry(String(id), { recursive: true }).catch(() => undefined);
}

/** Copies files into the private file system, for browsers that cannot keep handles. */
export async function copyIn(root: Pick<RootRecord, 'id'>, files: readonly File[]): Promise<void> {
  const top = await copyFolder(root);
  for (const file of files) {
    const parts = (file.webkitRelativePath || file.name).split('/');
    let folder = top;
    for (const part of parts.slice(0, -1)) folder = await folder.getDirectoryHandle(part, { create: true });
    const handle = await folder.getFileHandle(parts[parts.length - 1], { create: true });
    const out = await handle.createWritable();
    await out.write(file);
    await out.close();
  }
}
