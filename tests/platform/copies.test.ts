import 'fake-indexeddb/auto';
import { writeWav } from '@core/files';
import { Catalogue } from '@platform/catalogue/catalogue';
import { CopyFinder } from '@platform/intake/copies';
import { IntakeReader } from '@platform/intake/intake';
import { FACTS_VERSION, type RootRecord } from '@platform/store/store';
import { emptyStore, likeABrowser } from '../helpers/browser';
import { type soundOf } from '../helpers/catalogue';
import { fileHandle } from '../helpers/handles';
import { hit, noise } from '../helpers/signals';
import { encodePng } from '../helpers/picture';
import { id3 } from '../helpers/fuzz';

beforeAll(likeABrowser);
beforeEach(emptyStore);

const hiss = noise(19200, 0.05, 9);
const struck = hit(16000, 1.2, 0.8, 300, 1).map((x, i) => x + hiss[i]);
const files: Record<string, Uint8Array> = {
  'one.wav': writeWav([struck], {
    rate: 16000,
    bits: 24,
  }),
  'other.wav': writeWav([noise(19200, 0.4, 3)], { rate: 16000, bits: 24 }),
};
files['copy.wav'] = writeWav([struck], { rate: 16000, bits: 24 }, { info: { INAM: 'Relabelled' } });
const root: RootRecord = {
  id: 2,
  name: 'Tapes',
  kind: 'picked',
  added: 0,
  handles: Object.entries(files).map(([name, bytes]) => fileHandle(name, bytes)),
};

const open: Catalogue[] = [];
afterEach(() => open.splice(0).forEach((c) => c.close()));

async function measured(): Promise<Catalogue> {
  const catalogue = new Catalogue();
  await catalogue.open();
  open.push(catalogue);
  const reader = new IntakeReader();
  let id = 10;
  for (const [path, bytes] of Object.entries(files)) {
    const [result] = await reader.read(root, [
      { path, size: bytes.length, modified: 1, rootId: 2, rootName: 'Tapes', intakeId: 3, now: 4 },
    ]);
    if (!('sound' in result)) throw new Error(result.reason);
    const { hash, peaks, record } = await reader.measure(root, {
      id,
      path,
      size: bytes.length,
      format: result.sound.format,
      loop: false,
    });
    await catalogue.apply({
      label: 'x',
      at: 1,
      undoable: false,
      changes: [{ table: 'sounds', id, after: { ...result.sound, hash } }],
    });
    await catalogue.applyMeasured(
      { label: 'Measure', at: 1, undoable: false, changes: [] },
      { peaks: [peaks], facts: [record] },
    );
    id++;
  }
  return catalogue;
}
// A channel that was closed cannot tell other tabs; these tests have none.
beforeAll(() => jest.spyOn(BroadcastChannel.prototype, 'postMessage').mockImplementation(() => undefined));

test('copies are found in the store, whatever they are called, and not among what is hidden or measured by older code', async () => {
  const catalogue = await measured();
  const shares: number[] = [];
  const find = () => new CopyFinder().find((s) => shares.push(s));
  expect(await find()).toEqual([{ kind: 'exact', ids: [10, 12] }]);
  expect(shares.every((s) => s >= 0 && s <= 1)).toBe(true);
  const [sound] = await catalogue.sounds([12]);
  await catalogue.apply({
    label: 'x',
    at: 1,
    undoable: false,
    changes: [{ table: 'sounds', id: 12, before: {}, after: { hidden: 'aside' } }],
  });
  expect(await find()).toEqual([]);
  await catalogue.apply({
    label: 'x',
    at: 1,
    undoable: false,
    changes: [{ table: 'sounds', id: 12, after: { ...sound } }],
  });
  const [facts] = await catalogue.facts([12]);
  await catalogue.applyMeasured(
    { label: 'Measure', at: 1, undoable: false, changes: [] },
    { peaks: [], facts: [{ ...facts, version: FACTS_VERSION - 1 }] },
  );
  expect(await find()).toEqual([]);
  expect(await catalogue.facts([12])).toEqual([]);
});

test('what a file says, and its picture, are read when they are to be shown', async () => {
  const png = encodePng(6, 4);
  const apic = new Uint8Array([0, ...Array.from('image/png\0', (c) => c.charCodeAt(0)), 3, 0, ...png]);
  const bytes = writeWav(
    [noise(800)],
    { rate: 8000, bits: 16 },
    { info: { INAM: 'Gate' }, chunks: [{ id: 'id3 ', bytes: id3({ APIC: apic }) }] },
  );
  const own: RootRecord = { ...root, handles: [fileHandle('gate.wav', bytes)] };
  const reader = new IntakeReader();
  const { labels, warnings } = await reader.labels(own, 'gate.wav', bytes.length);
  expect([Object.fromEntries(labels), warnings]).toEqual([{ 'INFO.INAM': 'Gate' }, []]);
  const [result] = await reader.read(own, [
    { path: 'gate.wav', size: bytes.length, modified: 1, rootId: 2, rootName: 'T', intakeId: 3, now: 4 },
  ]);
  const { artwork } = (result as { sound: ReturnType<typeof soundOf> }).sound;
  const picture = await reader.artwork(own, 'gate.wav', bytes.length, artwork);
  expect([picture!.mime, [...picture!.bytes]]).toEqual(['image/png', [...png]]);
  expect(await reader.artwork(own, 'gate.wav', bytes.length)).toBeUndefined();
});

test('a hash is only asked of files that could be the same audio', async () => {
  const reader = new IntakeReader();
  const listed = (path: string) => ({ path, size: files[path].length, modified: 1 });
  const [result] = await reader.read(root, [{ ...listed('one.wav'), rootId: 2, rootName: 'T', intakeId: 3, now: 4 }]);
  const { format } = (result as { sound: ReturnType<typeof soundOf> }).sound;
  const hash = await reader.audioHash(root, listed('one.wav'), format);
  expect(await reader.audioHash(root, listed('copy.wav'), format)).toBe(hash);
  expect(await reader.audioHash(root, listed('other.wav'), format)).not.toBe(hash);
  expect(await reader.audioHash(root, listed('copy.wav'), { ...format, rate: 48000 })).toBeUndefined();
  expect(await reader.audioHash(root, listed('copy.wav'), { ...format, frames: 7 })).toBeUndefined();
  expect(await reader.audioHash(root, { path: 'gone.wav', size: 9, modified: 1 }, format)).toBeUndefined();
});
