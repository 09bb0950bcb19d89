import { publisherKey } from '@core/elsewhere';
import { createHash } from 'node:crypto';
import { mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { readFile, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { keepBytes, keepWhole } from '../whole';
import type { KeptPublisher } from './model';

/** An exchange as a folder: a file for each publisher, written whole and renamed, so that it is the old one or the new one. */
export class ExchangeFolder {
  readonly kept: readonly KeptPublisher[];
  /** Files by publishers. */
  private readonly names = new Map<string, string>();

  constructor(private readonly folder: string) {
    mkdirSync(join(folder, 'pictures'), { recursive: true });
    const names = readdirSync(folder);
    // What was being written when the service was killed is nothing yet.
    for (const name of names.filter((n) => n.endsWith('.new'))) rmSync(join(folder, name));
    this.kept = names
      .filter((n) => n.endsWith('.json'))
      .sort()
      .map((n) => {
        const publisher = JSON.parse(readFileSync(join(folder, n), 'utf8')) as KeptPublisher;
        this.names.set(publisherKey(publisher.publisher), n);
        return publisher;
      });
  }

  private pictureAt = (sha256: string) => join(this.folder, 'pictures', sha256);

  /** The bytes of a picture; undefined where there is none of that sum. */
  picture = (sha256: string): Promise<Buffer | undefined> => readFile(this.pictureAt(sha256)).catch(() => undefined);

  hasPicture = (sha256: string): Promise<boolean> =>
    stat(this.pictureAt(sha256)).then(
      () => true,
      () => false,
    );

  keepPicture = (sha256: string, bytes: Uint8Array): Promise<void> => keepBytes(this.pictureAt(sha256), bytes);

  /** Keeps a publisher as it is now. */
  async keep(publisher: KeptPublisher): Promise<void> {
    const key = publisherKey(publisher.publisher);
    // Under the name that it had at the start; one that is new by its sum, as a name is no file name.
    const name = this.names.get(key) ?? `${createHash('sha256').update(key).digest('hex').slice(0, 32)}.json`;
    this.names.set(key, name);
    await keepWhole(join(this.folder, name), publisher);
  }
}
