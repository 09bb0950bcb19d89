/** Files that are kept in the browser's private file system for as long as something may be taken back or done again, each under a name of its own. */
export class KeptFiles {
  /** @param name the folder's */
  constructor(private readonly name: string) {}

  private async folder(): Promise<FileSystemDirectoryHandle> {
    return (await navigator.storage.getDirectory()).getDirectoryHandle(this.name, { create: true });
  }

  /** Keeps a file. @returns the name under which it is kept */
  async keep(file: Blob): Promise<string> {
    const name = crypto.randomUUID();
    const folder = await this.folder();
    const out = await (await folder.getFileHandle(name, { create: true })).createWritable();
    try {
      await out.write(file);
      await out.close();
    } catch (error) {
      await out.abort().catch(() => undefined);
      await folder.removeEntry(name).catch(() => undefined);
      throw error;
    }
    return name;
  }

  /** What is kept under a name; undefined where it is gone. */
  async at(name: string): Promise<File | undefined> {
    try {
      return await (await (await this.folder()).getFileHandle(name)).getFile();
    } catch {
      return undefined;
    }
  }

  /** Lets go of what is kept. */
  async drop(names: readonly string[]): Promise<void> {
    if (names.length === 0) return;
    const folder = await this.folder();
    for (const name of names) await folder.removeEntry(name).catch(() => undefined);
  }

  /** Lets go of all but these: of what a page left that was closed before it noted a name. What is an hour old at most may be another page's that is about to. */
  async dropAllBut(names: ReadonlySet<string>): Promise<void> {
    const left: string[] = [];
    for await (const [name, handle] of (await this.folder()).entries()) {
      if (names.has(name)) continue;
      const { lastModified } = await (handle as FileSystemFileHandle).getFile();
      if (lastModified < Date.now() - 3_600_000) left.push(name);
    }
    await this.drop(left);
  }
}

/** Audio that was rendered here and is in files by now: kept for as long as making these may be done again. */
export const renderedAudio = new KeptFiles('rendered');

/** Files of an earlier time that publishing replaced: kept for as long as it may be taken back. */
export const replacedFiles = new KeptFiles('replaced');
