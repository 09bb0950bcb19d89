import { fold } from '@core/naming';
import Papa from 'papaparse';
import { fields, fieldOf, isField, translated } from './fields';
import { joinWords, splitWords, textOf, type TagNames } from './values';
import type { Sound } from './sound';

/** A sheet as it was read: its first row as column heads, the others as texts. */
export interface Sheet {
  columns: string[];
  rows: string[][];
  /** What was odd, with the row (as a spreadsheet counts, from 1). */
  faults: { row: number; message: string }[];
}

/** By what a row finds its sound, in order of trust. */
export const matchKeys = ['hash', 'path', 'file'] as const;
export type MatchKey = (typeof matchKeys)[number];
/** What a column is taken for: a field, a way to find the sound, or nothing. */
export type Target = MatchKey | (string & {}) | undefined;

const LONGEST_CELL = 100_000;
const MOST_ROWS = 1_000_000;
const MOST_COLUMNS = 2000;

/** Cells that a spreadsheet would run as formulas; plain numbers are none. */
const runs = /^[=+\-@\t\r]/;
const risky = (text: string) => runs.test(text) && !/^[+-]?\d+(\.\d+)?$/.test(text);

/** A cell that no spreadsheet runs: an apostrophe goes before what looks like a formula. */
export function neutral(text: string): string {
  return risky(text.replace(/^'+/, '')) ? `'${text}` : text;
}

/** The inverse of {@link neutral}. */
export function restored(text: string): string {
  if (!text.startsWith("'")) return text;
  return risky(text.replace(/^'+/, '')) ? text.slice(1) : text;
}

/** Windows-1252 from 0x80 to 0x9f. */
const windows1252 = '€\u0081‚ƒ„…†‡ˆ‰Š‹Œ\u008dŽ\u008f\u0090‘’“”•–—˜™š›œ\u009džŸ';

/** The text of a file's bytes: UTF-8 or UTF-16 by its mark, UTF-8 where it is valid, else Windows-1252. */
export function decodeText(bytes: Uint8Array): string {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return new TextDecoder('utf-16le').decode(bytes);
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return new TextDecoder('utf-16be').decode(bytes);
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    const text = new TextDecoder('windows-1252').decode(bytes);
    // Some decoders take the name for Latin 1, in which these are control characters.
    return text.replace(/[\u0080-\u009f]/g, (c) => windows1252[c.charCodeAt(0) - 0x80]);
  }
}

/** Makes a sheet of rows of cells, whatever file they came from. @throws Error for one without a head or without rows */
export function sheetOf(cells: readonly (readonly string[])[], faults: Sheet['faults'] = []): Sheet {
  const filled = cells.map((row, i) => ({ row, at: i + 1 })).filter(({ row }) => row.some((c) => c.trim() !== ''));
  if (filled.length === 0) throw new Error('The sheet is empty.');
  const [head, ...body] = filled;
  if (head.row.length > MOST_COLUMNS)
    throw new Error(`The first row names ${head.row.length} columns; a sheet of labels has at most ${MOST_COLUMNS}.`);
  if (body.length === 0) throw new Error('The sheet has one row only; the first row holds the names of the columns.');
  if (body.length > MOST_ROWS) throw new Error(`The sheet has ${body.length} rows; 1,000,000 are allowed.`);
  const columns = head.row.map((c) => restored(c.trim()));
  while (columns.length > 1 && columns[columns.length - 1] === '') columns.pop();
  const rows = body.map(({ row, at }) => {
    if (row.length > columns.length && row.slice(columns.length).some((c) => c.trim()))
      faults.push({
        row: at,
        message: `has ${row.length} cells under ${columns.length} columns; the rest is left out`,
      });
    return columns.map((column, i) => {
      const cell = row[i] ?? '';
      if (cell.length <= LONGEST_CELL) return restored(cell);
      faults.push({ row: at, message: `the cell under “${column}” has ${cell.length} characters and is left out` });
      return '';
    });
  });
  return { columns, rows, faults };
}

/** Reads CSV or TSV (RFC 4180; comma, semicolon, tab or bar between cells). @throws Error when there is nothing to read */
export function readDelimited(bytes: Uint8Array): Sheet {
  const text = decodeText(bytes).replace(/^\ufeff/, '');
  if (text.includes('\u0000')) throw new Error('This is no text file; save the sheet as CSV, TSV or XLSX.');
  const body = text.replace(/^[\s,;]*\n/, '');
  // What parts the heads into most columns parts the whole.
  const columns = (delimiter: string) => Papa.parse<string[]>(body, { delimiter, preview: 1 }).data[0]?.length ?? 0;
  const delimiter = [',', ';', '\t', '|'].reduce((best, d) => (columns(d) > columns(best) ? d : best));
  const { data, errors } = Papa.parse<string[]>(text, { delimiter });
  const faults = errors
    .filter((e) => e.type === 'Quotes')
    .map((e) => ({ row: (e.row ?? 0) + 1, message: 'a quote is open or stands inside of a cell' }));
  return sheetOf(data, faults);
}

/** Writes a sheet as CSV or TSV with CRLF and a byte order mark, which spreadsheets need to see that it is UTF-8. */
export function writeDelimited(cells: readonly (readonly string[])[], delimiter: ',' | '\t'): string {
  return `\ufeff${Papa.unparse(
    cells.map((row) => row.map(neutral)),
    { delimiter, newline: '\r\n' },
  )}\r\n`;
}

const bare = (text: string) => fold(text).replace(/[^\p{L}\p{N}@]+/gu, '');

/** Names under which columns of this trade go, beside those of the registry. */
const heads: ReadonlyMap<string, string> = new Map(
  Object.entries({
    filename: 'file',
    file: 'file',
    name: 'file',
    path: 'path',
    filepath: 'path',
    fullpath: 'path',
    fingerprint: 'hash',
    fxname: 'fxName',
    title: 'fxName',
    soundname: 'fxName',
    comment: 'description',
    comments: 'description',
    text: 'description',
    rating: 'stars',
    catidcode: 'catId',
    ucscatid: 'catId',
    publisher: 'manufacturer',
    show: 'project',
    mic: 'microphone',
    tag: 'tags',
    keyword: 'keywords',
    licence: 'licence',
    license: 'licence',
    collection: 'library',
    newfilename: 'plannedName',
  }),
);

/** Fields that nobody types, but that columns of a sheet may be. */
const sheetOnly = new Set(['file', 'category', 'subCategory']);

/** Guesses what each column is; no target is given twice. */
export function guessColumns(columns: readonly string[]): Target[] {
  const known = new Map<string, string>();
  for (const f of fields) {
    for (const name of [...f.query, f.label, f.key]) if (!known.has(bare(name))) known.set(bare(name), f.key);
  }
  const taken = new Set<string>();
  return columns.map((column) => {
    const key = bare(column);
    const language = /^(\p{L}+)@?\(?([a-z]{2})\)?$/iu.exec(column.trim().replace(/\s+/g, ''));
    const base = language && (known.get(bare(language[1])) ?? heads.get(bare(language[1])));
    let target: Target = heads.get(key) ?? known.get(key);
    if (!target && base && translated.includes(base)) target = `${base}@${language[2].toLowerCase()}`;
    if (target && isField(target) && !fieldOf(target).edited && !sheetOnly.has(target)) target = undefined;
    if (!target || taken.has(target)) return undefined;
    taken.add(target);
    return target;
  });
}

/** What to do with a field that a sound has a value in already. */
export type Policy = 'fill' | 'replace' | 'append' | 'leave';

/** What matching needs of a sound. */
export type Matchable = Pick<Sound, 'id' | 'path' | 'hash' | 'fields'>;

/** What became of one row. */
export interface MatchedRow {
  /** Place among the sheet's rows, from 0. */
  row: number;
  /** `new`: fills what was empty. `conflict`: the sound has another value in at least one field. `twice`: several sounds fit, or another row has its sound. `refused`: its category is none of the list. */
  state: 'new' | 'same' | 'conflict' | 'missing' | 'twice' | 'refused';
  /** Why it is refused. */
  reason?: string;
  soundId?: number;
  by?: MatchKey;
  /** Texts to be put, by field, after the policies; only where they differ. */
  texts: Record<string, string>;
}

const path = (text: string) => fold(text.replace(/\\/g, '/').replace(/^\.?\//, ''));
const withoutEnding = (name: string) => name.replace(/\.[a-z0-9]{2,5}$/, '');

/** Finds the sounds of rows: by fingerprint, by the end of the path, by file name with or without ending. */
class Finder {
  private readonly byHash = new Map<string, Matchable[]>();
  private readonly byFile = new Map<string, Matchable[]>();

  constructor(sounds: readonly Matchable[]) {
    const put = (map: Map<string, Matchable[]>, key: string, s: Matchable) => {
      const list = map.get(key);
      if (list) list.push(s);
      else map.set(key, [s]);
    };
    for (const s of sounds) {
      if (s.hash) put(this.byHash, s.hash.toLowerCase(), s);
      const file = path(s.path.slice(s.path.lastIndexOf('/') + 1));
      put(this.byFile, file, s);
      if (withoutEnding(file) !== file) put(this.byFile, withoutEnding(file), s);
    }
  }

  find(by: MatchKey, text: string): Matchable[] {
    if (by === 'hash') return this.byHash.get(text.trim().toLowerCase()) ?? [];
    const wanted = path(text.trim());
    const found = this.byFile.get(wanted.slice(wanted.lastIndexOf('/') + 1)) ?? [];
    if (by === 'file' && !wanted.includes('/')) return found;
    // Sheets may name folders above the root: either path may be the longer one.
    return found.filter((s) => {
      const own = path(s.path);
      return [own, withoutEnding(own)].some(
        (p) => p === wanted || p.endsWith(`/${wanted}`) || wanted.endsWith(`/${p}`),
      );
    });
  }
}

/** What matching needs of the category list. */
export interface CategoryList {
  has(catId: string): boolean;
  /** The CatID of a Category and a SubCategory. */
  idOf(category: string, subCategory: string): string | undefined;
}

/** The CatID that a row names, by itself or by Category and SubCategory; or why it names none. */
function categoryIn(
  columns: readonly { target: string; column: number }[],
  cells: readonly string[],
  { fields: had }: Matchable,
  list: CategoryList,
): { catId?: string } | { reason: string } {
  const said = (target: string) => {
    const own = columns.find((c) => c.target === target);
    return own ? (cells[own.column] ?? '').trim() : '';
  };
  const [catId, category, subCategory] = ['catId', 'category', 'subCategory'].map(said);
  // What is there already needs no list: files say what they like.
  if (catId === (had.catId ?? '') && category === (had.category ?? '') && subCategory === (had.subCategory ?? ''))
    return {};
  if (catId) return list.has(catId) ? { catId } : { reason: `the CatID “${catId}” is not in the category list` };
  if (!category && !subCategory) return {};
  const found = list.idOf(category, subCategory);
  if (found) return { catId: found };
  if (!category) return { reason: `the SubCategory “${subCategory}” stands without a Category` };
  return {
    reason: subCategory
      ? `the category list has no “${category}, ${subCategory}”`
      : `the Category “${category}” needs a SubCategory beside it`,
  };
}

/**
 * Matches the rows of a sheet to sounds and works out what they would change. Values are compared as texts: a row that says
 * what the sound has is `same`.
 * @param targets what each column is
 * A Category with its SubCategory stands for a CatID.
 * @param policies by field; `fill` where nothing is said
 */
export function matchSheet(
  sheet: Sheet,
  targets: readonly Target[],
  policies: Readonly<Record<string, Policy>>,
  sounds: readonly Matchable[],
  tags: TagNames,
  list: CategoryList,
): MatchedRow[] {
  const finder = new Finder(sounds);
  const columns = targets.flatMap((target, column) => (target ? [{ target, column }] : []));
  const keys = matchKeys.flatMap((k) => columns.filter((c) => c.target === k));
  const given = columns.filter((c) => !(matchKeys as readonly string[]).includes(c.target) && isField(c.target));
  // Category and SubCategory come along with the CatID that they stand for.
  const named = given.find((c) => c.target === 'category');
  const values = [
    ...given.filter((c) => c.target !== 'category' && c.target !== 'subCategory'),
    ...(named && !given.some((c) => c.target === 'catId') ? [{ target: 'catId', column: named.column }] : []),
  ];
  const used = new Map<number, number>();
  const matched = sheet.rows.map((cells, row): MatchedRow => {
    for (const { target, column } of keys) {
      if (!cells[column]?.trim()) continue;
      const fits = finder.find(target as MatchKey, cells[column]);
      if (fits.length === 0) continue;
      // Copies share a fingerprint, folders share names: the other columns tell which one is meant.
      const found = keys.reduce((left, other) => {
        if (left.length < 2 || other.column === column || !cells[other.column]?.trim()) return left;
        const also = new Set(finder.find(other.target as MatchKey, cells[other.column]).map((s) => s.id));
        const both = left.filter((s) => also.has(s.id));
        return both.length > 0 ? both : left;
      }, fits);
      if (found.length > 1) return { row, state: 'twice', texts: {} };
      const [sound] = found;
      const by = target as MatchKey;
      if (used.has(sound.id)) return { row, state: 'twice', soundId: sound.id, by, texts: {} };
      used.set(sound.id, row);
      const category = categoryIn(columns, cells, sound, list);
      if ('reason' in category)
        return { row, state: 'refused', soundId: sound.id, by, texts: {}, reason: category.reason };
      let conflict = false;
      const texts: Record<string, string> = {};
      for (const value of values) {
        const field = fieldOf(value.target);
        const had = textOf(field, sound.fields[field.key], tags);
        const said = field.key === 'catId' ? (category.catId ?? '') : cells[value.column].trim();
        const policy = policies[field.key] ?? (field.key === 'catId' ? policies.category : undefined) ?? 'fill';
        if (said === '' || policy === 'leave') continue;
        const lists = field.type === 'list' || field.type === 'tags';
        const same = lists ? joinWords(splitWords(said)) === had : said.replace(/\r\n?/g, '\n') === had.trim();
        if (same) continue;
        if (had !== '') {
          conflict = true;
          if (policy === 'fill') continue;
        }
        const appended = lists
          ? joinWords([...new Set([...splitWords(had), ...splitWords(said)])])
          : had.includes(said)
            ? had
            : `${had} ${said}`;
        const next = policy === 'append' && had !== '' ? appended : said;
        if (next !== had) texts[field.key] = next;
      }
      const state = conflict ? 'conflict' : Object.keys(texts).length > 0 ? 'new' : 'same';
      return { row, state, soundId: sound.id, by, texts };
    }
    return { row, state: 'missing', texts: {} };
  });
  return matched;
}

/** The cells of a sheet of sounds: file name, path and fingerprint to find them by, then the fields. */
export function sheetCells(sounds: readonly Matchable[], keys: readonly string[], tags: TagNames): string[][] {
  const own = keys.filter((k) => k !== 'file');
  const head = ['File name', 'Path', 'Fingerprint', ...own.map((k) => (k.includes('@') ? k : fieldOf(k).label))];
  const rows = sounds.map((s) => [
    s.path.slice(s.path.lastIndexOf('/') + 1),
    s.path,
    s.hash ?? '',
    ...own.map((k) => textOf(fieldOf(k), s.fields[k], tags)),
  ]);
  return [head, ...rows];
}
