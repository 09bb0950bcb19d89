import { randomUUID } from 'node:crypto';
import { mkdirSync, readdirSync, readFileSync } from 'node:fs';
import { open, rm, writeFile, type FileHandle } from 'node:fs/promises';
import { join } from 'node:path';

export const codeOf = (error: unknown) => (error as NodeJS.ErrnoException).code ?? '';

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

export async function readAll(handle: FileHandle, offset: number, length: number): Promise<Uint8Array> {
  const bytes = Buffer.allocUnsafe(length);
  let done = 0;
  while (done < length) {
    const { bytesRead } = await handle.read(bytes, done, length - done, offset + done);
    if (bytesRead === 0) break;
    done += bytesRead;
  }
  return bytes.subarray(0, done);
}

export async function writeAll(handle: FileHandle, bytes: Uint8Array, offset: number): Promise<void> {
  for (let done = 0; done < bytes.length;)
    done += (await handle.write(bytes, done, bytes.length - done, offset + done)).bytesWritten;
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

/** What was begun and is not done yet, on the disk, so that whoever starts next takes it back. */
export class Notes {
  /** @param notes a folder of this user's own */
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

  /** Keeps a note until a task is done; what the task began is taken back where it fails. */
  async keep<T>(note: Omit<Note, 'pid' | 'born'>, task: () => Promise<T>): Promise<T> {
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
}
