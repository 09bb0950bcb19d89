import 'fake-indexeddb/auto';
import { Catalogue } from '@platform/catalogue/catalogue';
import type { Store } from '@platform/store/store';
import type { Pull, Sound } from '@core/library';
import { emptyStore, likeABrowser } from '../helpers/browser';
import { soundOf } from '../helpers/catalogue';

// Places where one looks: folders, days, scenes, pulls, and what names them in files.

let catalogue: Catalogue;
let store: Store;
beforeAll(likeABrowser);
beforeEach(async () => {
  await emptyStore();
  catalogue = new Catalogue();
  await catalogue.open();
  store = (catalogue as unknown as { store: Store }).store;
});
afterEach(() => {
  const { index, channel } = catalogue as unknown as { index: { quiet: number }; channel: BroadcastChannel };
  clearTimeout(index.quiet);
  channel.close();
});

const put = (table: 'sounds' | 'pulls' | 'roots', ...records: (Sound | Pull | { id: number; name: string })[]) =>
  catalogue.apply({
    label: 'Put',
    at: 1,
    undoable: false,
    changes: records.map((r) => ({ table, id: r.id, after: { ...r } })),
  });
const sound = (id: number, rootId: number, folder: string, file: string, more: Partial<Sound> = {}): Sound => ({
  ...soundOf(id, { folder, file }),
  rootId,
  path: folder ? `${folder}/${file}` : file,
  ...more,
});
const ids = async (search: Partial<Parameters<Catalogue['ids']>[0]>) => [
  ...(await catalogue.ids({ text: '', ...search })),
];

describe('folders', () => {
  beforeEach(() =>
    put(
      'sounds',
      sound(1, 10, 'Doors', 'a.wav'),
      sound(2, 10, 'Doors/Wood', 'b.wav'),
      sound(3, 10, 'Doors and gates', 'c.wav'),
      sound(4, 11, 'Doors/Wood', 'd.wav'),
      sound(5, 10, '', 'e.wav'),
    ),
  );

  test('are counted root by root, and hold what lies below them, but not what only begins alike', async () => {
    expect(catalogue.folders()).toEqual([
      { rootId: 10, folder: '', count: 1 },
      { rootId: 10, folder: 'Doors', count: 1 },
      { rootId: 10, folder: 'Doors and gates', count: 1 },
      { rootId: 10, folder: 'Doors/Wood', count: 1 },
      { rootId: 11, folder: 'Doors/Wood', count: 1 },
    ]);
    expect(await ids({ under: { rootId: 10, folder: 'Doors' } })).toEqual([1, 2]);
    expect(await ids({ under: { rootId: 10, folder: '' } })).toEqual([1, 2, 3, 5]);
    expect(await ids({ under: { rootId: 12, folder: '' } })).toEqual([]);
  });

  test('that stand among the pulls follow what lies in them', async () => {
    const live: Pull = { id: 5, name: 'Wood', soundIds: [], created: 1, live: { rootId: 10, folder: 'Doors/Wood' } };
    await put('pulls', live);
    expect(await ids({ pullId: 5 })).toEqual([2]);
    await put('sounds', sound(6, 10, 'Doors/Wood', 'f.wav'), sound(2, 10, 'Elsewhere', 'b.wav'));
    expect(await ids({ pullId: 5 })).toEqual([6]);
    expect(await ids({ pullId: 5, text: 'nothing ' })).toEqual([]);
  });
});

