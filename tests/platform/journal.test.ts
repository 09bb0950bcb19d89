import 'fake-indexeddb/auto';
import type { Change } from '@core/library';
import { Store } from '@platform/store/store';
import { emptyStore, likeABrowser } from '../helpers/browser';
import { Desk, raw } from '../helpers/desk';

const desk = new Desk();
const silent = () => undefined;
beforeAll(likeABrowser);
beforeEach(() => desk.fresh());
afterEach(() => desk.close());

describe('the journal', () => {
  test('tells one sound’s history: what, when, by whom, from what to what', async () => {
    await desk.take(raw(5, 'a.wav'), raw(6, 'b.wav'), raw(700, 'c.wav'));
    await desk.labeller.putTexts([{ id: 5, texts: { notes: 'first' } }], 'Type notes', true);
    await desk.labeller.putTexts([{ id: 700, texts: { notes: 'other' } }], 'Type elsewhere', true);
    await desk.labeller.runRecipe(
      { name: 'Loud', steps: [{ kind: 'case', on: true, to: 'notes', form: 'upper' }] },
      [5, 6],
      true,
      silent,
    );
    const history = await desk.catalogue.history(5);
    expect(history.map((h) => [h.entry.label, h.entry.by])).toEqual([
      ['Run Loud on 1 sounds', 'recipe Loud'],
      ['Type notes', undefined],
    ]);
    expect(history[0].changes[0]).toMatchObject({
      before: { 'fields.notes': 'first' },
      after: { 'fields.notes': 'FIRST' },
    });
    expect((await desk.catalogue.journal()).map((e) => e.count)).toEqual([1, 1, 1]);
    await desk.catalogue.undo();
    expect((await desk.catalogue.history(5))[0].entry.state).toBe('undone');
    await desk.labeller.putTexts([{ id: 6, texts: { notes: 'new' } }], 'Type again', true);
    expect((await desk.catalogue.history(5)).map((h) => h.entry.label)).toEqual(['Type notes']);
  });

  test('a rename of a tag on thousands touches none of them', async () => {
    await desk.put('Tag', [{ table: 'tags', id: 30, after: { id: 30, name: 'rust' } }]);
    await desk.take(...Array.from({ length: 3000 }, (_, i) => raw(100 + i, `s${i}.wav`, { tags: [30] })));
    const spy = jest.spyOn(Store.prototype, 'table');
    await desk.put('Rename', [{ table: 'tags', id: 30, before: { name: 'rust' }, after: { name: 'oxide red' } }]);
    expect(spy.mock.calls.flat()).not.toContain('sounds');
    spy.mockRestore();
    const count = async (text: string) => (await desk.catalogue.ids({ text })).length;
    expect(await count('rust ')).toBe(0);
    expect(await count('oxide ')).toBe(3000);
    expect(await count('tag:"oxide red"')).toBe(3000);
    expect(await count('tag:~xide')).toBe(3000);
    expect(desk.catalogue.tagCounts()).toEqual([[30, 3000]]);
    await desk.catalogue.undo();
    expect(await count('rust ')).toBe(3000);
  });

  test('a catalogue of the version before keeps what could be taken back', async () => {
    emptyStore();
    const { default: Dexie } = await import('dexie');
    const old = new Dexie('cormorant');
    old.version(1).stores({
      roots: 'id, serverId',
      intakes: 'id, rootId',
      sounds: 'id, rootId',
      tags: 'id, name',
      pulls: 'id',
      scenes: 'id',
      cues: 'id, sceneId',
      problems: 'id, rootId',
      journal: '++seq, state',
      peaks: 'id',
      counters: 'name',
    });
    old.version(2).stores({ facts: 'id' });
    await old.open();
    await old.table('sounds').put(raw(5, 'a.wav', { notes: 'now' }));
    const change: Change = {
      table: 'sounds',
      id: 5,
      before: { 'fields.notes': 'then' },
      after: { 'fields.notes': 'now' },
    };
    await old
      .table('journal')
      .add({ edit: { label: 'Old edit', at: 5, undoable: true, changes: [change] }, state: 'done' });
    old.close();
    await desk.start();
    expect((await desk.catalogue.history(5))[0]).toMatchObject({
      entry: { label: 'Old edit', count: 1 },
      changes: [change],
    });
    expect(await desk.catalogue.undo()).toMatchObject({ label: 'Old edit' });
    expect((await desk.fields(5)).notes).toBe('then');
  });
});
