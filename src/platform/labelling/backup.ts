import {
  BACKUP_VERSION,
  backedUp,
  restoreChanges,
  type BackupEnd,
  type BackupHead,
  type BackupLine,
  type Change,
  type TableDifference,
  type TableName,
} from '@core/library';
import { checked, validators } from '@core/schemas';
import { createXXHash3 } from 'hash-wasm';
import { everyRow, type Desk, type Progress } from './desk';

/** What a backup holds, and what restoring it would do. */
export interface BackupFacts {
  made: number;
  tables: TableDifference[];
}

/** Writes all that people made and files said as one file: gzipped lines of JSON, a head before and a checksum behind. */
export async function writeBackup(desk: Desk, progress: Progress): Promise<Blob> {
  const { store } = desk;
  const hash = await createXXHash3();
  hash.init();
  const counts: BackupHead['counts'] = {};
  for (const table of backedUp) counts[table] = await store.table(table).count();
  const total = Object.values(counts).reduce((sum, n) => sum + n, 0);
  const { readable, writable } = new CompressionStream('gzip');
  const packed = new Response(readable).blob();
  const writer = writable.getWriter();
  const encoder = new TextEncoder();
  let lines = 0;
  const put = async (texts: string[]) => {
    if (texts.length === 0) return;
    const bytes = encoder.encode(`${texts.join('\n')}\n`);
    hash.update(bytes);
    lines += texts.length;
    await writer.write(bytes);
    progress(Math.min(1, lines / (total + 1)), 'Writing the backup');
  };
  const head: BackupHead = { format: 'cormorant-backup', version: BACKUP_VERSION, made: Date.now(), counts };
  await put([JSON.stringify(head)]);
  for (const table of backedUp) {
    const line = (record: { id: number }) => JSON.stringify({ table, record: { ...record, handles: undefined } });
    await everyRow(desk, table, (rows) => put(rows.map(line)));
  }
  const end: BackupEnd = { end: true, lines, checksum: hash.digest('hex') };
  await writer.write(encoder.encode(`${JSON.stringify(end)}\n`));
  await writer.close();
  return packed;
}

/** Reads a backup whole before anything is done with it. @throws Error for one that is newer, cut off or altered */
async function readBackup(
  file: Blob,
  progress: Progress,
): Promise<{ head: BackupHead; records: Map<TableName, { id: number }[]> }> {
  const hash = await createXXHash3();
  hash.init();
  const records = new Map<TableName, { id: number }[]>();
  const decoder = new TextDecoder('utf-8', { fatal: true });
  const encoder = new TextEncoder();
  let head: BackupHead | undefined;
  let end: BackupEnd | undefined;
  let lines = 0;
  let rest = '';
  let read = 0;
  const line = (text: string) => {
    if (end) throw new Error('something stands behind its end');
    const data = JSON.parse(text) as unknown;
    if (!head) {
      const { version, format } = data as BackupHead;
      if (format === 'cormorant-backup' && version > BACKUP_VERSION)
        throw new Error(`it was written by a newer version (${version}; this one reads up to ${BACKUP_VERSION})`);
      head = checked<BackupHead>(data, validators.backupHead, 'the head');
    } else if ((data as BackupEnd).end) {
      end = checked<BackupEnd>(data, validators.backupEnd, 'the end');
      return;
    } else {
      const { table, record } = checked<BackupLine>(data, validators.backupLine, `line ${lines + 1}`);
      const list = records.get(table);
      if (list) list.push(record);
      else records.set(table, [record]);
    }
    hash.update(encoder.encode(`${text}\n`));
    lines++;
  };
  try {
    const reader = file
      .stream()
      .pipeThrough(
        new TransformStream<Uint8Array, Uint8Array>({
          transform: (chunk, out) => {
            read += chunk.length;
            progress((0.5 * read) / file.size, 'Reading the backup');
            out.enqueue(chunk);
          },
        }),
      )
      .pipeThrough(new DecompressionStream('gzip') as unknown as ReadableWritablePair<Uint8Array, Uint8Array>)
      .getReader();
    for (;;) {
      const { done, value } = await reader.read();
      if (done) break;
      const texts = (rest + decoder.decode(value, { stream: true })).split('\n');
      rest = texts.pop()!;
      for (const text of texts) line(text);
    }
    if (rest) line(rest);
  } catch (error) {
    const reason = (error as Error).message || 'it is cut off, or not packed as a backup is';
    throw new Error(`This backup cannot be used: ${reason}. Nothing was changed.`);
  }
  if (!head || !end) throw new Error('This backup cannot be used: it is cut off. Nothing was changed.');
  if (end.lines !== lines || end.checksum !== hash.digest('hex'))
    throw new Error('This backup cannot be used: it was altered after it was written. Nothing was changed.');
  return { head, records };
}

/** A backup that was opened, until another one is. */
export class Restore {
  private records = new Map<TableName, { id: number }[]>();

  constructor(private readonly desk: Desk) {}

  /** Opens a backup and compares it with what is here. */
  async read(file: Blob, progress: Progress): Promise<BackupFacts> {
    const { head, records } = await readBackup(file, progress);
    this.records = records;
    const tables: TableDifference[] = [];
    for (const table of backedUp) {
      tables.push((await this.changesOf(table, false)).difference);
      progress(0.5 + (0.5 * tables.length) / backedUp.length, 'Comparing');
    }
    return { made: head.made, tables };
  }

  private async changesOf(table: TableName, remove: boolean) {
    const now = (await this.desk.store.table(table).toArray()) as { id: number }[];
    return restoreChanges(table, this.records.get(table) ?? [], now, remove);
  }

  /**
   * Brings tables back to what the backup holds, as one edit that can be taken back.
   * @param remove whether what the backup does not have is taken out
   * @returns how many records changed
   */
  async restore(chosen: readonly TableName[], remove: boolean, label: string, progress: Progress): Promise<number> {
    const changes: Change[] = [];
    let had = 0;
    for (const table of backedUp) {
      if (!chosen.includes(table)) continue;
      const found = await this.changesOf(table, remove);
      had += found.difference.same + found.difference.changed + found.difference.onlyHere;
      for (const change of found.changes) changes.push(change);
    }
    progress(0.3, 'Restoring');
    await this.counters(chosen);
    // Into an empty catalogue there is nothing to take back to; the journal need not hold it all twice.
    const undoable = had > (chosen.includes('pulls') ? 1 : 0);
    await this.desk.catalogue.apply({ label, at: Date.now(), by: 'restore', undoable, changes });
    progress(1, 'Restored');
    return changes.length;
  }

  /** New records must not get the ids of restored ones. */
  private async counters(chosen: readonly TableName[]): Promise<void> {
    const { store } = this.desk;
    for (const table of chosen) {
      const highest = (this.records.get(table) ?? []).reduce((most, r) => Math.max(most, r.id), 1);
      await store.transaction('rw', store.counters, async () => {
        const next = (await store.counters.get(table))?.next ?? 2;
        if (next <= highest) await store.counters.put({ name: table, next: highest + 1 });
      });
    }
  }
}
