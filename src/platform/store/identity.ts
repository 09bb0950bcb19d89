import type { Store } from './store';

/** What a catalogue is known by, and how far it had come. */
export interface Identity {
  store: string;
  /** Counts edits. */
  revision: number;
  /** How many sounds there were. */
  sounds: number;
  /** When that was. Milliseconds since 1970. */
  at: number;
}

/** What became of the database since it was opened last. */
export interface Loss {
  /** It is gone and begun anew; it is an earlier state of itself; it is another one. */
  how: 'gone' | 'earlier' | 'another';
  /** What it was. */
  was: Identity;
  /** Edits that it lacks, of an earlier state. */
  edits?: number;
}

/** A place outside of the database that remembers its identity. */
export interface Memory {
  read(): Promise<Identity | undefined>;
  write(identity: Identity): Promise<void>;
}

const isIdentity = (data: unknown): data is Identity => {
  const { store, revision, sounds, at } = (data ?? {}) as Partial<Identity>;
  return typeof store === 'string' && [revision, sounds, at].every((n) => typeof n === 'number' && Number.isFinite(n));
};

/** What a text of the past says, if it is one of ours. */
export function identityIn(text: string | null | undefined): Identity | undefined {
  try {
    const data: unknown = JSON.parse(text ?? '');
    return isIdentity(data) ? data : undefined;
  } catch {
    return undefined;
  }
}

/** Remembers in the private file system; undefined where there is none. */
export function privateMemory(): Memory | undefined {
  const { storage } = globalThis.navigator ?? {};
  if (!storage?.getDirectory) return undefined;
  const file = async (create: boolean) => (await storage.getDirectory()).getFileHandle('catalogue.json', { create });
  return {
    async read() {
      try {
        return identityIn(await (await (await file(false)).getFile()).text());
      } catch {
        return undefined;
      }
    },
    async write(identity) {
      const out = await (await file(true)).createWritable();
      await out.write(JSON.stringify(identity));
      await out.close();
    },
  };
}

/** Identity and revision as the database says them. */
export async function storedIdentity(store: Store): Promise<{ store?: string; revision: number }> {
  const [id, revision] = await store.marks.bulkGet(['store', 'revision']);
  return { store: id?.value, revision: Number(revision?.value ?? 0) };
}

/** Gives a database an identity that has none yet. */
export async function identify(store: Store): Promise<string> {
  return store.transaction('rw', store.marks, async () => {
    const kept = await store.marks.get('store');
    if (kept) return kept.value;
    const value = crypto.randomUUID();
    await store.marks.put({ name: 'store', value });
    return value;
  });
}

/**
 * Compares what was remembered outside of the database with what it says itself.
 * @returns undefined when all is as it was, or nothing worth the name is missing
 */
export function lossOf(was: Identity | undefined, is: { store?: string; revision: number }): Loss | undefined {
  if (!was || (was.sounds === 0 && was.revision < 2)) return undefined;
  if (is.store === undefined) return { how: 'gone', was };
  if (is.store !== was.store) return { how: 'another', was };
  return is.revision < was.revision ? { how: 'earlier', was, edits: was.revision - is.revision } : undefined;
}

/** The newest of several memories. */
export const newestOf = (all: readonly (Identity | undefined)[]): Identity | undefined =>
  all.filter((i) => i !== undefined).sort((a, b) => b.at - a.at)[0];
