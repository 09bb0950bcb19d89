import {
  contentsOf,
  licenceText,
  planLibrary,
  sheetCells,
  writeDelimited,
  type PublishHow,
  type PublishRow,
  type Sound,
  type TagNames,
} from '@core/library';
import { creditOf, creditsCsv, originsOf, type CreditLine } from '@core/scene';
import type { ExpectedFile } from '@core/schemas';
import { makeZip } from 'client-zip';
import { createSHA256 } from 'hash-wasm';
import { NotWritten, WritingStopped } from '../files/disk';
import { openFile } from '../files/roots';
import { sumOf } from '../files/sum';
import { workbookOf } from '../labelling/workbook';
import type { PublishedPlace, PublishedRecord, PublishingRecord, RootRecord, Store } from '../store/store';
import { FileRun, type About } from './file-run';
import { handOver, SUMS, sumsIn, sumsText, type HandOverNote, type ToHandOver } from './hand-over';
import { replacedFiles } from './kept-files';
import { placeOf, type Place } from './publish-places';
import { publishedFile } from './published-file';
import type { WriteProgress } from './write-plan';

/** What lies beside the sounds of a published library. */
export interface PublishExtras {
  sheet: 'csv' | 'xlsx' | 'none';
  /** Keys of the sheet's fields. */
  keys: string[];
  artwork: boolean;
  licence: boolean;
  /** Terms of one's own, in words. */
  terms: string;
  credits: boolean;
  contents: boolean;
  sums: boolean;
}

/** Where a library goes. */
export type PublishTarget = PublishedPlace | { kind: 'zip' };

/** A library that was published, and can be taken back. */
export interface Publishing extends PublishingRecord {
  /** How many of its files are there; how many of these took the place of earlier ones that can be put back, and of such that nobody has any more. */
  files: number;
  kept: number;
  replaced: number;
}

/** What taking back a published library came to. */
export interface TakenBack {
  removed: number;
  /** Files of an earlier time that lie in their places again. */
  restored: number;
  /** Files that took the place of earlier ones, which nobody has any more: they stay. */
  replaced: number;
  failed: { path: string; reason: string }[];
  stopped?: string;
}

/** So many publishings can be taken back. */
const KEPT = 20;

/** What publishing came to. */
export interface PublishOutcome {
  /** Files that were written, those that were there already and the same, and files of an earlier time that are no part of it any more. */
  written: number;
  same: number;
  left: string[];
  failed: { path: string; reason: string }[];
  /** Labels that a file could not be given. */
  notes: { path: string; reason: string }[];
  bytes: number;
  /** Why it ended before all was done. */
  stopped?: string;
  /** The archive. */
  zip?: File;
}

/** Publishes libraries: a tree of files with labels in them, and what belongs beside; in a worker. */
export class Publisher {
  private readonly run = new FileRun();

  constructor(private readonly store: Store) {}

  cancel(): void {
    this.run.cancel();
  }

  pause(): void {
    this.run.pause();
  }

  proceed(): void {
    this.run.proceed();
  }

  private async sounds(ids: readonly number[]): Promise<Sound[]> {
    return (await this.store.sounds.bulkGet([...ids])).filter((s) => s !== undefined);
  }

  private async tags(): Promise<TagNames> {
    return new Map((await this.store.tags.toArray()).map((t) => [t.id, t.name]));
  }

  /** Where each sound would go; nothing is written. @throws PatternFault */
  async plan(ids: readonly number[], how: PublishHow): Promise<PublishRow[]> {
    return planLibrary(await this.sounds(ids), how, await this.tags());
  }

  /** Who is credited for sounds: of those that were built of others, the authors of these. */
  private async creditsOf(sounds: readonly Sound[]): Promise<CreditLine[]> {
    const known = new Map(sounds.map((s) => [s.id, s]));
    for (let next = [...sounds]; next.length > 0;) {
      const ids = new Set(next.flatMap((s) => s.built?.of ?? []));
      next = await this.sounds([...ids].filter((id) => !known.has(id)));
      for (const sound of next) known.set(sound.id, sound);
    }
    const origins = new Map(
      sounds.flatMap((s) => originsOf(s, (id) => known.get(id)).map((o) => [o, o === s] as const)),
    );
    return [...origins].map(([origin, isItself]) => creditOf(origin, 1, undefined, !isItself));
  }

