import type { Change, Edit } from '@core/library';
import { stepsOf, type JournalEntry, type Store } from '../store/store';

/** Entries that are kept. */
const KEPT_ENTRIES = 2000;
/** The scope of edits that name none. */
export const LIBRARY = 'library';
const TAB_LOCK = 'cormorant-tab-';

/**
 * Takes a name for this tab that no other open one has.
 * @param wished what it was called before it was loaded anew; a copy of a tab wishes for the name that the first one holds
 */
export async function nameTab(wished: string | undefined): Promise<{ name: string; leave: () => void }> {
  for (const name of [wished, crypto.randomUUID()]) {
    if (!name) continue;
    const leave = await new Promise<(() => void) | undefined>((done) => {
      void navigator.locks.request(TAB_LOCK + name, { ifAvailable: true }, (lock) => {
        if (!lock) return done(undefined);
        // Held for as long as the tab is open.
        return new Promise<void>((end) => done(end));
      });
    });
    if (leave) return { name, leave };
  }
  return { name: crypto.randomUUID(), leave: () => undefined };
}

/** Names of the tabs that are open. */
async function openTabs(): Promise<Set<string>> {
  const { held = [] } = (await navigator.locks.query?.()) ?? {};
  return new Set(held.flatMap(({ name }) => (name?.startsWith(TAB_LOCK) ? [name.slice(TAB_LOCK.length)] : [])));
}

/** What can be taken back and done again, by the labels of the edits. */
export interface UndoState {
  undo?: string;
  redo?: string;
}

/**
 * What was done, so that it can be taken back. Each tab takes back its own edits, in its own order; those of a tab that is not open any
 * more belong to whoever asks. A scope is undone by itself: the library, or one scene.
 */
export class Journal {
  /** See {@link nameTab}. */
  tab = '';
  /** Gives the tab's name up. */
  leave: () => void = () => undefined;

  constructor(private readonly store: Store) {}

  private async mine(): Promise<(entry: JournalEntry) => boolean> {
    const others = await openTabs();
    others.delete(this.tab);
    return ({ tab }) => tab === undefined || !others.has(tab);
  }

  /** The entry that is to be taken back, or done again, next. Call it while nobody edits. */
  async next(state: JournalEntry['state'], scope: string): Promise<JournalEntry | undefined> {
    const mine = await this.mine();
    const entries = this.store.journal.where('state').equals(state);
    const own = entries.filter((e) => (e.scope ?? LIBRARY) === scope && mine(e));
    return state === 'done' ? own.last() : own.first();
  }

  /** What undo and redo would do now. */
  async undoState(scope: string): Promise<UndoState> {
    const [done, undone] = await Promise.all([this.next('done', scope), this.next('undone', scope)]);
    return { undo: done?.label, redo: undone?.label };
  }

  async changesOf({ seq }: Pick<JournalEntry, 'seq'>): Promise<Change[]> {
    const steps = await this.store.steps.where('seq').equals(seq).toArray();
    return steps.sort((a, b) => a.block - b.block).flatMap((s) => s.changes);
  }

  /**
   * What adding an entry needs to know before the transaction in which it is added.
   * @returns what adds it: within a transaction over `journal` and `steps`
   */
  async adding(edit: Edit): Promise<(changes: readonly Change[]) => Promise<void>> {
    const mine = await this.mine();
    const scope = edit.scope ?? LIBRARY;
    return async (changes) => {
      const { journal, steps } = this.store;
      const { changes: _, precondition: _match, ...entry } = edit;
      const undone = await journal
        .where('state')
        .equals('undone')
        .filter((e) => (e.scope ?? LIBRARY) === scope && mine(e))
        .primaryKeys();
      const made = { ...entry, state: 'done', count: changes.length, tab: this.tab } as JournalEntry;
      const seq = (await journal.add(made)) as number;
      const old = await journal
        .where('seq')
        .belowOrEqual(seq - KEPT_ENTRIES)
        .primaryKeys();
      const gone = [...undone, ...old];
      if (gone.length > 0) {
        await journal.bulkDelete(gone);
        await steps.where('seq').anyOf(gone).delete();
      }
      await steps.bulkPut(stepsOf(seq, changes));
    };
  }

  /** Keeps that an entry was taken back or done again; and what it would do the other way, where that has become something else. */
  async turned(
    entry: JournalEntry,
    state: JournalEntry['state'],
    changes: readonly Change[] | undefined,
  ): Promise<void> {
    const count = changes?.length ?? entry.count;
    await this.store.journal.update(entry.seq, { state, count });
    if (!changes) return;
    await this.store.steps.where('seq').equals(entry.seq).delete();
    await this.store.steps.bulkPut(stepsOf(entry.seq, changes));
  }
}
