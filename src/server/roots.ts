import { createHmac, randomBytes } from 'node:crypto';
import type { Dirent } from 'node:fs';
import { constants } from 'node:fs';
import { open, readdir, realpath, stat, type FileHandle } from 'node:fs/promises';
import { basename, join, relative, resolve, sep } from 'node:path';

/** A folder that the server offers to its own page. */
export interface Root {
  /** Stays the same from start to start, so that a catalogue recognises it. */
  id: string;
  name: string;
  folder: string;
  /** Whether files may be written there. */
  writes?: boolean;
}

const ofThisProcess = randomBytes(32);

/** A root for a folder. @param secret what its id is made with; see `rootSecret` */
export function rootFor(folder: string, name?: string, secret: Buffer = ofThisProcess): Root {
  const full = resolve(folder);
  const id = createHmac('sha256', secret).update(full).digest('hex').slice(0, 24);
  return { id, name: name ?? (basename(full) || full), folder: full };
}

/** The segments of a path below a root. */
export const segmentsOf = (path: string): string[] => path.split('/');

/** The folder of a root is not there (any more), or cannot be read. */
export class RootGone extends Error {
  constructor(root: Root, denied: boolean) {
    super(
      denied
        ? `The folder ${root.folder} may not be read: this user has no permission for it.`
        : `The folder ${root.folder} cannot be reached. Is its drive connected?`,
    );
  }
}

/** One file of a root cannot be given, and why. */
export class FileRefused extends Error {}

const codeOf = (error: unknown) => (error as NodeJS.ErrnoException).code ?? '';
const denied = (error: unknown) => ['EACCES', 'EPERM'].includes(codeOf(error));

async function folderOf(root: Root): Promise<string> {
  try {
    return await realpath(root.folder);
  } catch (error) {
    throw new RootGone(root, denied(error));
  }
}

const inside = (folder: string, path: string) => path === folder || path.startsWith(folder + sep);

/** An open file of a root. */
export interface OpenFile {
  handle: FileHandle;
  /** Where it lies, once links are followed. */
  real: string;
  size: number;
  /** Milliseconds since 1970. */
  modified: number;
}

/**
 * Opens a file below a root. It is opened once, and what was opened is what is checked: a link that is turned elsewhere in between
 * leads nowhere.
 * @param segments decoded path segments
 * @param access `O_RDONLY` or `O_RDWR`
 * @returns undefined when there is no such file, or when it lies outside of the root once `..` and links are followed
 * @throws RootGone, FileRefused
 */
export async function openBelow(
  root: Root,
  segments: readonly string[],
  access: number = constants.O_RDONLY,
): Promise<OpenFile | undefined> {
  const folder = await folderOf(root);
  if (segments.length === 0) return undefined;
  if (segments.some((s) => s === '' || s === '.' || s === '..' || s.includes('/') || s.includes('\0')))
    return undefined;
  const path = join(folder, ...segments);
  let handle: FileHandle;
  try {
    // A pipe would be waited for.
    handle = await open(path, access | constants.O_NONBLOCK);
  } catch (error) {
    if (access !== constants.O_RDONLY && (denied(error) || codeOf(error) === 'EROFS'))
      throw new FileRefused('the file may not be written: it, or its drive, is for reading only');
    if (denied(error)) throw new FileRefused('the file may not be read: this user has no permission for it');
    return undefined;
  }
  try {
    const [opened, real] = await Promise.all([handle.stat(), realpath(path)]);
    const there = inside(folder, real) ? await stat(real) : undefined;
    if (opened.isFile() && there?.ino === opened.ino && there.dev === opened.dev)
      return { handle, real, size: opened.size, modified: opened.mtimeMs };
  } catch {
    // It went meanwhile.
  }
  await handle.close();
  return undefined;
}

/**
 * The real path of a folder below a root.
 * @returns undefined when there is no such folder, or when it lies outside of the root once links are followed
 * @throws RootGone
 */
export async function folderBelow(root: Root, segments: readonly string[]): Promise<string | undefined> {
  const folder = await folderOf(root);
  if (segments.some((s) => s === '' || s === '.' || s === '..' || s.includes('\0'))) return undefined;
  try {
    const real = await realpath(join(folder, ...segments));
    return inside(folder, real) && (await stat(real)).isDirectory() ? real : undefined;
  } catch {
    return undefined;
  }
}

