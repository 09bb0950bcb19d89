import 'fake-indexeddb/auto';
import { writeWav } from '@core/files';
import { changeOf, excerptOf, TRAY, type Pull, type Sound } from '@core/library';
import { Catalogue } from '@platform/catalogue/catalogue';
import { Conductor } from '@platform/intake/conductor';
import type { WorkReport } from '@platform/intake/work';
import { IntakeReader } from '@platform/intake/intake';
import type { Intake, Problem, RootRecord } from '@platform/store/store';
import { emptyStore, likeABrowser } from '../helpers/browser';
import { folderHandle, type Tree } from '../helpers/handles';
import { hit } from '../helpers/signals';

beforeAll(likeABrowser);
beforeEach(emptyStore);
const closing: (() => void)[] = [];
afterEach(() => closing.splice(0).forEach((close) => close()));

const wav = (seed: number, name = '') =>
  writeWav(
    [hit(8000, 0.6, 0.7, 150 + 40 * seed, seed)],
    { rate: 8000, bits: 16 },
    name ? { info: { INAM: name } } : {},
  );

/** A reader that counts what it is asked. */
class CountingReader extends IntakeReader {
  override read = jest.fn((...args: Parameters<IntakeReader['read']>) => super.read(...args));
  override measure = jest.fn((...args: Parameters<IntakeReader['measure']>) => super.measure(...args));
}

/** A tab: its catalogue, its conductor over one reader, and a root over a tree that the test may change. */
async function tab(tree: Tree, root?: Partial<RootRecord>) {
  const catalogue = new Catalogue();
  await catalogue.open();
  closing.push(() => catalogue.close());
  const reports: WorkReport[] = [];
  const reader = new CountingReader();
  const conductor = new Conductor(catalogue as never, [reader as never], (r) => reports.push(r));
  const record: RootRecord = {
    id: 50,
    name: 'Tapes',
    kind: 'picked',
    handles: [folderHandle('Tapes', tree)],
    added: 1,
    ...root,
  };
  // Handles are kept by IndexedDB in a browser; here they would be cloned away.
  const all = catalogue.all.bind(catalogue);
  const roots = [record];
  catalogue.all = (async (table: never) => (table === ('roots' as never) ? roots : all(table))) as never;
  const sounds = async () => (await catalogue.soundsOf(record.id)).sort((a, b) => (a.path < b.path ? -1 : 1));
  const problems = async () => (await all('problems')) as Problem[];
  const intakes = async () => (await all('intakes')) as Intake[];
  const edit = (label: string, sound: Sound, after: object) =>
    catalogue.apply({ label, at: 1, undoable: true, changes: [changeOf('sounds', sound, after as never)!] });
  return { catalogue, conductor, reader, reports, record, roots, sounds, problems, intakes, edit };
}
const names = (list: Sound[]) => list.map((s) => s.path);

test('a folder is found by its words, then measured; what cannot be read is a problem with its reason', async () => {
  const t = await tab({
    'gate_01.wav': wav(1, 'Gate'),
    deck: { 'boot.wav': wav(2) },
    'notes.txt': wav(3),
    'bad.wav': new Uint8Array(60),
  });
  await t.conductor.scan(50);
  const [boot, gate] = await t.sounds();
  expect([boot.path, gate.path]).toEqual(['deck/boot.wav', 'gate_01.wav']);
  expect(gate.fields).toMatchObject({ fxName: 'Gate', take: '01', onsets: 1, layout: 'Mono' });
  expect(gate.from).toMatchObject({ fxName: 'file INFO.INAM', take: 'name', onsets: 'measured' });
  expect(gate.hash).toMatch(/^[0-9a-f]{32}$/);
  expect(await t.catalogue.ids({ text: 'deck boot' })).toHaveLength(1);
  expect(await t.catalogue.ids({ text: 'onsets:1 truepeak:<0' })).toHaveLength(2);
  expect(await t.problems()).toMatchObject([
    { path: 'bad.wav', reason: expect.stringMatching(/no sound file/), size: 60 },
  ]);
  expect(await t.intakes()).toMatchObject([{ added: 2, changed: 0, moved: 0, gone: 0 }]);
  expect(await t.catalogue.unmeasured(50)).toEqual({ total: 2, waiting: [] });
  const last = t.reports[t.reports.length - 1];
  expect(last).toEqual({ works: [], unavailable: [], current: [50] });
  const phases = new Set(t.reports.flatMap((r) => r.works.map((w) => w.phase)));
  expect([...phases].every((p) => ['Waiting', 'Looking', 'Reading labels', 'Measuring'].includes(p))).toBe(true);
});

