import 'fake-indexeddb/auto';
import { changeOf, type Change, type Edit, type Pull, type Sound } from '@core/library';
import { SoundIndex } from '@core/search';
import { Catalogue, type Surroundings } from '@platform/catalogue/catalogue';
import { Gate } from '@platform/labelling/desk';
import type { Identity } from '@platform/store/identity';
import { MARGIN, NoRoom, OPENING, patient, Room } from '@platform/store/room';
import { Store } from '@platform/store/store';
import fc from 'fast-check';
import { emptyStore, likeABrowser } from '../helpers/browser';
import { soundOf } from '../helpers/catalogue';

// Nothing is lost: whatever a second tab, a full disk, a bad record or a database that goes does.

beforeAll(likeABrowser);
beforeEach(emptyStore);
const open: Catalogue[] = [];
afterEach(() => open.splice(0).forEach((c) => c.close()));

async function tab(around: Surroundings = {}, name?: string, remembered?: string) {
  const catalogue = new Catalogue(around);
  open.push(catalogue);
  const opened = await catalogue.open(name, remembered);
  return { catalogue, opened };
}
const edit = (label: string, changes: (Change | undefined)[], more: Partial<Edit> = {}): Edit => ({
  ...{ label, at: 1, undoable: true, changes: changes.filter((c) => c !== undefined) },
  ...more,
});
const take = (c: Catalogue, ...sounds: Sound[]) =>
  c.apply(
    edit(
      'Take in',
      sounds.map((s) => ({ table: 'sounds' as const, id: s.id, after: { ...s } })),
      { undoable: false },
    ),
  );
const one = async (c: Catalogue, id: number) => (await c.sounds([id]))[0];
const name = async (c: Catalogue, id: number, to: string, more: Partial<Edit> = {}) =>
  c.apply(edit(`Name ${to}`, [changeOf('sounds', await one(c, id), { 'fields.fxName': to })], more));
const nameOf = async (c: Catalogue, id: number) => (await one(c, id)).fields.fxName;

