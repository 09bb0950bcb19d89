import { patchesOf, quickHashOf, sizeAfter, type ByteSource, type Patch, type Splice } from '@core/files';
import { nameFaults } from '@core/naming';
import type { ExpectedFile, MakeRequest, RemoveRequest, RenameRequest, WriteRequest } from '@core/schemas';
import { createXXHash64 } from 'hash-wasm';
import { randomUUID } from 'node:crypto';
import { constants } from 'node:fs';
import { link, lstat, mkdir, open, rename, rmdir, stat, unlink, type FileHandle } from 'node:fs/promises';
import { basename, dirname, join, sep } from 'node:path';
import { codeOf, Notes, readAll, writeAll } from './notes';
import { FileRefused, folderBelow, openBelow, segmentsOf, type OpenFile, type Root } from './roots';

/** A file was not written, and is as it was; says why. */
export class WriteRefused extends Error {}

/** The disk has no room left: nothing more can be written for now. */
export class DiskFull extends Error {
  constructor(message = 'the disk is full; the file is as it was. Make room and go on') {
    super(message);
  }
}

const COPIED = 1 << 20;

const sourceOf = (handle: FileHandle, name: string, size: number): ByteSource => ({
  name,
  size,
  read: (offset, length) => readAll(handle, offset, Math.max(0, Math.min(length, size - offset))),
});

/**
 * Goes through a part of a file; while one piece is looked at, the next one is read. Pieces lie in two buffers in turn: a fresh one for
 * each would cost more than reading into it.
 */
async function eachPart(
  handle: FileHandle,
  offset: number,
  length: number,
  visit: (bytes: Uint8Array) => void | Promise<void>,
): Promise<void> {
  const buffers = [0, 1].map(() => Buffer.allocUnsafe(Math.min(COPIED, length)));
  const take = async (turn: number, at: number) => {
    const buffer = buffers[turn & 1];
    const { bytesRead } = await handle.read(buffer, 0, Math.min(buffer.length, length - at), offset + at);
    return buffer.subarray(0, bytesRead);
  };
  let coming = take(0, 0);
  for (let at = 0, turn = 1; at < length; turn++) {
    const part = await coming;
    if (part.length === 0) return;
    at += part.length;
    if (at < length) coming = take(turn, at);
    // It is waited for in the next round; where none comes, nobody asks for it any more.
    coming.catch(() => undefined);
    await visit(part);
  }
}

/** Hash of a part of a file. */
async function hashOf(handle: FileHandle, offset: number, length: number): Promise<string> {
  const hash = await createXXHash64();
  await eachPart(handle, offset, length, (bytes) => void hash.update(bytes));
  return hash.digest();
}

/** Writes what comes into a file, all that was announced and no more. @throws WriteRefused */
export async function writeBody(out: FileHandle, size: number, body: AsyncIterable<Uint8Array>): Promise<void> {
  let at = 0;
  for await (const part of body) {
    if (at + part.length > size) throw new WriteRefused('more bytes came than were announced');
    await writeAll(out, part, at);
    at += part.length;
  }
  if (at !== size) throw new WriteRefused('its bytes broke off on their way');
  await out.sync();
}

/**
 * Writes files of roots so that each is, at any instant, the old one or can be made it again: where nothing of it moves, into the file
 * itself, its old blocks being noted elsewhere first; else beside it, and then put in its place.
 */
export class FileWriter {
  private readonly notes: Notes;

  /** @param notes a folder of this user's own, in which is kept what was begun */
  constructor(notes: string) {
    this.notes = new Notes(notes);
  }

  /** Takes back what a process left behind that was ended while it wrote. @returns what could not be taken back, in words */
  recover(): Promise<string[]> {
    return this.notes.recover();
  }

  /** Opens a file, and holds it against what is expected of it. */
  private async opened(root: Root, path: string, expected: ExpectedFile): Promise<OpenFile> {
    const file = await openBelow(root, segmentsOf(path), constants.O_RDWR);
    if (!file) throw new FileRefused('There is no such file in this root.');
    // A time of 0 is that of somebody who knows its content alone.
    const later = expected.modified !== 0 && Math.abs(file.modified - expected.modified) >= 1;
    const other = file.size !== expected.size || later;
    if (other || (await quickHashOf(sourceOf(file.handle, path, file.size))) !== expected.hash) {
      await file.handle.close();
      throw new WriteRefused('the file was changed by another program meanwhile; look through the folder again');
    }
    return file;
  }

