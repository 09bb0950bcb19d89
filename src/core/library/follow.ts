import { parseUcsName } from '@core/naming';
import { takeIn } from './describe';
import type { Patch } from './edits';
import type { FieldValue } from './fields';
import type { Origin, Sound } from './sound';

/** A file as a listing of a root says it. */
export interface ListedFile {
  /** Below the root, with `/` between folders. */
  path: string;
  /** Bytes. */
  size: number;
  /** Milliseconds since 1970. */
  modified: number;
}

/** Something that a listing of a root found and that is no file to read. */
export interface ListedProblem {
  path: string;
  reason: string;
  /** A folder: what was in it is out of reach, and not gone. */
  folder?: boolean;
}

/** A part of the listing of a root. */
export interface Listing {
  files: ListedFile[];
  problems: ListedProblem[];
}

/** What of a sound following its file needs. */
export type KnownFile = Pick<Sound, 'id' | 'path' | 'size' | 'modified' | 'quickHash'> & {
  missing: boolean;
  /** Other sounds of the same file, which go wherever it goes. */
  excerpts?: number[];
};

/** A sound together with all others of its file. */
export const familyOf = ({ id, excerpts = [] }: Pick<KnownFile, 'id' | 'excerpts'>): number[] => [id, ...excerpts];

/** Sounds of the same file as one: the whole file's, where there is one, with the others as its excerpts. */
export function byFile<F extends KnownFile & { rootId: number }>(sounds: readonly (F & { excerpt: boolean })[]): F[] {
  const families = new Map<string, F & { excerpt: boolean }>();
  for (const sound of sounds) {
    const key = `${sound.rootId}/${sound.path}`;
    const first = families.get(key);
    if (!first) families.set(key, sound);
    else {
      const [head, other] = first.excerpt && !sound.excerpt ? [sound, first] : [first, sound];
      families.set(key, { ...head, excerpts: [...(first.excerpts ?? []), other.id] });
    }
  }
  return [...families.values()].map(({ excerpt: _, ...sound }) => sound as unknown as F);
}

/** What became of a root's files since it was looked through last. */
export interface RootChanges {
  /** Files that no sound is of. */
  added: ListedFile[];
  /** Sounds whose file has another size or time now. */
  changed: { sound: KnownFile; file: ListedFile }[];
  /** Sounds that were missing and whose file is there again, unchanged. */
  back: KnownFile[];
  /** Sounds whose file is not there any more, and was until now. */
  gone: KnownFile[];
}

/** File systems keep times in steps of up to two seconds, and round them on copying. */
const SAME_TIME = 2000;

/** Compares what a root holds now with the sounds that came from it. */
export class RootComparison {
  private readonly byPath: Map<string, KnownFile>;
  private readonly seen = new Set<number>();

  constructor(known: readonly KnownFile[]) {
    this.byPath = new Map(known.map((s) => [s.path, s]));
  }

  /** Takes the next part of the listing. @returns what of it is new, changed or back */
  take(files: readonly ListedFile[]): Omit<RootChanges, 'gone'> {
    const changes: Omit<RootChanges, 'gone'> = { added: [], changed: [], back: [] };
    for (const file of files) {
      const sound = this.byPath.get(file.path);
      if (!sound) {
        changes.added.push(file);
        continue;
      }
      this.seen.add(sound.id);
      const same = sound.size === file.size && Math.abs(sound.modified - file.modified) <= SAME_TIME;
      if (!same) changes.changed.push({ sound, file });
      else if (sound.missing) changes.back.push(sound);
    }
    return changes;
  }

  /** Those of which the whole listing had no file, missing ones included. */
  unseen(): KnownFile[] {
    return [...this.byPath.values()].filter((s) => !this.seen.has(s.id));
  }
}

/**
 * Finds sounds whose file moved inside of the catalogue: a new file with the size and the quickHash (head and tail) of one that
 * is not where it was. Where several fit, that with the same file name comes first; each file and sound is used once.
 * @returns sound by the new file's path
 */
export function findMoves<F extends ListedFile & { quickHash?: string }, S extends KnownFile>(
  added: readonly F[],
  gone: readonly S[],
): Map<string, S> {
  const nameOf = (path: string) => path.slice(path.lastIndexOf('/') + 1);
  const waiting = new Map<string, S[]>();
  for (const sound of gone) {
    if (sound.quickHash === undefined) continue;
    const key = `${sound.size}/${sound.quickHash}`;
    waiting.set(key, [...(waiting.get(key) ?? []), sound]);
  }
  const moves = new Map<string, S>();
  for (const strict of [true, false]) {
    for (const file of added) {
      const list = waiting.get(`${file.size}/${file.quickHash}`);
      if (!list || moves.has(file.path)) continue;
      const at = strict ? list.findIndex((s) => nameOf(s.path) === nameOf(file.path)) : 0;
      if (at < 0 || list.length === 0) continue;
      moves.set(file.path, list.splice(at, 1)[0]);
    }
  }
  return moves;
}

/** So much of what is known of a root has to lie in a folder, in the same places, for the folder to be taken for it. */
const SAME_ROOT = 0.6;