test('a second look reads nothing and leaves no intake behind', async () => {
  const t = await tab({ 'a.wav': wav(1), 'bad.wav': new Uint8Array(60) });
  await t.conductor.scan(50);
  const before = await t.sounds();
  t.reader.read.mockClear();
  t.reader.measure.mockClear();
  await t.conductor.scan(50);
  expect(t.reader.read).not.toHaveBeenCalled();
  expect(t.reader.measure).not.toHaveBeenCalled();
  expect(await t.sounds()).toEqual(before);
  expect(await t.intakes()).toHaveLength(1);
});

test('a file that was written anew is read again; what people made of its sound stays', async () => {
  const tree: Tree = { 'a.wav': wav(1, 'Before') };
  const t = await tab(tree);
  await t.conductor.scan(50);
  const [old] = await t.sounds();
  await t.edit('Describe', old, { 'fields.description': 'mine', 'from.description': 'typed', 'fields.stars': 4 });
  tree['a.wav'] = wav(9, 'Afterwards, and longer');
  await t.conductor.scan(50);
  const [now] = await t.sounds();
  expect(now.id).toBe(old.id);
  expect(now.fields).toMatchObject({ fxName: 'Afterwards, and longer', description: 'mine', stars: 4 });
  expect(now.hash).not.toBe(old.hash);
  expect((await t.intakes())[1]).toMatchObject({ added: 0, changed: 1 });
});

test('a file that moves stays the same sound, with its tags, its pulls and its id', async () => {
  const tree: Tree = { 'a.wav': wav(1), 'b.wav': wav(2) };
  const t = await tab(tree);
  await t.conductor.scan(50);
  const [a] = await t.sounds();
  await t.edit('Tag', a, { 'fields.tags': [7] });
  const { 'a.wav': bytes } = tree;
  delete tree['a.wav'];
  tree['sorted'] = { 'better name.wav': bytes };
  t.reader.measure.mockClear();
  await t.conductor.scan(50);
  const list = await t.sounds();
  expect(names(list)).toEqual(['b.wav', 'sorted/better name.wav']);
  expect(list[1]).toMatchObject({
    id: a.id,
    fields: { tags: [7], file: 'better name.wav', folder: 'sorted', takeGroup: '50/sorted/better name' },
  });
  expect(list[1].fields.state).toBeUndefined();
  expect(t.reader.measure).not.toHaveBeenCalled();
  expect((await t.intakes())[1]).toMatchObject({ added: 0, moved: 1, gone: 0 });
});

test('samples that hold no finite number are said once, however often they are measured', async () => {
  const plane = hit(8000, 0.3, 0.5);
  for (const i of [5, 600, 601]) plane[i] = i === 5 ? Infinity : NaN;
  const t = await tab({ 'odd.wav': writeWav([plane], { rate: 8000, bits: 32, float: true }), 'good.wav': wav(1) });
  await t.conductor.scan(50);
  const [good, odd] = await t.sounds();
  expect(good.warnings).toEqual([]);
  expect(odd.warnings).toEqual(['3 samples hold no finite number; silence is heard in their place']);
  expect(Number.isFinite(odd.fields.loudness)).toBe(true);
  await t.conductor.measureNow([odd.id]);
  expect((await t.sounds())[1].warnings).toHaveLength(1);
});

