import 'fake-indexeddb/auto';
import { Catalogue } from '@platform/catalogue/catalogue';
import type { SnapshotFile } from '@platform/finding/snapshots';
import { changeOf, type Sound } from '@core/library';
import { emptyStore, likeABrowser } from '../helpers/browser';
import { factsOf, soundOf } from '../helpers/catalogue';

/** A snapshot file in memory, and how often it was read and written. */
class MemoryFile implements SnapshotFile {
  bytes: Uint8Array | undefined;
  written = 0;
  full = false;

  read(): Promise<ArrayBuffer | undefined> {
    return Promise.resolve(this.bytes?.slice().buffer);
  }

  async write(pieces: readonly Uint8Array[], next: () => Promise<boolean>): Promise<boolean> {
    if (this.full) throw new Error('no room');
    for (const _ of pieces) if (!(await next())) return false;
    this.bytes = new Uint8Array(pieces.flatMap((p) => [...p]));
    this.written++;
    return true;
  }
}

const open: Catalogue[] = [];
async function catalogue(file: SnapshotFile): Promise<Catalogue> {
  const made = new Catalogue({ snapshot: file });
  open.push(made);
  await made.open();
  return made;
}
type Inside = {
  channel: BroadcastChannel;
  index: { save(): Promise<void>; whenQuiet(): void; quiet: number; size: number; settle(): Promise<void> };
};
const inside = (c: Catalogue) => (c as unknown as Inside).index;
const close = (c: Catalogue) => c.close();
beforeAll(likeABrowser);
beforeEach(emptyStore);
afterEach(() => open.splice(0).forEach(close));

const take = (c: Catalogue, ...sounds: Sound[]) =>
  c.apply({
    label: 'Take in',
    at: 1,
    undoable: false,
    changes: sounds.map((s) => ({ table: 'sounds' as const, id: s.id, after: { ...s } })),
  });
const rename = async (c: Catalogue, id: number, name: string) => {
  const [sound] = await c.sounds([id]);
  await c.apply({
    label: 'Name',
    at: 1,
    undoable: true,
    changes: [changeOf('sounds', sound, { 'fields.fxName': name })!],
  });
};
const found = async (c: Catalogue, text: string) => [...(await c.ids({ text }))];

describe('opening', () => {
  test('reads the snapshot and what changed since', async () => {
    const file = new MemoryFile();
    const first = await catalogue(file);
    await take(first, soundOf(5, { fxName: 'Gate' }), soundOf(6, { fxName: 'Rope' }), soundOf(7, { fxName: 'Oar' }));
    await inside(first).save();
    await rename(first, 6, 'Chain');
    await first.apply({
      label: 'Out',
      at: 1,
      undoable: true,
      changes: [{ table: 'sounds', id: 7, before: { ...(await first.sounds([7]))[0] } }],
    });
    // What a tab did that is not open any more is anybody's to take back.
    first.close();
    const second = await catalogue(file);
    expect(await found(second, '')).toEqual([5, 6]);
    expect(await found(second, 'chain ')).toEqual([6]);
    expect(await found(second, 'rope ')).toEqual([]);
    await second.undo();
    expect(await found(second, 'oar ')).toEqual([7]);
  });

  test.each<[string, (file: MemoryFile) => void]>([
    ['is damaged', (f) => (f.bytes![f.bytes!.length >> 1] ^= 255)],
    ['is cut off', (f) => (f.bytes = f.bytes!.slice(0, 900))],
    ['is something else', (f) => (f.bytes = new TextEncoder().encode('{"format":"other"}'))],
    ['is empty', (f) => (f.bytes = new Uint8Array(0))],
    ['is gone', (f) => (f.bytes = undefined)],
  ])('reads the rows when the snapshot %s', async (_, spoil) => {
    const file = new MemoryFile();
    const first = await catalogue(file);
    await take(first, soundOf(5, { fxName: 'Gate' }), soundOf(6, { fxName: 'Rope' }));
    await inside(first).save();
    spoil(file);
    const second = await catalogue(file);
    expect(await found(second, 'gate ')).toEqual([5]);
    expect(inside(second).size).toBe(2);
  });

  test('does not trust the snapshot of another store that had the same name', async () => {
    const file = new MemoryFile();
    const first = await catalogue(file);
    await take(first, soundOf(5, { fxName: 'Gate' }));
    await inside(first).save();
    open.splice(0).forEach(close);
    emptyStore();
    const other = await catalogue(file);
    expect(await found(other, '')).toEqual([]);
    await take(other, soundOf(9, { fxName: 'Mud' }));
    expect(await found(await catalogue(file), '')).toEqual([9]);
  });

  test('a disk without room costs the snapshot only, and the changes since stay known', async () => {
    const file = new MemoryFile();
    const first = await catalogue(file);
    await take(first, soundOf(5, { fxName: 'Gate' }));
    await inside(first).save();
    file.full = true;
    await rename(first, 5, 'Mud');
    await inside(first).save();
    expect(file.written).toBe(1);
    expect(await found(await catalogue(file), 'mud ')).toEqual([5]);
  });
});

