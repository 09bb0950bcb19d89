import { merged } from '@core/elsewhere';
import type {
  TeamChanges,
  TeamConflict,
  TeamDeed,
  TeamEdit,
  TeamList,
  TeamListEdit,
  TeamRow,
  TeamSound,
} from '@core/schemas';
import { TeamRefused } from './people';

/** A line of a library's log: all that one ask changed. */
export interface Entry {
  revision: number;
  by: string;
  at: number;
  what: string;
  put?: TeamRow[];
  gone?: number[];
  /** Files of what is put that lie in a storage, by their sums: they take no room here. */
  lying?: string[];
}

/** What a library is from the beginning. */
export interface LibraryFacts {
  id: number;
  name: string;
  /** Bytes. */
  allowed: number;
}

/** Rows of an answer, about. */
const PAGE = 2000;
const plural = (n: number) => (n === 1 ? '1 sound' : `${n} sounds`);

/** A library of a team: what its log says. It knows neither HTTP nor disk; an entry is worked out first, and taken over once it is kept. */
export class Library {
  private readonly rows = new Map<number, TeamRow>();
  private readonly byPath = new Map<string, number>();
  /** By revision: which rows were changed, which went. */
  private readonly log: { revision: number; put: number[]; gone: number[]; deed: TeamDeed }[] = [];
  private readonly lost = new Map<number, number>();
  /** By the sum of a file: how many rows have it, how long it is, and how much room it takes here. */
  private readonly uses = new Map<string, { count: number; size: number; bytes: number }>();
  private next = 1;
  private bytes = 0;

  constructor(readonly facts: LibraryFacts) {}

  get revision(): number {
    return this.log.at(-1)?.revision ?? 0;
  }
  get sounds(): number {
    return this.rows.size;
  }
  /** Bytes of its files, each counted once, and of those that lie in a storage none. */
  get used(): number {
    return this.bytes;
  }
  row = (id: number): TeamRow | undefined => this.rows.get(id);
  /** The sound at a path. */
  at = (path: string): TeamRow | undefined => this.rows.get(this.byPath.get(path) ?? 0);
  /** Length of a file that it has; undefined for any other. */
  sizeOf = (file: string): number | undefined => this.uses.get(file)?.size;

  /** Takes an entry over. */
  take({ revision, put = [], gone = [], lying = [], by, at, what }: Entry): void {
    const elsewhere = new Set(lying);
    for (const row of put) {
      this.let(row.id);
      this.rows.set(row.id, row);
      this.byPath.set(row.path, row.id);
      this.lost.delete(row.id);
      this.next = Math.max(this.next, row.id + 1);
      const use = this.uses.get(row.file);
      const bytes = use?.bytes ?? (elsewhere.has(row.file) ? 0 : row.size);
      this.uses.set(row.file, { count: (use?.count ?? 0) + 1, size: row.size, bytes });
      if (!use) this.bytes += bytes;
    }
    for (const id of gone) {
      this.let(id);
      this.lost.set(id, revision);
    }
    this.log.push({ revision, put: put.map((r) => r.id), gone, deed: { revision, by, at, what } });
  }

  private let(id: number): void {
    const row = this.rows.get(id);
    if (!row) return;
    this.rows.delete(id);
    this.byPath.delete(row.path);
    const use = this.uses.get(row.file)!;
    if (--use.count > 0) return;
    this.uses.delete(row.file);
    this.bytes -= use.bytes;
  }

  /** What is not known yet to one who knows all up to a revision: each row once, as it is now. */
  changes(since: number): TeamChanges {
    let at = 0;
    for (let high = this.log.length; at < high;) {
      const middle = (at + high) >> 1;
      if (this.log[middle].revision > since) high = middle;
      else at = middle + 1;
    }
    const changed: TeamRow[] = [];
    const gone: number[] = [];
    let revision = since;
    for (; at < this.log.length && changed.length + gone.length < PAGE; at++) {
      const { revision: own, put, gone: went } = this.log[at];
      // What was changed again later comes with that.
      for (const id of put) if (this.rows.get(id)?.revision === own) changed.push(this.rows.get(id)!);
      for (const id of went) if (this.lost.get(id) === own) gone.push(id);
      revision = own;
    }
    return { revision, more: at < this.log.length, changed, gone };
  }

  /** The last things that were done, the newest first. */
  deeds(count: number): TeamDeed[] {
    return this.log
      .slice(-count)
      .reverse()
      .map((l) => l.deed);
  }

  private entry(by: string, at: number, what: string, change: Pick<Entry, 'put' | 'gone' | 'lying'>): Entry {
    return { revision: this.revision + 1, by, at, what, ...change };
  }

