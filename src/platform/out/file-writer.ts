import type { Edges } from '@core/files';
import { inverted, quickHashOf, windowed } from '@core/files';
import type { Change, Sound, TagNames } from '@core/library';
import type { ExpectedFile } from '@core/schemas';
import type { Catalogue } from '../catalogue/catalogue';
import { describeFile } from '../audio/reader';
import { atRest, makeFile, NotWritten, renameFile, whyNotWritten, writeFile, WritingStopped } from '../files/disk';
import { fetchEdges, openFile } from '../files/roots';
import { rootLock, underLock, underLocks, WRITING } from '../store/locks';
import { FILES, jobOf, type RootRecord, type Store, type WriteRecord } from '../store/store';
import { changesFor, placeOf, seeWritten, turnWritten } from './file-turns';
import { AT_ONCE, endsAll, FileRun, type About } from './file-run';
import { expectedOf, fileOfPart, fileOfRendered, turnMade, type MadeItem } from './file-maker';
import { renderedAudio } from './kept-files';
import {
  planFor,
  rowFor,
  wantedName,
  withoutClashes,
  type WriteHow,
  type WriteOutcome,
  type WriteProgress,
  type WriteRow,
} from './write-plan';

/** The catalogue as writing files needs it, be it here or in another worker. */
export type WritingCatalogue = Pick<Catalogue, 'apply'>;

/** A root, and why nothing can be written there. */
interface Place {
  root: RootRecord;
  blocked?: string;
}
/** Files that were copied into the browser are no place to write labels into; new ones may lie beside them. */
const forMaking = (place: Place | undefined): Partial<Place> =>
  place?.root.kind === 'copied' && !place.root.removed ? { root: place.root } : (place ?? {});

/** Files that are looked at together. */
const CHUNK = 64;

/**
 * Writes labels into files, and gives them their planned names, in a worker of its own. What is done is kept file by file before and after
 * it is done, so that whatever ends it, it is known of each whether it is the old one or the new, and how it is made the other.
 */
export class FileWriter {
  private readonly run = new FileRun();

  constructor(
    private readonly store: Store,
    private readonly catalogue: WritingCatalogue,
  ) {}

  /** Ends the work after the files in hand. */
  cancel(): void {
    this.run.cancel();
  }

  /** Lets the work rest after the files in hand. */
  pause(): void {
    this.run.pause();
  }

  proceed(): void {
    this.run.proceed();
  }

  private async roots(when: 'later' | 'now' = 'now'): Promise<Map<number, Place>> {
    const roots = await this.store.roots.toArray();
    const found = await Promise.all(
      roots.map(async (root) => {
        const blocked = await whyNotWritten(root, when).catch((error: Error) => error.message);
        return [root.id, { root, blocked }] as const;
      }),
    );
    return new Map(found);
  }

  private async tags(): Promise<TagNames> {
    return new Map((await this.store.tags.toArray()).map((t) => [t.id, t.name]));
  }

  /** Beginnings and ends of files, a request for many of them: most plans need no more of a file. */
  private async edgesOf(sounds: readonly Sound[], roots: ReadonlyMap<number, Place>): Promise<Map<number, Edges>> {
    const found = new Map<number, Edges>();
    for (const rootId of new Set(sounds.map((s) => s.rootId))) {
      const { root, blocked } = roots.get(rootId) ?? {};
      if (!root || blocked !== undefined) continue;
      const own = sounds.filter((s) => s.rootId === rootId);
      // Where they cannot be had at once, each file is asked for by itself, and says why.
      const edges = await fetchEdges(root, own).catch(() => []);
      own.forEach((sound, i) => edges[i] && found.set(sound.id, edges[i]));
    }
    return found;
  }

