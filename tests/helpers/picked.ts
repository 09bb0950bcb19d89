import type { Page } from '@playwright/test';

// Folders that are picked: those of the private file system are of the same kind.

/** Has every folder that is asked for be the one of this name. */
export const pick = (page: Page, name: string) =>
  page.evaluate((folder) => {
    window.showDirectoryPicker = async () =>
      (await navigator.storage.getDirectory()).getDirectoryHandle(folder, { create: true });
  }, name);

/** All files in a folder that was picked, by their paths. @param of which ones their content is wanted */
export async function pickedFiles(page: Page, folder: string, of = /./): Promise<Map<string, Uint8Array>> {
  const found = await page.evaluate(
    async ([path, source]) => {
      const wanted = new RegExp(source);
      const files: [string, string][] = [];
      type Folder = FileSystemDirectoryHandle & { entries(): AsyncIterable<[string, FileSystemHandle]> };
      const walk = async (at: Folder, before: string): Promise<void> => {
        for await (const [name, handle] of at.entries()) {
          if (handle.kind === 'directory') await walk(handle as Folder, `${before}${name}/`);
          else {
            const file = await (handle as FileSystemFileHandle).getFile();
            const text = await new Promise<string>((done) => {
              const reader = new FileReader();
              reader.onload = () => done((reader.result as string).split(',')[1] ?? '');
              reader.readAsDataURL(wanted.test(before + name) ? file : new Blob([]));
            });
            files.push([before + name, text]);
          }
        }
      };
      let at = (await navigator.storage.getDirectory()) as Folder;
      for (const step of path.split('/')) at = (await at.getDirectoryHandle(step, { create: true })) as Folder;
      await walk(at, '');
      return files;
    },
    [folder, of.source],
  );
  return new Map(found.map(([path, text]) => [path, new Uint8Array(Buffer.from(text, 'base64'))]));
}

/** Writes a file into a folder that was picked. */
export const putInto = (page: Page, path: string, text: string) =>
  page.evaluate(
    async ([where, content]) => {
      const steps = where.split('/');
      let at = await navigator.storage.getDirectory();
      for (const step of steps.slice(0, -1)) at = await at.getDirectoryHandle(step, { create: true });
      const out = await (await at.getFileHandle(steps.at(-1)!, { create: true })).createWritable();
      await out.write(content);
      await out.close();
    },
    [path, text],
  );

/** Removes a file from a folder that was picked. */
export const removeFrom = (page: Page, path: string) =>
  page.evaluate(async (where) => {
    const steps = where.split('/');
    let at = await navigator.storage.getDirectory();
    for (const step of steps.slice(0, -1)) at = await at.getDirectoryHandle(step);
    await at.removeEntry(steps.at(-1)!);
  }, path);