  /**
   * Works out an addition; what is there already, the same file in the same place, is left as it is.
   * @param lying sums of files that lie in a storage
   * @throws TeamRefused
   */
  adding(
    sounds: readonly TeamSound[],
    by: string,
    at: number,
    lying: ReadonlySet<string> = new Set(),
  ): { entry?: Entry; ids: number[] } {
    const put: TeamRow[] = [];
    const taken = new Map<string, string>();
    let bytes = 0;
    const fresh = new Set<string>();
    const ids = sounds.map((sound) => {
      const known = this.byPath.get(sound.path);
      const file = taken.get(sound.path) ?? (known === undefined ? undefined : this.rows.get(known)!.file);
      if (file !== undefined && (file !== sound.file || known === undefined))
        throw new TeamRefused(`There is another sound at ${sound.path}. Give it another name.`, 409);
      if (known !== undefined) return known;
      taken.set(sound.path, sound.file);
      if (!this.uses.has(sound.file) && !fresh.has(sound.file) && !lying.has(sound.file)) bytes += sound.size;
      fresh.add(sound.file);
      const id = this.next + put.length;
      put.push({ ...sound, id, revision: this.revision + 1, by, at });
      return id;
    });
    this.room(bytes);
    if (put.length === 0) return { ids };
    const elsewhere = [...lying].filter((file) => fresh.has(file));
    const change = { put, ...(elsewhere.length > 0 ? { lying: elsewhere } : {}) };
    return { ids, entry: this.entry(by, at, `Add ${plural(put.length)}`, change) };
  }

  /** Sees to it that there is room. @throws TeamRefused */
  room(bytes: number): void {
    const free = this.facts.allowed - this.bytes;
    if (bytes <= free) return;
    const mega = (n: number) => `${(n / 1e6).toFixed(1)} MB`;
    throw new TeamRefused(
      `${this.facts.name} is full: ${mega(bytes)} are needed, and ${mega(Math.max(0, free))} are free.`,
      507,
    );
  }

  /** Works out edits, brought together with what others made since; where both changed the same, nothing is silently replaced. */
  editing(
    edits: readonly TeamEdit[],
    by: string,
    at: number,
  ): { entry?: Entry; conflicts: TeamConflict[]; gone: number[] } {
    const put = new Map<number, TeamRow>();
    const conflicts: TeamConflict[] = [];
    const gone: number[] = [];
    for (const { id, was, is } of edits) {
      const row = put.get(id) ?? this.rows.get(id);
      if (!row) {
        gone.push(id);
        continue;
      }
      // An anchor is a label like any other.
      const before: TeamRow['fields'] = { ...row.fields, ...(row.anchor < 0 ? {} : { anchor: row.anchor }) };
      const { values, conflicts: own } = merged(id, was, before, is);
      conflicts.push(...own);
      const { anchor: told = -1, ...fields } = values;
      const anchor = Number.isInteger(told) && (told as number) < row.format.frames ? (told as number) : row.anchor;
      if (anchor === row.anchor && JSON.stringify(fields) === JSON.stringify(row.fields)) continue;
      put.set(id, { ...row, fields, anchor: Math.max(-1, anchor), revision: this.revision + 1, by, at });
    }
    if (put.size === 0) return { conflicts, gone };
    return { conflicts, gone, entry: this.entry(by, at, `Edit ${plural(put.size)}`, { put: [...put.values()] }) };
  }

  removing(ids: readonly number[], by: string, at: number): Entry | undefined {
    const gone = [...new Set(ids)].filter((id) => this.rows.has(id));
    return gone.length === 0 ? undefined : this.entry(by, at, `Remove ${plural(gone.length)}`, { gone });
  }
}

/** A list as it is kept. */
export type KeptList = Omit<TeamList, 'right'>;

const isOf = (a: { library: number; sound: number }) => (b: { library: number; sound: number }) =>
  a.library === b.library && a.sound === b.sound;

/** A list as an edit makes it: members come together whoever else added some; a note that somebody else changed meanwhile stays, and is told. */
export function editedList(
  list: KeptList,
  edit: TeamListEdit,
): { list: KeptList; conflicts: { library: number; sound: number; theirs: string; mine: string }[] } {
  const conflicts: { library: number; sound: number; theirs: string; mine: string }[] = [];
  let members = list.members.filter((m) => !(edit.remove ?? []).some(isOf(m)));
  for (const add of edit.add ?? []) if (!members.some(isOf(add))) members = [...members, { ...add, note: '' }];
  for (const { library, sound, was, is } of edit.notes ?? [])
    members = members.map((m) => {
      if (!isOf({ library, sound })(m) || m.note === is) return m;
      if (m.note === was) return { ...m, note: is };
      conflicts.push({ library, sound, theirs: m.note, mine: is });
      return m;
    });
  return { list: { ...list, name: edit.name ?? list.name, members, revision: list.revision + 1 }, conflicts };
}
