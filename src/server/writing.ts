import { patchesOf, quickHashOf, sizeAfter, type ByteSource, type Patch, type Splice } from '@core/files';
import type { ExpectedFile, RenameRequest, WriteRequest } from '@core/schemas';
import { createXXHash64 } from 'hash-wasm';
import { randomUUID } from 'node:crypto';
import { constants, mkdirSync, readdirSync, readFileSync } from 'node:fs';
import { link, lstat, open, rename, rm, stat, unlink, writeFile, type FileHandle } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { FileRefused, openBelow, segmentsOf, type OpenFile, type Root } from './roots';

/** A file was not written, and is as it was; says why. */
export class WriteRefused extends Error {}

/** The disk has no room left: nothing more can be written for now. */
export class DiskFull extends Error {
  constructor() {
    super('the disk is full; the file is as it was. Make room and go on');
  }
}

/** Bytes of a file as they were, and as they are to be; in base64. */
interface Block {
  offset: number;
  old: string;
  fresh: string;
}

/** What a file was before it was written into, until that is done: who starts next takes back what was broken off. */
interface Note {
  /** The process that writes, and when it was born, where that can be told: numbers are used again. */
  pid: number;
  born?: string;
  path: string;
  /** Written into: bytes as they were, in base64, with size and time. */
  patched?: { size: number; modified: number; after: number; blocks: Block[] };
  /** Written anew: the file beside it that is not there yet. */
  beside?: string;
}

const COPIED = 1 << 20;
const codeOf = (error: unknown) => (error as NodeJS.ErrnoException).code ?? '';

async function readAll(handle: FileHandle, offset: number, length: number): Promise<Uint8Array> {
  const bytes = Buffer.allocUnsafe(length);
  let done = 0;
  while (done < length) {
    const { bytesRead } = await handle.read(bytes, done, length - done, offset + done);
    if (bytesRead === 0) break;
    done += bytesRead;
  }
  return bytes.subarray(0, done);
}

async function writeAll(handle: FileHandle, bytes: Uint8Array, offset: number): Promise<void> {
  for (let done = 0; done < bytes.length;)
    done += (await handle.write(bytes, done, bytes.length - done, offset + done)).bytesWritten;
}

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

/** When a process was born, as Linux tells it: since which start of the machine, and how long after it. */
function bornAt(pid: number): string | undefined {
  try {
    const boot = readFileSync('/proc/sys/kernel/random/boot_id', 'utf8').trim();
    const status = readFileSync(`/proc/${pid}/stat`, 'utf8');
    return `${boot} ${status.slice(status.lastIndexOf(')') + 2).split(' ')[19]}`;
  } catch {
    return undefined;
  }
}

/** Whether the process that made a note is still there. */
function alive({ pid, born }: Note): boolean {
  if (born !== undefined) return bornAt(pid) === born;
  if (pid === process.pid) return false;
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return codeOf(error) === 'EPERM';
  }
}

/**
 * Whether a file is what breaking off left behind: every byte where something was written is the old one or the new one. Any other was
 * changed since by somebody else, and is theirs.
 */
async function isTorn({ path, patched }: Note): Promise<boolean> {
  if (!patched) return true;
  const handle = await open(path, 'r');
  try {
    const { size } = await handle.stat();
    if (size < Math.min(patched.size, patched.after) || size > Math.max(patched.size, patched.after)) return false;
    for (const block of patched.blocks) {
      const [old, fresh] = [block.old, block.fresh].map((b) => Buffer.from(b, 'base64'));
      const now = await readAll(handle, block.offset, Math.max(old.length, fresh.length));
      // Where a file grew before anything was written there, it holds nothing.
      if (now.some((b, i) => b !== old[i] && b !== fresh[i] && !(i >= old.length && b === 0))) return false;
    }
    return true;
  } finally {
    await handle.close();
  }
}

