import { findCopies, type CopyGroup, type Printed } from '@core/audio';
import { FACTS_VERSION, Store } from '../store/store';

/** Looks for copies among all sounds, in a worker of its own: the catalogue goes on answering. */
export class CopyFinder {
  /** @param progress 0..1 */
  async find(progress: (share: number) => void): Promise<CopyGroup[]> {
    const store = new Store();
    try {
      await store.open();
      const printed: Printed[] = [];
      const hashes = new Map<number, string | undefined>();
      await store.sounds.each((s) => {
        if (!s.hidden) hashes.set(s.id, s.hash);
      });
      await store.facts.each(({ id, version, words, under }) => {
        if (version === FACTS_VERSION && hashes.has(id))
          printed.push({ id, hash: hashes.get(id), print: { words, under } });
      });
      return findCopies(printed, progress);
    } finally {
      store.close();
    }
  }
}
