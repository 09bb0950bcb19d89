/** The disk as {@link Room} needs it. */
export interface Disk {
  /** Writes so many bytes for a moment, and takes them away again. @returns how many of them had room */
  probe(bytes: number): Promise<number>;
}

/** Nothing was done: the disk is too full for it. */
export class NoRoom extends Error {
  override name = 'NoRoom';

  constructor(
    readonly needed: number,
    readonly free: number,
  ) {
    super(
      `the disk has not enough room: this needs ${inMegabytes(needed)}, ${inMegabytes(free)} are free. ` +
        'Nothing was changed. Make room on the disk, then try again.',
    );
  }
}

const inMegabytes = (bytes: number) => {
  const mega = bytes / 1e6;
  return `${mega < 10 ? mega.toFixed(1) : Math.round(mega)} MB`;
};

/**
 * What stays free beside whatever is written. A browser whose database finds no room at all in the middle of its own house-keeping
 * may throw the whole of it away; this is what that needs at its worst moment for a small edit.
 */
export const MARGIN = 16e6;
/** For so long a look at the disk is good, as others write to it too. Milliseconds. */
const GOOD = 10_000;

/**
 * Sees to it that there is room before anything is written. The browser's own estimate tells of its quota, not of the disk, so room
 * is proved by writing.
 */
export class Room {
  private proved = 0;
  private at = -Infinity;

  constructor(private readonly disk: Disk | undefined = privateDisk()) {}

  /**
   * Makes sure of room. @param bytes that are about to be written at most
   * @throws NoRoom
   */
  async need(bytes: number): Promise<void> {
    if (!this.disk) return;
    this.proved -= bytes;
    if (this.proved >= MARGIN / 2 && performance.now() - this.at < GOOD) return;
    const free = await this.disk.probe(bytes + MARGIN);
    this.at = performance.now();
    this.proved = free - bytes;
    if (free >= bytes + MARGIN) return;
    this.proved = 0;
    throw new NoRoom(bytes, Math.max(0, free - MARGIN));
  }
}

/** Errors that say nothing of the disk. */
const UNTOLD = new Set([
  'SecurityError',
  'NotAllowedError',
  'TypeError',
  'NotSupportedError',
  'NoModificationAllowedError',
]);
const BLOCK = 1 << 20;
/** What cannot be packed by a file system that packs. */
function noise(): Uint8Array<ArrayBuffer> {
  const block = new Uint8Array(BLOCK);
  for (let at = 0; at < BLOCK; at += 65_536) crypto.getRandomValues(block.subarray(at, at + 65_536));
  return block;
}

/** The disk below the browser's private file system; undefined where there is none, as outside of a worker. */
export function privateDisk(): Disk | undefined {
  const { storage } = globalThis.navigator ?? {};
  if (!storage?.getDirectory || typeof FileSystemFileHandle === 'undefined') return undefined;
  if (!('createSyncAccessHandle' in FileSystemFileHandle.prototype)) return undefined;
  let block: Uint8Array<ArrayBuffer> | undefined;
  const name = `room-${crypto.randomUUID()}`;
  return {
    async probe(bytes) {
      block ??= noise();
      let written = 0;
      let top: FileSystemDirectoryHandle | undefined;
      try {
        top = await storage.getDirectory();
        const handle = await top.getFileHandle(name, { create: true });
        const access = await handle.createSyncAccessHandle();
        try {
          while (written < bytes) {
            const part = block.subarray(0, Math.min(BLOCK, bytes - written));
            const now = access.write(part, { at: written });
            written += now;
            if (now < part.length) break;
          }
        } finally {
          access.truncate(0);
          access.close();
        }
      } catch (error) {
        // Where nothing may be written at all, as in some private windows, nothing can be told: the browser decides by itself.
        if (UNTOLD.has((error as Error).name)) return bytes;
        // No room for a file's name, or refused in the middle: what was written until then is the answer.
      }
      await top?.removeEntry(name).catch(() => undefined);
      return written;
    },
  };
}

/** Bytes that a change to so many records may cost on the disk: the database's log, its tables, and what it merges of them. */
export function costOf(changes: readonly object[]): number {
  const step = Math.max(1, Math.floor(changes.length / 40));
  let seen = 0;
  let bytes = 0;
  for (let i = 0; i < changes.length; i += step) {
    bytes += JSON.stringify(changes[i]).length;
    seen++;
  }
  const each = seen === 0 ? 0 : bytes / seen;
  // A record is written whole, and its change stands in the journal beside.
  return Math.ceil(changes.length * (1500 + 2 * each) * 2);
}
