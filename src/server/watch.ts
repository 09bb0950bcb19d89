import { watch, type FSWatcher } from 'node:fs';
import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import type { Root } from './roots';

/** A folder has to be still for this long before it is told of: programs write files in many steps. Milliseconds. */
const STILL = 400;
/** Systems allow only so many watches; beyond these, changes are seen when the root is looked through again. */
const MOST_FOLDERS = 20_000;

/**
 * Watches the folders of a root, one watch each: what happens to a file is told by its folder, so that a hundred thousand
 * files cost no more than their folders.
 */
export class RootWatcher {
  private readonly watchers = new Map<string, FSWatcher>();
  private timer: NodeJS.Timeout | undefined;
  private ended = false;

  constructor(
    private readonly root: Root,
    private readonly changed: () => void,
  ) {}

  /** Begins to watch; resolves once all folders are. */
  async start(): Promise<void> {
    await this.add(this.root.folder);
  }

  private async add(folder: string): Promise<void> {
    if (this.ended || this.watchers.has(folder) || this.watchers.size >= MOST_FOLDERS) return;
    // What cannot be listed is no folder, or none of ours.
    const entries = await readdir(folder, { withFileTypes: true }).catch(() => undefined);
    if (!entries || this.ended) return;
    try {
      const watcher = watch(folder, { persistent: false }, (_, name) => this.noticed(folder, name));
      watcher.on('error', () => this.drop(folder));
      this.watchers.set(folder, watcher);
    } catch {
      return;
    }
    for (const entry of entries)
      if (entry.isDirectory() && !entry.name.startsWith('.')) await this.add(join(folder, entry.name));
  }

  private drop(folder: string): void {
    this.watchers.get(folder)?.close();
    this.watchers.delete(folder);
  }

  private noticed(folder: string, name: string | null): void {
    if (name?.startsWith('.')) return;
    // It may be a new folder: then what is in it must be watched, too.
    if (name !== null) void this.add(join(folder, name)).catch(() => undefined);
    clearTimeout(this.timer);
    this.timer = setTimeout(this.changed, STILL);
  }

  /** Ends it. */
  stop(): void {
    this.ended = true;
    clearTimeout(this.timer);
    for (const folder of [...this.watchers.keys()]) this.drop(folder);
  }
}
