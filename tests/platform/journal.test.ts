import 'fake-indexeddb/auto';
import type { Change } from '@core/library';
import { planOf, type Cue, type Scene, type Track } from '@core/scene';
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

  test('a scene whose tracks were a list sounds as it did, and what was done to it can still be taken back', async () => {
    emptyStore();
    const { default: Dexie } = await import('dexie');
    const old = new Dexie('cormorant');
    const released: Record<string, string>[] = [
      {
        ...{ roots: 'id, serverId', intakes: 'id, rootId', sounds: 'id, rootId', tags: 'id, name', pulls: 'id' },
        ...{ scenes: 'id', cues: 'id, sceneId', problems: 'id, rootId', journal: '++seq, state', peaks: 'id' },
        counters: 'name',
      },
      { facts: 'id' },
      {
        ...{ stamps: 'id', recipes: 'id', shortNames: 'id', categories: 'id, catId', bin: 'id' },
        steps: '[seq+block+table+first+last], seq',
      },
      { searches: 'id', alikes: 'id', plays: '++seq, soundId, at', touched: '++rev', marks: 'name' },
      { plays: '++seq, soundId, at, sceneId' },
      { aside: '++id, table', sounds: 'id, rootId, fields.state, hidden' },
      {},
      { writes: '++id, job, state' },
    ];
    released.forEach((stores, i) => old.version(i + 1).stores(stores));
    await old.open();
    const track = (id: number, more = {}) => ({ id, name: `T${id}`, gain: 0, mute: false, solo: false, ...more });
    const scene = { id: 6, name: 'Ferry', fps: '24', startFrame: 0, sampleRate: 48_000, length: 48_000 };
    const lists = [[track(1)], [track(1), track(2)], [track(1, { gain: -6 }), track(2)]];
    const cue = {
      ...{ id: 8, sceneId: 6, trackId: 2, soundId: 5, name: 'step', at: 100, anchor: 3, start: 0, end: 900 },
      ...{ rate: 48_000, gain: -2, mute: false, fadeIn: 0, fadeOut: 0.1 },
    };
    await old.table('sounds').put(raw(5, 'a.wav'));
    await old.table('scenes').put({ ...scene, tracks: lists[2] });
    await old.table('cues').put(cue);
    const edits: Change[] = [
      { table: 'scenes', id: 6, after: { ...scene, tracks: lists[0] } },
      { table: 'scenes', id: 6, before: { tracks: lists[0] }, after: { tracks: lists[1] } },
      { table: 'cues', id: 8, after: cue },
      { table: 'scenes', id: 6, before: { tracks: lists[1] }, after: { tracks: lists[2] } },
      { table: 'cues', id: 8, before: { trackId: 1 }, after: { trackId: 2 } },
    ];
    for (const [i, change] of edits.entries()) {
      const seq = (await old
        .table('journal')
        .add({ label: `Edit ${i}`, at: i, undoable: true, count: 1, state: 'done', scope: 'scene 6' })) as number;
      await old
        .table('steps')
        .put({ seq, block: 0, table: change.table, first: change.id, last: change.id, changes: [change] });
    }
    old.close();
    await desk.start();
    const now = async () => ({
      scenes: (await desk.catalogue.all('scenes')) as Scene[],
      tracks: (await desk.catalogue.all('tracks')) as Track[],
      cues: (await desk.catalogue.all('cues')) as Cue[],
    });
    const first = await now();
    expect(first.scenes).toEqual([scene]);
    expect(first.tracks.map((t) => [t.name, t.gain, t.sceneId, t.order])).toEqual([
      ['T1', -6, 6, 0],
      ['T2', 0, 6, 1],
    ]);
    expect(first.cues).toEqual([{ ...cue, trackId: first.tracks[1].id }]);
    const plan = planOf(first.tracks, first.cues);
    expect([...plan.lines.values()].map((l) => [l.gain, l.open])).toEqual([
      [-6, true],
      [0, true],
      // The main line.
      [0, true],
    ]);
    expect(plan.clips.get(8)).toMatchObject({
      line: first.tracks[1].id,
      clip: { gain: -2, shape: { fade: 'straight', fadeOut: 0.1 } },
    });
    const steps: unknown[] = [];
    for (let i = 0; i < 5; i++) {
      await desk.catalogue.undo('scene 6');
      const { scenes, tracks, cues } = await now();
      steps.push([
        scenes.length,
        tracks.map((t) => t.gain),
        cues.map((c) => first.tracks.findIndex((t) => t.id === c.trackId)),
      ]);
    }
    expect(steps).toEqual([
      [1, [-6, 0], [0]],
      [1, [0, 0], [0]],
      [1, [0, 0], []],
      [1, [0], []],
      [0, [], []],
    ]);
    for (let i = 0; i < 5; i++) await desk.catalogue.redo('scene 6');
    expect(await now()).toEqual(first);
  });
});
