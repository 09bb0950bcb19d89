import { wrap } from 'comlink';
import type { Disk } from './disk';
import diskUrl from './disk.worker.ts?worker&url';
import { underLock } from './locks';

/** Nothing was done: the disk is too full for it. */
export class NoRoom extends Error {
  override name = 'NoRoom';

  /**
   * @param needed bytes that have to be free; unknown where the browser itself found no room
   * @param free how many are; unknown where the disk did not say
   */
  constructor(needed?: number, free?: number) {
    const lack =
      needed === undefined
        ? 'the browser cannot write to its database'
        : free === undefined
          ? 'it does not answer, as one that is full or very busy does'
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
/** For what is written right after it was opened. */
const FIRST = 1e6;
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
    const free = await this.free(bytes + 2 * MARGIN);
    this.note(free - bytes);
    if (free >= bytes + 2 * MARGIN) return;
    this.proved = 0;
    throw new NoRoom(bytes + 2 * MARGIN, free);
  }

  /**
   * Makes sure that the browser can open its database, out of what was set aside if need be. What is written right after it, as the first
   * records of a new one are, needs no other look.
   * @throws NoRoom
   */
  async forOpening(): Promise<void> {
    if (!this.disk) return;
    const free = await this.free(MARGIN + OPENING + FIRST);
    if (free < OPENING) throw new NoRoom(OPENING, free);
    this.note(free);
  }

  /** What a look found beyond what stays free. */
  private note(free: number): void {
    this.at = performance.now();
    this.proved = free - MARGIN;
  }

  /** How many of so many bytes there is room for; what was set aside counts. */
  private free(bytes: number): Promise<number> {
    return underLock(LOOK, () => this.disk!.probe(bytes, MARGIN));
  }
}

/** Milliseconds after which a look at the disk is given up. */
const PATIENCE = 15_000;

/**
 * A disk that is looked at by somebody who can be left behind: a browser whose disk is full may leave a worker waiting for good while it
 * closes a file, and with it all that the worker does. Whoever does not answer in time has found no room.
 * @param begin starts somebody who looks, for one look each
 */
export function patient(begin: () => { disk: Disk; end: () => void }, patience = PATIENCE): Disk {
  return {
    async probe(bytes, keep) {
      const { disk, end } = begin();
      let timer: ReturnType<typeof setTimeout> | undefined;
      const late = new Promise<never>((_, fail) => {
        timer = setTimeout(() => fail(new NoRoom(bytes)), patience);
      });
      try {
        return await Promise.race([disk.probe(bytes, keep), late]);
      } finally {
        clearTimeout(timer);
        end();
      }
    },
  };
}

/** The disk below the browser's private file system; undefined where there is none, as outside of a worker. */
export function privateDisk(): Disk | undefined {
  const { storage } = globalThis.navigator ?? {};
  if (!storage?.getDirectory || typeof FileSystemFileHandle === 'undefined' || typeof Worker === 'undefined')
    return undefined;
  if (!('createSyncAccessHandle' in FileSystemFileHandle.prototype)) return undefined;
  return patient(() => {
    const worker = new Worker(diskUrl, { type: 'module', name: 'disk' });
    return { disk: wrap<Disk>(worker), end: () => worker.terminate() };
  });
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
