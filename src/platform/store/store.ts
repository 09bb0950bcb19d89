import type { FactCurves, Print } from '@core/audio';
import type { Artwork, AudioFormat, Splice } from '@core/files';
import type { Alike, Binned, Change, Edit, Pull, SavedSearch, Sound, Stamp, TableName, Tag } from '@core/library';
import { renamedRecord } from '@core/library';
import type { ExpectedFile, TeamRight } from '@core/schemas';
import type { Recipe, ShortName } from '@core/naming';
import type { OwnCategory, SuggestedAnchor } from '@core/suggest';
import {
  upgradedChanges,
  upgradedCue,
  upgradedScene,
  type Cue,
  type Marker,
  type Scene,
  type LineEffect,
  type Track,
  type Version,
} from '@core/scene';
import Dexie, { type EntityTable, type PromiseExtended, type Table } from 'dexie';
import { isNoRoom, Room } from './room';
import { readRuns } from './runs';

/** A folder or a set of files that was added. */
export interface RootRecord {
  id: number;
  name: string;
  /** `server`: by HTTP from our own server. `picked`: by kept handles. `copied`: in the browser's private file system. `team`: from a team's server. */
  kind: 'server' | 'picked' | 'copied' | 'team';
  serverId?: string;
  /** The address below which its files lie, of what is heard from elsewhere. */
  base?: string;
  /** Of a library of the team, or what of it one may hear by a list: which one, what of it is known here, and what one may do there. */
  team?: {
    library: number;
    list?: number;
    revision: number;
    right?: TeamRight;
    /** Who followed it last, and changes of others that wait until those sign in again. */
    person?: string;
    waiting?: readonly { person: string; sounds: readonly number[] }[];
  };
  /** Where it lies on this machine, as our own server tells it. */
  place?: string;
  handles?: (FileSystemDirectoryHandle | FileSystemFileHandle)[];
  /** Files that are looked at for as long as the page is open: such a root is never stored. */
  files?: File[];
  added: number;
  /** Work on it rests until it is asked for again. */
  halt?: 'paused' | 'cancelled';
  /** Taken out: it is not looked at any more, and its sounds stay in the lists, or are kept out of them for now or for good. */
  removed?: 'kept' | 'hidden' | 'retired';
}

/** One run of taking files in. */
export interface Intake {
  id: number;
  rootId: number;
  started: number;
  /** Sounds that are new, were read again, were recognised elsewhere, are not there any more. */
  added: number;
  changed?: number;
  moved?: number;
  gone?: number;
}

/** A file that could not be read, and why. */
export interface Problem {
  id: number;
  rootId: number;
  path: string;
  reason: string;
  at: number;
  /** Of the file as it was found wanting: when they change, it is tried again. */
  size?: number;
  modified?: number;
  /** It may go away without the file having changed: it is tried again at every look. */
  again?: boolean;
  /** It is a folder that cannot be read: what was in it is out of reach, and not gone. */
  folder?: boolean;
}

/** A contour, derived from the audio and disposable. */
export interface PeaksRecord {
  /** The sound's id. */
  id: number;
  frames: number;
  span: number;
  pairs: Int8Array;
}

export { FACTS_VERSION } from '@core/audio';

/** What was measured of a sound beside its fields, derived from the audio and disposable. */
export interface FactsRecord extends FactCurves, Print {
  /** The sound's id. */
  id: number;
  version: number;
  /** Frames from the start. */
  onsets: Uint32Array;
  /** Where its anchor was suggested; absent in records of before it was kept. */
  anchor?: SuggestedAnchor;
}

/** A journal entry; what it changed lies in {@link StepRecord}s. What the program added by itself is left out, it can be read again. */
export interface JournalEntry extends Omit<Edit, 'changes'> {
  seq: number;
  state: 'done' | 'undone';
  /** How many changes it made. */
  count: number;
  /** The tab that made it: each takes back its own. */
  tab?: string;
}

