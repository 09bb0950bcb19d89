import { underLock } from './locks';

/** The disk as {@link Room} needs it: one file of ours, which is room that is set aside. */
export interface Disk {
  /**
   * Grows the file to so many bytes, to see whether there is room for them. Then it keeps some of them; none when there was not room for
   * all, so that others have them.
   * @returns how many had room
   */
  probe(bytes: number, keep: number): Promise<number>;
}

/** Nothing was done: the disk is too full for it. */
export class NoRoom extends Error {
  override name = 'NoRoom';

  /** @param needed bytes that have to be free; unknown where the browser itself found no room */
  constructor(needed?: number, free = 0) {
    const lack =
      needed === undefined
        ? 'the browser cannot write to its database'
        : `this needs ${inMegabytes(needed)} free, and there are ${inMegabytes(free)}`;
    super(`the disk has not enough room: ${lack}. Nothing was changed by this. Make room on the disk, then try again.`);
  }
}

/** Whether there was no room for something, in whatever words a browser says so. */
export const isNoRoom = ({ name, message }: Error): boolean =>
  name === 'NoRoom' || /quota|full disk|no space/i.test(`${name} ${message}`);

const CLOSED =
  'the browser closed its database, as it does when the disk is full; it is opened again as soon as there is room. ' +
  'Nothing was changed by this. Try again.';

/** An error as people are told it, whichever words the browser or the database’s package has for it. */
export function inOurWords(error: Error): Error {
  if (error.name === 'DatabaseClosedError') return new Error(CLOSED);
  return error.name !== 'NoRoom' && isNoRoom(error) ? new NoRoom() : error;
}

const inMegabytes = (bytes: number) => {
  const mega = bytes / 1e6;
  return `${mega < 10 ? mega.toFixed(1) : Math.round(mega)} MB`;
};

/**
 * What stays free beside whatever is written, and what our file sets aside beyond that. A browser whose database finds no room at all in
 * the middle of its own house-keeping may throw the whole of it away; this is what that needs at its worst moment. What is set aside is
 * let go of when somebody else has filled the disk.
 */
export const MARGIN = 16e6;
/** With less than this a browser is not asked to open its database. */
export const OPENING = 8e6;
/** For so long a look at the disk is good, as others write to it too. Milliseconds. */
const GOOD = 10_000;
/** All tabs measure by one file. */
const LOOK = 'cormorant-room';

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
    const free = await this.free(bytes);
    this.at = performance.now();
    this.proved = free - MARGIN - bytes;
    if (free >= bytes + 2 * MARGIN) return;
    this.proved = 0;
    throw new NoRoom(bytes + 2 * MARGIN, free);
  }

  /** Makes sure that the browser can open its database, out of what was set aside if need be. @throws NoRoom */
  async forOpening(): Promise<void> {
    if (!this.disk) return;
    const free = await this.free(0);
    if (free < OPENING) throw new NoRoom(OPENING, free);
  }

  /** How much there is of what this takes with all that stays free, in bytes; what was set aside counts. */
  private free(bytes: number): Promise<number> {
    return underLock(LOOK, () => this.disk!.probe(bytes + 2 * MARGIN, MARGIN));
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
/** Where room is set aside in the private file system. */
const FILE = 'room';
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
  return {
    async probe(bytes, keep) {
      block ??= noise();
      let written = 0;
      try {
        const handle = await (await storage.getDirectory()).getFileHandle(FILE, { create: true });
        const access = await handle.createSyncAccessHandle();
        try {
          // What was set aside is there already.
          written = Math.min(access.getSize(), bytes);
          while (written < bytes) {
            const part = block.subarray(0, Math.min(BLOCK, bytes - written));
            const now = access.write(part, { at: written });
            written += now;
            if (now < part.length) break;
          }
        } finally {
          access.truncate(written < bytes ? 0 : keep);
          access.close();
        }
      } catch (error) {
        // Where nothing may be written at all, as in some private windows, nothing can be told: the browser decides by itself.
        if (UNTOLD.has((error as Error).name)) return bytes;
        // No room for a file's name, or refused in the middle: what was written until then is the answer.
      }
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
