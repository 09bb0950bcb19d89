import { createHash, randomUUID } from 'node:crypto';
import { mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { open, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { keepWhole } from '../whole';
import { HostRefused, type KeptSession } from './model';

const FILE = 'session.json';

/** A session as a folder: itself as one file, written whole and renamed, and its audio by the sums of its content. */
export class HostFolder {
  readonly kept: KeptSession | undefined;

  constructor(private readonly folder: string) {
    mkdirSync(join(folder, 'audio'), { recursive: true });
    // What was being written when the service was killed is nothing yet.
    for (const below of ['', 'audio'])
      for (const name of readdirSync(join(folder, below)).filter((n) => n.endsWith('.new')))
        rmSync(join(folder, below, name));
    if (!readdirSync(folder).includes(FILE)) return;
    const kept = JSON.parse(readFileSync(join(folder, FILE), 'utf8')) as KeptSession;
    if (kept.version !== 1)
      throw new Error(`${join(folder, FILE)} was written by a newer version of the session host.`);
    this.kept = kept;
  }

  /** Keeps the session as it is now. */
  async keep(session: KeptSession): Promise<void> {
    await keepWhole(join(this.folder, FILE), session);
  }

  /** Where a file lies. */
  pathOf = (sum: string): string => join(this.folder, 'audio', sum);

  /**
   * Takes a file in, whole or not at all.
   * @param most bytes that there is room for
   * @throws HostRefused where it is longer, or is not what its sum says
   */
  async take(sum: string, body: AsyncIterable<Uint8Array>, most: number): Promise<number> {
    const beside = `${this.pathOf(sum)}.${randomUUID().slice(0, 8)}.new`;
    const file = await open(beside, 'wx');
    const hash = createHash('sha256');
    let size = 0;
    try {
      for await (const part of body) {
        size += part.length;
        if (size > most) throw new HostRefused('bad', 'More comes in than was said.');
        hash.update(part);
        await file.write(part);
      }
      if (hash.digest('hex') !== sum)
        throw new HostRefused('bad', 'What came in is not what its sum says. Send it again.');
      await file.sync();
      await file.close();
      await rename(beside, this.pathOf(sum));
    } catch (error) {
      await file.close().catch(() => undefined);
      await rm(beside, { force: true });
      throw error;
    }
    return size;
  }

  async drop(sums: readonly string[]): Promise<void> {
    for (const sum of sums) await rm(this.pathOf(sum), { force: true });
  }
}
