import { upgradedCue, upgradedScene, type Cue } from '@core/scene';
import {
  BACKUP_VERSION,
  backedUp,
  renamedRecord,
  restoreChanges,
  type BackupEnd,
  type BackupHead,
  type BackupLine,
  type Change,
  type TableDifference,
  type TableName,
} from '@core/library';
import { checked, faultInWords, recordFault, referencesOf, validators } from '@core/schemas';
import { createXXHash3 } from 'hash-wasm';
import { EDITS, underLock } from '../store/locks';
import type { Touched } from '../store/store';
import { everyRow, keeping, type Desk, type Progress } from './desk';
import { linesOf } from './lines';

/** Records that a backup holds and that cannot be used: how many, and why the first of them. */
export interface LeftOut {
  count: number;
  reasons: string[];
}

/** What a backup holds, and what restoring it would do. */
export interface BackupFacts {
  made: number;
  tables: TableDifference[];
  leftOut: LeftOut;
}

/** The version since which tracks are records of their own. */
const TRACKS = 3;

type Records = Map<TableName, Map<number, { id: number }>>;

/** Reasons that are listed. */
const LISTED = 100;
/** Bytes that a backup may unpack to: forty times a million sounds with long labels would not. */
const MOST = 16e9;

class Faults {
  readonly leftOut: LeftOut = { count: 0, reasons: [] };

  add(reason: string): void {
    this.leftOut.count++;
    if (this.leftOut.reasons.length < LISTED) this.leftOut.reasons.push(reason);
  }
}

/** Sounds that were changed since a revision; undefined when that is not known any more. */
async function changedSince({ store }: Desk, rev: number): Promise<number[] | undefined> {
  const rows = (await store.touched.where('rev').above(rev).toArray()) as Touched[];
  // The index forgets what its snapshot holds.
  if (rows.length > 0 && rows[0].rev !== rev + 1) return undefined;
  return [...new Set(rows.flatMap((r) => [...r.ids]))];
}

/**
 * Writes all that people made and files said as one file: gzipped lines of JSON, a head before and a checksum behind. It holds one
 * instant, that of its end: sounds are read while others edit, and those that changed meanwhile are written once more, together with
 * all other tables, while nobody can.
 */
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
  const line = (table: TableName, record: object) =>
    JSON.stringify({ table, record: { ...record, handles: undefined } } satisfies { table: TableName; record: object });
  const wholeTable = (table: TableName) => everyRow(desk, table, (rows) => put(rows.map((r) => line(table, r))));
  const from = (await store.touched.orderBy('rev').last())?.rev ?? 0;
  const head: BackupHead = { format: 'cormorant-backup', version: BACKUP_VERSION, made: Date.now(), counts };
  await put([JSON.stringify(head)]);
  await wholeTable('sounds');
  // What is written from here on is read at once and packed afterwards: nobody waits for the packing.
  const later: string[] = [];
  await underLock(EDITS, async () => {
    for (const table of backedUp)
      if (table !== 'sounds')
        await everyRow(desk, table, (rows) => {
          for (const row of rows) later.push(line(table, row));
        });
    const changed = (await changedSince(desk, from)) ?? (await store.sounds.toCollection().primaryKeys());
    for (let at = 0; at < changed.length; at += 5000) {
      const part = changed.slice(at, at + 5000);
      (await store.sounds.bulkGet(part)).forEach((row, i) =>
        later.push(row ? line('sounds', row) : JSON.stringify({ table: 'sounds', gone: part[i] })),
      );
    }
  });
  for (let at = 0; at < later.length; at += 5000) await put(later.slice(at, at + 5000));
  const end: BackupEnd = { end: true, lines, checksum: hash.digest('hex') };
  await writer.write(encoder.encode(`${JSON.stringify(end)}\n`));
  await writer.close();
  return packed;
}

/**
 * Reads a backup whole before anything is done with it. Records that cannot be used are left out, and said.
 * @throws Error for one that is newer, cut off, altered or beyond all measure
 */
async function readBackup(
  file: Blob,
  progress: Progress,
): Promise<{ head: BackupHead; records: Records; faults: Faults }> {
  const hash = await createXXHash3();
  hash.init();
  const records: Records = new Map(backedUp.map((table) => [table, new Map()]));
  const faults = new Faults();
  let head: BackupHead | undefined;
  let end: BackupEnd | undefined;
  let lines = 0;
  let read = 0;
  const line = (text: string, bytes: Uint8Array) => {
    if (end) throw new Error('something stands behind its end');
    const data = JSON.parse(text) as unknown;
    if (!head) {
      const { version, format } = (data ?? {}) as BackupHead;
      if (format === 'cormorant-backup' && version > BACKUP_VERSION)
        throw new Error(`it was written by a newer version (${version}; this one reads up to ${BACKUP_VERSION})`);
      head = checked<BackupHead>(data, validators.backupHead, 'the head');
    } else if ((data as BackupEnd | null)?.end) {
      end = checked<BackupEnd>(data, validators.backupEnd, 'the end');
      return;
    } else take(data, lines + 1);
    hash.update(bytes);
    lines++;
  };
  const take = (data: unknown, at: number) => {
    if (!validators.backupLine(data)) return faults.add(`line ${at} is no record of a table`);
    const { table, record, gone } = data as BackupLine;
    const list = records.get(table)!;
    if (gone !== undefined) return void list.delete(gone);
    const put = (of: TableName, named: { id: number }) => {
      const fault = recordFault(of, named);
      if (fault) faults.add(`line ${at}: ${faultInWords(of, named, fault)}`);
      else records.get(of)!.set(named.id, named);
    };
    const named = renamedRecord(table, record!);
    if (head!.version >= TRACKS) return put(table, named);
    if (table === 'cues') return put(table, upgradedCue(named as never as Cue, (named as never as Cue).sceneId));
    if (table !== 'scenes') return put(table, named);
    const { scene, tracks } = upgradedScene(named as never);
    put(table, scene);
    for (const track of tracks) put('tracks', track);
  };
  try {
    const unpacked = file
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
      .pipeThrough(new DecompressionStream('gzip') as unknown as ReadableWritablePair<Uint8Array, Uint8Array>);
    await linesOf(unpacked, MOST, line);
  } catch (error) {
    const reason = (error as Error).message || 'it is cut off, or not packed as a backup is';
    throw new Error(`This backup cannot be used: ${reason}. Nothing was changed.`);
  }
  if (!head || !end) throw new Error('This backup cannot be used: it is cut off. Nothing was changed.');
  if (end.lines !== lines || end.checksum !== hash.digest('hex'))
    throw new Error('This backup cannot be used: it was altered after it was written. Nothing was changed.');
  return { head, records, faults };
}

