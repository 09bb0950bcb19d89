/** The private file system's folder for audio that was rendered here and is in files by now: it is kept for as long as making these may be done again. */
async function folder(): Promise<FileSystemDirectoryHandle> {
  return (await navigator.storage.getDirectory()).getDirectoryHandle('rendered', { create: true });
}

/** Keeps audio, under a name of its own. */
export async function keepRendered(audio: Blob): Promise<string> {
  const name = crypto.randomUUID();
  const handle = await (await folder()).getFileHandle(name, { create: true });
  const out = await handle.createWritable();
  try {
    await out.write(audio);
  } catch (error) {
    await out.abort();
    throw error;
  }
  await out.close();
  return name;
}

/** What is kept under a name; undefined where it is gone. */
export async function renderedAt(name: string): Promise<File | undefined> {
  try {
    return await (await (await folder()).getFileHandle(name)).getFile();
  } catch {
    return undefined;
  }
}

/** Lets go of what is kept. */
export async function dropRendered(names: readonly string[]): Promise<void> {
  if (names.length === 0) return;
  const own = await folder();
  for (const name of names) await own.removeEntry(name).catch(() => undefined);
}
