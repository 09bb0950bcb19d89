import { nameFaults } from '@core/naming';
import {
  planLabels,
  sizeAfter,
  patchesOf,
  windowed,
  type AudioFile,
  type ByteSource,
  type Edges,
  type FilePlan,
  type Picture,
  type Wanted,
} from '@core/files';
import { labelsToWrite, type LabelChange, type Sound, type TagNames } from '@core/library';
import { describeFile } from '../audio/reader';
import { inFolderOf } from '../files/disk';
import { openFile } from '../files/roots';
import type { RootRecord } from '../store/store';

/** What is written. */
export interface WriteHow {
  labels: boolean;
  /** Files get the names that are planned for them. */
  names: boolean;
  /** What becomes of the pictures in files; they stay as they are when absent. */
  picture?: PictureUse;
}

/** A picture for files that have none or for all of them, or none for any. */
export type PictureUse = { to: 'lacking' | 'all'; picture: Picture } | { to: 'none' };

/** What writing a sound's file comes to, before it is done. */
export interface WriteRow {
  id: number;
  path: string;
  changes: LabelChange[];
  /** What is not as one would wish, in words. */
  notes: string[];
  /** Into the file where its audio stays in place, or the whole of it anew; only its name; or nothing, as it has all of it already. */
  how: 'inPlace' | 'anew' | 'name' | 'nothing' | 'cannot';
  /** Bytes that are written. */
  bytes: number;
  /** The name that the file gets. */
  name?: string;
  /** Why it cannot be written. */
  reason?: string;
  /** It is a part of a longer file, and may become a file of its own. */
  part?: boolean;
}

/** How far writing is. */
export interface WriteProgress {
  done: number;
  total: number;
  /** Bytes of the files that are done. */
  bytes: number;
  current: string;
}

/** What writing came to. */
export interface WriteOutcome {
  written: number;
  /** Files that were left as they were, and why. */
  failed: { id: number; path: string; reason: string }[];
  /** Why it ended before all was done; what was written stays. */
  stopped?: string;
}

const fileOf = (path: string) => path.slice(path.lastIndexOf('/') + 1);

/** The name that a sound's file is to get; undefined where it has it already, or none is planned. */
export function wantedName(sound: Pick<Sound, 'path' | 'fields'>): string | undefined {
  const planned = sound.fields.plannedName as string | undefined;
  return planned === undefined || planned === fileOf(sound.path) ? undefined : planned;
}

const kindOf = (mime: string) => mime.replace(/^image\//, '').toUpperCase();
const told = (mime: string, length: number) => `${kindOf(mime)}, ${Math.ceil(length / 1024).toLocaleString('en')} KB`;

/** What becomes of a file's picture; undefined where it stays. */
async function pictureFor(
  source: ByteSource,
  { artwork }: AudioFile,
  use: PictureUse | undefined,
): Promise<{ picture: NonNullable<Wanted['picture']>; change: LabelChange } | undefined> {
  if (!use || (use.to === 'none' ? !artwork : use.to === 'lacking' && artwork)) return undefined;
  const picture = use.to === 'none' ? use.to : use.picture;
  if (picture !== 'none' && artwork?.length === picture.bytes.length && artwork.mime === picture.mime) {
    const old = await source.read(artwork.offset, artwork.length);
    if (old.every((byte, i) => byte === picture.bytes[i])) return undefined;
  }
  const before = artwork ? told(artwork.mime, artwork.length) : '';
  const after = picture === 'none' ? '' : told(picture.mime, picture.bytes.length);
  return { picture, change: { key: 'artwork', label: 'Artwork', before, after } };
}

/** The plan for one file's labels and picture; undefined where it has all of them. @throws FileError, FileGone, RootUnavailable */
export async function planFor(
  root: RootRecord,
  sound: Sound,
  tags: TagNames,
  how: WriteHow,
  edges?: Edges,
): Promise<{ plan?: FilePlan; changes: LabelChange[] }> {
  if (!how.labels && !how.picture) return { changes: [] };
  const source = windowed(await openFile(root, sound.path, sound.size), edges);
  const file = await describeFile(source);
  const art = await pictureFor(source, file, how.picture);
  const tagged = art !== undefined && art.picture !== 'none';
  const labels = how.labels ? labelsToWrite(file, sound, tags, tagged) : undefined;
  const changes = [...(labels?.changes ?? []), ...(art ? [art.change] : [])];
  if (changes.length === 0) return { changes };
  const wanted: Wanted = { places: new Map(), ...labels?.wanted, ...(art ? { picture: art.picture } : {}) };
  const { rate, frames } = file.format;
  return { plan: await planLabels(source, wanted, { rate, frames }), changes };
}

/**
 * What writing one sound's file comes to.
 * @param blocked why nothing of its root can be written
 * @param edges beginning and end of the file, where they were fetched together with those of others
 */
export async function rowFor(
  root: RootRecord | undefined,
  sound: Sound,
  tags: TagNames,
  how: WriteHow,
  blocked: string | undefined,
  edges?: Edges,
): Promise<WriteRow> {
  const row: WriteRow = { id: sound.id, path: sound.path, changes: [], notes: [], how: 'nothing', bytes: 0 };
  const cannot = (reason: string): WriteRow => ({ ...row, how: 'cannot', reason });
  if (!root) return cannot('its folder is not in the library any more');
  if (blocked !== undefined) return cannot(blocked);
  if (sound.excerpt) return { ...cannot('it is a part of a longer file'), part: true };
  if (sound.fields.state !== undefined) return cannot('its file is missing');
  const name = how.names ? wantedName(sound) : undefined;
  if (name !== undefined) {
    const faults = nameFaults(name);
    if (faults.length > 0) return cannot(`“${name}”: ${faults.join('; ')}`);
    row.name = name;
    row.how = 'name';
  }
  try {
    const { plan, changes } = await planFor(root, sound, tags, how, edges);
    if (!plan) return row;
    const patches = patchesOf(plan.splice);
    row.changes = changes;
    row.notes = plan.notes;
    row.how = patches ? 'inPlace' : 'anew';
    row.bytes = patches ? patches.reduce((sum, p) => sum + p.bytes.length, 0) : sizeAfter(plan.splice);
    return row;
  } catch (error) {
    return cannot((error as Error).message);
  }
}

/** Marks rows whose names clash: with each other, or with a file of their folder that keeps its name. @param there paths of a root's files, lower case */
export function withoutClashes(
  rows: readonly WriteRow[],
  rootOf: (row: WriteRow) => number,
  there: ReadonlyMap<number, ReadonlySet<string>>,
): WriteRow[] {
  const key = (row: WriteRow) => `${rootOf(row)}/${inFolderOf(row.path, row.name!)}`.toLowerCase();
  const wanted = new Map<string, number>();
  for (const row of rows) if (row.name) wanted.set(key(row), (wanted.get(key(row)) ?? 0) + 1);
  return rows.map((row) => {
    if (!row.name || row.how === 'cannot') return row;
    const path = inFolderOf(row.path, row.name).toLowerCase();
    const own = path === row.path.toLowerCase();
    if (wanted.get(key(row))! > 1)
      return { ...row, how: 'cannot', reason: `several files would be called ${row.name}` };
    if (!own && there.get(rootOf(row))?.has(path))
      return { ...row, how: 'cannot', reason: `there is another file called ${row.name} already` };
    return row;
  });
}