  private async told(handle: FileHandle, name: string): Promise<ExpectedFile> {
    const { size, mtimeMs } = await handle.stat();
    return { size, modified: mtimeMs, hash: await quickHashOf(sourceOf(handle, name, size)) };
  }

  /**
   * Writes a file: all of it or nothing.
   * @throws WriteRefused, FileRefused, DiskFull; the file is as it was
   */
  async write(root: Root, { path, pieces, audio, ...expected }: WriteRequest): Promise<ExpectedFile> {
    const splice: Splice = {
      before: expected.size,
      pieces: pieces.map((p) => ('base64' in p ? { bytes: new Uint8Array(Buffer.from(p.base64, 'base64')) } : p)),
    };
    const after = sizeAfter(splice);
    const outside = splice.pieces.some((p) => !('bytes' in p) && p.from + p.length > splice.before);
    if (outside || audio.before + audio.length > splice.before || audio.after + audio.length > after)
      throw new WriteRefused('more was to be kept of the file than there is');
    const file = await this.opened(root, path, expected);
    try {
      const sound = await hashOf(file.handle, audio.before, audio.length);
      const patches = patchesOf(splice);
      if (patches) return await this.into(file, patches, after, audio.after, audio.length, sound);
      return await this.anew(file, splice, audio.after, audio.length, sound);
    } catch (error) {
      throw inWords(error);
    } finally {
      await file.handle.close();
    }
  }

  private async into(
    { handle, real, size, modified }: OpenFile,
    patches: readonly Patch[],
    after: number,
    audio: number,
    length: number,
    sound: string,
  ): Promise<ExpectedFile> {
    const blocks = await Promise.all(
      patches.map(async ({ offset, bytes }) => {
        const old = await readAll(handle, offset, Math.max(0, Math.min(bytes.length, size - offset)));
        return { offset, old: Buffer.from(old).toString('base64'), fresh: Buffer.from(bytes).toString('base64') };
      }),
    );
    // What is cut off at the end goes into the note, too.
    if (after < size)
      blocks.push({
        offset: after,
        old: Buffer.from(await readAll(handle, after, size - after)).toString('base64'),
        fresh: '',
      });
    return this.notes.keep({ path: real, patched: { size, modified, after, blocks } }, async () => {
      // From behind: the head, which says how long it all is, comes last.
      for (const { offset, bytes } of [...patches].reverse()) await writeAll(handle, bytes, offset);
      await handle.truncate(after);
      await handle.sync();
      if ((await hashOf(handle, audio, length)) !== sound)
        throw new WriteRefused('its audio did not come out the same, so it was put back as it was');
      return this.told(handle, real);
    });
  }

  private async anew(
    { handle, real, size, modified }: OpenFile,
    splice: Splice,
    audio: number,
    length: number,
    sound: string,
  ): Promise<ExpectedFile> {
    const beside = join(dirname(real), `.${basename(real).slice(0, 80)}.${randomUUID().slice(0, 8)}.writing`);
    return this.notes.keep({ path: real, beside }, async () => {
      const { mode } = await handle.stat();
      const out = await open(beside, 'wx+', mode);
      try {
        let at = 0;
        for (const piece of splice.pieces) {
          if ('bytes' in piece) {
            await writeAll(out, piece.bytes, at);
            at += piece.bytes.length;
            continue;
          }
          await eachPart(handle, piece.from, piece.length, async (part) => {
            await writeAll(out, part, at);
            at += part.length;
          });
        }
        await out.chmod(mode);
        await out.sync();
        if ((await hashOf(out, audio, length)) !== sound)
          throw new WriteRefused('its audio did not come out the same, so it was left as it was');
        const now = await stat(real);
        if (now.size !== size || now.mtimeMs !== modified)
          throw new WriteRefused('the file was changed by another program meanwhile; look through the folder again');
        await rename(beside, real);
        return await this.told(out, real);
      } finally {
        await out.close();
      }
    });
  }

