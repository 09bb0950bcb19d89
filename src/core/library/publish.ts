import { nameFaults, NamePattern } from '@core/naming';
import { textsOf } from './batch';
import { fieldOf, isField } from './fields';
import { licenceOf } from './licence';
import { nameOf, type Sound } from './sound';
import type { TagNames } from './values';

/** How the files of a published library are stored. */
export interface PublishFormat {
  /** `own`: as they are, with labels put in; else anew. */
  kind: 'own' | 'wav' | 'flac';
  /** Hz; that of each sound when absent. For files that are made anew. */
  rate?: number;
  bits?: 16 | 24 | 32;
}

/** What a library is published as. */
export interface PublishHow {
  /** The name of it all: of its folder, its archive, and what lies beside the sounds. */
  title: string;
  /** Folders as patterns of fields, `/` between them; empty for none. */
  tree: string;
  /** File names as a pattern, without ending; empty for the names that files have. */
  names: string;
  format: PublishFormat;
}

/** One file of a library that is to be published. */
export interface PublishRow {
  id: number;
  /** Below the folder of it all, with `/` between folders. */
  path: string;
  /** Bytes, about: exactly only once it is made. */
  bytes: number;
  /** Why it cannot be published. */
  faults: string[];
  /** Labels of fields in the patterns that have no value. */
  lacks: string[];
  /** What was done to its path so that it can be. */
  notes: string[];
}

/** Where a field has no value, its folder is called so. */
export const UNLABELLED = 'Not labelled';
/** Longer paths are refused by Windows, with what lies before them. */
const LONGEST_PATH = 200;
/** What FLAC comes to, as a share of the samples as they are. */
const FLAC_SHARE = 0.6;