describe('undo', () => {
  test('asked for twice at once takes two steps', async () => {
    const { catalogue: c } = await tab();
    await take(c, soundOf(5, { fxName: 'a' }));
    await name(c, 5, 'b');
    await name(c, 5, 'c');
    const both = await Promise.all([c.undo(), c.undo()]);
    expect(both.map((t) => t?.label)).toEqual(['Name c', 'Name b']);
    expect(await nameOf(c, 5)).toBe('a');
    await Promise.all([c.redo(), c.redo()]);
    expect(await nameOf(c, 5)).toBe('c');
  });

  test('belongs to a tab while it is open, and to whoever asks once it is not', async () => {
    const { catalogue: a } = await tab();
    const { catalogue: b, opened } = await tab();
    await take(a, soundOf(5, { fxName: 'x' }), soundOf(6, { fxName: 'y' }));
    await name(a, 5, 'mine');
    await name(b, 6, 'theirs');
    expect((await a.undo())?.label).toBe('Name mine');
    expect(await a.undo()).toBeUndefined();
    expect(await nameOf(a, 6)).toBe('theirs');
    expect(await a.undoState()).toEqual({ undo: undefined, redo: 'Name mine' });
    // What the other one does keeps what I may do again.
    await name(b, 6, 'again');
    expect(await a.undoState()).toEqual({ undo: undefined, redo: 'Name mine' });
    expect(opened.tab).not.toBe('');
    b.close();
    expect((await a.undo())?.label).toBe('Name again');
  });

  test('of a scene leaves the library alone, and the other way round', async () => {
    const { catalogue: c } = await tab();
    await take(c, soundOf(5, { fxName: 'a' }));
    await name(c, 5, 'b');
    await name(c, 5, 'c', { scope: 'scene 3' });
    expect(await c.undoState()).toMatchObject({ undo: 'Name b' });
    expect(await c.undoState('scene 3')).toMatchObject({ undo: 'Name c' });
    expect((await c.undo('scene 3'))?.label).toBe('Name c');
    expect(await nameOf(c, 5)).toBe('b');
  });

  test('with an edit of another tab in flight, what stood there first can still be reached', async () => {
    const { catalogue: a } = await tab();
    const { catalogue: b } = await tab();
    await take(a, soundOf(5, { fxName: 'first' }));
    const stale = await one(b, 5);
    await name(a, 5, 'mine');
    // Thought out before mine was kept.
    await b.apply(edit('Name theirs', [changeOf('sounds', stale, { 'fields.fxName': 'theirs' })]));
    const mine = await a.undo();
    expect([mine?.kept, await nameOf(a, 5)]).toEqual([1, 'theirs']);
    await b.undo();
    expect(await nameOf(a, 5)).toBe('mine');
  });

  test('two tabs that edit and take back at random end with the index in step and every value one that was given', async () => {
    const tabs = [(await tab()).catalogue, (await tab()).catalogue];
    await take(tabs[0], ...[5, 6, 7].map((id) => soundOf(id, { fxName: 'begin' })));
    const given = new Set(['begin']);
    const act = fc.record({
      tab: fc.nat(1),
      id: fc.constantFrom(5, 6, 7),
      act: fc.constantFrom('edit', 'tag', 'undo', 'redo'),
    });
    const acts = fc.sample(act, 200);
    let n = 0;
    const work = acts.map(async ({ tab: t, id, act: what }) => {
      const c = tabs[t];
      if (what === 'undo') return void (await c.undo());
      if (what === 'redo') return void (await c.redo());
      const to = `w${String(++n).padStart(4, '0')}e`;
      given.add(to);
      const sound = await one(c, id);
      const tags = [...((sound.fields.keywords as string[] | undefined) ?? []), to];
      const after = what === 'edit' ? { 'fields.fxName': to } : { 'fields.keywords': tags };
      await c.apply(edit(to, [changeOf('sounds', sound, after)]));
    });
    await Promise.all(work);
    for (const c of tabs) {
      await (await tab()).catalogue.sounds([5]);
      for (const id of [5, 6, 7]) {
        const { fields } = await one(c, id);
        expect(given.has(fields.fxName as string)).toBe(true);
        for (const word of [fields.fxName as string, ...((fields.keywords as string[] | undefined) ?? [])])
          expect([...(await c.ids({ text: `${word} ` }))]).toContain(id);
      }
      const words = (await c.sounds([5, 6, 7])).flatMap((s) => [
        s.fields.fxName,
        ...((s.fields.keywords as string[]) ?? []),
      ]);
      for (const word of given) if (!words.includes(word)) expect([...(await c.ids({ text: `${word} ` }))]).toEqual([]);
    }
  });
});

test('how many sounds a root has is right, however it is asked for while they come in', async () => {
  const { catalogue: c } = await tab();
  const roots = Array.from({ length: 9 }, (_, i): Change => ({
    table: 'roots',
    id: 2 + i,
    after: { id: 2 + i, name: 'Tapes', kind: 'picked', added: 1 },
  }));
  await c.apply(edit('Add', roots, { undoable: false }));
  const count = async () => (await c.countByRoot())[0];
  const work: Promise<unknown>[] = [];
  for (let i = 0; i < 30; i++) {
    work.push(take(c, soundOf(10 + i)));
    if (i % 3 === 0) work.push(c.countByRoot());
  }
  await Promise.all(work);
  expect(await count()).toEqual([2, 30]);
  await c.apply(edit('Out', [{ table: 'sounds', id: 10, before: { ...(await one(c, 10)) } }]));
  expect(await count()).toEqual([2, 29]);
  await c.undo();
  expect(await count()).toEqual([2, 30]);
});

