/** A file that holds derived data whole: it may be lost at any time and is then made anew. */
export interface SnapshotFile {
  /** What was written last; undefined when there is nothing. */
  read(): Promise<ArrayBuffer | undefined>;
  /** Writes pieces one after another in place of what was there. */
  write(pieces: readonly Uint8Array[]): Promise<void>;
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
    async write(pieces) {
      const within = await folder();
      // Another tab that writes just now writes the same; this one need not.
      await navigator.locks.request(`cormorant-snapshot-${name}`, { ifAvailable: true }, async (lock) => {
        if (!lock) return;
        const handle = await within.getFileHandle(name, { create: true });
        const access = await handle.createSyncAccessHandle();
        try {
          access.truncate(0);
          let at = 0;
          for (const piece of pieces) at += access.write(piece as Uint8Array<ArrayBuffer>, { at });
          access.flush();
        } finally {
          access.close();
        }
      });
    },
  };
}