/**
 * How much of what is known of a root lies in a folder, in the same places and of the same sizes; 0 when that is too little for the
 * folder to be the root under another path.
 */
export function rootLikeness(known: readonly KnownFile[], files: readonly ListedFile[]): number {
  if (known.length === 0) return 0;
  const sizes = new Map(files.map((f) => [f.path, f.size]));
  const share = known.filter((k) => sizes.get(k.path) === k.size).length / known.length;
  return share >= SAME_ROOT ? share : 0;
}

/** How a missing sound was recognised. */
export type MatchedBy = 'path' | 'name' | 'content' | 'audio';

/** A missing sound and the file that it is to be reconnected to. */
export interface Reconnection {
  soundId: number;
  /** Where it was. */
  from: string;
  to: ListedFile;
  by: MatchedBy;
}

const ends = (path: string, count: number) => path.split('/').slice(-count).join('/').toLowerCase();

/**
 * Matches missing sounds to files by the end of their path and their size: first those of which most folders agree, the file
 * name alone at last. A file that fits several sounds, or a sound that fits several files, is left to a closer look.
 */
export function matchByPath(missing: readonly KnownFile[], files: readonly ListedFile[]): Reconnection[] {
  const found: Reconnection[] = [];
  const left = new Set(missing);
  const free = new Map(files.map((f) => [f.path, f]));
  const deepest = Math.max(0, ...missing.map((s) => s.path.split('/').length));
  for (let count = deepest; count >= 1; count--) {
    const keys = new Map<string, ListedFile[]>();
    for (const file of free.values()) {
      const key = `${file.size}/${ends(file.path, count)}`;
      keys.set(key, [...(keys.get(key) ?? []), file]);
    }
    const wanted = new Map<string, KnownFile[]>();
    for (const sound of left) {
      if (sound.path.split('/').length < count) continue;
      const key = `${sound.size}/${ends(sound.path, count)}`;
      wanted.set(key, [...(wanted.get(key) ?? []), sound]);
    }
    for (const [key, sounds] of wanted) {
      const fits = keys.get(key);
      if (sounds.length !== 1 || fits?.length !== 1) continue;
      const [sound] = sounds;
      left.delete(sound);
      free.delete(fits[0].path);
      const whole = count === sound.path.split('/').length;
      found.push({ soundId: sound.id, from: sound.path, to: fits[0], by: whole || count > 1 ? 'path' : 'name' });
    }
  }
  return found;
}

const fromFile = (origin: Origin | undefined) =>
  origin !== undefined && (origin.startsWith('file ') || origin === 'name' || origin === 'folder');

/**
 * The changes to a sound whose file was read again: what the file, its name and its folder say now takes the place of what
 * they said; what was typed, suggested or measured stays, and so do tags, stars and marks made by hand.
 */
export function reread(old: Sound, fresh: Omit<Sound, 'id'>): Patch {
  const after: Patch = {};
  const keys = new Set([...Object.keys(old.fields), ...Object.keys(fresh.fields)]);
  for (const key of keys) {
    const had = old.fields[key] as FieldValue | undefined;
    const origin = old.from[key];
    // Technical facts are the file's own; all else only replaces what a file said before.
    const own = fresh.from[key] === 'measured' && key !== 'added';
    if (!own && had !== undefined && !fromFile(origin)) continue;
    const next = fresh.fields[key];
    if (JSON.stringify(had) !== JSON.stringify(next)) after[`fields.${key}`] = next;
    if (origin !== fresh.from[key]) after[`from.${key}`] = fresh.from[key];
  }
  for (const key of ['path', 'size', 'modified', 'format', 'warnings', 'quickHash', 'artwork', 'rootId'] as const)
    if (JSON.stringify(old[key]) !== JSON.stringify(fresh[key])) after[key] = fresh[key];
  if (fresh.marks.anchor >= 0 && old.from.anchor !== 'typed') {
    if (old.marks.anchor !== fresh.marks.anchor) after['marks.anchor'] = fresh.marks.anchor;
    if (old.from.anchor !== fresh.from.anchor) after['from.anchor'] = fresh.from.anchor;
  }
  if (JSON.stringify(old.marks.loop) !== JSON.stringify(fresh.marks.loop)) after['marks.loop'] = fresh.marks.loop;
  if (!old.marks.regions && fresh.marks.regions) after['marks.regions'] = fresh.marks.regions;
  return after;
}

/**
 * Where a sound lies now, as changes to it: with another place it has another name, folder and group of takes.
 * @param isCategory whether a CatID is known, for names that follow UCS
 */
export function placedAt(rootId: number, file: ListedFile, isCategory: (catId: string) => boolean): Patch {
  const ucs = parseUcsName(file.path, isCategory);
  const slash = file.path.lastIndexOf('/');
  return {
    rootId,
    path: file.path,
    size: file.size,
    modified: file.modified,
    'fields.file': file.path.slice(slash + 1),
    'fields.folder': slash < 0 ? undefined : file.path.slice(0, slash),
    'fields.takeGroup': takeIn(rootId, file.path, ucs?.fxName).group,
    'fields.state': undefined,
    'from.state': undefined,
  };
}
