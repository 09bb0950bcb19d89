import type { KeptBackup } from '@core/library';

const ENDING = '.backup';

/** The backups that are written by themselves, in the browser's private file system; undefined where there is none. */
export function keptBackups() {
  const { storage } = globalThis.navigator ?? {};
  if (!storage?.getDirectory) return undefined;
  const folder = async () => (await storage.getDirectory()).getDirectoryHandle('backups', { create: true });
  const nameOf = ({ at }: Pick<KeptBackup, 'at'>) => `${at}${ENDING}`;
  return {
    /** Newest first. */
    async list(): Promise<KeptBackup[]> {
      const found: KeptBackup[] = [];
      for await (const [name, handle] of (await folder()).entries()) {
        const at = Number(name.slice(0, -ENDING.length));
        if (handle.kind !== 'file' || !name.endsWith(ENDING) || !Number.isFinite(at)) continue;
        found.push({ at, bytes: (await (handle as FileSystemFileHandle).getFile()).size });
      }
      return found.filter((b) => b.bytes > 0).sort((a, b) => b.at - a.at);
    },
    async read(backup: Pick<KeptBackup, 'at'>): Promise<File> {
      return (await (await folder()).getFileHandle(nameOf(backup))).getFile();
    },
    /** The browser puts it in place whole or not at all. */
    async write(at: number, data: Blob): Promise<void> {
      const out = await (await (await folder()).getFileHandle(nameOf({ at }), { create: true })).createWritable();
      await out.write(data);
      await out.close();
    },
    async remove(backup: Pick<KeptBackup, 'at'>): Promise<void> {
      await (await folder()).removeEntry(nameOf(backup));
    },
  };
}

/** Whether the browser has promised to keep what is stored; undefined where it cannot be asked. */
export async function isPersistent(): Promise<boolean | undefined> {
  return navigator.storage?.persisted?.();
}

/** Asks the browser to keep what is stored even when the disk runs low. @returns whether it agreed */
export async function askToPersist(): Promise<boolean> {
  return (await navigator.storage?.persist?.()) ?? false;
}
