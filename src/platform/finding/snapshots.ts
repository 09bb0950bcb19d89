/** A file that holds derived data whole: it may be lost at any time and is then made anew. */
export interface SnapshotFile {
  /** What was written last; undefined when there is nothing. */
  read(): Promise<ArrayBuffer | undefined>;
  /**
   * Writes pieces one after another in place of what was there.
   * @param next lets others have their turn; false when the pieces are good no longer: what was there stays then
   * @returns whether all was written
   */
  write(pieces: readonly Uint8Array[], next: () => Promise<boolean>): Promise<boolean>;
}

/** Bytes written in one go: a few milliseconds. */
const GO = 4 << 20;

/** Pieces cut into parts of at most {@link GO} bytes. */
function* parted(pieces: readonly Uint8Array[]): Generator<Uint8Array> {
  for (const piece of pieces) for (let at = 0; at < piece.length; at += GO) yield piece.subarray(at, at + GO);
}

/** A snapshot in the browser's private file system, written by one tab at a time; undefined where there is no such system. */
export function privateSnapshot(name: string): SnapshotFile | undefined {
  const { storage } = globalThis.navigator ?? {};
  if (!storage?.getDirectory) return undefined;
  const folder = async () => (await storage.getDirectory()).getDirectoryHandle('snapshots', { create: true });
  return {
    async read() {
      try {
        const handle = await (await folder()).getFileHandle(name);
        return await (await handle.getFile()).arrayBuffer();
      } catch {
        return undefined;
      }
    },
    async write(pieces, next) {
      const within = await folder();
      // Another tab that writes just now writes the same; this one need not.
      return navigator.locks.request(`cormorant-snapshot-${name}`, { ifAvailable: true }, async (lock) => {
        if (!lock) return false;
        // Written beside the old one, which stays whole until this one is.
        const handle = await within.getFileHandle(`${name}.new`, { create: true });
        const access = await handle.createSyncAccessHandle();
        try {
          access.truncate(0);
          let at = 0;
          for (const part of parted(pieces)) {
            if (!(await next())) return false;
            const written = access.write(part as Uint8Array<ArrayBuffer>, { at });
            if (written < part.length) throw new Error('the disk is full');
            at += written;
          }
          access.flush();
        } finally {
          access.close();
        }
        if (!(await next())) return false;
        await handle.move(name);
        return true;
      });
    },
  };
}