const illegal = /[<>:"\\|?*\u0000-\u001f\u007f/]/g;
/** A text as a part of a path: what file systems refuse is left out. */
const asName = (text: string): string => text.replace(illegal, '-').replace(/^[\s.]+|[\s.]+$/g, '');

const endingOf = (path: string) => /\.[^./]*$/.exec(path)?.[0] ?? '';
const stemOf = (path: string) => path.slice(path.lastIndexOf('/') + 1, path.length - endingOf(path).length);

/** Bytes of a sound in a format, about. */
function bytesOf({ size, format, excerpt }: Sound, how: PublishFormat): number {
  if (how.kind === 'own' && !excerpt) return size;
  const { frames, rate, channels, bits } = format;
  const width = how.kind === 'own' ? bits : (how.bits ?? 24);
  const raw = (frames * channels * width * ((how.kind !== 'own' && how.rate) || rate)) / rate / 8;
  return Math.round(4096 + (how.kind === 'flac' ? raw * FLAC_SHARE : raw));
}

/**
 * Where the sounds of a library go, before anything is written: folders and names by fields, what is lacking, what cannot be.
 * Where two would have one path, also by differing in case only, the later one gets a number.
 * @throws PatternFault
 */
export function planLibrary(sounds: readonly Sound[], how: PublishHow, tags: TagNames): PublishRow[] {
  const folders = how.tree
    .split('/')
    .map((part) => part.trim())
    .filter(Boolean)
    .map((part) => (part.includes('{') ? new NamePattern(part) : part));
  const names = how.names.trim() === '' ? undefined : new NamePattern(how.names);
  const keys = [
    ...new Set([...folders.flatMap((f) => (typeof f === 'string' ? [] : f.keys)), ...(names?.keys ?? [])]),
  ].filter(isField);
  const used = new Set<string>();
  return sounds.map((sound) => {
    const texts = textsOf(sound, keys, tags);
    const value = (key: string) => texts[key];
    const notes: string[] = [];
    const lacks = keys.filter((key) => !texts[key]).map((key) => fieldOf(key).label);
    const clean = (text: string) => {
      const name = asName(text);
      if (name !== text.trim()) notes.push(`“${text}” is written “${name}”`);
      return name;
    };
    const place = folders.map((f) => (typeof f === 'string' ? clean(f) : clean(f.compose(value))) || UNLABELLED);
    const own = names ? clean(names.compose(value)) : '';
    const ending = how.format.kind === 'own' ? (sound.excerpt ? '.wav' : endingOf(sound.path)) : `.${how.format.kind}`;
    const stem = own || (sound.excerpt ? asName(nameOf(sound)) : stemOf(sound.path)) || 'Sound';
    let path = [...place, `${stem}${ending}`].join('/');
    for (let n = 2; used.has(path.toLowerCase()); n++) path = [...place, `${stem} ${n}${ending}`].join('/');
    if (!path.endsWith(`/${stem}${ending}`) && path !== `${stem}${ending}`)
      notes.push('another one has this name, so it got a number');
    used.add(path.toLowerCase());
    const faults = path.split('/').flatMap((part) => nameFaults(part).map((fault) => `“${part}”: ${fault}`));
    if (path.length > LONGEST_PATH) faults.push(`its path of ${path.length} characters is too long for some systems`);
    if (sound.fields.state !== undefined) faults.push('its file is missing');
    if (how.format.kind === 'flac' && how.format.bits === 32) faults.push('FLAC holds 16 or 24 bit');
    return { id: sound.id, path, bytes: bytesOf(sound, how.format), faults, lacks, notes };
  });
}

/** A folder or file of the tree, as it is shown. */
export interface TreeLine {
  path: string;
  name: string;
  depth: number;
  /** The file; absent for a folder. */
  row?: PublishRow;
  count: number;
  bytes: number;
  faults: number;
  lacking: number;
}

/** The rows as a tree, folders before what is in them, in order of their names. @param closed folders whose content is left out */
export function treeOf(rows: readonly PublishRow[], closed: ReadonlySet<string> = new Set()): TreeLine[] {
  const folders = new Map<string, TreeLine>();
  for (const row of rows) {
    const parts = row.path.split('/');
    for (let depth = 0; depth < parts.length - 1; depth++) {
      const path = parts.slice(0, depth + 1).join('/');
      const line = folders.get(path) ?? { path, name: parts[depth], depth, count: 0, bytes: 0, faults: 0, lacking: 0 };
      line.count++;
      line.bytes += row.bytes;
      line.faults += Number(row.faults.length > 0);
      line.lacking += Number(row.lacks.length > 0);
      folders.set(path, line);
    }
  }
  const files = rows.map((row): TreeLine => {
    const parts = row.path.split('/');
    const one = {
      count: 1,
      bytes: row.bytes,
      faults: Number(row.faults.length > 0),
      lacking: Number(row.lacks.length > 0),
    };
    return { path: row.path, name: parts.at(-1)!, depth: parts.length - 1, row, ...one };
  });
  const compare = new Intl.Collator('en', { numeric: true, sensitivity: 'base' }).compare;
  const byParts = (a: TreeLine, b: TreeLine) => {
    const [x, y] = [a.path.split('/'), b.path.split('/')];
    for (let i = 0; i < Math.min(x.length, y.length); i++)
      if (x[i] !== y[i]) return compare(x[i], y[i]) || (x[i] < y[i] ? -1 : 1);
    return x.length - y.length;
  };
  const hidden = (path: string) => {
    for (let at = path.lastIndexOf('/'); at > 0; at = path.lastIndexOf('/', at - 1))
      if (closed.has(path.slice(0, at))) return true;
    return false;
  };
  return [...folders.values(), ...files].filter((l) => !hidden(l.path)).sort(byParts);
}

const clock = (seconds: number) => `${Math.floor(seconds / 60)}:${(seconds % 60).toFixed(1).padStart(4, '0')}`;

/** A list of contents to read: each folder with its sounds, how long they are, and what they are. */
export function contentsOf(title: string, rows: readonly PublishRow[], soundOf: (id: number) => Sound): string {
  const lines = [title, '='.repeat(title.length), '', `${rows.length} ${rows.length === 1 ? 'sound' : 'sounds'}`];
  for (const line of treeOf(rows)) {
    if (!line.row) {
      lines.push('', `${'  '.repeat(line.depth)}${line.name} (${line.count})`);
      continue;
    }
    const { fields, format } = soundOf(line.row.id);
    const said = String(fields.description ?? '').replace(/\s+/g, ' ');
    lines.push(
      `${'  '.repeat(line.depth)}${line.name}  ${clock(format.frames / format.rate)}${said ? `  ${said}` : ''}`,
    );
  }
  return `${lines.join('\r\n')}\r\n`;
}

/** The licences of a library's sounds, how many are under each, and what it asks for. @param own terms of one's own, in words */
export function licenceText(title: string, sounds: readonly Sound[], own: string): string {
  const counts = new Map<string, number>();
  for (const { fields } of sounds) {
    const code = String(fields.licence ?? 'Not stated');
    counts.set(code, (counts.get(code) ?? 0) + 1);
  }
  const lines = [`Licence of ${title}`, ''];
  if (own.trim()) lines.push(own.trim().replace(/\r?\n/g, '\r\n'), '');
  for (const [code, count] of [...counts].sort((a, b) => b[1] - a[1])) {
    const { credit, commercial, alike, unchanged, url } = licenceOf(code);
    lines.push(`${code}: ${count} ${count === 1 ? 'sound' : 'sounds'}`);
    if (url) lines.push(`  ${url}`);
    if (code === 'Not stated') lines.push('  No licence is stated for these; ask before you use them.');
    else if (url) {
      const asked = [
        credit ? 'Name the author.' : 'Nobody has to be named.',
        commercial ? 'Paid work is allowed.' : 'Not for paid work.',
      ];
      if (alike) asked.push('What is made of it is shared alike.');
      if (unchanged) asked.push('Nothing may be made of it.');
      lines.push(`  ${asked.join(' ')}`);
    }
  }
  return `${lines.join('\r\n')}\r\n`;
}