/** A record that cannot be used: it is wrong in itself. It waits here until it is mended, saved or let go. */
export interface AsideRecord {
  id: number;
  table: TableName;
  record: { id: number };
  reason: string;
  /** When it was set aside. Milliseconds since 1970. */
  at: number;
}

/**
 * A part of what a journal entry changed, sorted by table and id. The key tells which ids lie in it, so that one sound's history
 * is found without reading the rest.
 */
export interface StepRecord {
  seq: number;
  block: number;
  table: string;
  first: number;
  last: number;
  changes: Change[];
}

/**
 * A file that was written, or is being written: what makes the new one of the old, and the old one of the new. Those of one `job` belong
 * to one edit.
 */
export interface WriteRecord {
  id: number;
  job: number;
  rootId: number;
  soundId: number;
  /** Where the file was before, and its other name where it was renamed. */
  path: string;
  name?: string;
  /** `done`: the file is written, and the catalogue does not know of it yet; `kept`: it does. `failed`: the file is as it was. */
  state: 'writing' | 'done' | 'kept' | 'undone' | 'failed';
  forth?: Splice;
  back?: Splice;
  audio: { before: number; after: number; length: number };
  before: ExpectedFile;
  after?: ExpectedFile;
  /** What the file says of itself since; all of its format where it was made. */
  said?: { dataOffset: number; artwork?: Artwork; format?: AudioFormat };
  /** The file was made, of this part of another one, or of audio that was rendered: undoing removes it. */
  part?: Omit<Sound, 'id'>;
  /** Under which name that audio is kept. */
  rendered?: string;
  /** Milliseconds since 1970. */
  at: number;
}

/** Where a library was published. */
export type PublishedPlace =
  { kind: 'folder'; handle: FileSystemDirectoryHandle } | { kind: 'root'; rootId: number; folder: string };

/** A library that was published, so that it can be taken back. */
export interface PublishingRecord {
  id: number;
  title: string;
  place: PublishedPlace;
  /** Milliseconds since 1970. */
  at: number;
}

/** A file that publishing wrote. */
export interface PublishedRecord {
  id: number;
  publishing: number;
  path: string;
  now: ExpectedFile;
  /** It took the place of one of an earlier time. */
  replaced?: boolean;
  /** Under which name that one is kept, to be put back. */
  kept?: string;
}

/** What an edit says that it was done by, before the number of its job. */
export const FILES = 'files';

/** The number of the job of an edit that wrote files; undefined for any other. */
export function jobOf(by: string | undefined): number | undefined {
  const found = /^files (\d+)$/.exec(by ?? '');
  return found ? Number(found[1]) : undefined;
}

/** Sounds that an edit touched: what a snapshot of the index does not have yet. */
export interface Touched {
  rev: number;
  ids: Uint32Array;
}

/** That a sound was heard. */
export interface Play {
  seq: number;
  soundId: number;
  /** Milliseconds since 1970. */
  at: number;
  /** The scene that was worked on. */
  sceneId?: number;
}

/** Everything the browser keeps. What people made and files said is precious; `peaks` and `facts` are derived and disposable. */
export class Store extends Dexie {
  roots!: EntityTable<RootRecord, 'id'>;
  intakes!: EntityTable<Intake, 'id'>;
  sounds!: EntityTable<Sound, 'id'>;
  tags!: EntityTable<Tag, 'id'>;
  pulls!: EntityTable<Pull, 'id'>;
  scenes!: EntityTable<Scene, 'id'>;
  tracks!: EntityTable<Track, 'id'>;
  effects!: EntityTable<LineEffect, 'id'>;
  cues!: EntityTable<Cue, 'id'>;
  markers!: EntityTable<Marker, 'id'>;
  versions!: EntityTable<Version, 'id'>;
  problems!: EntityTable<Problem, 'id'>;
  stamps!: EntityTable<Stamp, 'id'>;
  recipes!: EntityTable<Recipe, 'id'>;
  shortNames!: EntityTable<ShortName, 'id'>;
  categories!: EntityTable<OwnCategory, 'id'>;
  bin!: EntityTable<Binned, 'id'>;
  journal!: EntityTable<JournalEntry, 'seq'>;
  steps!: Table<StepRecord, [number, number, string, number, number]>;
  peaks!: EntityTable<PeaksRecord, 'id'>;
  facts!: EntityTable<FactsRecord, 'id'>;
  searches!: EntityTable<SavedSearch, 'id'>;
  alikes!: EntityTable<Alike, 'id'>;
  plays!: EntityTable<Play, 'seq'>;
  touched!: EntityTable<Touched, 'rev'>;
  aside!: EntityTable<AsideRecord, 'id'>;
  writes!: EntityTable<WriteRecord, 'id'>;
  publishings!: EntityTable<PublishingRecord, 'id'>;
  published!: EntityTable<PublishedRecord, 'id'>;
  marks!: EntityTable<{ name: string; value: string }, 'name'>;
  counters!: EntityTable<{ name: string; next: number }, 'name'>;