  /**
   * Works out what writing would do, file by file; nothing is written.
   * @returns rows in the order of the sounds; undefined when it was cancelled
   */
  async plan(
    ids: readonly number[],
    how: WriteHow,
    progress: (share: number, what: string) => void,
  ): Promise<WriteRow[] | undefined> {
    this.run.begin();
    const [roots, tags] = await Promise.all([this.roots('later'), this.tags()]);
    const rows: WriteRow[] = [];
    const rootIds = new Map<number, number>();
    for (let from = 0; from < ids.length && !this.run.cancelled; from += CHUNK) {
      const part = ids.slice(from, from + CHUNK) as number[];
      const sounds = (await this.store.sounds.bulkGet(part)).filter((s) => s !== undefined);
      const edges = how.labels || how.picture ? await this.edgesOf(sounds, roots) : new Map<number, Edges>();
      let next = 0;
      const made = new Array<WriteRow>(sounds.length);
      const work = async () => {
        for (let i = next++; i < sounds.length && !this.run.cancelled; i = next++) {
          const sound = sounds[i];
          const { root, blocked } = roots.get(sound.rootId) ?? {};
          rootIds.set(sound.id, sound.rootId);
          made[i] = await rowFor(root, sound, tags, how, blocked, edges.get(sound.id));
          progress((from + i + 1) / ids.length, sound.path);
        }
      };
      await Promise.all(Array.from({ length: AT_ONCE * 2 }, work));
      rows.push(...made.filter(Boolean));
    }
    if (this.run.cancelled) return undefined;
    if (!rows.some((r) => r.name)) return rows;
    const there = new Map<number, Set<string>>();
    const moving = new Set(rows.flatMap((r) => (r.name ? [r.id] : [])));
    for (const rootId of new Set(rootIds.values())) {
      const others = await this.store.sounds.where('rootId').equals(rootId).toArray();
      there.set(rootId, new Set(others.filter((s) => !moving.has(s.id)).map((s) => s.path.toLowerCase())));
    }
    return withoutClashes(rows, (row) => rootIds.get(row.id)!, there);
  }

  /**
   * Writes the files of some sounds, as one edit. One that cannot be written is left as it was, and the rest goes on.
   * @throws Error where nothing could be begun
   */
  async write(ids: readonly number[], how: WriteHow, report: (progress: WriteProgress) => void): Promise<WriteOutcome> {
    const sounds = await this.store.sounds.bulkGet([...ids]);
    const rootIds = sounds.flatMap((s) => s?.rootId ?? []);
    const [roots, tags] = await Promise.all([this.roots(), this.tags()]);
    return this.job(ids.length, rootIds, report, 'Write', [], async (i, job, about) => {
      const sound = await this.store.sounds.get(ids[i]);
      const { root, blocked } = roots.get(sound?.rootId ?? -1) ?? {};
      if (!sound || !root) return false;
      about(sound);
      if (blocked !== undefined) throw new NotWritten(blocked);
      return this.one(job, root, sound, tags, how);
    });
  }

  /**
   * Makes files of parts of longer ones, or of audio that was rendered, which are sounds of their own from then on, as one edit.
   * @param rootId where they go; @param label of the edit; @param more changes that belong to it
   * @throws Error where nothing could be begun
   */
  async make(
    items: readonly MadeItem[],
    rootId: number,
    label: string,
    more: readonly Change[],
    report: (progress: WriteProgress) => void,
  ): Promise<WriteOutcome> {
    const [roots, tags] = await Promise.all([this.roots(), this.tags()]);
    const { root, blocked } = forMaking(roots.get(rootId));
    if (!root || blocked !== undefined) throw new NotWritten(blocked ?? 'that folder is not in the library any more');
    return this.job(items.length, [rootId], report, label, more, async (i, job, about) => {
      const { id: soundId, part, path, rendered: audio } = items[i];
      const size = part.excerpt ? (part.size * part.format.frames) / Math.max(part.excerpt.end, 1) : part.size;
      about({ id: soundId, path, size });
      const reel = roots.get(part.rootId)?.root;
      if (!reel) throw new NotWritten('the folder of its reel is not in the library any more');
      const file = audio ? await fileOfRendered(audio, part, tags) : await fileOfPart(reel, part, tags);
      const kept = audio ? { rendered: await renderedAudio.keep(audio) } : {};
      const after = await expectedOf(file);
      const before: ExpectedFile = { size: 0, modified: 0, hash: '' };
      const place = { before: 0, after: 0, length: 0 };
      const at = Date.now();
      const row = { job, rootId, soundId, path, state: 'writing', audio: place, before, after, part, at, ...kept };
      const id = (await this.store.writes.add(row as WriteRecord)) as number;
      try {
        await this.store.writes.update(id, { state: 'done', after: await makeFile(root, path, file) });
      } catch (error) {
        if (error instanceof WritingStopped && !error.known) throw error;
        await this.store.writes.update(id, { state: 'failed' });
        throw error;
      }
      await this.listen(root, { ...(await this.store.writes.get(id))! }).catch(() => undefined);
      return true;
    });
  }