/** A file as the list of a root tells it. */
export interface RootFile {
  path: string;
  size: number;
  modified: number;
}

/** Something below a root that is no file to read, and why. */
export interface RootProblem {
  path: string;
  reason: string;
  /** A folder: what was in it before is out of reach, and not gone. */
  folder?: boolean;
}

/** A part of a list. */
export interface Listed {
  files: RootFile[];
  problems: RootProblem[];
}

/** Files whose sizes are asked for at the same time. */
const AT_ONCE = 64;

interface Entry {
  name: string;
  kind: 'file' | 'folder' | 'link' | 'other';
}

/** Names as text; those that are no UTF-8 as they come nearest, and as problems. */
function named(entry: Dirent<Buffer>, place: string, problems: RootProblem[]): Entry | undefined {
  const bytes = entry.name;
  const name = bytes.toString('utf8');
  if (name.startsWith('.')) return undefined;
  if (!Buffer.from(name, 'utf8').equals(bytes)) {
    const reason = 'its name is not written in UTF-8, so it cannot be asked for; rename it';
    problems.push({ path: place + name, reason, ...(entry.isDirectory() ? { folder: true } : {}) });
    return undefined;
  }
  const kind = entry.isDirectory() ? 'folder' : entry.isFile() ? 'file' : entry.isSymbolicLink() ? 'link' : 'other';
  return { name, kind };
}

/**
 * Every file below a root, with size and time, folder by folder, and what else is there that is no file to read; hidden ones are left out.
 * @throws RootGone
 */
export async function* listRoot(root: Root): AsyncGenerator<Listed> {
  const folder = await folderOf(root);
  const waiting = [folder];
  for (let here = waiting.pop(); here !== undefined; here = waiting.pop()) {
    const place = here === folder ? '' : `${relative(folder, here).split(sep).join('/')}/`;
    const problems: RootProblem[] = [];
    let raw: Dirent<Buffer>[];
    try {
      raw = (await readdir(here, { withFileTypes: true, encoding: 'buffer' })) as unknown as Dirent<Buffer>[];
    } catch (error) {
      if (here === folder) throw new RootGone(root, denied(error));
      const reason = denied(error)
        ? 'the folder may not be read: this user has no permission for it'
        : `the folder cannot be read (${codeOf(error)})`;
      yield { files: [], problems: [{ path: place.slice(0, -1), reason, folder: true }] };
      continue;
    }
    const entries = raw.flatMap((e) => named(e, place, problems) ?? []);
    entries.sort((a, b) => (a.name < b.name ? -1 : 1));
    for (const e of entries.filter((x) => x.kind === 'folder').reverse()) waiting.push(join(here, e.name));
    const others = entries.filter((e) => e.kind !== 'folder');
    for (let from = 0; from < Math.max(1, others.length); from += AT_ONCE) {
      const found = await Promise.all(
        others.slice(from, from + AT_ONCE).map((e) => describe(folder, here, place + e.name, e)),
      );
      const files = found.flatMap((f) => ('size' in f ? [f] : []));
      yield { files, problems: [...problems.splice(0), ...found.flatMap((f) => ('reason' in f ? [f] : []))] };
    }
  }
  // Folders of a drive that was pulled out meanwhile looked empty: only if it is still there was that true.
  await folderOf(root);
}

async function describe(folder: string, here: string, path: string, entry: Entry): Promise<RootFile | RootProblem> {
  if (entry.kind === 'other') return { path, reason: 'it is a pipe, a socket or a device, and no file' };
  const full = join(here, entry.name);
  try {
    const real = entry.kind === 'link' ? await realpath(full) : full;
    if (!inside(folder, real))
      return { path, reason: 'it is a link that leads out of the folder; links are followed inside of it only' };
    const info = await stat(real);
    if (info.isFile()) return { path, size: info.size, modified: info.mtimeMs };
    // It could lead round in a circle.
    if (info.isDirectory()) return { path, reason: 'it is a link to a folder; these are not followed' };
    return { path, reason: 'it is a pipe, a socket or a device, and no file' };
  } catch (error) {
    const code = codeOf(error);
    if (code === 'ELOOP') return { path, reason: 'it is a link that turns in a circle' };
    if (entry.kind === 'link' && code === 'ENOENT')
      return { path, reason: 'it is a link to something that is not there' };
    return { path, reason: `it cannot be looked at (${code})` };
  }
}