  /** Called when the database is open again that the browser had closed by itself. */
  returned: () => void = () => undefined;
  private done = false;

  constructor(private readonly room = new Room()) {
    // Never opened without a look at the disk, so never by the package itself.
    super('cormorant', { autoOpen: false });
    this.use(readRuns);
    versions.forEach(({ stores, upgrade }, i) => {
      const version = this.version(i + 1).stores(stores);
      if (upgrade) version.upgrade(upgrade);
    });
  }

  /** Opens it once the browser has room for its own house-keeping, as some threw databases away that they opened without. @throws NoRoom */
  override open(): PromiseExtended<Dexie> {
    return Dexie.Promise.resolve(this.room.forOpening()).then(() => super.open());
  }

  /** @param by says whether the package itself wishes to open it again, as when the browser closed it */
  override close(by?: { disableAutoOpen: boolean }): void {
    super.close();
    if (by?.disableAutoOpen === false) void this.openAgain();
    else this.done = true;
  }

  private async openAgain(): Promise<void> {
    while (!this.done && !this.isOpen())
      try {
        await this.open();
        this.returned();
      } catch (error) {
        if (!isNoRoom(error as Error)) throw error;
        await new Promise((go) => setTimeout(go, RETRY));
      }
  }
}

/** Between two tries to open a database that had no room. Milliseconds. */
const RETRY = 3000;

/**
 * The schema's history; the n-th entry is version n. A released entry is never changed: a new shape is a new entry, with
 * an `upgrade` that carries the old rows over.
 */
