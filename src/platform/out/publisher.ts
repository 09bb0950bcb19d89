import { quickHashOf } from '@core/files';
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
import { creditOf, creditsCsv } from '@core/scene';
import type { ExpectedFile } from '@core/schemas';
import { makeZip } from 'client-zip';
import { createSHA256 } from 'hash-wasm';
import { NotWritten, WritingStopped } from '../files/disk';
import { fileSource, openFile } from '../files/roots';
import { workbookOf } from '../labelling/workbook';
import type { RootRecord, Store } from '../store/store';
import { FileRun } from './file-run';
import { placeAt, placeIn, READ, type Place } from './publish-places';
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
export type PublishTarget =
  | { kind: 'folder'; handle: FileSystemDirectoryHandle }
  | { kind: 'root'; rootId: number; folder: string }
  | { kind: 'zip' };

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

/** Where a library says what its files are, as `sha256sum -c` reads it. */
export const SUMS = 'checksums.sha256';

async function sumOf(blob: Blob): Promise<string> {
  const hash = await createSHA256();
  for (let at = 0; at < blob.size; at += READ)
    hash.update(new Uint8Array(await blob.slice(at, at + READ).arrayBuffer()));
  return hash.digest();
}

/** Sums as a file of an earlier time tells them, by path. */
function sumsIn(text: string): Map<string, string> {
  const found = new Map<string, string>();
  for (const line of text.split(/\r?\n/)) {
    const [, sum, path] = /^([0-9a-f]{64}) [ *](.+)$/.exec(line) ?? [];
    if (sum) found.set(path, sum);
  }
  return found;
}

/** Publishes libraries: a tree of files with labels in them, and what belongs beside; in a worker. */
export class Publisher {
  private readonly run = new FileRun();
  /** What was made last, so that it can be taken back. */
  private made: { place: Place; path: string; now: ExpectedFile }[] = [];

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
    if (extras.credits) made.push(text('Credits.csv', creditsCsv(sounds.map((s) => creditOf(s, 1)))));
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
      const root = target.kind === 'root' ? roots.get(target.rootId) : undefined;
      if (target.kind === 'root' && !root) throw new NotWritten('that folder is not in the library any more');
      const place =
        target.kind === 'root'
          ? placeAt(root!, [target.folder, how.title].filter(Boolean).join('/'))
          : placeIn(await target.handle.getDirectoryHandle(how.title, { create: true }));
      this.made = [];
      const before = sumsIn(await ((await place.read(SUMS))?.text() ?? ''));
      await this.run.each(total, told, report, async (i, about) => {
        about(name(i));
        const { path, blob } = await fileAt(i);
        const sum = await sumOf(blob);
        const wrote = await this.put(place, path, blob, sum, before.get(path));
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
        await this.put(place, SUMS, text, await sumOf(text), undefined, true).catch(
          (error: Error) => (told.stopped ??= error.message),
        );
      }
    }
    outcome.failed.push(...told.failed.map(({ path, reason }) => ({ path, reason })));
    return { ...outcome, written: told.written, ...(told.stopped === undefined ? {} : { stopped: told.stopped }) };
  }

  /**
   * Puts a file into its place, and reads it again.
   * @param before its sum of an earlier time: only what still has it is replaced
   * @param own it is always ours
   * @returns false where it was there already, and the same
   */
  private async put(
    place: Place,
    path: string,
    blob: Blob,
    sum: string,
    before: string | undefined,
    own = false,
  ): Promise<boolean> {
    const there = await place.read(path);
    if (there) {
      const now = await sumOf(there);
      if (now === sum) return false;
      if (!own && now !== before) throw new NotWritten('there is another file in its place, which is left as it is');
      // When it was written says nothing here: its content was just looked at.
      await place.remove(path, { size: there.size, modified: 0, hash: await quickHashOf(fileSource(there as File)) });
    }
    const now = await place.make(path, blob);
    this.made.push({ place, path, now });
    const written = await place.read(path);
    if (!written || (await sumOf(written)) !== sum)
      throw new WritingStopped('it does not read as it was written; the disk may be damaged');
    return true;
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

  /** Takes back what the last publishing wrote, where nobody changed it since. @returns what was left, and why */
  async takeBack(): Promise<{ removed: number; failed: { path: string; reason: string }[] }> {
    const failed: { path: string; reason: string }[] = [];
    let removed = 0;
    for (const { place, path, now } of this.made.reverse())
      try {
        await place.remove(path, now);
        removed++;
      } catch (error) {
        failed.push({ path, reason: (error as Error).message });
      }
    this.made = [];
    return { removed, failed };
  }
}

const sumsText = (sums: readonly { path: string; sum: string }[]): string =>
  [...sums]
    .sort((a, b) => (a.path < b.path ? -1 : 1))
    .map(({ path, sum }) => `${sum}  ${path}\n`)
    .join('');
