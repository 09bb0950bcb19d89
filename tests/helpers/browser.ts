import { IDBFactory } from 'fake-indexeddb';
import Dexie from 'dexie';

/** Locks as the Web Locks standard grants them: one holder per name, others in turn, or told no. */
function locks() {
  const tails = new Map<string, Promise<unknown>>();
  const held = new Set<string>();
  type Task = (lock: object | null) => Promise<unknown>;
  return {
    query: () => Promise.resolve({ held: [...held].map((name) => ({ name })) }),
    request(name: string, options: Task | { ifAvailable?: boolean }, given?: Task): Promise<unknown> {
      const task = given ?? (options as Task);
      if (given && (options as { ifAvailable?: boolean }).ifAvailable && held.has(name)) return task(null);
      const run = async () => {
        held.add(name);
        try {
          return await task({ name });
        } finally {
          held.delete(name);
        }
      };
      held.add(name);
      const next = (tails.get(name) ?? Promise.resolve()).then(run, run);
      tails.set(
        name,
        next.catch(() => undefined),
      );
      return next;
    },
  };
}

/** Gives Node.js what a browser has beside: locks. Call it before all tests of a file. */
export function likeABrowser(): void {
  if (!('navigator' in globalThis)) Object.assign(globalThis, { navigator: {} });
  Object.defineProperty(navigator, 'locks', { value: locks(), configurable: true });
}

/** An empty database for the next test. */
export function emptyStore(): void {
  Dexie.dependencies.indexedDB = new IDBFactory();
}