/** Puts back what a file was before it was written into. */
async function putBack({ path, patched }: Note): Promise<void> {
  if (!patched) return;
  const handle = await open(path, 'r+');
  try {
    for (const { offset, old } of patched.blocks) await writeAll(handle, Buffer.from(old, 'base64'), offset);
    await handle.truncate(patched.size);
    // It is what it was, and says so: nobody need read it again.
    await handle.utimes(new Date(), patched.modified / 1000);
    await handle.sync();
  } finally {
    await handle.close();
  }
}

/**
 * Writes files of roots so that each is, at any instant, the old one or can be made it again: where nothing of it moves, into the file
 * itself, its old blocks being noted elsewhere first; else beside it, and then put in its place.
 */
export class FileWriter {
  /** @param notes a folder of this user's own, in which is kept what was begun */
  constructor(private readonly notes: string) {
    mkdirSync(notes, { recursive: true, mode: 0o700 });
  }

  /** Takes back what a process left behind that was ended while it wrote. @returns what could not be taken back, in words */
  async recover(): Promise<string[]> {
    const faults: string[] = [];
    for (const name of readdirSync(this.notes)) {
      const file = join(this.notes, name);
      try {
        const note = JSON.parse(readFileSync(file, 'utf8')) as Note;
        if (alive(note)) continue;
        if (await isTorn(note)) await putBack(note);
        else faults.push(`${note.path} was changed by another program since, so it is left as it is`);
        if (note.beside) await rm(note.beside, { force: true });
      } catch (error) {
        // A note that was not finished is of a file that was not begun.
        if (error instanceof SyntaxError || codeOf(error) === 'ENOENT') await rm(file, { force: true });
        else faults.push(`${file}: ${(error as Error).message}`);
        continue;
      }
      await rm(file, { force: true });
    }
    return faults;
  }

  /** Opens a file, and holds it against what is expected of it. */
  private async opened(root: Root, path: string, expected: ExpectedFile): Promise<OpenFile> {
    const file = await openBelow(root, segmentsOf(path), constants.O_RDWR);
    if (!file) throw new FileRefused('There is no such file in this root.');
    const other = file.size !== expected.size || Math.abs(file.modified - expected.modified) >= 1;
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
      if (codeOf(error) === 'ENOSPC' || codeOf(error) === 'EDQUOT') throw new DiskFull();
      if (['EACCES', 'EPERM', 'EROFS'].includes(codeOf(error)))
        throw new WriteRefused('the folder may not be written to: it, or its drive, is for reading only');
      throw error;
    } finally {
      await file.handle.close();
    }
  }

  /** Keeps a note until a task is done; what the task began is taken back where it fails. */
  private async noted<T>(note: Omit<Note, 'pid' | 'born'>, task: () => Promise<T>): Promise<T> {
    const place = join(this.notes, `${randomUUID()}.json`);
    const born = bornAt(process.pid);
    const whole: Note = { pid: process.pid, ...(born === undefined ? {} : { born }), ...note };
    const handle = await open(place, 'w', 0o600);
    try {
      await writeFile(handle, JSON.stringify(whole));
      await handle.sync();
    } finally {
      await handle.close();
    }
    try {
      const done = await task();
      await rm(place, { force: true });
      return done;
    } catch (error) {
      await putBack(whole);
      if (whole.beside) await rm(whole.beside, { force: true });
      await rm(place, { force: true });
      throw error;
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
    return this.noted({ path: real, patched: { size, modified, after, blocks } }, async () => {
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
    return this.noted({ path: real, beside }, async () => {
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
      else
        try {
          // Unlike renaming, this never takes another file's place.
          await link(from, to);
          await unlink(from);
        } catch (error) {
          if (codeOf(error) === 'EEXIST') throw new WriteRefused(`there is another file called ${name} already`);
          if (!['EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'EMLINK'].includes(codeOf(error))) throw error;
          await rename(from, to);
        }
      return await this.told(file.handle, name);
    } catch (error) {
      if (['EACCES', 'EPERM', 'EROFS'].includes(codeOf(error)))
        throw new WriteRefused('the folder may not be written to: it, or its drive, is for reading only');
      if (codeOf(error) === 'ENAMETOOLONG') throw new WriteRefused(`“${name}” is longer than this disk allows`);
      throw error;
    } finally {
      await file.handle.close();
    }
  }
}