  /** What lies beside the sounds: paths and content. */
  private async extras(
    sounds: readonly Sound[],
    rows: readonly PublishRow[],
    roots: ReadonlyMap<number, RootRecord>,
    tags: TagNames,
    { title }: PublishHow,
    extras: PublishExtras,
  ): Promise<{ path: string; blob: Blob }[]> {
    const text = (path: string, content: string) => ({ path, blob: new Blob([content], { type: 'text/plain' }) });
    const made: { path: string; blob: Blob }[] = [];
    const byId = new Map(sounds.map((s) => [s.id, s]));
    if (extras.sheet !== 'none') {
      const placed = rows.map((row) => ({ ...byId.get(row.id)!, path: row.path }));
      const cells = sheetCells(placed, extras.keys, tags);
      const path = `${title}.${extras.sheet}`;
      made.push(
        extras.sheet === 'csv' ? text(path, writeDelimited(cells, ',')) : { path, blob: await workbookOf(cells) },
      );
    }
    if (extras.licence) made.push(text('Licence.txt', licenceText(title, sounds, extras.terms)));
    if (extras.credits) made.push(text('Credits.csv', creditsCsv(await this.creditsOf(sounds))));
    if (extras.contents)
      made.push(
        text(
          'Contents.txt',
          contentsOf(title, rows, (id) => byId.get(id)!),
        ),
      );
    if (!extras.artwork) return made;
    const seen = new Set<string>();
    for (const sound of sounds) {
      const library = String(sound.fields.library ?? title);
      const root = roots.get(sound.rootId);
      if (!sound.artwork || !root || seen.has(library)) continue;
      const { mime, offset, length } = sound.artwork;
      const source = await openFile(root, sound.path, sound.size).catch(() => undefined);
      const ending = /png/i.test(mime) ? 'png' : 'jpg';
      if (!source) continue;
      seen.add(library);
      const bytes = (await source.read(offset, length)) as Uint8Array<ArrayBuffer>;
      made.push({
        path: `${library.replace(/[<>:"/\\|?*]/g, '-')} artwork.${ending}`,
        blob: new Blob([bytes], { type: mime }),
      });
    }
    return made;
  }

  /**
   * Publishes sounds; a file that cannot be made is told, and the rest goes on. What is there already and the same is not written again,
   * and what somebody else put there is left alone.
   * @throws Error where nothing could be begun
   */
  async publish(
    ids: readonly number[],
    how: PublishHow,
    extras: PublishExtras,
    target: PublishTarget,
    report: (progress: WriteProgress) => void,
  ): Promise<PublishOutcome> {
    this.run.begin();
    const [all, tags] = await Promise.all([this.sounds(ids), this.tags()]);
    const roots = new Map((await this.store.roots.toArray()).map((r) => [r.id, r]));
    const rows = planLibrary(all, how, tags);
    const outcome: PublishOutcome = { written: 0, same: 0, left: [], failed: [], notes: [], bytes: 0 };
    for (const { path, faults } of rows)
      if (faults.length > 0) outcome.failed.push({ path, reason: faults.join('; ') });
    const good = rows.filter((r) => r.faults.length === 0);
    const byId = new Map(all.map((s) => [s.id, s]));
    const beside = await this.extras(
      good.map((r) => byId.get(r.id)!),
      good,
      roots,
      tags,
      how,
      extras,
    );
    const sums: { path: string; sum: string }[] = [];
    const fileAt = async (i: number): Promise<{ path: string; blob: Blob }> => {
      const row = good[i];
      if (!row) return beside[i - good.length];
      const sound = byId.get(row.id)!;
      const root = roots.get(sound.rootId);
      if (!root) throw new NotWritten('its folder is not in the library any more');
      const note = (reason: string) => void outcome.notes.push({ path: row.path, reason });
      return { path: row.path, blob: await publishedFile(sound, root, tags, how, note) };
    };
    const total = good.length + beside.length;
    const name = (i: number) => ({
      id: i,
      path: good[i]?.path ?? beside[i - good.length].path,
      size: good[i]?.bytes ?? 0,
    });
    const told = {
      written: 0,
      failed: [] as { id: number; path: string; reason: string }[],
      stopped: undefined as string | undefined,
    };
    if (target.kind === 'zip')
      outcome.zip = await this.archive(how.title, total, name, fileAt, sums, extras.sums, told, report);
    else {
      const place = await placeOf(target, how.title, roots, true);
      const publishing = await this.noted({ title: how.title, place: target, at: Date.now() });
      const into = { place, publishing };
      const before = sumsIn(await ((await place.read(SUMS))?.text() ?? ''));
      await this.run.each(total, told, report, async (i, about) => {
        about(name(i));
        const { path, blob } = await fileAt(i);
        const sum = await sumOf(blob);
        const wrote = await this.put(into, { path, blob, sum, before: before.get(path) });
        sums.push({ path, sum });
        outcome.bytes += wrote ? blob.size : 0;
        if (!wrote) outcome.same++;
        return wrote;
      });
      const planned = new Set([...rows, ...beside].map(({ path }) => path));
      const done = new Set(sums.map(({ path }) => path));
      outcome.left = [...before.keys()].filter((path) => !planned.has(path));
      if (extras.sums) {
        // What could not be made this time is still there from the last one.
        const still = [...before].flatMap(([path, sum]) => (planned.has(path) && !done.has(path) ? { path, sum } : []));
        const text = new Blob([sumsText([...sums, ...still])]);
        await this.put(into, { path: SUMS, blob: text, sum: await sumOf(text), own: true }).catch(
          (error: Error) => (told.stopped ??= error.message),
        );
      }
    }
    outcome.failed.push(...told.failed.map(({ path, reason }) => ({ path, reason })));
    return { ...outcome, written: told.written, ...(told.stopped === undefined ? {} : { stopped: told.stopped }) };
  }