describe('two tabs', () => {
  test('that add a tag to one sound, and a sound to one pull, lose neither', async () => {
    const { catalogue: a } = await tab();
    const { catalogue: b } = await tab();
    await take(a, soundOf(5), soundOf(6), soundOf(7));
    await a.apply(
      edit(
        'Tags',
        [1, 2, 3].map((i) => ({ table: 'tags', id: i + 10, after: { id: i + 10, name: `t${i}` } })),
      ),
    );
    const [before] = await a.sounds([5]);
    const tagged = (ids: number[]) => changeOf('sounds', before, { 'fields.tags': ids });
    await Promise.all([a.apply(edit('a', [tagged([11])])), b.apply(edit('b', [tagged([12])]))]);
    expect(new Set((await one(a, 5)).fields.tags as number[])).toEqual(new Set([11, 12]));
    const [tray] = (await a.all('pulls')) as Pull[];
    const held = (ids: number[]) => changeOf('pulls', tray, { soundIds: ids });
    await Promise.all([a.apply(edit('a', [held([5, 6])])), b.apply(edit('b', [held([7])]))]);
    expect(((await a.all('pulls')) as Pull[])[0].soundIds).toHaveLength(3);
    await a.undo();
    expect(((await a.all('pulls')) as Pull[])[0].soundIds).toEqual([7]);
  });

  test('an edit that must match is refused whole, and says so', async () => {
    const { catalogue: a } = await tab();
    await take(a, soundOf(5, { fxName: 'a' }), soundOf(6, { fxName: 'a' }));
    const stale = await a.sounds([5, 6]);
    await name(a, 6, 'b');
    const changes = stale.map((s) => changeOf('sounds', s, { 'fields.fxName': 'batch' }));
    await expect(a.apply(edit('Batch', changes, { precondition: 'match' }))).rejects.toThrow(/changed elsewhere/);
    expect([await nameOf(a, 5), await nameOf(a, 6)]).toEqual(['a', 'b']);
  });
});

describe('records that cannot be used', () => {
  test('keep nobody out: they are set aside when the catalogue is opened, listed, mended and put back', async () => {
    const { catalogue: first } = await tab();
    await take(first, soundOf(5, { fxName: 'Gate' }), soundOf(6, { fxName: 'Rope' }));
    first.close();
    const store = new Store();
    await store.open();
    await store.table('tags').put({ id: 30 });
    await store.table('sounds').put({ ...soundOf(8), fields: null });
    await store.table('sounds').put({ ...soundOf(9), id: 2 ** 53 });
    await store.table('pulls').put({ id: 31, name: 'List', soundIds: null, created: 1 });
    store.close();
    const { catalogue, opened } = await tab();
    expect(opened.size).toBe(2);
    expect([...(await catalogue.ids({ text: 'gate' }))]).toEqual([5]);
    const aside = await catalogue.setAside();
    expect(aside.map((a) => a.table).sort()).toEqual(['pulls', 'sounds', 'sounds', 'tags']);
    expect(aside.map((a) => a.reason).join()).toMatch(/tags 30\): the whole must have required property 'name'/);
    const done = await catalogue.mend(aside.map((a) => a.id));
    expect(done).toHaveLength(3);
    expect((await catalogue.all('tags')) as object[]).toEqual([{ id: 30, name: 'Without a name' }]);
    // Of an id that can be no id nothing better can be made: it stays where it can be saved.
    expect((await catalogue.setAside()).map((a) => a.record.id)).toEqual([2 ** 53]);
  });

  test('are never made by an edit: it is refused, with the reason, and nothing of it is kept', async () => {
    const { catalogue: c } = await tab();
    await take(c, soundOf(5, { fxName: 'a' }));
    const bad: Change = { table: 'tags', id: 40, after: { id: 40, name: '' } };
    const good = changeOf('sounds', await one(c, 5), { 'fields.fxName': 'b' });
    await expect(c.apply(edit('Half', [good, bad]))).rejects.toThrow(/tags 40\): name .* Nothing was changed/);
    expect(await nameOf(c, 5)).toBe('a');
  });

  test('an index that throws is made anew, and the edit that was kept is no failure', async () => {
    const { catalogue: c } = await tab();
    await take(c, soundOf(5, { fxName: 'Gate' }), soundOf(6, { fxName: 'Rope' }));
    const put = jest.spyOn(SoundIndex.prototype, 'put').mockImplementationOnce(() => {
      throw new Error('the index is broken');
    });
    await name(c, 5, 'Winch');
    put.mockRestore();
    expect([...(await c.ids({ text: 'winch ' }))]).toEqual([5]);
    expect([...(await c.ids({ text: 'rope ' }))]).toEqual([6]);
    expect([...(await c.ids({ text: 'gate ' }))]).toEqual([]);
  });
});