  /** Gives a file another name in its folder; never one that another file has. @throws WriteRefused, FileRefused */
  async rename(root: Root, { path, name, ...expected }: RenameRequest): Promise<ExpectedFile> {
    if (/[/\\\0]/.test(name) || name.startsWith('.')) throw new WriteRefused(`“${name}” is no name for a file`);
    const file = await this.opened(root, path, expected);
    try {
      const from = join(dirname(file.real), segmentsOf(path).at(-1)!);
      const to = join(dirname(file.real), name);
      if (file.real !== from || (await lstat(from)).isSymbolicLink())
        throw new WriteRefused('it is a link; rename what it leads to');
      const there = await lstat(to).catch(() => undefined);
      const own = there && there.ino === (await file.handle.stat()).ino;
      if (there && !own) throw new WriteRefused(`there is another file called ${name} already`);
      // Where names that differ in case only are the same, it is one file under both.
      if (own) await rename(from, to);
      else await placed(from, to);
      return await this.told(file.handle, name);
    } catch (error) {
      throw inWords(error);
    } finally {
      await file.handle.close();
    }
  }

  /**
   * Makes a file, and the folders that it lies in: all of it or nothing. Where it takes another one's place, that one is there until it does.
   * @param body its bytes
   * @throws WriteRefused, FileRefused, DiskFull
   */
  async make(root: Root, { path, size, instead }: MakeRequest, body: AsyncIterable<Uint8Array>): Promise<ExpectedFile> {
    const folders = segmentsOf(path);
    const name = folders.pop()!;
    for (const part of [...folders, name])
      if (nameFaults(part).length > 0 || part.startsWith('.'))
        throw new WriteRefused(`“${part}” is no name for a file or folder`);
    try {
      const folder = await madeFolder(root, folders);
      const place = join(folder, name);
      const there = await lstat(place).catch(() => undefined);
      if (there && !instead) throw new WriteRefused(`there is a file at ${path} already`);
      if (there?.isSymbolicLink()) throw new WriteRefused('there is a link in its place, which is left as it is');
      const beside = join(folder, `.${name.slice(0, 80)}.${randomUUID().slice(0, 8)}.writing`);
      return await this.notes.keep({ path: place, beside }, async () => {
        const out = await open(beside, 'wx+');
        try {
          await writeBody(out, size, body);
          if (there) {
            // Looked at now, when all is ready: nobody changes it between this and its end but by a hair's breadth.
            await (await this.opened(root, path, instead!)).handle.close();
            await rename(beside, place);
          } else await placed(beside, place);
          return await this.told(out, name);
        } finally {
          await out.close();
        }
      });
    } catch (error) {
      throw inWords(error);
    }
  }

  /** Removes a file that is what is expected of it, and the folders below the root that are empty then. @throws WriteRefused, FileRefused */
  async remove(root: Root, { path, ...expected }: RemoveRequest): Promise<void> {
    const file = await this.opened(root, path, expected);
    try {
      const top = await folderBelow(root, []);
      await unlink(file.real);
      for (let folder = dirname(file.real); top && folder.startsWith(top + sep); folder = dirname(folder))
        await rmdir(folder);
    } catch (error) {
      // The first folder that holds something else ends it.
      if (!['ENOTEMPTY', 'EEXIST', 'EBUSY'].includes(codeOf(error))) throw inWords(error);
    } finally {
      await file.handle.close();
    }
  }
}

/** Gives a finished file its place; never that of another one. */
async function placed(from: string, to: string): Promise<void> {
  try {
    // Unlike renaming, this never takes another file's place.
    await link(from, to);
    await unlink(from);
  } catch (error) {
    if (codeOf(error) === 'EEXIST') throw new WriteRefused(`there is another file called ${basename(to)} already`);
    if (!['EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'EMLINK'].includes(codeOf(error))) throw error;
    await rename(from, to);
  }
}

/** A folder below a root; it and those above it are made where they are not there. No link leads out of the root. */
async function madeFolder(root: Root, folders: readonly string[]): Promise<string> {
  for (let depth = 0; ; depth++) {
    const there = await folderBelow(root, folders.slice(0, depth));
    if (there === undefined) throw new WriteRefused(`${folders.slice(0, depth).join('/')} is no folder of this root`);
    if (depth === folders.length) return there;
    await mkdir(join(there, folders[depth])).catch((error: unknown) => {
      if (codeOf(error) !== 'EEXIST') throw error;
    });
  }
}

/** What the system failed with, in words. */
function inWords(error: unknown): unknown {
  const code = codeOf(error);
  if (code === 'ENOSPC' || code === 'EDQUOT') return new DiskFull();
  if (['EACCES', 'EPERM', 'EROFS'].includes(code))
    return new WriteRefused('the folder may not be written to: it, or its drive, is for reading only');
  if (code === 'ENAMETOOLONG') return new WriteRefused('its name is longer than this disk allows');
  return error;
}
