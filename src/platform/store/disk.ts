/** The disk as `Room` needs it: one file of ours, which is room that is set aside. */
export interface Disk {
  /**
   * Grows the file to so many bytes, to see whether there is room for them. Then it keeps some of them; none when there was not room for
   * all, so that others have them.
   * @returns how many had room
   */
  probe(bytes: number, keep: number): Promise<number>;
}

/** Errors that say nothing of the disk. */
const UNTOLD = new Set([
  'SecurityError',
  'NotAllowedError',
  'TypeError',
  'NotSupportedError',
  'NoModificationAllowedError',
]);
const BLOCK = 1 << 20;
/** Where room is set aside in the private file system. One that somebody who never came back still holds is passed over. */
const FILES = ['room', 'room 2', 'room 3', 'room 4'];

/** What cannot be packed by a file system that packs. */
function noise(): Uint8Array<ArrayBuffer> {
  const block = new Uint8Array(BLOCK);
  for (let at = 0; at < BLOCK; at += 65_536) crypto.getRandomValues(block.subarray(at, at + 65_536));
  return block;
}

/** The first of the files that nobody holds; the others are not needed any more. */
async function open() {
  const folder = await navigator.storage.getDirectory();
  for (const [i, name] of FILES.entries()) {
    try {
      const access = await (await folder.getFileHandle(name, { create: true })).createSyncAccessHandle();
      for (const other of FILES.slice(i + 1)) await folder.removeEntry(other).catch(() => undefined);
      return access;
    } catch (error) {
      if ((error as Error).name !== 'NoModificationAllowedError' || i === FILES.length - 1) throw error;
    }
  }
  throw new Error('no file');
}

/** The disk below the browser's private file system, as a worker sees it. */
export const looked: Disk = {
  async probe(bytes, keep) {
    let written = 0;
    try {
      const block = noise();
      const access = await open();
      try {
        // What was set aside is there already.
        written = Math.min(access.getSize(), bytes);
        while (written < bytes) {
          const part = block.subarray(0, Math.min(BLOCK, bytes - written));
          const now = access.write(part, { at: written });
          written += now;
          if (now < part.length) break;
        }
      } finally {
        access.truncate(written < bytes ? 0 : keep);
        access.close();
      }
    } catch (error) {
      // Where nothing may be written at all, as in some private windows, nothing can be told: the browser decides by itself.
      if (UNTOLD.has((error as Error).name)) return bytes;
      // No room for a file's name, or refused in the middle: what was written until then is the answer.
    }
    return written;
  },
};