describe('a library that goes missing', () => {
  const memory = () => {
    const kept: { identity?: Identity } = {};
    return {
      kept,
      read: () => Promise.resolve(kept.identity),
      write: (identity: Identity) => Promise.resolve(void (kept.identity = identity)),
    };
  };
  const remembered = async (c: Catalogue) => {
    await take(c, soundOf(5), soundOf(6));
    return { ...c.known(), sounds: 2 };
  };

  test('is said to be gone when its database is empty, until somebody goes on without it', async () => {
    const outside = memory();
    const { catalogue: c } = await tab({ memory: outside });
    outside.kept.identity = await remembered(c);
    c.close();
    emptyStore();
    const { opened, catalogue } = await tab({ memory: outside });
    expect(opened.loss).toMatchObject({ how: 'gone', was: { sounds: 2 } });
    expect(opened.size).toBe(0);
    // Working on does not make it forgotten.
    await take(catalogue, soundOf(9));
    catalogue.close();
    expect((await tab({ memory: outside })).opened.loss).toMatchObject({ how: 'another' });
    const last = open[open.length - 1];
    await last.accept();
    outside.kept.identity = last.known();
    last.close();
    expect((await tab({ memory: outside })).opened.loss).toBeUndefined();
  });

  test('is said to have gone back, by how many edits', async () => {
    const outside = memory();
    const { catalogue: c } = await tab({ memory: outside });
    const now = await remembered(c);
    c.close();
    outside.kept.identity = { ...now, revision: now.revision + 3 };
    expect((await tab({ memory: outside })).opened.loss).toMatchObject({ how: 'earlier', edits: 3 });
  });

  test('what the window remembers counts as well, and what is no memory of ours does not', async () => {
    const { catalogue: c } = await tab();
    const now = await remembered(c);
    c.close();
    emptyStore();
    expect((await tab({}, undefined, JSON.stringify(now))).opened.loss).toMatchObject({ how: 'gone' });
    for (const text of ['', 'null', '{"store":5}', '[]', '{"store":"x","revision":"1","sounds":1,"at":1}']) {
      emptyStore();
      expect((await tab({}, undefined, text)).opened.loss).toBeUndefined();
    }
  });
});