test('an excerpt is measured by itself and goes wherever its file goes', async () => {
  const tree: Tree = { 'reel.wav': wav(1) };
  const t = await tab(tree);
  await t.conductor.scan(50);
  const [reel] = await t.sounds();
  const [id] = await t.catalogue.newIds('sounds', 1);
  const after = JSON.parse(JSON.stringify(excerptOf(reel, { start: 800, end: 2400 }, 'Take', 5))) as Omit<Sound, 'id'>;
  await t.catalogue.apply({
    label: 'Cut',
    at: 1,
    undoable: true,
    changes: [{ table: 'sounds', id, after: { ...after } }],
  });
  await t.conductor.measureNow([id]);
  const both = async () => (await t.sounds()).sort((a, b) => a.id - b.id);
  const [, cut] = await both();
  expect(cut.hash).toMatch(/^[0-9a-f]{32}$/);
  expect(cut.hash).not.toBe(reel.hash);
  expect((await t.catalogue.peaks([id]))[0].frames).toBe(1600);
  // Another look finds nothing new in it.
  await t.conductor.scan(50);
  expect((await both()).map((s) => s.fields.state)).toEqual([undefined, undefined]);
  delete tree['reel.wav'];
  await t.conductor.scan(50, true);
  expect((await both()).map((s) => s.fields.state)).toEqual(['Missing', 'Missing']);
  tree.moved = { 'reel.wav': wav(1) };
  await t.conductor.scan(50);
  expect((await both()).map((s) => [s.path, s.fields.state, s.excerpt?.start])).toEqual([
    ['moved/reel.wav', undefined, undefined],
    ['moved/reel.wav', undefined, 800],
  ]);
  tree.moved = { 'reel.wav': writeWav([hit(8000, 0.2, 0.7, 150, 1)], { rate: 8000, bits: 16 }) };
  await t.conductor.scan(50);
  const [whole, part] = await both();
  expect([whole.format.frames, whole.fields.state, part.fields.state]).toEqual([1600, undefined, 'Missing']);
  expect(await t.problems()).toEqual([]);
});

test('a file that goes is missing, not forgotten; when it is back nothing is lost', async () => {
  const tree: Tree = { 'a.wav': wav(1), 'b.wav': wav(2) };
  const t = await tab(tree);
  await t.conductor.scan(50);
  const { 'a.wav': bytes } = tree;
  delete tree['a.wav'];
  await t.conductor.scan(50);
  expect((await t.catalogue.missing(50)).map((s) => s.path)).toEqual(['a.wav']);
  tree['a.wav'] = bytes;
  await t.conductor.scan(50);
  expect(await t.catalogue.missing()).toEqual([]);
  expect(await t.sounds()).toHaveLength(2);
});

test('a problem is tried again when its file changes, and forgotten when it goes', async () => {
  const tree: Tree = { 'bad.wav': new Uint8Array(60), 'worse.wav': new Uint8Array(70) };
  const t = await tab(tree);
  await t.conductor.scan(50);
  expect(await t.problems()).toHaveLength(2);
  tree['bad.wav'] = wav(1);
  delete tree['worse.wav'];
  await t.conductor.scan(50);
  expect(await t.problems()).toEqual([]);
  expect(names(await t.sounds())).toEqual(['bad.wav']);
});

test('a root that cannot be read is told of; its sounds are not taken for missing', async () => {
  const tree: Tree = { 'a.wav': wav(1) };
  const t = await tab(tree);
  await t.conductor.scan(50);
  t.record.handles = [folderHandle('Tapes', tree, 'prompt')];
  await t.conductor.scan(50);
  expect(t.reports[t.reports.length - 1].unavailable).toEqual([
    { rootId: 50, reason: expect.stringMatching(/asks again/), askAgain: true },
  ]);
  expect(await t.catalogue.missing()).toEqual([]);
  t.record.handles = [folderHandle('Tapes', tree)];
  await t.conductor.scan(50);
  expect(t.reports[t.reports.length - 1]).toMatchObject({ unavailable: [], current: [50] });
});

test('a full disk stops the work with words, and what was read is kept', async () => {
  const t = await tab({ 'a.wav': wav(1) });
  const put = jest
    .spyOn(t.catalogue, 'applyMeasured')
    .mockRejectedValue(Object.assign(new Error('The quota has been exceeded.'), { name: 'QuotaExceededError' }));
  await t.conductor.scan(50);
  const [{ reason }] = t.reports[t.reports.length - 1].unavailable;
  expect(reason).toMatch(/^the disk has not enough room.*What was taken in before is kept/);
  expect(await t.sounds()).toHaveLength(1);
  put.mockRestore();
  await t.conductor.scan(50);
  expect(await t.catalogue.unmeasured(50)).toMatchObject({ waiting: [] });
});

test('work that is stopped goes on where it was', async () => {
  const tree: Tree = Object.fromEntries(Array.from({ length: 12 }, (_, i) => [`s${i}.wav`, wav(i)]));
  const t = await tab(tree);
  let count = 0;
  t.reader.measure.mockImplementation((...args) => {
    if (++count === 4) t.conductor.stop(50);
    return IntakeReader.prototype.measure.apply(t.reader, args);
  });
  await t.conductor.scan(50);
  const { total, waiting } = await t.catalogue.unmeasured(50);
  expect([total, waiting.length]).toEqual([12, 8]);
  expect(t.reports[t.reports.length - 1].current).toEqual([]);
  expect(await t.intakes()).toMatchObject([{ added: 12 }]);
  await t.conductor.scan(50);
  expect(count).toBe(12);
  expect(await t.catalogue.unmeasured(50)).toMatchObject({ waiting: [] });
});

