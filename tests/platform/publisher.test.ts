import 'fake-indexeddb/auto';
import { memorySource, readAudioFile, writeWav } from '@core/files';
import type { PublishHow, Sound } from '@core/library';
import { Publisher, type PublishExtras } from '@platform/out/publisher';
import { Store } from '@platform/store/store';
import { createHash } from 'node:crypto';
import { emptyStore } from '../helpers/browser';
import { soundOf } from '../helpers/catalogue';
import { folderHandle, type Tree } from '../helpers/handles';
import { hit } from '../helpers/signals';

// Publishing into a folder, at bad moments: what cannot be made, what somebody changed, a disk that is full.

const rate = 8000;
const how: PublishHow = { title: 'Sold', tree: '{category}', names: '', format: { kind: 'own' } };
const extras: PublishExtras = {
  ...{ sheet: 'none', keys: [], artwork: false, licence: false, terms: '', credits: false, contents: false },
  sums: true,
};
let store: Store;
let yard: Tree;
let shop: Tree;
let publisher: Publisher;
const names = ['a.wav', 'b.wav', 'c.wav'];

beforeEach(async () => {
  emptyStore();
  store = new Store();
  await store.open();
  yard = Object.fromEntries(
    names.map((name, i) => [name, writeWav([hit(rate, 0.1, 0.5, 200 + i)], { rate, bits: 16 })]),
  );
  shop = {};

  for (const [i, name] of names.entries()) {
    const bytes = yard[name] as Uint8Array;
    const { format } = await readAudioFile(memorySource(bytes));
    await store.sounds.add({
      ...soundOf(i + 1, { category: 'DOORS' }),
      rootId: 1,
      path: name,
      size: bytes.length,
      format,
    } as Sound);
  }
  // A browser keeps handles in its database; here the root is handed in.
  jest
    .spyOn(store.roots, 'toArray')
    .mockImplementation((async () => [
      { id: 1, name: 'Yard', kind: 'picked', handles: [folderHandle('Yard', yard)], added: 1 },
    ]) as never);
  publisher = new Publisher(store);
});
afterEach(() => {
  store.close();
  jest.restoreAllMocks();
});

const publish = (into: Tree = shop) =>
  publisher.publish([1, 2, 3], how, extras, { kind: 'folder', handle: folderHandle('Shop', into) }, () => undefined);
const sold = () => shop.Sold as Tree;
const doors = () => sold().DOORS as Tree;
const sums = () => new TextDecoder().decode(sold()['checksums.sha256'] as Uint8Array);
const sumOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');
const right = () =>
  sums()
    .trim()
    .split('\n')
    .every((line) => sumOf(doors()[line.slice(72)] as Uint8Array) === line.slice(0, 64));

test('labels go along, a second time nothing is written, and what changed replaces what was ours', async () => {
  expect(await publish()).toMatchObject({ written: 3, same: 0, failed: [], left: [] });
  expect(right()).toBe(true);
  expect(await publish()).toMatchObject({ written: 0, same: 3, failed: [] });
  await store.sounds.update(2, { 'fields.description': 'Oak gate' });
  expect(await publish()).toMatchObject({ written: 1, same: 2, failed: [] });
  expect((await readAudioFile(memorySource(doors()['b.wav'] as Uint8Array))).labels.get('bext.Description')).toBe(
    'Oak gate',
  );
  expect(right()).toBe(true);
});

test('what cannot be made this time stays from the last one, and is known as ours later', async () => {
  await publish();
  const gone = yard['b.wav'];
  delete yard['b.wav'];
  const outcome = await publish();
  expect(outcome.failed.map((f) => f.path)).toEqual(['DOORS/b.wav']);
  expect(sums().split('\n').filter(Boolean)).toHaveLength(3);
  yard['b.wav'] = gone;
  await store.sounds.update(2, { 'fields.description': 'Found again' });
  expect(await publish()).toMatchObject({ written: 1, same: 2, failed: [] });
});

test('what somebody put or changed there is left alone; taking back removes what is still ours', async () => {
  shop.Sold = { DOORS: { 'a.wav': Uint8Array.from([1, 2, 3]) } };
  const outcome = await publish();
  expect(outcome).toMatchObject({
    written: 2,
    failed: [{ path: 'DOORS/a.wav', reason: 'there is another file in its place, which is left as it is' }],
  });
  doors()['b.wav'] = Uint8Array.from([9]);
  const { removed, failed } = await publisher.takeBack();
  expect([removed, failed.map((f) => f.path)]).toEqual([2, ['DOORS/b.wav']]);
  expect(Object.keys(doors())).toEqual(['a.wav', 'b.wav']);
  expect(sold()['checksums.sha256']).toBeUndefined();
});

test('a disk that is full ends it in words, with nothing half written; the next time finishes it', async () => {
  const full = folderHandle('Shop', shop);
  let left = 1;
  const narrow = (handle: FileSystemDirectoryHandle): FileSystemDirectoryHandle =>
    ({
      ...handle,
      getDirectoryHandle: async (n: string, o?: object) => narrow(await handle.getDirectoryHandle(n, o)),
      getFileHandle: async (n: string, o?: { create?: boolean }) => {
        const file = await handle.getFileHandle(n, o);
        const out = () =>
          left-- > 0 ? file.createWritable() : Promise.reject(new DOMException('no room', 'QuotaExceededError'));
        return { ...file, createWritable: out } as FileSystemFileHandle;
      },
    }) as FileSystemDirectoryHandle;
  await expect(
    publisher.publish([1, 2, 3], how, extras, { kind: 'folder', handle: narrow(full) }, () => undefined),
  ).resolves.toMatchObject({ written: 1, stopped: expect.stringContaining('the disk is full') as string });
  for (const name of Object.keys(doors()))
    expect((await readAudioFile(memorySource(doors()[name] as Uint8Array))).warnings).toEqual([]);
  expect(await publish()).toMatchObject({ written: 2, same: 1, failed: [] });
});
