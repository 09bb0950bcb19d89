import type { Change, Edit, Sound, TableName } from '@core/library';
import { applyChange, settled, takenBack } from '@core/library';
import { faultInWords, recordFault } from '@core/schemas';
import { EDITS, underLock } from '../store/locks';
import { costOf, type Room } from '../store/room';
import { jobOf, type FactsRecord, type PeaksRecord, type Store, type Touched } from '../store/store';
import { LIBRARY, type Journal } from './journal';

/** What an edit came to. */
export interface Committed {
  tables: TableName[];
  /** Ids of the records that changed, by table. */
  ids: Partial<Record<TableName, number[]>>;
  /** Sounds as they were and as they are; undefined for those that are gone. */
  before: Map<number, Sound>;
  after: Map<number, Sound | undefined>;
  /** Of the sounds; see `Touched`. */
  rev?: number;
  /** Counts all edits of the store. */
  revision: number;
}

/** What was taken back, or done again. */
export interface Turned {
  label: string;
  /** Records that others have changed since: there it stays as it is. */
  kept: number;
  /** Nothing was done yet: it wrote the files of this job, which are turned first. */
  files?: number;
}

/** Derived data that is kept together with the edit that it belongs to. */
export interface Measurements {
  peaks: PeaksRecord[];
  facts: FactsRecord[];
}

type Settle = (row: object | undefined, change: Change) => Change | undefined;

/** A record's bytes beside its labels, as peaks and facts have them: typed arrays alone count. */
const bytesIn = (record: object): number =>
  Object.values(record).reduce<number>((sum, v) => sum + (ArrayBuffer.isView(v) ? v.byteLength : 8), 64);

/**
 * The one way in which the store changes: under a lock that all tabs share, in one transaction with its journal entry, each record held
 * against the shape of its table before it is written, and never without room on the disk.
 */
export class Writer {
  /** @param committed takes over what changed, while the lock is still held: whoever reads next finds it */
  constructor(
    private readonly store: Store,
    private readonly journal: Journal,
    private readonly room: Room,
    private readonly committed: (done: Committed) => void | Promise<void>,
  ) {}

  /** Makes sure that there is room for any edit at all. @throws NoRoom */
  async enough(): Promise<void> {
    await this.room.need(0);
  }

  /**
   * Carries out an edit: all of it or nothing.
   * @param measured derived data that goes with it
   * @returns what it came to; undefined when there was nothing to do
   * @throws EditConflict, NoRoom
   */
  apply(edit: Edit, measured?: Measurements): Promise<Committed | undefined> {
    const match = edit.precondition === 'match';
    return underLock(EDITS, async () => {
      const derived = [...(measured?.peaks ?? []), ...(measured?.facts ?? [])].reduce((sum, r) => sum + bytesIn(r), 0);
      await this.room.need(costOf(edit.changes) + 3 * derived);
      // What the program did by itself can be done again by itself: its journal entry stays out.
      const add = edit.undoable ? await this.journal.adding(edit) : undefined;
      const settle: Settle = (row, change) => settled(row, change, match);
      return this.commit(edit.changes, settle, async (real) => void (real.length > 0 && (await add?.(real))), measured);
    });
  }

  /**
   * Takes the newest edit of a scope back, or does the one again that was taken back last.
   * @param job whose files were turned already
   */
  turn(to: 'undone' | 'done', scope = LIBRARY, job?: number): Promise<(Turned & { done?: Committed }) | undefined> {
    return underLock(EDITS, async () => {
      const entry = await this.journal.next(to === 'undone' ? 'done' : 'undone', scope);
      if (!entry) return undefined;
      const files = jobOf(entry.by);
      if (files !== undefined && files !== job) return { label: entry.label, kept: 0, files };
      const changes = await this.journal.changesOf(entry);
      // What has to be reversed: what was done, or the reversal of it.
      const made = to === 'undone' ? [...changes].reverse() : changes.map(reversed);
      await this.room.need(costOf(changes));
      let kept = 0;
      let exact = true;
      const settle: Settle = (row, change) => {
        const back = takenBack(row, change);
        if (back.kept) kept++;
        if (!back.exact) exact = false;
        return back.change;
      };
      const done = await this.commit(made, settle, async (real) => {
        const forward = to === 'undone' ? real.map(reversed).reverse() : real;
        await this.journal.turned(entry, to, exact ? undefined : forward);
      });
      return { label: entry.label, kept, done };
    });
  }

  private async commit(
    changes: readonly Change[],
    settle: Settle,
    journal: (real: readonly Change[]) => Promise<void>,
    measured?: Measurements,
  ): Promise<Committed | undefined> {
    const tables = [...new Set(changes.map((c) => c.table))];
    const done: Committed = { tables, ids: {}, before: new Map(), after: new Map(), revision: 0 };
    const { store } = this;
    const beside = ['journal', 'steps', 'touched', 'marks', ...(measured ? ['peaks', 'facts'] : [])];
    const real: Change[] = [];
    await store.transaction('rw', [...tables, ...beside], async () => {
      for (const table of tables) {
        const own = changes.filter((c) => c.table === table);
        for (const change of await this.table(table, own, settle, done)) real.push(change);
      }
      if (measured) {
        await store.peaks.bulkPut(measured.peaks);
        await store.facts.bulkPut(measured.facts);
      }
      if (done.after.size > 0)
        done.rev = await store.touched.add({ ids: Uint32Array.from(done.after.keys()) } as Touched);
      if (real.length > 0) {
        done.revision = Number((await store.marks.get('revision'))?.value ?? 0) + 1;
        await store.marks.put({ name: 'revision', value: String(done.revision) });
      }
      await journal(real);
    });
    if (real.length === 0) return undefined;
    await this.committed(done);
    return done;
  }

  private async table(name: TableName, changes: readonly Change[], settle: Settle, done: Committed): Promise<Change[]> {
    const table = this.store.table(name);
    const ids = [...new Set(changes.map((c) => c.id))];
    const rows = new Map<number, object | undefined>(
      ((await table.bulkGet(ids)) as (object | undefined)[]).map((row, i) => [ids[i], row]),
    );
    if (name === 'sounds') for (const [id, row] of rows) if (row) done.before.set(id, row as Sound);
    const touched = new Map<number, object | undefined>();
    const real: Change[] = [];
    for (const change of changes) {
      const now = settle(rows.get(change.id), change);
      if (!now) continue;
      const next = applyChange(rows.get(change.id), now);
      rows.set(change.id, next);
      touched.set(change.id, next);
      real.push(now);
    }
    const puts: object[] = [];
    const gone: number[] = [];
    for (const [id, row] of touched) {
      if (row === undefined) {
        gone.push(id);
        continue;
      }
      const fault = recordFault(name, row);
      if (fault) throw new Error(`${faultInWords(name, row, fault)}. Nothing was changed.`);
      puts.push(row);
    }
    if (puts.length > 0) await table.bulkPut(puts);
    if (gone.length > 0) await table.bulkDelete(gone);
    if (touched.size > 0) done.ids[name] = [...touched.keys()];
    if (name === 'sounds') for (const [id, row] of touched) done.after.set(id, row as Sound | undefined);
    return real;
  }
}

const reversed = ({ table, id, before, after }: Change): Change => ({ table, id, before: after, after: before });