test('what came in before a folder broke off has arrived, and nothing is taken for missing', async () => {
  const tree: Tree = Object.fromEntries(
    Array.from({ length: 600 }, (_, i) => [`s${String(i).padStart(3, '0')}.wav`, new Uint8Array(60)]),
  );
  for (let i = 0; i < 30; i++) tree[`s00${i}.wav`] = wav(i);
  const handle = folderHandle('Tapes', tree);
  const whole = handle.entries.bind(handle);
  let breaks = true;
  handle.entries = async function* () {
    let n = 0;
    for await (const entry of whole()) {
      if (breaks && ++n > 550) throw new DOMException('the drive is gone', 'NotFoundError');
      yield entry;
    }
  } as typeof handle.entries;
  const t = await tab(tree, { handles: [handle] });
  await t.conductor.scan(50);
  expect(t.reports[t.reports.length - 1].unavailable[0].reason).toMatch(/Is its drive connected/);
  const before = (await t.sounds()).length;
  expect(before).toBeGreaterThan(0);
  expect(await t.intakes()).toMatchObject([{ added: before }]);
  await t.conductor.scan(50);
  expect(await t.catalogue.missing()).toEqual([]);
  breaks = false;
  await t.conductor.scan(50);
  expect(t.reports[t.reports.length - 1].unavailable).toEqual([]);
});

test('what is looked at is measured first', async () => {
  const t = await tab(Object.fromEntries(Array.from({ length: 40 }, (_, i) => [`s${10 + i}.wav`, wav(i)])));
  const order: number[] = [];
  let last: number[] = [];
  let chosen: Promise<void> | undefined;
  t.reader.measure.mockImplementation(async (...args) => {
    order.push(args[1].id);
    await (chosen ??= t.sounds().then((all) => t.conductor.prefer((last = all.slice(-2).map((s) => s.id)))));
    return IntakeReader.prototype.measure.apply(t.reader, args);
  });
  await t.conductor.scan(50);
  // Those that were begun already are not given up; in turn these would be the last of forty.
  for (const id of last) expect(order.indexOf(id)).toBeLessThan(8);
  expect(new Set(order).size).toBe(40);
});

test('two tabs that take in the same folder do the work once', async () => {
  const tree: Tree = Object.fromEntries(Array.from({ length: 6 }, (_, i) => [`s${i}.wav`, wav(i)]));
  const [one, two] = [await tab(tree), await tab(tree)];
  await Promise.all([one.conductor.scan(50), two.conductor.scan(50)]);
  expect(await one.sounds()).toHaveLength(6);
  const read = [...one.reader.read.mock.calls, ...two.reader.read.mock.calls].flatMap((c) => c[1].map((f) => f.path));
  expect(read.sort()).toEqual(Object.keys(tree).sort());
  expect(one.reader.measure.mock.calls.length + two.reader.measure.mock.calls.length).toBe(6);
  expect([...one.reports, ...two.reports].some((r) => r.works.some((w) => w.phase === 'In another tab'))).toBe(true);
});

test('measuring at once does not wait for the queue', async () => {
  const t = await tab({ 'a.wav': wav(1), 'b.wav': wav(2) });
  let goOn = () => undefined as void;
  const held = new Promise<void>((done) => (goOn = done));
  t.reader.measure.mockImplementation(async (...args) => {
    if (args[1].path === 'a.wav') await held;
    return IntakeReader.prototype.measure.apply(t.reader, args);
  });
  const scan = t.conductor.scan(50);
  await t.conductor.labelsRead();
  const [, b] = await t.sounds();
  await t.conductor.measureNow([b.id]);
  expect((await t.catalogue.sounds([b.id]))[0].marks.anchor).toBeGreaterThanOrEqual(0);
  goOn();
  await scan;
});