  /**
   * Does something for each of many files, some at the same time; what was done of it is one edit, whatever ends it.
   * @param one says first which file it is about; false where there was nothing to do
   */
  private async job(
    total: number,
    rootIds: readonly number[],
    report: (progress: WriteProgress) => void,
    label: string,
    more: readonly Change[],
    one: (i: number, job: number, about: About) => Promise<boolean>,
  ): Promise<WriteOutcome> {
    this.run.begin();
    return underLock(WRITING, async () => {
      const last = await this.store.writes.orderBy('job').last();
      const job = (last?.job ?? 0) + 1;
      const outcome: WriteOutcome = { written: 0, failed: [] };
      await underLocks([...new Set(rootIds)].map(rootLock), async () => {
        await this.run.each(total, outcome, report, (i, about) => one(i, job, about));
        await this.keep(job, label, outcome.stopped === undefined ? more : []);
      });
      return outcome;
    });
  }

  /** Writes one file. @returns false where there is nothing to write */
  private async one(job: number, root: RootRecord, sound: Sound, tags: TagNames, how: WriteHow): Promise<boolean> {
    const name = how.names ? wantedName(sound) : undefined;
    const { plan } = await planFor(root, sound, tags, how);
    if (!plan && name === undefined) return false;
    const source = windowed(await openFile(root, sound.path, sound.size));
    const before: ExpectedFile = { size: sound.size, modified: sound.modified, hash: await quickHashOf(source) };
    const splices = plan ? { forth: plan.splice, back: await inverted(plan.splice, source) } : {};
    const id = (await this.store.writes.add({
      job,
      rootId: root.id,
      soundId: sound.id,
      path: sound.path,
      ...(name === undefined ? {} : { name }),
      state: 'writing',
      ...splices,
      audio: plan?.audio ?? { before: 0, after: 0, length: 0 },
      before,
      at: Date.now(),
    } as WriteRecord)) as number;
    let after = before;
    try {
      if (plan) {
        after = await writeFile(root, sound.path, before, plan.splice, plan.audio);
        await this.store.writes.update(id, { after });
      }
      if (name !== undefined) after = await renameFile(root, sound.path, name, after);
    } catch (error) {
      // Nobody answered: what became of it is seen later.
      if (error instanceof WritingStopped && !error.known) throw error;
      // Labels may be in while the name could not be changed: then the file is a new one under its old name.
      if (after === before) await this.store.writes.update(id, { state: 'failed' });
      else await this.store.writes.update(id, { state: 'done', after, name: undefined });
      throw error;
    }
    await this.store.writes.update(id, { state: 'done', after });
    // Where it cannot be read just now, the next one who finds it written does so.
    await this.listen(root, { ...(await this.store.writes.get(id))! }).catch(() => undefined);
    return true;
  }

  /** Keeps what a file says of itself since it was written. @throws FileGone, RootUnavailable */
  private async listen(root: RootRecord, write: WriteRecord): Promise<NonNullable<WriteRecord['said']>> {
    const { size } = write.state === 'done' || write.state === 'kept' ? write.after! : write.before;
    const { format, artwork } = await describeFile(windowed(await openFile(root, placeOf(write), size)));
    const said = { dataOffset: format.dataOffset, ...(artwork ? { artwork } : {}), ...(write.part ? { format } : {}) };
    await this.store.writes.update(write.id, { said });
    return said;
  }

  private of(job: number, state: WriteRecord['state']): Promise<WriteRecord[]> {
    return this.store.writes
      .where('job')
      .equals(job)
      .filter((w) => w.state === state)
      .toArray();
  }

  /** Sounds of roots by where their files lie. */
  private async byPath(rootIds: Iterable<number>): Promise<(rootId: number, path: string) => Sound[]> {
    const found = new Map<string, Sound[]>();
    for (const sound of await this.store.sounds
      .where('rootId')
      .anyOf([...new Set(rootIds)])
      .toArray()) {
      const key = `${sound.rootId}/${sound.path}`;
      found.set(key, [...(found.get(key) ?? []), sound]);
    }
    return (rootId, path) => found.get(`${rootId}/${path}`) ?? [];
  }

  /** Has the catalogue know of the files of a job that are written, as one edit; of those that cannot be read now it does later. */
  private async keep(job: number, what = 'Write', more: readonly Change[] = []): Promise<void> {
    const known: WriteRecord[] = [];
    const changes: Change[] = [];
    const done = await this.of(job, 'done');
    const soundsAt = await this.byPath(done.map((w) => w.rootId));
    for (const write of done) {
      const root = await this.store.roots.get(write.rootId);
      const said = write.said ?? (root && (await this.listen(root, write).catch(() => undefined)));
      if (!said) continue;
      known.push(write);
      changes.push(
        ...changesFor(write, soundsAt(write.rootId, write.path), said, await this.store.sounds.get(write.soundId)),
      );
    }
    if (changes.length > 0) {
      const files = known.length === 1 ? '1 file' : `${known.length} files`;
      const label = `${what} ${files}`;
      const all = [...changes, ...more];
      await this.catalogue.apply({ label, at: Date.now(), by: `${FILES} ${job}`, changes: all, undoable: true });
    }
    await this.store.writes
      .where('id')
      .anyOf(known.map((w) => w.id))
      .modify({ state: 'kept' });
    await this.forget();
  }