describe('room on the disk', () => {
  const disk = (free: number) => {
    const probes: number[] = [];
    return {
      probes,
      set: (n: number) => (free = n),
      probe: (bytes: number) => (probes.push(bytes), Promise.resolve(Math.min(bytes, free))),
    };
  };

  test('is made sure of before anything is written: where it is too small nothing is, and the reason says how much', async () => {
    const small = disk(1e9);
    const { catalogue: c } = await tab({ room: new Room(small) });
    await take(c, ...Array.from({ length: 400 }, (_, i) => soundOf(5 + i, { fxName: `s${i}` })));
    small.set(2 * MARGIN + 0.3e6);
    const sounds = await c.sounds(Array.from({ length: 400 }, (_, i) => 5 + i));
    const batch = edit(
      'Batch',
      sounds.map((s) => changeOf('sounds', s, { 'fields.notes': 'x'.repeat(20_000) })),
    );
    await expect(c.apply(batch)).rejects.toThrow(/this needs \d+ MB free, and there are 32 MB\. Nothing was changed/);
    expect((await one(c, 5)).fields.notes).toBeUndefined();
    expect(await c.undoState()).toEqual({ undo: undefined, redo: undefined });
    small.set(1e9);
    await c.apply(batch);
    expect((await one(c, 5)).fields.notes).toHaveLength(20_000);
  });

  test('small edits in a row look at the disk once, until what was proved is used up', async () => {
    const big = disk(1e9);
    const room = new Room(big);
    for (let i = 0; i < 50; i++) await room.need(10_000);
    expect(big.probes).toHaveLength(1);
    await room.need(40e6);
    expect(big.probes[1]).toBe(40e6 + 2 * MARGIN);
    big.set(5);
    await expect(room.need(40e6)).rejects.toBeInstanceOf(NoRoom);
    // Having been refused once, it looks again each time.
    await expect(room.need(1)).rejects.toBeInstanceOf(NoRoom);
  });

  test('whoever looks at the disk and never comes back has found none, and is left behind; nobody waits for him', async () => {
    let ended = 0;
    const looks = [new Promise<number>(() => undefined), Promise.resolve(5e7)];
    const probe = () => looks.shift()!;
    const slow = patient(() => ({ disk: { probe }, end: () => void ended++ }), 20);
    const room = new Room(slow);
    await expect(room.need(1)).rejects.toThrow(/not enough room: it does not answer/);
    await room.need(1);
    expect(ended).toBe(2);
  });

  test('is left to the browser before it opens its database, and where there is too little it is not asked to', async () => {
    const full = disk(OPENING - 1);
    await expect(new Store(new Room(full)).open()).rejects.toThrow(/this needs 8\.0 MB free, and there are 8\.0 MB/);
    full.set(OPENING);
    const room = new Room(full);
    const store = new Store(room);
    await store.open();
    expect(await store.sounds.count()).toBe(0);
    store.close();
    // Enough for opening is not enough for writing.
    await expect(room.need(1)).rejects.toBeInstanceOf(NoRoom);
  });

  test('a library that was begun early tells what went wrong once it is asked for', async () => {
    const c = new Catalogue({ room: new Room(disk(0)) });
    c.begin();
    await new Promise((soon) => setTimeout(soon));
    await expect(c.open()).rejects.toBeInstanceOf(NoRoom);
    c.close();
  });

  test('a new library needs one look, and a smaller one than an edit, until more is written', async () => {
    const big = disk(1e9);
    const room = new Room(big);
    await tab({ room });
    expect(big.probes).toHaveLength(1);
    expect(big.probes[0]).toBeLessThan(2 * MARGIN);
    await room.need(2e6);
    expect(big.probes.slice(1)).toEqual([2e6 + 2 * MARGIN]);
  });

  test('a database that the browser closed is not used until there is room, and then is, by itself', async () => {
    const full = disk(1e9);
    const store = new Store(new Room(full));
    await store.open();
    await store.tags.put({ id: 3, name: 'gate' });
    const returned = new Promise<void>((done) => (store.returned = done));
    full.set(0);
    store.backendDB().onclose?.(new Event('close'));
    await expect(store.tags.toArray()).rejects.toThrow('has been closed');
    // The look that found nothing was the one that opening began with.
    await expect(store.open()).rejects.toBeInstanceOf(NoRoom);
    full.set(1e9);
    await returned;
    expect(await store.tags.toArray()).toEqual([{ id: 3, name: 'gate' }]);
    store.close();
  });
});

describe('cancelling', () => {
  const gate = () => new Gate(new Int32Array(new SharedArrayBuffer(4)));

  test('either comes first, or is too late; never both', () => {
    const early = gate();
    expect(early.cancel()).toBe(true);
    expect(() => early.enter()).toThrow('Cancelled. Nothing was changed.');
    const late = gate();
    late.enter();
    late.enter();
    expect([late.closed, late.cancel()]).toEqual([true, false]);
    late.leave();
    expect(late.cancel()).toBe(false);
    late.leave();
    expect([late.closed, late.cancel()]).toEqual([false, true]);
  });
});