describe('reconnecting', () => {
  async function moved() {
    const tree: Tree = {
      Boats: { 'a.wav': wav(1), 'same.wav': wav(2) },
      'renamed.wav': wav(3),
      'relabelled.wav': wav(4),
      'lost.wav': wav(5),
    };
    const t = await tab(tree);
    await t.conductor.scan(50);
    const before = await t.sounds();
    await t.catalogue.apply({
      label: 'Hold',
      at: 1,
      undoable: true,
      changes: [
        changeOf(
          'pulls',
          ((await t.catalogue.all('pulls')) as Pull[]).find((p) => p.id === TRAY)!,
          { soundIds: before.map((s) => s.id) },
        )!,
      ],
    });
    for (const name of Object.keys(tree)) delete tree[name];
    await t.conductor.scan(50, true);
    expect(await t.catalogue.missing(50)).toHaveLength(5);
    const relabelled = writeWav(
      [hit(8000, 0.6, 0.7, 150 + 40 * 4, 4)],
      { rate: 8000, bits: 16 },
      { info: { INAM: 'Other labels altogether' } },
    );
    const target: RootRecord = {
      ...t.record,
      id: 60,
      name: 'Drive B',
      handles: [
        folderHandle('Drive B', {
          Archive: { Boats: { 'a.wav': wav(1), 'same.wav': wav(2) } },
          'x1.wav': wav(3),
          'x2.wav': relabelled,
          'new.wav': wav(8),
        }),
      ],
    };
    t.roots.push(target);
    return { ...t, before, target };
  }

  test('finds them by path, by content and by the audio itself, and shows what is lost, changing nothing yet', async () => {
    const t = await moved();
    const { found, lost } = await t.conductor.plan(50, t.target);
    expect(Object.fromEntries(found.map((f) => [f.from, [f.to.path, f.by]]))).toEqual({
      'Boats/a.wav': ['Archive/Boats/a.wav', 'path'],
      'Boats/same.wav': ['Archive/Boats/same.wav', 'path'],
      'renamed.wav': ['x1.wav', 'content'],
      'relabelled.wav': ['x2.wav', 'audio'],
    });
    expect(lost.map((l) => l.path)).toEqual(['lost.wav']);
    expect(await t.catalogue.missing(50)).toHaveLength(5);
  });

  test('connects as one edit that can be taken back; everything attached stays', async () => {
    const t = await moved();
    const { found } = await t.conductor.plan(50, t.target);
    await t.conductor.reconnect(t.target, found);
    const there = await t.catalogue.soundsOf(60);
    expect(there.map((s) => s.id).sort()).toEqual(
      t.before
        .filter((s) => s.path !== 'lost.wav')
        .map((s) => s.id)
        .sort(),
    );
    expect(((await t.catalogue.all('pulls')) as Pull[]).find((p) => p.id === TRAY)!.soundIds).toEqual(
      t.before.map((s) => s.id),
    );
    await t.conductor.scan(60);
    expect((await t.catalogue.soundsOf(60)).map((s) => s.path).sort()).toEqual([
      'Archive/Boats/a.wav',
      'Archive/Boats/same.wav',
      'new.wav',
      'x1.wav',
      'x2.wav',
    ]);
    expect(await t.catalogue.undo()).toMatchObject({ label: 'Reconnect 4 sounds' });
    expect(await t.catalogue.missing(50)).toHaveLength(5);
  });

  test('where the new folder was taken in already, its fresh records give way, and worked-on ones do not', async () => {
    const t = await moved();
    await t.catalogue.apply({
      label: 'Lose the traces',
      at: 1,
      undoable: false,
      changes: t.before.map((s) => changeOf('sounds', s, { quickHash: undefined })!),
    });
    await t.conductor.scan(60);
    const doubles = await t.catalogue.soundsOf(60);
    expect(doubles).toHaveLength(5);
    const worked = doubles.find((d) => d.path === 'Archive/Boats/a.wav')!;
    await t.edit('Describe', worked, { 'fields.description': 'mine', 'from.description': 'typed' });
    const { found } = await t.conductor.plan(50, t.target);
    await t.conductor.reconnect(
      t.target,
      found.filter((f) => f.by === 'path'),
    );
    const now = await t.catalogue.soundsOf(60);
    expect(now.filter((s) => s.path === 'Archive/Boats/same.wav').map((s) => s.id)).toEqual([
      t.before.find((s) => s.path === 'Boats/same.wav')!.id,
    ]);
    expect(now.filter((s) => s.path === 'Archive/Boats/a.wav')).toHaveLength(2);
  });
});
