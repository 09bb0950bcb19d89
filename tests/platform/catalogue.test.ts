import 'fake-indexeddb/auto';
import { changeOf, TRAY, type Change, type Edit, type Pull, type Sound } from '@core/library';
import { Catalogue, type Changed } from '@platform/catalogue/catalogue';
import { emptyStore, likeABrowser } from '../helpers/browser';
import { factsOf, soundOf } from '../helpers/catalogue';

beforeAll(likeABrowser);

const open: Catalogue[] = [];
async function tab(): Promise<Catalogue> {
  const catalogue = new Catalogue();
  await catalogue.open();
  open.push(catalogue);
  return catalogue;
}
beforeEach(emptyStore);
afterEach(() => {
  for (const c of open.splice(0)) c.close();
});

const edit = (label: string, changes: (Change | undefined)[], undoable = true): Edit => ({
  label,
  at: 1,
  undoable,
  changes: changes.filter((c) => c !== undefined),
});
const make = (...sounds: Sound[]) =>
  edit(
    'Take in',
    sounds.map((s) => ({ table: 'sounds' as const, id: s.id, after: { ...s } })),
    false,
  );
const names = async (c: Catalogue, text: string) =>
  (await c.sounds([...(await c.ids({ text }))])).map((s) => s.fields.fxName);
const one = async (c: Catalogue, id: number) => (await c.sounds([id]))[0];

test('an edit is found at once, taken back and done again, over any number of steps', async () => {
  const c = await tab();
  await c.apply(make(soundOf(5, { fxName: 'Gate' }), soundOf(6, { fxName: 'Rope' })));
  expect(await c.undo()).toBeUndefined();
  for (const name of ['Winch', 'Pawl', 'Chain'])
    await c.apply(edit(`Name ${name}`, [changeOf('sounds', await one(c, 5), { 'fields.fxName': name })]));
  expect(await names(c, 'chain ')).toEqual(['Chain']);
  expect(await c.undoState()).toEqual({ undo: 'Name Chain', redo: undefined });
  expect([(await c.undo())?.label, (await c.undo())?.label]).toEqual(['Name Chain', 'Name Pawl']);
  expect(await names(c, 'winch ')).toEqual(['Winch']);
  expect(await names(c, 'chain ')).toEqual([]);
  expect(await c.redo()).toMatchObject({ label: 'Name Pawl' });
  expect(await names(c, 'pawl ')).toEqual(['Pawl']);
  await c.apply(edit('Name Oar', [changeOf('sounds', await one(c, 5), { 'fields.fxName': 'Oar' })]));
  expect(await c.redo()).toBeUndefined();
  expect(await c.undoState()).toEqual({ undo: 'Name Oar', redo: undefined });
});

test('everything is there again after a reload, what can be undone too', async () => {
  const first = await tab();
  await first.apply(make(soundOf(5, { fxName: 'Gate' })));
  await first.apply(
    edit('Notes', [changeOf('sounds', await one(first, 5), { 'fields.notes': 'rusty', 'from.notes': 'typed' })]),
  );
  // A page that is left gives its name up.
  first.close();
  const second = await tab();
  expect(await names(second, 'rusty ')).toEqual(['Gate']);
  expect(await second.undo()).toMatchObject({ label: 'Notes' });
  expect(await names(second, 'rusty ')).toEqual([]);
  expect((await one(second, 5)).fields).not.toHaveProperty('notes');
});

test('a failing edit leaves neither half of itself nor a journal entry', async () => {
  const c = await tab();
  await c.apply(make(soundOf(5, { fxName: 'Gate' })));
  const good = changeOf('sounds', await one(c, 5), { 'fields.fxName': 'Broken' });
  const bad: Change = { table: 'sounds', id: 6, after: { ...soundOf(6), fields: { fxName: (() => 1) as never } } };
  await expect(c.apply(edit('Half', [good, bad]))).rejects.toThrow();
  expect((await one(c, 5)).fields.fxName).toBe('Gate');
  expect(await c.undoState()).toEqual({ undo: undefined, redo: undefined });
});

test('renaming a tag keeps every sound that has it', async () => {
  const c = await tab();
  await c.apply(edit('Tag', [{ table: 'tags', id: 9, after: { id: 9, name: 'ferry' } }]));
  await c.apply(make(soundOf(5, { fxName: 'Gate', tags: [9] })));
  expect(await names(c, 'tag:ferry ')).toEqual(['Gate']);
  await c.apply(edit('Rename', [changeOf('tags', { id: 9, name: 'ferry' } as { id: number }, { name: 'river boat' })]));
  for (const each of [c, await tab()]) {
    expect(await names(each, 'tag:ferry ')).toEqual([]);
    expect(await names(each, 'tag:"river boat"')).toEqual(['Gate']);
  }
});

