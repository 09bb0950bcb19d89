import type { Change } from '@core/library';
import type { JournalEntry, Store } from '../store/store';

/** One edit as it concerns one sound. */
export interface HistoryEntry {
  entry: JournalEntry;
  changes: Change[];
}

/** What became of sounds, as the journal tells it. */
export class History {
  constructor(private readonly store: Store) {}

  /** What became of one sound, newest first. */
  async of(soundId: number, most: number): Promise<HistoryEntry[]> {
    const keys = (await this.store.steps.toCollection().primaryKeys())
      .filter(([, , table, first, last]) => table === 'sounds' && first <= soundId && soundId <= last)
      .reverse();
    const found: HistoryEntry[] = [];
    for (const key of keys) {
      if (found.length >= most) break;
      const [step, entry] = await Promise.all([this.store.steps.get(key), this.store.journal.get(key[0])]);
      const changes = step?.changes.filter((c) => c.id === soundId) ?? [];
      if (changes.length > 0 && entry) found.push({ entry, changes });
    }
    return found;
  }
}