  /** Lets go of what no edit knows any more. */
  private async forget(): Promise<void> {
    const jobs = new Set(
      (await this.store.journal.filter((e) => jobOf(e.by) !== undefined).toArray()).map((e) => jobOf(e.by)!),
    );
    const open = (w: WriteRecord) => w.state === 'writing' || w.state === 'done';
    const gone = await this.store.writes
      .filter((w) => w.state === 'failed' || (!open(w) && !jobs.has(w.job)))
      .toArray();
    await this.store.writes.bulkDelete(gone.map((w) => w.id));
    await renderedAudio.drop(gone.flatMap((w) => w.rendered ?? []));
  }

  /** The roots in which a job wrote. */
  async rootsOf(job: number): Promise<number[]> {
    const writes = await this.store.writes.where('job').equals(job).toArray();
    return [...new Set(writes.map((w) => w.rootId))];
  }

  /**
   * Makes the files of a job the old ones again, or the new ones; the catalogue's own records follow by its undo. Whoever asks holds
   * the locks of writing and of `rootsOf` until they do: else files would be taken in that are about to be known.
   * @returns what could not be done, file by file
   */
  async turn(job: number, to: 'undone' | 'done', report: (progress: WriteProgress) => void): Promise<WriteOutcome> {
    const state = to === 'undone' ? 'kept' : 'undone';
    const writes = await this.of(job, state);
    const [roots, tags] = await Promise.all([this.roots(), this.tags()]);
    const outcome: WriteOutcome = { written: 0, failed: [] };
    const progress: WriteProgress = { done: 0, total: writes.length, bytes: 0, current: '' };
    for (const write of writes) {
      progress.current = write.path;
      report({ ...progress });
      try {
        const known = roots.get(write.rootId);
        const { root, blocked } = write.part ? forMaking(known) : (known ?? {});
        if (!root || blocked !== undefined)
          throw new NotWritten(blocked ?? 'its folder is not in the library any more');
        if (write.part) {
          const reel = roots.get(write.part.rootId)?.root;
          const now = await turnMade(root, reel, write, to, tags);
          await this.store.writes.update(write.id, { state: to === 'undone' ? to : 'kept', after: now });
        } else await turnWritten(this.store, root, write, to);
        outcome.written++;
      } catch (error) {
        outcome.failed.push({ id: write.soundId, path: write.path, reason: (error as Error).message });
        if (endsAll(error)) {
          outcome.stopped = (error as Error).message;
          break;
        }
      }
      progress.done++;
      progress.bytes += write.before.size;
      report({ ...progress });
    }
    return outcome;
  }

  /** Brings the records of a job's sounds in line with their files, once an undo has turned what it could. */
  async follow(job: number): Promise<void> {
    const writes = await this.store.writes.where('job').equals(job).toArray();
    const changes: Change[] = [];
    const soundsAt = await this.byPath(writes.map((w) => w.rootId));
    for (const write of writes) {
      // One that is not there any more says nothing.
      if (write.part && write.state === 'undone') continue;
      const root = await this.store.roots.get(write.rootId);
      const sound = await this.store.sounds.get(write.soundId);
      const said = root && sound && (await this.listen(root, write).catch(() => undefined));
      if (said) changes.push(...changesFor(write, soundsAt(write.rootId, sound.path), said, sound));
    }
    if (changes.length > 0)
      await this.catalogue.apply({ label: 'Follow written files', at: Date.now(), changes, undoable: false });
  }

  /**
   * Finishes what was broken off: of each file it is seen whether it is the old one or the new, and the catalogue is told of the new ones.
   * @returns how many files were written that the catalogue did not know of
   */
  async settle(): Promise<number> {
    return underLock(WRITING, async () => {
      const open = await this.store.writes.where('state').anyOf('writing', 'done').toArray();
      const unsure = open.filter((w) => w.state === 'writing');
      for (const id of new Set(unsure.map((w) => w.rootId))) {
        const root = await this.store.roots.get(id);
        if (root) await atRest(root);
      }
      for (const write of unsure) await seeWritten(this.store, write);
      const jobs = new Set(open.map((w) => w.job));
      let found = 0;
      for (const job of jobs) {
        found += (await this.of(job, 'done')).length;
        await this.keep(job);
      }
      return found;
    });
  }
}