test('another tab follows, and both agree on who may have which id', async () => {
  const [a, b] = [await tab(), await tab()];
  const heard: Changed[] = [];
  const told = new Promise<void>((done) => b.subscribe((changed) => (heard.push(changed), done())));
  await a.apply(make(soundOf(5, { fxName: 'Gate' })));
  await told;
  expect(heard[0]).toEqual({ tables: ['sounds'], ids: { sounds: [5] } });
  expect(await names(b, 'gate ')).toEqual(['Gate']);
  const ids = (await Promise.all([a.newIds('cues', 3), b.newIds('cues', 3), a.newIds('cues', 2)])).flat();
  expect(new Set(ids).size).toBe(8);
  expect(Math.min(...ids)).toBeGreaterThan(TRAY);
});

test('the tray is there from the start; a pull lists its sounds in order and forgets none when they are removed from it', async () => {
  const c = await tab();
  await c.apply(make(soundOf(5), soundOf(6), soundOf(7)));
  const [tray] = (await c.all('pulls')) as Pull[];
  expect(tray).toMatchObject({ id: TRAY, soundIds: [] });
  await c.apply(edit('Hold', [changeOf('pulls', tray, { soundIds: [7, 5] })]));
  expect([...(await c.ids({ text: '', pullId: TRAY }))]).toEqual([7, 5]);
  await c.apply(edit('Take out', [changeOf('pulls', { ...tray, soundIds: [7, 5] } as Pull, { soundIds: [5] })]));
  expect((await c.ids({ text: '' })).length).toBe(3);
  await c.undo();
  expect([...(await c.ids({ text: '', pullId: TRAY }))]).toEqual([7, 5]);
});

test('hearing a sound marks it without making it another one', async () => {
  const c = await tab();
  await c.apply(make(soundOf(5, { fxName: 'Gate' }), soundOf(6, { fxName: 'Gate two' })));
  for (let i = 1; i < 30; i++)
    await c.apply(
      edit('Heard', [changeOf('sounds', await one(c, 5), { 'fields.heard': Date.UTC(2026, 10, i) })], false),
    );
  expect(await names(c, 'heard:2026-11-29')).toEqual(['Gate']);
  expect(await names(c, 'heard:<2026-11-29')).toEqual([]);
  expect(await c.undoState()).toEqual({ undo: undefined, redo: undefined });
});

test('contours are kept beside, and what has none is known', async () => {
  const c = await tab();
  await c.apply(make(soundOf(5), soundOf(6)));
  await c.applyMeasured(edit('Measure', [], false), {
    peaks: [{ id: 5, frames: 10, span: 5, pairs: new Int8Array([1, 2, 3, 4]) }],
    facts: [factsOf(5)],
  });
  expect((await c.peaks([5, 6])).map((p) => p.id)).toEqual([5]);
  expect(await c.unmeasured(2)).toEqual({ total: 2, waiting: [6] });
  expect((await c.facts([5, 6])).map((f) => f.id)).toEqual([5]);
  await c.forgetMeasured([5]);
  expect(await c.unmeasured(2)).toEqual({ total: 2, waiting: [5, 6] });
  expect(await c.soundsOf(2)).toHaveLength(2);
});

test('what is set aside leaves every list, keeps its labels, and comes back by undo', async () => {
  const c = await tab();
  await c.apply(make(soundOf(5, { fxName: 'Gate' }), soundOf(6, { fxName: 'Gate two' })));
  await c.apply(edit('Set aside', [changeOf('sounds', await one(c, 5), { hidden: 'aside' })]));
  expect(await names(c, 'gate')).toEqual(['Gate two']);
  expect((await c.hidden()).map((s) => s.id)).toEqual([5]);
  // A label that is written meanwhile must not bring it back.
  await c.apply(edit('Name', [changeOf('sounds', await one(c, 5), { 'fields.fxName': 'Gate one' })]));
  expect(await names(c, 'gate')).toEqual(['Gate two']);
  await c.undo();
  await c.undo();
  expect((await names(c, 'gate')).sort()).toEqual(['Gate', 'Gate two']);
});

test('a missing file is known by root, and found by a query', async () => {
  const c = await tab();
  await c.apply(
    make(soundOf(5, { fxName: 'Gate', state: 'Missing' }), { ...soundOf(6, { fxName: 'Rope' }), rootId: 3 }),
  );
  expect((await c.missing()).map((s) => s.id)).toEqual([5]);
  expect(await c.missing(3)).toEqual([]);
  expect(await names(c, 'state:missing')).toEqual(['Gate']);
  expect((await c.followed(2))[0]).toMatchObject({ id: 5, rootId: 2, missing: true });
});
