import 'fake-indexeddb/auto';
import { memorySource, readAudioFile, writeWav } from '@core/files';
import type { PublishHow, Sound } from '@core/library';
import { Publisher, type PublishExtras } from '@platform/out/publisher';
import { Store, type PublishedPlace, type PublishingRecord } from '@platform/store/store';
import { createHash } from 'node:crypto';
import { emptyStore, likeABrowser } from '../helpers/browser';
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
/** What the browser keeps for itself. */
let kept: Tree;
const names = ['a.wav', 'b.wav', 'c.wav'];

beforeAll(likeABrowser);
beforeEach(async () => {
  emptyStore();
  store = new Store();
  await store.open();
  yard = Object.fromEntries(
    names.map((name, i) => [name, writeWav([hit(rate, 0.1, 0.5, 200 + i)], { rate, bits: 16 })]),
  );
  shop = {};
  kept = {};
  Object.assign(navigator, { storage: { getDirectory: () => Promise.resolve(folderHandle('', kept)) } });
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
  // The same for the folder that is published into.
  const places = new Map<number, PublishedPlace>();
  const { publishings } = store;
  const add = publishings.add.bind(publishings);
  const get = publishings.get.bind(publishings) as (id: number) => Promise<PublishingRecord | undefined>;
  jest.spyOn(store.publishings, 'add').mockImplementation((async ({ place, ...row }: PublishingRecord) => {
    const id = (await add(row as PublishingRecord)) as number;
    places.set(id, place);
    return id;
  }) as never);
  jest.spyOn(store.publishings, 'get').mockImplementation((async (id: number) => {
    const row = await get(id);
    return row && { ...row, place: places.get(id) };
  }) as never);
  publisher = new Publisher(store);
});
afterEach(() => {
  store.close();
  jest.restoreAllMocks();
});

const publish = (handle = folderHandle('Shop', shop), ids = [1, 2, 3]) =>
  publisher.publish(ids, how, extras, { kind: 'folder', handle }, () => undefined);
/** A folder in which writing fails when it is said so. */
function failing(folder: FileSystemDirectoryHandle, why: () => DOMException | undefined): FileSystemDirectoryHandle {
  const below: Partial<FileSystemDirectoryHandle> = {
    getDirectoryHandle: async (name, options) => failing(await folder.getDirectoryHandle(name, options), why),
    getFileHandle: async (name, options) => {
      const file = await folder.getFileHandle(name, options);
      const createWritable = () => {
        const error = why();
        return error ? Promise.reject(error) : file.createWritable();
      };
      return { ...file, createWritable } as FileSystemFileHandle;
    },
  };
  return { ...folder, ...below } as FileSystemDirectoryHandle;
}
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
  // Another visit takes it back; what it could not, it can try again.
  publisher = new Publisher(store);
  const [{ id, title, files }] = await publisher.publishings();
  expect([title, files]).toEqual(['Sold', 3]);
  const taken = () => publisher.takeBack(id, () => undefined);
  expect(await taken()).toMatchObject({ removed: 2, replaced: 0, failed: [{ path: 'DOORS/b.wav' }] });
  expect(Object.keys(doors())).toEqual(['a.wav', 'b.wav']);
  expect(sold()['checksums.sha256']).toBeUndefined();
  expect(await taken()).toMatchObject({ removed: 0, failed: [{ path: 'DOORS/b.wav' }] });
  expect((await publisher.publishings()).map((p) => p.files)).toEqual([1]);
  delete (sold().DOORS as Tree)['b.wav'];
  expect((await taken()).failed).toEqual([]);
  expect(await publisher.publishings()).toEqual([]);
  await expect(taken()).rejects.toThrow('taken back already');
});

