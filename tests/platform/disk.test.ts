import {
  inverted,
  memorySource,
  planLabels,
  quickHashOf,
  readAudioFile,
  spliced,
  writeWav,
  type Splice,
} from '@core/files';
import { NotWritten, renameFile, whyNotWritten, writeFile, WritingStopped } from '@platform/files/disk';
import type { RootRecord } from '@platform/store/store';
import { folderHandle, type Tree } from '../helpers/handles';
import { noise } from '../helpers/signals';

// Files of picked folders: the browser's handles behind the same interface as the server's.

const good = writeWav([noise(3000, 0.4, 2)], { rate: 8000, bits: 16 }, { info: { INAM: 'Gate' } });
const picked = (tree: Tree, permission: PermissionState = 'granted'): RootRecord => ({
  id: 1,
  name: 'Tapes',
  kind: 'picked',
  handles: [folderHandle('Tapes', tree, permission)],
  added: 1,
});
const expectedOf = async (bytes: Uint8Array) => ({
  size: bytes.length,
  modified: 1234,
  hash: await quickHashOf(memorySource(bytes)),
});
const planOf = async (bytes: Uint8Array, text: string) =>
  (await planLabels(memorySource(bytes), { places: new Map([['INFO.INAM', text]]) }, { rate: 8000, frames: 3000 }))!;
const has = (tree: Tree, name: string) => tree[name] as Uint8Array;

test('labels go into a file in place or anew, and out of it again, byte for byte', async () => {
  for (const anew of [false, true]) {
    const tree: Tree = { 'a.wav': good.slice() };
    const root = picked(tree);
    const { splice, audio } = await planOf(good, 'Möwe');
    const filler = Uint8Array.from('JUNK\u0004\0\0\0abcd', (c) => c.charCodeAt(0));
    const moved: Splice = {
      before: good.length,
      pieces: [{ from: 0, length: 12 }, { bytes: filler }, { from: 12, length: good.length - 12 }],
    };
    const there = anew ? moved : splice;
    const place = anew ? { ...audio, after: audio.before + filler.length } : audio;
    const after = await writeFile(root, 'a.wav', await expectedOf(good), there, place);
    const written = has(tree, 'a.wav');
    expect(after).toEqual(await expectedOf(written));
    const whole = spliced(there, memorySource(good));
    expect(Buffer.compare(written, await whole.read(0, whole.size))).toBe(0);
    if (!anew) expect((await readAudioFile(memorySource(written))).labels.get('INFO.INAM')).toBe('Möwe');
    const back = await inverted(there, memorySource(good));
    await writeFile(root, 'a.wav', after, back, { before: place.after, after: place.before, length: place.length });
    expect(Buffer.compare(has(tree, 'a.wav'), good)).toBe(0);
  }
});

test('a file that is another one by now, or is gone, is left alone', async () => {
  const tree: Tree = { 'a.wav': good.slice(0, -2) };
  const { splice, audio } = await planOf(good, 'x');
  const write = async (path: string) => writeFile(picked(tree), path, await expectedOf(good), splice, audio);
  await expect(write('a.wav')).rejects.toThrow(NotWritten);
  await expect(write('b.wav')).rejects.toThrow('is not in “Tapes” any more');
  expect(has(tree, 'a.wav')).toHaveLength(good.length - 2);
});

test.each([
  ['QuotaExceededError', WritingStopped, 'the disk is full'],
  ['NotAllowedError', WritingStopped, 'not allowed'],
  ['NoModificationAllowedError', NotWritten, 'in use by another program'],
] as const)('%s while it is written is told in our words, and the file is as it was', async (name, kind, words) => {
  const tree: Tree = { 'a.wav': good.slice() };
  const folder = folderHandle('Tapes', tree);
  const file = await folder.getFileHandle('a.wav');
  let aborted = false;
  const failing = {
    ...file,
    createWritable: () =>
      Promise.resolve({
        write: () => Promise.reject(new DOMException('no', name)),
        abort: () => Promise.resolve(void (aborted = true)),
      }),
  };
  const root = { ...picked(tree), handles: [{ ...folder, getFileHandle: () => Promise.resolve(failing) }] };
  const { splice, audio } = await planOf(good, 'x');
  const writing = writeFile(root as never, 'a.wav', await expectedOf(good), splice, audio);
  await expect(writing).rejects.toThrow(kind);
  await expect(writing).rejects.toThrow(words);
  expect([aborted, Buffer.compare(has(tree, 'a.wav'), good)]).toEqual([true, 0]);
});

test('a name is changed where the browser can, and never to one that another file has', async () => {
  const tree: Tree = { 'a.wav': good.slice(), 'b.wav': new Uint8Array([1]) };
  const folder = folderHandle('Tapes', tree);
  const movable = async (name: string) => ({
    ...(await folder.getFileHandle(name)),
    isSameEntry: () => Promise.resolve(false),
    move: (to: string) => {
      tree[to] = tree[name];
      delete tree[name];
      return Promise.resolve();
    },
  });
  const root = { ...picked(tree), handles: [{ ...folder, getFileHandle: (n: string) => movable(n) }] } as never;
  const expected = await expectedOf(good);
  await expect(renameFile(root, 'a.wav', 'b.wav', expected)).rejects.toThrow(
    'there is another file called b.wav already',
  );
  expect(await renameFile(root, 'a.wav', 'Möwe.wav', expected)).toEqual(expected);
  expect(Object.keys(tree).sort()).toEqual(['Möwe.wav', 'b.wav']);
  await expect(renameFile(picked({ 'a.wav': good }), 'a.wav', 'c.wav', expected)).rejects.toThrow('cannot rename');
});

test('whether a root can be written is known before anybody is asked', async () => {
  expect(await whyNotWritten(picked({}), 'now')).toBeUndefined();
  // Not asked yet: it will be, in the click that writes.
  expect(await whyNotWritten(picked({}, 'prompt'), 'later')).toBeUndefined();
  expect(await whyNotWritten(picked({}, 'prompt'), 'now')).toContain('was not allowed to write');
  expect(await whyNotWritten(picked({}, 'denied'), 'later')).toContain('was not allowed to write');
  expect(await whyNotWritten({ ...picked({}), kind: 'copied' }, 'later')).toContain('copied into the browser');
  expect(await whyNotWritten({ ...picked({}), removed: 'kept' }, 'later')).toContain('was taken out');
});
