import 'fake-indexeddb/auto';
import { changeOf, type Sound } from '@core/library';
import { Catalogue } from '@platform/catalogue/catalogue';
import { createPinia, setActivePinia } from 'pinia';
import { emptyStore, likeABrowser } from '../helpers/browser';
import { soundOf } from '../helpers/catalogue';

// The window's store over a real catalogue that is handed in, without a browser.

const told: string[] = [];
jest.mock('@app/shell/notice', () => {
  const say = (text: string) => void told.push(text);
  return { tell: { info: say, done: say, error: say } };
});
/** Web Storage as its standard has it, for as long as a test runs. */
function storage() {
  const kept = new Map<string, string>();
  return {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => void kept.set(key, value),
  };
}

let catalogue: Catalogue;
async function library() {
  const { handWorkers } = await import('@app/stores/workers');
  const { useLibrary } = await import('@app/stores/library');
  catalogue = new Catalogue();
  handWorkers(catalogue as never);
  setActivePinia(createPinia());
  const store = useLibrary();
  await store.open();
  return store;
}
beforeAll(() => {
  likeABrowser();
  Object.assign(globalThis, { sessionStorage: storage(), localStorage: storage() });
});
beforeEach(() => {
  emptyStore();
  Object.assign(globalThis, { sessionStorage: storage(), localStorage: storage() });
  told.length = 0;
});
afterEach(() => catalogue.close());

const made = (sound: Sound) => ({ table: 'sounds' as const, id: sound.id, after: { ...sound } });
const until = async (done: () => boolean) => {
  while (!done()) await new Promise((next) => setImmediate(next));
};

test('an edit is shown, taken back and done again; what cannot be kept is told and changes nothing', async () => {
  const store = await library();
  await store.edit('Take in', [made(soundOf(5, { fxName: 'Gate' }))], false);
  const [sound] = await store.need([5]);
  expect(await store.patch('Name it', 'sounds', sound, { 'fields.fxName': 'Winch' })).toBe(true);
  await until(() => store.sounds.get(5)?.fields.fxName === 'Winch');
  await until(() => store.undoState.undo === 'Name it');
  await store.undo();
  await until(() => store.sounds.get(5)?.fields.fxName === 'Gate');
  expect(told).toEqual(['Taken back: Name it']);
  await store.redo();
  expect(await store.edit('Break it', [{ table: 'tags', id: 9, after: { id: 9, name: '' } }])).toBe(false);
  expect(told[2]).toMatch(/^Break it could not be kept: .*Nothing was changed/);
  expect(await catalogue.all('tags')).toEqual([]);
});

test('undo says what others have changed since, and stays in its scope', async () => {
  const store = await library();
  await store.edit('Take in', [made(soundOf(5, { fxName: 'a' }))], false);
  const [sound] = await store.need([5]);
  await store.patch('Name b', 'sounds', sound, { 'fields.fxName': 'b' });
  await catalogue.apply({
    ...{ label: 'Read again', at: 1, undoable: false },
    changes: [changeOf('sounds', sound, { 'fields.fxName': 'c' })!],
  });
  await store.undo();
  expect(told[0]).toBe('Taken back: Name b. 1 record was changed since, and stays so.');
  await store.undoIn('scene 7');
  await store.undo();
  expect(told[1]).toBe('There is nothing to take back');
});

test('why a sound cannot be heard now: its file is gone, its root or its folder out of reach', async () => {
  const store = await library();
  const at = (path: string, fields = {}) => ({ ...soundOf(5, fields), path });
  await store.edit(
    'Set up',
    [
      { table: 'roots', id: 2, after: { id: 2, name: 'Tapes', kind: 'server', added: 1 } },
      {
        table: 'problems',
        id: 3,
        after: { id: 3, rootId: 2, path: 'shut', reason: 'no permission', at: 1, folder: true },
      },
    ],
    false,
  );
  await until(() => store.problems.length === 1 && store.roots.length === 1);
  expect(store.absence(at('a.wav'))).toBeUndefined();
  expect(store.absence(at('a.wav', { state: 'Missing' }))).toBe('Missing');
  expect(store.absence(at('shut/a.wav'))).toBe('Unreachable');
  expect(store.absence(at('shutters/a.wav'))).toBeUndefined();
  store.outOfReach = new Set([2]);
  expect(store.absence(at('a.wav', { state: 'Missing' }))).toBe('Unreachable');
  expect(store.absence({ ...at('a.wav'), rootId: 99 })).toBe('Unreachable');
});

test('the library is remembered outside of its database, and missed when it is gone', async () => {
  const store = await library();
  await store.edit('Take in', [made(soundOf(5)), made(soundOf(6))], false);
  const kept = () => JSON.parse(localStorage.getItem('cormorant-library') ?? '{}') as { revision?: number };
  await until(() => kept().revision === catalogue.known().revision);
  localStorage.setItem('cormorant-library', JSON.stringify({ ...catalogue.known(), sounds: 2, at: Date.now() }));
  catalogue.close();
  emptyStore();
  const next = await library();
  expect(next.loss).toMatchObject({ how: 'gone', was: { sounds: 2 } });
  await next.acceptLoss();
  expect(next.loss).toBeUndefined();
});

test('what is asked for while it changes is shown as it is then, in whichever order the answers come', async () => {
  const store = await library();
  const tag = (name: string) => ({ table: 'tags' as const, id: 3, after: { id: 3, name } });
  await store.edit('Take in', [made(soundOf(5, { fxName: 'old' })), tag('old')], false);
  await until(() => store.tags.length === 1);
  // The first answers are held back until there are newer ones.
  const held: (() => void)[] = [];
  const late = <T>(answer: T) => new Promise<T>((done) => held.push(() => done(answer)));
  const { sounds, all } = catalogue;
  jest.spyOn(catalogue, 'sounds').mockImplementationOnce(async (ids) => late(await sounds.call(catalogue, ids)));
  const needed = store.need([5]);
  await until(() => held.length === 1);
  await store.edit('Name it', [changeOf('sounds', soundOf(5, { fxName: 'old' }), { 'fields.fxName': 'new' })], false);
  held.shift()!();
  expect((await needed)[0].fields.fxName).toBe('new');

  jest.spyOn(catalogue, 'all').mockImplementationOnce(async (name) => late(await all.call(catalogue, name)));
  await store.edit('Old', [{ table: 'tags', id: 3, before: { name: 'old' }, after: { name: 'older' } }], false);
  await until(() => held.length === 1);
  await store.edit('New', [{ table: 'tags', id: 3, before: { name: 'older' }, after: { name: 'newest' } }], false);
  await until(() => store.tags[0].name === 'newest');
  held.shift()!();
  await new Promise((next) => setImmediate(next));
  expect(store.tags[0].name).toBe('newest');
});
