import { validators, type ServedBackup } from '@core/schemas';
import { Router } from 'express';
import { randomUUID } from 'node:crypto';
import { mkdir, open, readdir, rename, rm, stat, statfs } from 'node:fs/promises';
import { join } from 'node:path';
import { codeOf } from './notes';
import { DiskFull, writeBody } from './writing';

const ENDING = '.backup';
const none = { size: 0 };
/** What the disk keeps free whatever is kept. */
const SPARE = 32 << 20;

/** A backup by its library and its own name: when it was written, and how many edits that library had seen. */
type Named = Omit<ServedBackup, 'bytes'>;

const nameOf = ({ at, revision }: Named) => `${at}-${revision}${ENDING}`;
const partsOf = (name: string) => /^(\d+)-(\d+)\.backup$/.exec(name)?.slice(1).map(Number);

/** Backups that pages hand over, in this user's own state folder: they outlive what a browser throws away. */
export class BackupFolder {
  constructor(private readonly top: string) {}

  async list(): Promise<ServedBackup[]> {
    const found: ServedBackup[] = [];
    for (const library of await named(this.top)) {
      for (const name of await named(join(this.top, library))) {
        const [at, revision] = partsOf(name) ?? [];
        // One that goes away meanwhile is not there.
        const { size } = at === undefined ? none : await stat(join(this.top, library, name)).catch(() => none);
        const backup = { library, at: at!, revision: revision!, bytes: size };
        if (size > 0 && validators.servedBackups([backup])) found.push(backup);
      }
    }
    return found.sort((a, b) => b.at - a.at);
  }

  /** Where a backup lies, below the folder. */
  fileOf(backup: Named): string {
    return join(backup.library, nameOf(backup));
  }
  get folder(): string {
    return this.top;
  }

  /** Keeps one, whole or not at all. @throws DiskFull, WriteRefused */
  async keep(backup: Named, size: number, body: AsyncIterable<Uint8Array>): Promise<void> {
    const folder = join(this.top, backup.library);
    await mkdir(folder, { recursive: true, mode: 0o700 });
    const { bavail, bsize } = await statfs(folder);
    if (bavail * bsize < size + SPARE) throw new DiskFull('the disk has no room for the backup');
    const beside = join(folder, `.${randomUUID()}.writing`);
    try {
      const out = await open(beside, 'wx', 0o600);
      try {
        await writeBody(out, size, body);
      } finally {
        await out.close();
      }
      await rename(beside, join(this.top, this.fileOf(backup)));
    } catch (error) {
      await rm(beside, { force: true });
      throw codeOf(error) === 'ENOSPC' ? new DiskFull('the disk has no room for the backup') : error;
    }
  }

  async remove(backup: Named): Promise<void> {
    await rm(join(this.top, this.fileOf(backup)), { force: true });
  }
}

/** Names in a folder; none where there is no folder. */
async function named(folder: string): Promise<string[]> {
  try {
    return await readdir(folder);
  } catch (error) {
    if (['ENOENT', 'ENOTDIR'].includes(codeOf(error))) return [];
    throw error;
  }
}

/** Keeps backups for pages, and gives them back. */
export function backupRoutes(backups: BackupFolder): Router {
  const router = Router();
  const of = ({ library, at, revision }: Record<string, string>): Named | undefined => {
    const backup = { library, at: Number(at), revision: Number(revision) };
    return validators.servedBackups([{ ...backup, bytes: 0 }]) ? backup : undefined;
  };
  const unknown = { error: 'There is no such backup.' };
  router.get('/api/backups', async (_req, res) => void res.json(await backups.list()));
  router.get('/api/backups/:library/:at/:revision', (req, res, next) => {
    const backup = of(req.params);
    if (!backup) return void res.status(404).json(unknown);
    res.setHeader('Content-Type', 'application/octet-stream');
    res.setHeader('Content-Disposition', 'attachment');
    res.sendFile(
      backups.fileOf(backup),
      { root: backups.folder, cacheControl: false },
      (error?: Error & { status?: number }) => {
        if (error?.status === 404) res.status(404).json(unknown);
        else if (error) next(error);
      },
    );
  });
  router.post('/api/backups/:library/:at/:revision/keep', async (req, res) => {
    const backup = of(req.params);
    const size = Number(req.headers['content-length']);
    if (!backup || !req.is('application/octet-stream') || !Number.isSafeInteger(size) || size === 0)
      return void res.status(400).json({ error: 'The request is not what was expected.' });
    await backups.keep(backup, size, req);
    res.status(204).end();
  });
  router.post('/api/backups/:library/:at/:revision/remove', async (req, res) => {
    const backup = of(req.params);
    if (!backup) return void res.status(404).json(unknown);
    await backups.remove(backup);
    res.status(204).end();
  });
  return router;
}