  /** Puts a file into its place, and notes it; see {@link handOver}. What it takes the place of is kept first, but for lists of sums, which are worked out. */
  private put({ place, publishing }: { place: Place; publishing: number }, file: Omit<ToHandOver, 'noting'>) {
    const { published } = this.store;
    const noting = async (now: ExpectedFile, there: Blob | undefined): Promise<HandOverNote> => {
      const kept = there && !file.own ? await this.keepReplaced(there) : undefined;
      const instead = there && { replaced: true, ...(kept === undefined ? {} : { kept }) };
      const id = await published.add({ publishing, path: file.path, now, ...instead });
      return {
        made: (made) => published.update(id, { now: made }),
        dropped: () => Promise.all([published.delete(id), replacedFiles.drop(kept === undefined ? [] : [kept])]),
      };
    };
    return handOver(place, { ...file, noting });
  }

  private async keepReplaced(file: Blob): Promise<string> {
    try {
      return await replacedFiles.keep(file);
    } catch (error) {
      const why = (error as Error).name === 'QuotaExceededError' ? 'there is no room for it' : (error as Error).message;
      throw new NotWritten(`the one that lies there could not be kept (${why}), so it was left as it is`);
    }
  }

  /** Writes an archive into the browser's private file system, from where it is saved: it is never held in memory. */
  private async archive(
    title: string,
    total: number,
    name: (i: number) => { id: number; path: string; size: number },
    fileAt: (i: number) => Promise<{ path: string; blob: Blob }>,
    sums: { path: string; sum: string }[],
    withSums: boolean,
    told: { written: number; failed: { id: number; path: string; reason: string }[]; stopped: string | undefined },
    report: (progress: WriteProgress) => void,
  ): Promise<File | undefined> {
    const folder = await (await navigator.storage.getDirectory()).getDirectoryHandle('published', { create: true });
    // Archives of earlier times were saved long ago.
    for await (const old of (folder as unknown as { keys(): AsyncIterable<string> }).keys())
      await folder.removeEntry(old);
    const handle = await folder.getFileHandle(`${title}.zip`, { create: true });
    const out = await handle.createWritable();
    const waiting: { path: string; blob: Blob }[] = [];
    const { run } = this;
    /** Files as they are asked for, one ahead of what is written. */
    async function* files() {
      const when = new Date();
      for (let i = 0; i < total; i++) {
        await run.each(
          1,
          told,
          (p) => report({ ...p, done: i, total }),
          async (_, about) => {
            about(name(i));
            const file = await fileAt(i);
            sums.push({ path: file.path, sum: await sumOf(file.blob) });
            waiting.push(file);
            return true;
          },
        );
        if (told.stopped !== undefined) return;
        for (const { path, blob } of waiting.splice(0))
          yield { name: `${title}/${path}`, lastModified: when, input: blob };
      }
      if (withSums) yield { name: `${title}/${SUMS}`, lastModified: when, input: sumsText(sums) };
    }
    const hash = await createSHA256();
    try {
      const reader = makeZip(files(), { buffersAreUTF8: true }).getReader();
      for (let part = await reader.read(); !part.done; part = await reader.read()) {
        hash.update(part.value);
        await out.write(part.value as Uint8Array<ArrayBuffer>);
      }
      await out.close();
    } catch (error) {
      await out.abort().catch(() => undefined);
      throw error;
    }
    const file = await handle.getFile();
    if ((await sumOf(file)) !== hash.digest())
      throw new WritingStopped('the archive does not read as it was written; the disk may be damaged');
    if (told.stopped === undefined) return file;
    await folder.removeEntry(`${title}.zip`);
    return undefined;
  }

  /** Notes that a publishing begins; the oldest ones can be taken back no more. @returns its id */
  private async noted(record: Omit<PublishingRecord, 'id'>): Promise<number> {
    const ids = await this.store.publishings.orderBy('id').primaryKeys();
    await this.forget(ids.slice(0, Math.max(0, ids.length + 1 - KEPT)));
    const kept = await this.store.published.filter((f) => f.kept !== undefined).toArray();
    // What was left lying is no reason not to publish.
    await replacedFiles.dropAllBut(new Set(kept.map((f) => f.kept!))).catch(() => undefined);
    return (await this.store.publishings.add(record as PublishingRecord)) as number;
  }

