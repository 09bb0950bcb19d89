import { audioEndings } from '@core/files';
import { createHash } from 'node:crypto';
import { constants, createReadStream } from 'node:fs';
import { lstat, open, readdir, readFile, realpath, stat, type FileHandle } from 'node:fs/promises';
import { join, resolve, sep } from 'node:path';
import { keepWhole } from '../whole';

/** A file that lies in a storage, as it was when its sum was taken. */
interface Lying {
  path: string;
  size: number;
  /** Milliseconds since 1970. */
  modified: number;
  /** SHA-256 */
  sum: string;
}

/** Files between two times that what is known of them is kept. */
const KEPT_EACH = 200;
/** A storage that was gone through is not gone through again for so long. Milliseconds */
const RESTS = 60_000;

const isLying = (value: unknown): value is Lying => {
  const { path, size, modified, sum } = (value ?? {}) as Partial<Record<keyof Lying, unknown>>;
  return (
    typeof path === 'string' && typeof size === 'number' && typeof modified === 'number' && typeof sum === 'string'
  );
};

/**
 * Folders in which files lie already: a team's libraries may have sounds of them that are neither sent nor copied, but read where they are.
 * They are only ever read. Each file's sum is taken once, and anew where its size or its time is another one.
 */
export class Storage {
  private readonly folders: readonly string[];
  private bySum = new Map<string, Lying>();
  private byPath = new Map<string, Lying>();
  private looking: Promise<number> | undefined;
  private looked = -Infinity;

  /** @param keptAt the file in which is kept what is known of them */
  constructor(
    folders: readonly string[],
    private readonly keptAt: string,
    private readonly clock = Date.now,
  ) {
    this.folders = folders.map((folder) => resolve(folder));
  }

  /** Goes through all folders. @returns how many files lie there */
  look(): Promise<number> {
    return (this.looking ??= this.lookNow().finally(() => {
      this.looking = undefined;
      this.looked = this.clock();
    }));
  }

  private async lookNow(): Promise<number> {
    if (this.byPath.size === 0) await this.recall();
    const found = new Map<string, Lying>();
    let fresh = 0;
    for (const folder of this.folders)
      for await (const path of filesBelow(folder)) {
        const lying = await this.known(path).catch(() => undefined);
        // What cannot be read now may be another time.
        if (!lying) continue;
        if (this.byPath.get(path) !== lying) fresh++;
        found.set(path, lying);
        this.bySum.set(lying.sum, lying);
        if (fresh > 0 && fresh % KEPT_EACH === 0) await this.keep(found);
      }
    this.byPath = found;
    this.bySum = new Map([...found.values()].map((lying) => [lying.sum, lying]));
    await this.keep(found);
    return found.size;
  }

  /** A file as it lies there now; its sum is taken where it is not known of this size and time. */
  private async known(path: string): Promise<Lying> {
    const { size, mtimeMs: modified } = await lstat(path);
    const before = this.byPath.get(path);
    if (before?.size === size && before.modified === modified) return before;
    const hash = createHash('sha256');
    for await (const part of createReadStream(path)) hash.update(part as Buffer);
    return { path, size, modified, sum: hash.digest('hex') };
  }

  private async recall(): Promise<void> {
    try {
      const kept = JSON.parse(await readFile(this.keptAt, 'utf8')) as unknown;
      const lying = Array.isArray(kept) ? kept.filter(isLying) : [];
      this.byPath = new Map(lying.map((l) => [l.path, l]));
      this.bySum = new Map(lying.map((l) => [l.sum, l]));
    } catch {
      // What is not known is found out again.
    }
  }

  private keep = (found: ReadonlyMap<string, Lying>): Promise<void> => keepWhole(this.keptAt, [...found.values()]);

  /** The length of a file of this content; undefined where none lies there. See {@link open} */
  async sizeOf(sum: string): Promise<number | undefined> {
    const file = await this.open(sum);
    await file?.handle.close();
    return file?.size;
  }

  /**
   * Opens a file of this content; undefined where there is none that is as it was when its sum was taken. Then the folders are gone through
   * again, unless that was just done.
   */
  async open(sum: string): Promise<{ handle: FileHandle; size: number } | undefined> {
    const lying = this.bySum.get(sum);
    const handle = lying && (await this.opened(lying));
    if (handle) return { handle, size: lying.size };
    if (this.clock() - this.looked > RESTS) void this.look().catch(() => undefined);
    return undefined;
  }

  /** Opened first and looked at then: whatever is put in its place meanwhile, this is what is read. */
  private async opened({ path, size, modified }: Lying): Promise<FileHandle | undefined> {
    let handle: FileHandle;
    try {
      // A pipe would be waited for.
      handle = await open(path, constants.O_RDONLY | constants.O_NONBLOCK | constants.O_NOFOLLOW);
    } catch {
      return undefined;
    }
    try {
      const [own, real] = [await handle.stat(), await realpath(path)];
      const there = await stat(real);
      const tops = await Promise.all(this.folders.map((folder) => realpath(folder).catch(() => undefined)));
      const isInside = tops.some((folder) => folder !== undefined && real.startsWith(folder + sep));
      const isSame = there.ino === own.ino && there.dev === own.dev;
      if (own.isFile() && own.size === size && own.mtimeMs === modified && isSame && isInside) return handle;
    } catch {
      // It went meanwhile.
    }
    await handle.close();
    return undefined;
  }
}

/** Sounds of a folder and those below; what begins with a dot is passed over, and so are links. */
async function* filesBelow(folder: string): AsyncGenerator<string> {
  const entries = await readdir(folder, { withFileTypes: true }).catch(() => []);
  for (const entry of entries.sort((a, b) => (a.name < b.name ? -1 : 1))) {
    if (entry.name.startsWith('.')) continue;
    const path = join(folder, entry.name);
    if (entry.isDirectory()) yield* filesBelow(path);
    else if (entry.isFile() && audioEndings.test(entry.name)) yield path;
  }
}
