import type { KeptBackup } from '@core/library';
import { checked, validators, type ServedBackup } from '@core/schemas';

/** A place where backups are kept by themselves. */
export interface Shelf {
  where: KeptBackup['where'];
  /** Newest first; undefined where the place cannot be reached. */
  list(): Promise<KeptBackup[] | undefined>;
  read(backup: KeptBackup): Promise<Blob>;
  /** Puts one in place, whole or not at all. @throws Error in words */
  write(backup: Omit<KeptBackup, 'where' | 'bytes'>, data: Blob): Promise<void>;
  remove(backup: KeptBackup): Promise<void>;
}

/** The browser's private file system; undefined where there is none. */
export function browserShelf(): Shelf | undefined {
  const { storage } = globalThis.navigator ?? {};
  if (!storage?.getDirectory) return undefined;
  const folder = async () => (await storage.getDirectory()).getDirectoryHandle('backups', { create: true });
  // Names of before say when, and no more.
  const nameOf = ({ at, revision, library }: Omit<KeptBackup, 'where' | 'bytes'>) =>
    library === undefined ? `${at}.backup` : `${at}-${revision}-${library}.backup`;
  return {
    where: 'browser',
    async list() {
      const found: KeptBackup[] = [];
      for await (const [name, handle] of (await folder()).entries()) {
        const [, at, revision, library] = /^(\d+)(?:-(\d+)-([\da-f-]+))?\.backup$/.exec(name) ?? [];
        if (handle.kind !== 'file' || at === undefined) continue;
        const { size } = await (handle as FileSystemFileHandle).getFile();
        const of = library === undefined ? {} : { library, revision: Number(revision) };
        found.push({ where: 'browser', at: Number(at), bytes: size, ...of });
      }
      return found.filter((b) => b.bytes > 0).sort((a, b) => b.at - a.at);
    },
    read: async (backup) => (await (await folder()).getFileHandle(nameOf(backup))).getFile(),
    async write(backup, data) {
      const out = await (await (await folder()).getFileHandle(nameOf(backup), { create: true })).createWritable();
      await out.write(data);
      await out.close();
    },
    remove: async (backup) => (await folder()).removeEntry(nameOf(backup)),
  };
}

/** The folder that our own server keeps for its pages, beside the browser. @param base what the server's addresses begin with */
export function serverShelf(base = ''): Shelf {
  const at = (b: Omit<KeptBackup, 'where' | 'bytes'>) => `${base}/api/backups/${b.library}/${b.at}/${b.revision}`;
  async function asked(url: string, init?: RequestInit): Promise<Response> {
    const response = await fetch(url, init);
    if (response.ok) return response;
    const { error } = (await response.json().catch(() => ({}))) as { error?: string };
    throw new Error(error ?? `the server answered with ${response.status}`);
  }
  return {
    where: 'server',
    async list() {
      const response = await fetch(`${base}/api/backups`).catch(() => undefined);
      if (!response?.ok) return undefined;
      const all = checked<ServedBackup[]>(
        await response.json(),
        validators.servedBackups,
        "the server's list of backups",
      );
      return all.map((b) => ({ where: 'server' as const, ...b }));
    },
    read: async (backup) => (await asked(at(backup))).blob(),
    async write(backup, data) {
      await asked(`${at(backup)}/keep`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/octet-stream' },
        body: data,
      });
    },
    async remove(backup) {
      await asked(`${at(backup)}/remove`, { method: 'POST' });
    },
  };
}

/** Wherever backups are kept by themselves. */
export const shelves = (): Shelf[] => [browserShelf(), serverShelf()].filter((s) => s !== undefined);

/** Whether the browser has promised to keep what is stored; undefined where it cannot be asked. */
export async function isPersistent(): Promise<boolean | undefined> {
  return navigator.storage?.persisted?.();
}

/** Asks the browser to keep what is stored even when the disk runs low. @returns whether it agreed */
export async function askToPersist(): Promise<boolean> {
  return (await navigator.storage?.persist?.()) ?? false;
}
