import { createHash } from 'node:crypto';
import { readdir, realpath, stat } from 'node:fs/promises';
import { basename, join, relative, resolve, sep } from 'node:path';

/** A folder that the server offers to its own page. */
export interface Root {
  /** Stays the same from start to start, so that a catalogue recognises it. */
  id: string;
  name: string;
  folder: string;
}

/** A root for a folder. */
export function rootFor(folder: string, name = basename(resolve(folder))): Root {
  const full = resolve(folder);
  return { id: createHash('sha256').update(full).digest('hex').slice(0, 12), name, folder: full };
}

/** The folder of a root is not there (any more). */
export class RootGone extends Error {
  constructor(root: Root) {
    super(`The folder ${root.folder} cannot be reached. Is its drive connected?`);
  }
}

async function folderOf(root: Root): Promise<string> {
  try {
    return await realpath(root.folder);
  } catch {
    throw new RootGone(root);
  }
}

const inside = (folder: string, path: string) => path === folder || path.startsWith(folder + sep);

/**
 * The real path of a file below a root.
 * @param segments decoded path segments
 * @returns undefined when there is no such file, or when it lies outside of the root once `..` and links are followed
 * @throws RootGone
 */
export async function fileBelow(root: Root, segments: readonly string[]): Promise<string | undefined> {
  const folder = await folderOf(root);
  if (segments.some((s) => s === '' || s === '.' || s === '..' || s.includes('/') || s.includes('\0')))
    return undefined;
  try {
    const path = await realpath(join(folder, ...segments));
    return inside(folder, path) && (await stat(path)).isFile() ? path : undefined;
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

/** Files whose sizes are asked for at the same time. */
const AT_ONCE = 64;

/**
 * Every file below a root, with size and time, folder by folder; hidden ones and links that lead out are left out.
 * @throws RootGone
 */
export async function* listRoot(root: Root): AsyncGenerator<RootFile[]> {
  const folder = await folderOf(root);
  const waiting = [folder];
  for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
    const here = at;
    const entries = (await readdir(here, { withFileTypes: true }).catch(() => [])).filter(
      (e) => !e.name.startsWith('.'),
    );
    entries.sort((a, b) => (a.name < b.name ? -1 : 1));
    waiting.push(
      ...entries
        .filter((e) => e.isDirectory())
        .map((e) => join(here, e.name))
        .reverse(),
    );
    const files = entries.filter((e) => !e.isDirectory());
    for (let from = 0; from < files.length; from += AT_ONCE) {
      const found = await Promise.all(
        files.slice(from, from + AT_ONCE).map((e) => describe(folder, join(here, e.name), e.isSymbolicLink())),
      );
      yield found.filter((f) => f !== undefined);
    }
  }
  // Folders of a drive that was pulled out meanwhile looked empty: only if it is still there was that true.
  await folderOf(root);
}

async function describe(folder: string, path: string, link: boolean): Promise<RootFile | undefined> {
  // A link to a folder is not followed: it could lead round in a circle.
  const real = link ? await realpath(path).catch(() => '') : path;
  if (!inside(folder, real)) return undefined;
  const info = await stat(real).catch(() => undefined);
  if (!info?.isFile()) return undefined;
  return { path: relative(folder, path).split(sep).join('/'), size: info.size, modified: info.mtimeMs };
}
