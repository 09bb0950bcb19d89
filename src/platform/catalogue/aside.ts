import { additionOf } from '@core/library';
import type { Edit, Sound, TableName } from '@core/library';
import { backedUp } from '@core/library';
import { faultInWords, mended, recordFault } from '@core/schemas';
import type { AsideRecord, Store } from '../store/store';

/** A record that cannot be used, and why. */
interface Bad {
  table: TableName;
  record: { id: number };
  reason: string;
}

/** Holds records against the shape of their table. @param good takes those that can be used */
function sifted<T extends { id: number }>(table: TableName, rows: readonly T[], bad: Bad[]): T[] {
  return rows.filter((row) => {
    const fault = recordFault(table, row);
    if (fault) bad.push({ table, record: row, reason: faultInWords(table, row, fault) });
    return !fault;
  });
}

/** Small tables, which are looked through whole whenever the catalogue is opened. */
const small = [...backedUp, 'problems' as const].filter((t) => t !== 'sounds');

/**
 * Keeps records that cannot be used out of everybody's way: one bad row must not keep the others from being opened. They are neither
 * lost nor used: they wait in a table of their own until they are mended, saved or let go.
 */
export class Aside {
  constructor(private readonly store: Store) {}

  /** Looks through all tables but that of the sounds. Call it while nobody edits. @returns how many were set aside */
  async sweep(): Promise<number> {
    const bad: Bad[] = [];
    for (const table of small) {
      const rows = (await this.store.table(table).toArray()) as { id: number }[];
      sifted(table, rows, bad);
    }
    await this.move(bad);
    return bad.length;
  }

  /** Sounds that can be used; others are set aside. Call it while nobody edits. */
  async sift(rows: readonly Sound[]): Promise<Sound[]> {
    const bad: Bad[] = [];
    const good = sifted('sounds', rows, bad);
    if (bad.length > 0) await this.move(bad);
    return good;
  }

  private async move(bad: readonly Bad[]): Promise<void> {
    if (bad.length === 0) return;
    const tables = [...new Set(bad.map((b) => b.table))];
    await this.store.transaction('rw', [...tables, 'aside'], async () => {
      await this.store.aside.bulkAdd(bad.map((b) => ({ ...b, at: Date.now() }) as AsideRecord));
      // By the key under which it stands, which need not be a number.
      for (const { table, record } of bad) await this.store.table(table).delete(record.id);
    });
  }

  /** All of them, newest first. */
  list(): Promise<AsideRecord[]> {
    return this.store.aside.reverse().toArray();
  }

  /**
   * Mends records, as far as that can be, and puts them back; nothing that stands is written over.
   * @returns ids of those that were mended
   */
  async mend(ids: readonly number[], apply: (edit: Edit) => Promise<void>): Promise<number[]> {
    const done: number[] = [];
    for (const row of await this.store.aside.bulkGet([...ids])) {
      const record = row && mended(row.table, row.record);
      if (!row || !record || (await this.store.table(row.table).get(record.id))) continue;
      const changes = [additionOf(row.table, record)];
      await apply({ label: 'Put a mended record back', at: Date.now(), undoable: false, changes });
      done.push(row.id);
    }
    await this.forget(done);
    return done;
  }

  /** Lets go of some. */
  async forget(ids: readonly number[]): Promise<void> {
    await this.store.aside.bulkDelete([...ids]);
  }
}
