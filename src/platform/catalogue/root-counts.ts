import type { Sound } from '@core/library';
import { EDITS, underLock } from '../store/locks';
import type { Store } from '../store/store';

/** Sounds by root, counted once and kept up with edits. */
export class RootCounts {
  private counts: Map<number, number> | undefined;

  constructor(private readonly store: Store) {}

  /** How many sounds each root has. While they are counted nobody may edit: what came in between would never be counted. */
  async read(): Promise<[rootId: number, count: number][]> {
    if (!this.counts)
      await underLock(EDITS, async () => {
        const counts = new Map<number, number>();
        for (const id of await this.store.roots.toCollection().primaryKeys())
          counts.set(id, await this.store.sounds.where('rootId').equals(id).count());
        this.counts = counts;
      });
    return [...(this.counts ?? [])];
  }

  /** Counts anew when they are asked for next. */
  forget(): void {
    this.counts = undefined;
  }

  /** Follows an edit. */
  change(before: ReadonlyMap<number, Sound>, after: ReadonlyMap<number, Sound | undefined>): void {
    const { counts } = this;
    if (!counts) return;
    const add = (rootId: number, n: number) => counts.set(rootId, (counts.get(rootId) ?? 0) + n);
    for (const [id, sound] of after) {
      const old = before.get(id);
      if (old?.rootId === sound?.rootId) continue;
      if (old) add(old.rootId, -1);
      if (sound) add(sound.rootId, 1);
    }
  }
}