test('a file of an earlier time is there until the new one takes its place, and again when that is taken back', async () => {
  await publish();
  const first = structuredClone(shop);
  await store.sounds.update(2, { 'fields.description': 'Oak gate' });
  const old = doors()['b.wav'];
  // The browser fails at the very end of writing.
  const inUse = failing(folderHandle('Shop', shop), () => new DOMException('in use', 'NoModificationAllowedError'));
  expect(await publish(inUse)).toMatchObject({ written: 0, failed: [{ path: 'DOORS/b.wav' }] });
  expect(doors()['b.wav']).toEqual(old);
  yard['d.wav'] = yard['c.wav'];
  await store.sounds.add({ ...(await store.sounds.get(3))!, id: 4, path: 'd.wav' });
  expect(await publish(undefined, [1, 2, 3, 4])).toMatchObject({ written: 2, same: 2 });
  expect(doors()['b.wav']).not.toEqual(old);
  const [now, before] = await publisher.publishings();
  expect([now.files, now.kept, now.replaced]).toEqual([2, 1, 0]);
  expect(Object.keys(kept.replaced)).toHaveLength(1);
  const back = (id: number) => publisher.takeBack(id, () => undefined);
  expect(await back(now.id)).toMatchObject({ removed: 1, restored: 1, failed: [] });
  expect(shop).toEqual(first);
  expect(Object.keys(kept.replaced)).toEqual([]);
  // What was put back belongs to the one that wrote it first.
  expect(await back(before.id)).toMatchObject({ removed: 4, restored: 0, failed: [] });
  expect(sold()).toEqual({});
});

test('what cannot be kept is not replaced; what somebody changed since is not put back', async () => {
  await publish();
  await store.sounds.update(2, { 'fields.description': 'Oak gate' });
  const old = doors()['b.wav'];
  const full = failing(folderHandle('', kept), () => new DOMException('no room', 'QuotaExceededError'));
  Object.assign(navigator, { storage: { getDirectory: () => Promise.resolve(full) } });
  const outcome = await publish();
  expect(outcome).toMatchObject({ written: 0, same: 2 });
  expect(outcome.stopped).toBeUndefined();
  expect(outcome.failed[0].reason).toContain('there is no room for it');
  expect(doors()['b.wav']).toEqual(old);
  Object.assign(navigator, { storage: { getDirectory: () => Promise.resolve(folderHandle('', kept)) } });
  await publish();
  const ours = doors()['b.wav'];
  doors()['b.wav'] = Uint8Array.from([9]);
  const [{ id }] = await publisher.publishings();
  const taken = () => publisher.takeBack(id, () => undefined);
  expect(await taken()).toMatchObject({ restored: 0, failed: [{ path: 'DOORS/b.wav' }] });
  expect(doors()['b.wav']).toEqual(Uint8Array.from([9]));
  doors()['b.wav'] = ours;
  expect(await taken()).toMatchObject({ restored: 1, failed: [] });
  expect(doors()['b.wav']).toEqual(old);
});

test('a page that is closed between the making of a file and its note can take it back all the same', async () => {
  await publish();
  await store.sounds.update(2, { 'fields.description': 'Oak gate' });
  const old = structuredClone(shop);
  // The page ends as soon as the file lies there: nothing is noted of it any more.
  const update = jest
    .spyOn(store.published, 'update')
    .mockImplementation((() => new Promise(() => undefined)) as never);
  void publish();
  while (update.mock.calls.length === 0) await new Promise((go) => setImmediate(go));
  update.mockRestore();
  expect(doors()['b.wav']).not.toEqual((old.Sold as { DOORS: Tree }).DOORS['b.wav']);
  publisher = new Publisher(store);
  const [{ id }] = await publisher.publishings();
  expect(await publisher.takeBack(id, () => undefined)).toMatchObject({ restored: 1, failed: [] });
  expect(shop).toEqual(old);
});

test('a disk that is full ends it in words, with nothing half written; the next time finishes it', async () => {
  let left = 1;
  const full = failing(folderHandle('Shop', shop), () =>
    left-- > 0 ? undefined : new DOMException('no room', 'QuotaExceededError'),
  );
  expect(await publish(full)).toMatchObject({
    written: 1,
    stopped: expect.stringContaining('the disk is full') as string,
  });
  for (const name of Object.keys(doors()))
    expect((await readAudioFile(memorySource(doors()[name] as Uint8Array))).warnings).toEqual([]);
  expect(await publish()).toMatchObject({ written: 2, same: 1, failed: [] });
});
