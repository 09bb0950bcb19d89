import {
  fieldOf,
  guessColumns,
  matchSheet,
  readDelimited,
  sheetCells,
  sheetOf,
  valuesFrom,
  writeDelimited,
  type Matchable,
  type MatchedRow,
  type Policy,
  type Sheet,
  type Sound,
  type Target,
} from '@core/library';
import { valueIn } from '@core/search';
import { categoryOf, catIdOf } from '@core/suggest';
import readXlsx from 'read-excel-file/universal';
import { carryOut, eachSound, everyRow, tables, tagNames, type Desk, type Plan, type Progress } from './desk';
import { checkWorkbook, workbookOf } from './workbook';

/** What a sheet looks like, for choosing what its columns are. */
export interface SheetFacts {
  name: string;
  columns: string[];
  guesses: Target[];
  rows: number;
  sample: string[][];
  faults: Sheet['faults'];
}

/** How the rows of a sheet fare. */
export interface SheetMatch {
  counts: Record<MatchedRow['state'], number>;
  rows: MatchedRow[];
  /** Rows whose text a field cannot hold, and why. */
  faults: { row: number; message: string }[];
}

export type SheetFormat = 'csv' | 'tsv' | 'xlsx';

const MOST_BYTES = 300_000_000;
const SAMPLE = 5;

function cellText(value: unknown): string {
  if (value === null || value === undefined) return '';
  if (value instanceof Date) {
    const iso = value.toISOString();
    return iso.endsWith('T00:00:00.000Z') ? iso.slice(0, 10) : iso;
  }
  return String(value);
}

/** Reads a sheet of any of the kinds. @throws Error that says what is wrong with it */
export async function readSheet(bytes: Uint8Array): Promise<Sheet> {
  if (bytes.length === 0) throw new Error('The file is empty.');
  const zipped = bytes[0] === 0x50 && bytes[1] === 0x4b;
  if (!zipped) {
    if (bytes.length > MOST_BYTES) throw new Error('The file has more than 300 MB.');
    return readDelimited(bytes);
  }
  await checkWorkbook(bytes);
  let sheets: { data: unknown[][] }[];
  try {
    sheets = (await readXlsx(bytes.slice().buffer)) as never;
  } catch (error) {
    throw new Error(`The workbook cannot be read: ${(error as Error).message}`);
  }
  return sheetOf((sheets[0]?.data ?? []).map((row) => row.map(cellText)));
}

/** A sheet that was opened, until another one is. */
export class SheetImport {
  private sheet: Sheet | undefined;
  private name = '';
  private matched: MatchedRow[] = [];

  constructor(private readonly desk: Desk) {}

  async read(name: string, bytes: Uint8Array): Promise<SheetFacts> {
    const sheet = await readSheet(bytes);
    this.sheet = sheet;
    this.name = name;
    return {
      name,
      columns: sheet.columns,
      guesses: guessColumns(sheet.columns),
      rows: sheet.rows.length,
      sample: sheet.rows.slice(0, SAMPLE).map((row) => row.map((c) => c.slice(0, 200))),
      faults: sheet.faults.slice(0, 100),
    };
  }

  /** Cells of some rows, for showing them. */
  cells(rows: readonly number[]): string[][] {
    return rows.map((row) => this.sheet?.rows[row] ?? []);
  }

  async match(
    targets: readonly Target[],
    policies: Readonly<Record<string, Policy>>,
    progress: Progress,
  ): Promise<SheetMatch> {
    if (!this.sheet) throw new Error('Open a sheet first.');
    progress(0, 'Reading the catalogue');
    const sounds = await this.matchables(targets);
    progress(0.5, 'Matching rows');
    await tables(this.desk);
    const list = { has: (id: string) => categoryOf(id) !== undefined, idOf: catIdOf };
    this.matched = matchSheet(this.sheet, targets, policies, sounds, await tagNames(this.desk), list);
    const counts = { new: 0, same: 0, conflict: 0, missing: 0, twice: 0, refused: 0 };
    const faults: SheetMatch['faults'] = [];
    for (const { row, state, texts, reason } of this.matched) {
      counts[state]++;
      if (reason && faults.length < 100) faults.push({ row, message: `${reason}; the row is left out` });
      const values = Object.keys(texts).length > 0 && faults.length < 100 ? valuesFrom(texts) : undefined;
      if (values && 'fault' in values) faults.push({ row, message: values.fault });
    }
    return { counts, rows: this.matched, faults };
  }

  /** What matching needs of all sounds: from the index's columns, or row by row where those do not have it. */
  private async matchables(targets: readonly Target[]): Promise<Matchable[]> {
    const keys = [...targets.flatMap((t) => (t === undefined || t === 'path' || t === 'file' ? [] : [t])), 'catId'];
    const table = keys.includes('hash')
      ? undefined
      : await this.desk.catalogue.soundTable([...new Set(['file', 'folder', ...keys])]);
    if (table) {
      const used = Object.keys(table.columns).map(fieldOf);
      return Array.from(table.ids, (id, row) => {
        const values = used.flatMap((f) => {
          const value = valueIn(table, f, row);
          return value === undefined ? [] : [[f.key, value] as const];
        });
        const fields = Object.fromEntries(values);
        const { file, folder } = fields;
        return { id, path: folder ? `${String(folder)}/${String(file)}` : String(file), fields };
      });
    }
    const sounds: Matchable[] = [];
    await everyRow<Sound>(this.desk, 'sounds', (rows) => {
      for (const s of rows) if (!s.hidden) sounds.push(s);
    });
    return sounds;
  }

  /** Carries out what was matched, as one edit; rows whose values do not fit their field are left out. */
  async apply(progress: Progress): Promise<number> {
    await tables(this.desk);
    const rows = this.matched.filter(
      (r) => r.soundId !== undefined && r.state !== 'twice' && Object.keys(r.texts).length > 0,
    );
    const plans: Plan[] = [];
    await eachSound(
      this.desk,
      rows.map((r) => r.soundId!),
      (sound, i) => {
        const values = valuesFrom(rows[i].texts);
        if (!('fault' in values)) plans.push({ sound, values });
      },
      (share) => progress(share * 0.5, 'Working out what changes'),
    );
    progress(0.6, 'Keeping the changes');
    const by = `sheet ${this.name}` as const;
    return carryOut(this.desk, plans, by, { label: `Fill ${plans.length} sounds from ${this.name}`, by });
  }
}

/** Writes sounds as a sheet. */
export async function exportSheet(
  desk: Desk,
  ids: readonly number[],
  keys: readonly string[],
  format: SheetFormat,
  progress: Progress,
): Promise<Uint8Array> {
  const sounds: Matchable[] = [];
  await eachSound(
    desk,
    ids,
    (s) => sounds.push(s),
    (share) => progress(share * 0.6, 'Reading sounds'),
  );
  const cells = sheetCells(sounds, keys, await tagNames(desk));
  progress(0.7, 'Writing the sheet');
  if (format !== 'xlsx') return new TextEncoder().encode(writeDelimited(cells, format === 'csv' ? ',' : '\t'));
  return new Uint8Array(await (await workbookOf(cells)).arrayBuffer());
}