  private async forget(ids: number[]): Promise<void> {
    const files = this.store.published.where('publishing').anyOf(ids);
    const kept = (await files.toArray()).flatMap((f) => f.kept ?? []);
    await this.store.publishings.bulkDelete(ids);
    await files.delete();
    await replacedFiles.drop(kept);
  }

  /** Libraries that were published and can be taken back, the newest first; also those of an earlier visit. */
  async publishings(): Promise<Publishing[]> {
    const all = await this.store.publishings.toArray();
    const counted = await Promise.all(
      all.map(async (record) => {
        const all = await this.store.published.where('publishing').equals(record.id).toArray();
        const files = all.filter((f) => !isRewritten(f));
        const [kept, replaced] = [files.filter((f) => f.kept), files.filter(isReplaced)];
        return { ...record, files: files.length, kept: kept.length, replaced: replaced.length };
      }),
    );
    return counted.filter((p) => p.files > 0).reverse();
  }

  /**
   * Takes back what a publishing wrote, where nobody changed it since: its files are removed, and those that they took the place of are put back.
   * @returns what was removed and put back, what was left, and why; what failed can be tried again
   * @throws Error where nothing could be begun
   */
  async takeBack(id: number, report: (progress: WriteProgress) => void): Promise<TakenBack> {
    this.run.begin();
    const record = await this.store.publishings.get(id);
    if (!record) throw new NotWritten('it was taken back already');
    const roots = new Map((await this.store.roots.toArray()).map((r) => [r.id, r]));
    const place = await placeOf(record.place, record.title, roots);
    const files = (await this.store.published.where('publishing').equals(id).toArray()).reverse();
    const own = files.filter((f) => !isReplaced(f) && !isRewritten(f));
    const told = { written: 0, failed: [] as { id: number; path: string; reason: string }[], stopped: undefined };
    const gone = new Set<string>();
    const back = new Map<string, string>();
    const one = async (i: number, about: About) => {
      const file = own[i];
      about({ id: file.id, path: file.path, size: file.now.size });
      if (file.kept === undefined) {
        // Somebody may have removed it already: then there is nothing to take back.
        await place.remove(file.path, file.now).catch(async (error: unknown) => {
          if (await place.read(file.path)) throw error;
        });
        gone.add(file.path);
      } else back.set(file.path, await this.putBack(place, file, file.kept));
      await this.store.published.delete(file.id);
      await replacedFiles.drop(file.kept === undefined ? [] : [file.kept]);
      return true;
    };
    // One by one: folders that are empty then go, too, and a browser holds those while it removes anything in them.
    await this.run.each(own.length, told, report, one, 1);
    // The sums of a library that was there before name what is gone no more, and what is back as it is.
    const sums = await place.read(SUMS);
    if (sums && gone.size + back.size > 0 && files.some((f) => f.path === SUMS)) {
      const left = [...sumsIn(await sums.text())].flatMap(([path, sum]) =>
        gone.has(path) ? [] : { path, sum: back.get(path) ?? sum },
      );
      const blob = new Blob([sumsText(left)]);
      await this.put({ place, publishing: id }, { path: SUMS, blob, sum: await sumOf(blob), own: true });
    }
    const failed = told.failed.map(({ path, reason }) => ({ path, reason }));
    if (failed.length === 0 && told.stopped === undefined) await this.forget([id]);
    const counts = { removed: gone.size, restored: back.size, replaced: files.filter(isReplaced).length };
    return {
      ...counts,
      failed,
      ...(told.stopped === undefined ? {} : { stopped: told.stopped }),
    };
  }

  /** Puts a file of an earlier time into its place again. @returns its sum */
  private async putBack(place: Place, { path, now }: PublishedRecord, kept: string): Promise<string> {
    const old = await replacedFiles.at(kept);
    if (!old) throw new NotWritten('the one that it took the place of is not kept any more; it is left as it is');
    const [there, sum] = [await place.read(path), await sumOf(old)];
    if (there && (await sumOf(there)) === sum) return sum;
    const lies = await place.make(path, old, there && now);
    // Whoever published that one can take it back in turn.
    const same = (f: PublishedRecord) => f.path === path && f.now.size === lies.size && f.now.hash === lies.hash;
    await this.store.published.filter(same).modify({ now: lies });
    return sum;
  }
}

/** Whether it is a list of sums that was there before: such lists are worked out, and not put back. */
const isRewritten = ({ replaced, path }: PublishedRecord): boolean => replaced === true && path === SUMS;

/** Whether a file took the place of one that nobody has any more. */
const isReplaced = (file: PublishedRecord): boolean =>
  file.replaced === true && file.kept === undefined && !isRewritten(file);