const versions: { stores: Record<string, string>; upgrade?: Parameters<ReturnType<Dexie['version']>['upgrade']>[0] }[] =
  [
    {
      stores: {
        roots: 'id, serverId',
        intakes: 'id, rootId',
        sounds: 'id, rootId',
        tags: 'id, name',
        pulls: 'id',
        scenes: 'id',
        cues: 'id, sceneId',
        problems: 'id, rootId',
        journal: '++seq, state',
        peaks: 'id',
        counters: 'name',
      },
    },
    // Facts beside the contour; everything is measured once more for them.
    { stores: { facts: 'id' } },
    // What people label with; the journal's changes apart from its entries.
    {
      stores: {
        stamps: 'id',
        recipes: 'id',
        shortNames: 'id',
        categories: 'id, catId',
        bin: 'id',
        steps: '[seq+block+table+first+last], seq',
      },
      upgrade: async (transaction) => {
        const journal = transaction.table('journal');
        const old = (await journal.toArray()) as { seq: number; edit: Edit; state: JournalEntry['state'] }[];
        for (const { seq, edit, state } of old) {
          const { changes, ...rest } = edit;
          await journal.put({ ...rest, seq, state, count: changes.length });
          await transaction.table('steps').bulkPut(stepsOf(seq, changes));
        }
      },
    },
    // Markers, and states that were kept under a name.
    { stores: { markers: 'id, sceneId', versions: 'id, sceneId' } },
    // What finding keeps: searches, words that mean the same, what was heard when, what a snapshot of the index lacks.
    {
      stores: {
        searches: 'id',
        alikes: 'id',
        plays: '++seq, soundId, at',
        touched: '++rev',
        marks: 'name',
      },
    },
    // What was heard for which scene.
    { stores: { plays: '++seq, soundId, at, sceneId' } },
    // Records that cannot be used; names that became others.
    {
      stores: { aside: '++id, table', sounds: 'id, rootId, fields.state, hidden' },
      upgrade: async (transaction) => {
        await transaction
          .table('sounds')
          .toCollection()
          .modify((row: { id: number }, at) => {
            at.value = renamedRecord('sounds', row);
          });
        await transaction
          .table('steps')
          .toCollection()
          .modify((step: StepRecord) => {
            for (const change of step.changes)
              for (const side of ['before', 'after'] as const)
                if (change.table === 'sounds' && change[side])
                  change[side] = renamedRecord('sounds', change[side] as { id: number });
          });
      },
    },
    // Facts of the level's course; everything is measured once more for them.
    { stores: {}, upgrade: (transaction) => transaction.table('facts').clear() },
    // Files that were written.
    { stores: { writes: '++id, job, state' } },
    // Tracks as records; what was done to their lists can still be taken back.
    {
      stores: { tracks: 'id, sceneId' },
      upgrade: async (transaction) => {
        const scenes = (await transaction.table('scenes').toArray()) as { id: number }[];
        const upgraded = scenes.map(upgradedScene);
        await transaction.table('scenes').bulkPut(upgraded.map((u) => u.scene));
        await transaction.table('tracks').bulkPut(upgraded.flatMap((u) => u.tracks));
        const cues = (await transaction.table('cues').toArray()) as { id: number; sceneId: number; trackId: number }[];
        await transaction.table('cues').bulkPut(cues.map((c) => upgradedCue(c, c.sceneId)));
        const steps = (await transaction.table('steps').where('seq').above(0).toArray()) as StepRecord[];
        const concerned = steps.filter((s) => s.table === 'scenes' || s.table === 'cues');
        const sceneOf = new Map(cues.map((c) => [c.id, c.sceneId]));
        for (const { changes } of concerned)
          for (const { table, id, before, after } of changes)
            if (table === 'cues')
              sceneOf.set(id, ((before ?? after)?.sceneId as number | undefined) ?? sceneOf.get(id)!);
        for (const seq of new Set(concerned.map((s) => s.seq))) {
          const own = steps.filter((s) => s.seq === seq).sort((a, b) => a.block - b.block);
          const changes = upgradedChanges(
            own.flatMap((s) => s.changes),
            (id) => sceneOf.get(id),
          );
          await transaction.table('steps').where('seq').equals(seq).delete();
          await transaction.table('steps').bulkPut(stepsOf(seq, changes));
        }
      },
    },
    // What the sound of a scene goes through.
    { stores: { effects: 'id, sceneId' } },
    // Libraries that were published, and their files.
    { stores: { publishings: '++id', published: '++id, publishing' } },
    // Sounds of a team's libraries, by what they are there.
    { stores: { sounds: 'id, rootId, fields.state, hidden, [rootId+team.id]' } },
  ];

/** Changes in one block; small enough to read one for one sound, large enough that a great edit has few. */
const BLOCK = 500;

/** The changes of a journal entry in blocks. Several changes of one record keep their order. */
export function stepsOf(seq: number, changes: readonly Change[]): StepRecord[] {
  const sorted = [...changes].sort((a, b) => (a.table < b.table ? -1 : a.table > b.table ? 1 : a.id - b.id));
  const steps: StepRecord[] = [];
  for (let from = 0; from < sorted.length;) {
    const { table } = sorted[from];
    let to = from;
    while (to < sorted.length && to - from < BLOCK && sorted[to].table === table) to++;
    const part = sorted.slice(from, to);
    steps.push({ seq, block: steps.length, table, first: part[0].id, last: part[part.length - 1].id, changes: part });
    from = to;
  }
  return steps;
}
