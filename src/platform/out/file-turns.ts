import { quickHashOf, type Splice } from '@core/files';
import { changeOf, placedAt, type Change, type Patch, type Sound } from '@core/library';
import type { ExpectedFile } from '@core/schemas';
import { isCategory } from '@core/suggest';
import { inFolderOf, madeBy, renameFile, writeFile } from '../files/disk';
import { openFile, sizeOf } from '../files/roots';
import type { RootRecord, Store, WriteRecord } from '../store/store';
import { isThere, madeChange } from './file-maker';

/** Makes a written file the old one again, or the new one. @throws NotWritten, WritingStopped, RootUnavailable */
export async function turnWritten(
  store: Store,
  root: RootRecord,
  write: WriteRecord,
  to: 'undone' | 'done',
): Promise<void> {
  const { path, name, audio, before, after, forth, back } = write;
  const undone = to === 'undone';
  const old = path.slice(path.lastIndexOf('/') + 1);
  const keep = (now: ExpectedFile) =>
    store.writes.update(write.id, undone ? { state: to, before: now } : { state: 'kept', after: now });
  try {
    if (undone) {
      let now = after!;
      if (name !== undefined) now = await renameFile(root, inFolderOf(path, name), old, now);
      const place = { before: audio.after, after: audio.before, length: audio.length };
      if (back) now = await writeFile(root, path, now, back, place);
      await keep(now);
    } else {
      let now = before;
      if (forth) now = await writeFile(root, path, now, forth, audio);
      if (name !== undefined) now = await renameFile(root, path, name, now);
      await keep(now);
    }
  } catch (error) {
    // It was turned already, by a page that was closed before it could say so.
    const place = undone || name === undefined ? path : inFolderOf(path, name);
    const splice = undone ? back : forth;
    const source = splice && (await madeBy(root, place, splice));
    if (!source) throw error;
    const { modified } = undone ? before : after!;
    await keep({ size: source.size, modified, hash: await quickHashOf(source) });
  }
}

/** Sees whether a file that was being written is the old one or the new. */
export async function seeWritten(store: Store, write: WriteRecord): Promise<void> {
  const { path, name, before, forth, back } = write;
  const root = await store.roots.get(write.rootId);
  if (!root) return;
  if (write.part) {
    const state = (await isThere(root, path, write.after!)) ? 'done' : 'failed';
    return void (await store.writes.update(write.id, { state }));
  }
  // One that only gets another name is known by where it lies.
  const there = async (at: string, splice: Splice | undefined) => {
    if (splice) return madeBy(root, at, splice);
    if ((await sizeOf(root, at)) !== before.size) return undefined;
    const source = await openFile(root, at, before.size);
    return (await quickHashOf(source)) === before.hash ? source : undefined;
  };
  const renamed = name === undefined ? undefined : await there(inFolderOf(path, name), forth);
  const source = renamed ?? (forth && (await there(path, forth)));
  if (!source || (!renamed && back && (await there(path, back))))
    return void (await store.writes.update(write.id, { state: 'failed' }));
  const after = { size: source.size, modified: write.after?.modified ?? write.at, hash: await quickHashOf(source) };
  await store.writes.update(write.id, { state: 'done', after, name: renamed ? name : undefined });
}

/** Where a file lies, the old one or the new. */
export function placeOf({ path, name, state }: WriteRecord): string {
  const isNew = state === 'done' || state === 'kept';
  return isNew && name !== undefined ? inFolderOf(path, name) : path;
}

/** The changes to all sounds of a file that was written: it has another size and time, its audio may begin elsewhere. */
export function changesFor(
  write: WriteRecord,
  own: readonly Sound[],
  said: NonNullable<WriteRecord['said']>,
  known: Sound | undefined,
): Change[] {
  // One that was seen in its folder before anybody knew what it is came in by itself.
  if (write.part && !known && own.some((s) => !s.excerpt)) return [];
  if (write.part) return [madeChange({ ...write, said }, known) ?? []].flat();
  const path = placeOf(write);
  const { size, modified, hash } = write.state === 'done' || write.state === 'kept' ? write.after! : write.before;
  const whole = own.find((s) => !s.excerpt);
  return own.flatMap((sound) => {
    const moved = sound.path !== path;
    const after: Patch = moved ? placedAt(write.rootId, { path, size, modified }, isCategory) : { size, modified };
    after.quickHash = hash;
    const { dataOffset } = sound.format;
    const by = said.dataOffset - (whole?.format.dataOffset ?? dataOffset);
    if (by !== 0 && dataOffset > 0) after.format = { ...sound.format, dataOffset: dataOffset + by };
    if (JSON.stringify(sound.artwork) !== JSON.stringify(said.artwork)) after.artwork = said.artwork;
    return changeOf('sounds', sound, after) ?? [];
  });
}