test('what a catalogue does in a quiet while ends in silence with it', async () => {
  const c = await catalogue(new MemoryFile());
  await take(c, soundOf(5, { fxName: 'Gate' }));
  const settled = inside(c).settle();
  c.close();
  await settled;
  await inside(c).settle();
});

describe('several tabs', () => {
  test('a snapshot never lacks what another tab did, whether this one heard of it or not', async () => {
    const file = new MemoryFile();
    const [one, two] = [await catalogue(file), await catalogue(file)];
    // The second tab is deaf: it learns of edits from the store alone.
    (two as unknown as Inside).channel.onmessage = null;
    await take(one, soundOf(5, { fxName: 'Gate' }), soundOf(6, { fxName: 'Rope' }));
    await rename(one, 6, 'Chain');
    await inside(two).save();
    expect(await found(await catalogue(file), 'chain ')).toEqual([6]);
  });

  test('an older snapshot written over a newer one is noticed, and the rows are read', async () => {
    const file = new MemoryFile();
    const one = await catalogue(file);
    await take(one, soundOf(5, { fxName: 'Gate' }));
    await inside(one).save();
    const old = file.bytes!;
    await rename(one, 5, 'Mud');
    await rename(one, 5, 'Oar');
    await inside(one).save();
    await rename(one, 5, 'Reed');
    file.bytes = old;
    expect(await found(await catalogue(file), 'reed ')).toEqual([5]);
    expect(await found(await catalogue(file), 'gate ')).toEqual([]);
  });
});