/** A backup that was opened, until another one is. */
export class Restore {
  private records: Records = new Map();

  constructor(private readonly desk: Desk) {}

  /** Opens a backup and compares it with what is here. */
  async read(file: Blob, progress: Progress): Promise<BackupFacts> {
    const { head, records, faults } = await readBackup(file, progress);
    this.records = records;
    const tables: TableDifference[] = [];
    for (const table of backedUp) {
      tables.push((await this.changesOf(table, false, backedUp, faults)).difference);
      progress(0.5 + (0.5 * tables.length) / backedUp.length, 'Comparing');
    }
    return { made: head.made, tables, leftOut: faults.leftOut };
  }

  /** Ids that a table will have: what is here, and what is restored. */
  private async idsOf(table: TableName, chosen: readonly TableName[], remove: boolean): Promise<Set<number>> {
    const restored = chosen.includes(table) ? [...(this.records.get(table)?.keys() ?? [])] : [];
    if (remove && chosen.includes(table)) return new Set(restored);
    const here = await this.desk.store.table(table).toCollection().primaryKeys();
    return new Set([...(here as number[]), ...restored]);
  }

  /** Records of a table as they can be restored: those that refer to nothing are left out, and so are members of lists that are gone. */
  private async whole(
    table: TableName,
    chosen: readonly TableName[],
    remove: boolean,
    faults: Faults,
  ): Promise<{ id: number }[]> {
    const known = new Map<TableName, Set<number>>();
    const good: { id: number }[] = [];
    for (const record of this.records.get(table)?.values() ?? []) {
      const dangling = [];
      for (const reference of referencesOf(table, record)) {
        let ids = known.get(reference.table);
        if (!ids) known.set(reference.table, (ids = await this.idsOf(reference.table, chosen, remove)));
        if (!ids.has(reference.id)) dangling.push(reference);
      }
      const needed = dangling.find((d) => d.needed);
      if (needed) {
        const message = `refers to ${needed.table} ${needed.id}, which is not there`;
        faults.add(faultInWords(table, record, { path: needed.path, message }));
        continue;
      }
      good.push(dangling.length === 0 ? record : without(record, dangling));
    }
    return good;
  }

  private async changesOf(table: TableName, remove: boolean, chosen: readonly TableName[], faults: Faults) {
    const now = (await this.desk.store.table(table).toArray()) as { id: number }[];
    return restoreChanges(table, await this.whole(table, chosen, remove, faults), now, remove);
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
      const found = await this.changesOf(table, remove, chosen, new Faults());
      had += found.difference.same + found.difference.changed + found.difference.onlyHere;
      for (const change of found.changes) changes.push(change);
    }
    progress(0.3, 'Restoring');
    await keeping(this.desk, async () => {
      await this.counters(chosen);
      // Into an empty catalogue there is nothing to take back to; the journal need not hold it all twice.
      const undoable = had > (chosen.includes('pulls') ? 1 : 0);
      await this.desk.catalogue.apply({ label, at: Date.now(), by: 'restore', undoable, changes });
    });
    progress(1, 'Restored');
    return changes.length;
  }

  /** New records must not get the ids of restored ones. */
  private async counters(chosen: readonly TableName[]): Promise<void> {
    const { store } = this.desk;
    for (const table of chosen) {
      const highest = [...(this.records.get(table)?.keys() ?? [])].reduce((most, id) => Math.max(most, id), 1);
      await store.transaction('rw', store.counters, async () => {
        const next = (await store.counters.get(table))?.next ?? 2;
        if (next <= highest) await store.counters.put({ name: table, next: highest + 1 });
      });
    }
  }
}

/** A record without members of its lists that refer to nothing. */
function without<T extends object>(record: T, dangling: readonly { id: number; path: string }[]): T {
  const copy = structuredClone(record);
  const gone = new Set(dangling.map((d) => d.id));
  for (const path of new Set(dangling.map((d) => d.path))) {
    const parts = path.split('.');
    const last = parts.pop()!;
    let at = copy as Record<string, unknown>;
    for (const part of parts) at = at[part] as Record<string, unknown>;
    at[last] = (at[last] as number[]).filter((id) => !gone.has(id));
  }
  return copy;
}
