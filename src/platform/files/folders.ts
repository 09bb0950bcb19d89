import Dexie, { type EntityTable } from 'dexie';

/** Folders that the program writes into, by what for. They are no part of the catalogue: a backup does not hold them. */
class Folders extends Dexie {
  folders!: EntityTable<{ name: string; handle: FileSystemDirectoryHandle }, 'name'>;

  constructor() {
    super('cormorant-folders');
    this.version(1).stores({ folders: 'name' });
  }
}
const kept = new Folders();
type Permitted = FileSystemDirectoryHandle & {
  queryPermission?(o: { mode: string }): Promise<PermissionState>;
  requestPermission?(o: { mode: string }): Promise<PermissionState>;
};

/** The folder that was chosen for this; undefined when none was. */
export async function folderIn(name: string): Promise<FileSystemDirectoryHandle | undefined> {
  return (await kept.folders.get(name))?.handle;
}

/** Has the user choose a folder to write into, and keeps it. @throws AbortError when they choose none */
export async function chooseFolder(name: string): Promise<FileSystemDirectoryHandle> {
  const handle = await window.showDirectoryPicker!({ id: name, mode: 'readwrite' });
  await kept.folders.put({ name, handle });
  return handle;
}

/** Whether the browser lets us write there. @param ask may ask the user, which only works in a click */
export async function mayWrite(handle: FileSystemDirectoryHandle, ask: boolean): Promise<boolean> {
  const own = handle as Permitted;
  if (!own.queryPermission) return true;
  if ((await own.queryPermission({ mode: 'readwrite' })) === 'granted') return true;
  return ask && (await own.requestPermission?.({ mode: 'readwrite' })) === 'granted';
}

/** Whether the browser was told not to let us write there. */
export async function isDenied(handle: FileSystemDirectoryHandle): Promise<boolean> {
  return (await (handle as Permitted).queryPermission?.({ mode: 'readwrite' })) === 'denied';
}

/** Writes a new file; the browser puts it in place whole or not at all. */
export async function writeInto(folder: FileSystemDirectoryHandle, name: string, data: Blob): Promise<void> {
  const file = await folder.getFileHandle(name, { create: true });
  const out = await file.createWritable();
  await out.write(data);
  await out.close();
}
