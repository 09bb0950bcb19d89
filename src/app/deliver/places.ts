import { chooseFolder, mayWrite, whyNotWritten } from '@platform/index';
import { useLibrary } from '../stores/library';

/** Has somebody choose a folder that may be written. @param what it is for @throws Error in words for the user; AbortError when they choose none */
export async function folderFor(
  what: string,
  without: string,
): Promise<{ kind: 'folder'; handle: FileSystemDirectoryHandle }> {
  if (!window.showDirectoryPicker) throw new Error(`this browser cannot write into folders; ${without}`);
  const handle = await chooseFolder(what);
  if (!(await mayWrite(handle, true))) throw new Error('the browser was not allowed to write there');
  return { kind: 'folder', handle };
}

/** A folder within a root that may be written. @throws Error in words for the user */
export async function rootFor(
  rootId: number,
  folder: string,
): Promise<{ kind: 'root'; rootId: number; folder: string }> {
  const root = useLibrary().roots.find((r) => r.id === rootId);
  const why = root ? await whyNotWritten(root, 'asking') : 'that folder is not in the library any more';
  if (why !== undefined) throw new Error(why);
  return { kind: 'root', rootId, folder };
}

/** Roots that files may be put into. @param folder within the root */
export const rootTargets = (folder: string) =>
  useLibrary().folders.map((r) => ({
    value: `root ${r.id}`,
    label: `${r.name}, in its folder “${folder}”; comes in as sounds, too`,
  }));