describe('what was heard', () => {
  const at = (day: number, hour = 12) => new Date(2026, 2, day, hour).getTime();
  beforeEach(async () => {
    await put('sounds', ...[1, 2, 3, 4].map((id) => soundOf(id, id === 2 ? { heard: 1 } : {})));
    for (const [soundId, when, sceneId] of [
      [1, at(14), 7],
      [2, at(14, 23), 7],
      [1, at(15, 0), 8],
      [3, at(15), undefined],
      [1, at(15, 13), undefined],
    ] as const)
      await catalogue.heard({ soundId, at: when, sceneId });
  });

  test('is listed by days of the clock on the wall, what was heard last first', async () => {
    expect(await catalogue.heardDays()).toEqual([
      { day: '2026-03-15', count: 2 },
      { day: '2026-03-14', count: 2 },
    ]);
    expect(await ids({ heardOn: '2026-03-14' })).toEqual([2, 1]);
    expect(await ids({ heardOn: '2026-03-15' })).toEqual([1, 3]);
    expect(await ids({ heardOn: '2026-03-16' })).toEqual([]);
    expect(await ids({ heardOn: 'not a day' })).toEqual([]);
    await put('pulls', { id: 5, name: 'Some', soundIds: [3, 2], created: 1 } as Pull);
    expect(await ids({ heardOn: '2026-03-15', pullId: 5 })).toEqual([3]);
  });

  test('leaves over what was not heard for a scene', async () => {
    expect(await ids({ unheardIn: 7 })).toEqual([3, 4]);
    expect(await ids({ unheardIn: 8 })).toEqual([2, 3, 4]);
    expect(await ids({ unheardIn: 9 })).toEqual([1, 2, 3, 4]);
  });

  test('stays as it was when a list of it was chosen, while one listens on', async () => {
    const asOf = at(15, 13);
    const [today, left] = [await ids({ heardOn: '2026-03-15', asOf }), await ids({ unheardIn: 8, asOf })];
    // The last of them was heard at that very moment.
    expect(today).toEqual([3, 1]);
    await catalogue.heard({ soundId: 1, at: at(15, 14), sceneId: 8 });
    await catalogue.heard({ soundId: 4, at: at(15, 15), sceneId: 8 });
    expect(await ids({ heardOn: '2026-03-15', asOf })).toEqual(today);
    expect(await ids({ unheardIn: 8, asOf })).toEqual(left);
    expect(await ids({ heardOn: '2026-03-15' })).toEqual([4, 1, 3]);
  });

  test('is forgotten on demand, the marks with it', async () => {
    await catalogue.forgetPlays();
    expect(await catalogue.heardDays()).toEqual([]);
    expect(await ids({ text: 'heard:>1969' })).toEqual([]);
    expect((await catalogue.sounds([2]))[0].fields.heard).toBeUndefined();
  });
});

test('places named by a file are found by path, or by what the audio is where a file went elsewhere', async () => {
  const root = (id: number, name: string) => ({ id, name, kind: 'picked', added: 1 });
  await put('roots', root(10, 'Yard'), root(11, 'Pier'));
  await put(
    'sounds',
    sound(1, 10, 'Doors', 'a.wav', { hash: 'aa' }),
    sound(2, 11, 'Doors', 'a.wav', { hash: 'bb' }),
    sound(3, 11, 'Moved', 'b.wav', { hash: 'cc' }),
    sound(4, 11, '', 'top.wav'),
  );
  expect(
    await catalogue.idsOfPlaces([
      { root: 'Pier', path: 'Doors/a.wav' },
      { root: 'Yard', path: 'Doors/a.wav', hash: 'bb' },
      { root: 'Yard', path: 'Old/b.wav', hash: 'cc' },
      { root: 'Yard', path: 'Old/b.wav' },
      { root: 'Pier', path: 'top.wav' },
      { root: 'Gone', path: 'x.wav', hash: 'dd' },
    ]),
  ).toEqual([2, 1, 3, undefined, 4, undefined]);
});

test('words stand beside those that they share sounds with, and not beside those that all share', async () => {
  await put(
    'sounds',
    ...Array.from({ length: 12 }, (_, i) =>
      soundOf(i + 1, { fxName: i < 4 ? 'Winch ratchet iron' : 'Water lap', description: 'Recorded' }),
    ),
  );
  const near = (await catalogue.neighbours('winch', 3)).map((n) => n.value);
  expect(near.slice(0, 2).sort()).toEqual(['iron', 'ratchet']);
  expect((await catalogue.neighbours('winch', 3))[0].count).toBe(4);
  expect(near).not.toContain('lap');
  expect(await catalogue.neighbours('nowhere', 3)).toEqual([]);
});

test('a plot takes two numbers of each result, and no more than the results', async () => {
  await put('sounds', soundOf(1, { brightness: 900 }), soundOf(2, {}), soundOf(3, { fxName: 'Other', brightness: 4 }));
  const table = (await catalogue.tableOf({ text: 'name:sound ' }, ['length', 'brightness']))!;
  expect([...table.ids]).toEqual([1, 2]);
  expect(table.columns).toMatchObject({
    length: { numbers: Float64Array.of(1, 1) },
    brightness: { numbers: Float64Array.of(900, NaN) },
  });
  expect(await catalogue.tableOf({ text: '' }, ['no such field'])).toBeUndefined();
  expect(store.isOpen()).toBe(true);
});