describe('searching', () => {
  test('gives the first rows and then the rest; a newer search ends an older one', async () => {
    const c = await catalogue(new MemoryFile());
    const many = Array.from({ length: 700 }, (_, i) =>
      soundOf(10 + i, { fxName: i % 2 ? 'Gate' : 'Rope', library: `L${i % 3}` }),
    );
    await take(c, ...many);
    const older = c.first({ text: 'gate ' });
    const newer = c.first({ text: 'rope ' });
    expect(await older).toBeUndefined();
    const first = (await newer)!;
    expect(first).toMatchObject({ count: 350, total: 700, faults: [] });
    expect(first.ids).toHaveLength(300);
    // Somebody else asks in between: the list on screen still gets its own rest.
    await c.ids({ text: 'gate ' });
    const rest = (await c.rest(first.searchId, { facetKeys: ['library'], histogramKeys: ['length'] }))!;
    expect(rest.ids).toHaveLength(350);
    expect([...rest.ids.slice(0, 300)]).toEqual([...first.ids]);
    expect(rest.facets.library.distinct).toBe(3);
    expect(rest.histograms.length.counts.reduce((a, b) => a + b)).toBe(350);
    void c.first({ text: '' });
    expect(await c.rest(first.searchId, { facetKeys: [], histogramKeys: [] })).toBeUndefined();
  });

  test('looks inside of a pull and of earlier results, and counts values on request', async () => {
    const c = await catalogue(new MemoryFile());
    await take(
      c,
      soundOf(5, { fxName: 'Gate', author: 'Ann' }),
      soundOf(6, { fxName: 'Gate', author: 'Bo' }),
      soundOf(7, { fxName: 'Oar', author: 'Ann' }),
    );
    expect([...(await c.ids({ text: '', inside: [{ text: 'gate ' }, { text: 'author:ann' }] }))]).toEqual([5]);
    expect((await c.values({ text: 'gate ' }, 'author', 'AN', 5)).values).toEqual([{ value: 'Ann', count: 1 }]);
    expect(c.words('ga', 3)).toEqual([{ value: 'gate', count: 2 }]);
  });

  test('finds what is like a sound once it was measured, nearest first, and says how it differs', async () => {
    const c = await catalogue(new MemoryFile());
    const tone = (id: number, fall: number, name: string) => ({
      sound: soundOf(id, { fxName: name, onsets: 1, noisiness: 0.1 }),
      peaks: {
        id,
        frames: 48000,
        span: 480,
        pairs: Int8Array.from({ length: 200 }, (_, i) => (i % 2 ? 120 * Math.exp(-i / fall) : 0)),
      },
      facts: {
        ...factsOf(id),
        onsets: Uint32Array.of(0),
        spectrum: Float32Array.from({ length: 48 }, (_, b) => -Math.abs(b - fall)),
      },
    });
    const all = [tone(5, 12, 'Short'), tone(6, 40, 'Long'), tone(7, 13, 'Short too'), tone(8, 12, 'Not measured')];
    await take(c, ...all.map((t) => t.sound));
    await c.applyMeasured(
      { label: 'Measure', at: 1, undoable: false, changes: [] },
      { peaks: all.slice(0, 3).map((t) => t.peaks), facts: all.slice(0, 3).map((t) => t.facts) },
    );
    expect([...(await c.ids({ text: '', nearId: 5 }))]).toEqual([5, 7, 6]);
    expect([...(await c.ids({ text: 'long ', nearId: 5 }))]).toEqual([6]);
    expect(c.differences(5, [6, 7, 8]).map((words) => words.length > 0)).toEqual([true, false, false]);
    expect([...(await c.ids({ text: '', nearId: 8 }))]).toEqual([]);
    const steps = [{ text: 'name:short ' }, { text: '', nearId: 6 }];
    expect([...(await c.ids({ text: '', inside: steps }))].sort()).toEqual([5, 7]);
  });

  test('what was heard is kept in order and can be forgotten', async () => {
    const c = await catalogue(new MemoryFile());
    for (const soundId of [5, 6, 5]) await c.heard({ soundId, at: soundId });
    const plays = await c.plays(2);
    expect(plays.map((p) => p.soundId)).toEqual([5, 6]);
    expect((await c.plays(9, plays[1].seq)).map((p) => p.soundId)).toEqual([5]);
    await c.forgetPlays();
    expect(await c.plays(9)).toEqual([]);
  });

  test('words that were declared to mean the same find each other in every tab', async () => {
    const file = new MemoryFile();
    const [one, two] = [await catalogue(file), await catalogue(file)];
    await take(one, soundOf(5, { fxName: 'Lorry' }));
    const told = new Promise<void>((done) => two.subscribe(({ tables }) => tables.includes('alikes') && done()));
    await one.apply({
      label: 'Same',
      at: 1,
      undoable: true,
      changes: [{ table: 'alikes', id: 2, after: { id: 2, words: ['lorry', 'truck'] } }],
    });
    await told;
    expect([await found(one, 'truck '), await found(two, 'truck ')]).toEqual([[5], [5]]);
  });
});
