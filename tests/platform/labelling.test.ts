import 'fake-indexeddb/auto';
import { UCS_PATTERN, type Recipe, type Step } from '@core/naming';
import type { Sound } from '@core/library';
import { gzipSync } from 'node:zlib';
import { likeABrowser } from '../helpers/browser';
import { Desk, raw } from '../helpers/desk';

const desk = new Desk();
const silent = () => undefined;
beforeAll(likeABrowser);
beforeEach(() => desk.fresh());
afterEach(() => desk.close());

describe('typed and pasted texts', () => {
  test('go into many sounds as one edit, with new tags made once', async () => {
    await desk.take(raw(5, 'a.wav'), raw(6, 'b.wav'));
    const rows = [5, 6].map((id) => ({ id, texts: { tags: 'Rusty, 🔧', stars: '4', catId: 'METLImpt' } }));
    expect(await desk.labeller.putTexts(rows, 'Paste', true)).toEqual({ changed: 2, faults: [] });
    const ids = await desk.tagNames();
    expect([...ids.keys()]).toEqual(['Rusty', '🔧']);
    expect(await desk.fields(6)).toMatchObject({
      tags: [ids.get('Rusty'), ids.get('🔧')],
      stars: 4,
      catId: 'METLImpt',
      category: 'METAL',
    });
    expect((await desk.one(5)).from).toMatchObject({ tags: 'typed', category: 'typed' });
    // The same word in another case is the same tag.
    await desk.labeller.putTexts([{ id: 5, texts: { tags: 'rusty' } }], 'Type', true);
    expect((await desk.tagNames()).size).toBe(2);
    expect(await desk.catalogue.undo()).toMatchObject({ label: 'Type' });
    expect(await desk.catalogue.undo()).toMatchObject({ label: 'Paste' });
    expect((await desk.tagNames()).size).toBe(0);
    expect(await desk.fields(5)).not.toHaveProperty('stars');
  });

  test('what a field refuses is told, the rest goes in', async () => {
    await desk.take(raw(5, 'a.wav'), raw(6, 'b.wav'));
    const rows = [
      { id: 5, texts: { tempo: 'fast' } },
      { id: 6, texts: { tempo: '90' } },
    ];
    expect(await desk.labeller.putTexts(rows, 'Paste', true)).toEqual({
      changed: 1,
      faults: [{ id: 5, message: 'Tempo: “fast” is no number' }],
    });
    expect((await desk.fields(6)).tempo).toBe(90);
  });
});

describe('recipes', () => {
  const recipe = (...steps: Step[]): Recipe => ({ id: 1, name: 'Test', steps });
  const upper: Step = { kind: 'case', on: true, to: 'fxName', form: 'upper' };

  test('what is previewed is what happens, once, and can be taken back', async () => {
    await desk.take(
      ...Array.from({ length: 30 }, (_, i) => raw(10 + i, `gate ${i}.wav`, { fxName: i === 3 ? 'GATE' : 'gate' })),
    );
    const ids = Array.from({ length: 30 }, (_, i) => 10 + i);
    const number: Step = {
      kind: 'number',
      on: true,
      to: 'notes',
      start: 1,
      by: 1,
      digits: 2,
      place: 'instead',
      join: '',
    };
    const seen = await desk.labeller.previewRecipe(recipe(upper, number), ids, [0, 7]);
    expect(seen.written).toEqual(['fxName', 'notes']);
    expect(seen.rows[1].planned).toMatchObject({ before: { fxName: 'gate' }, after: { fxName: 'GATE', notes: '08' } });
    expect(await desk.fields(17)).not.toHaveProperty('notes');
    const counted = await desk.labeller.runRecipe(recipe(upper), ids, false, silent);
    expect(counted).toEqual({ changed: 29, unchanged: 1, failing: 0, faults: [] });
    const steps: [number, string][] = [];
    const done = await desk.labeller.runRecipe(recipe(upper, number), ids, true, (share, what) =>
      steps.push([share, what]),
    );
    expect(done.changed).toBe(30);
    expect(await desk.fields(17)).toMatchObject({ fxName: 'GATE', notes: '08' });
    expect((await desk.one(17)).from).toMatchObject({ fxName: 'recipe Test', notes: 'recipe Test' });
    expect(steps.at(-1)).toEqual([1, 'Done']);
    expect(await desk.catalogue.undo()).toMatchObject({ label: 'Run Test on 30 sounds' });
    expect(await desk.fields(17)).toMatchObject({ fxName: 'gate' });
    expect((await desk.one(17)).from.fxName).toBe('name');
  });

  test('sounds that fail are counted with step and reason, and stay as they were', async () => {
    await desk.take(raw(5, 'a.wav', { author: 'Nobody' }), raw(6, 'b.wav', { author: 'Tidewrack Audio' }));
    await desk.put('Short', [
      { table: 'shortNames', id: 2, after: { id: 2, kind: 'creator', name: 'Tidewrack Audio', short: 'TWA' } },
    ]);
    const lookUp: Step = { kind: 'shortName', on: true, from: 'author', to: 'creatorId', way: 'shorten' };
    const done = await desk.labeller.runRecipe(recipe(upper, lookUp), [5, 6], true, silent);
    expect(done).toMatchObject({
      changed: 1,
      failing: 1,
      faults: [{ id: 5, step: 1, message: '“Nobody” is not in the table of short names' }],
    });
    expect(await desk.fields(5)).toMatchObject({ fxName: 'Sound 5' });
    expect(await desk.fields(6)).toMatchObject({ fxName: 'SOUND 6', creatorId: 'TWA' });
  });

  test('a recipe of a field that there is not fails everywhere and changes nothing', async () => {
    await desk.take(raw(5, 'a.wav'));
    const missing: Step = { kind: 'copy', on: true, from: 'nosuch', to: 'fxName' };
    const seen = await desk.labeller.previewRecipe(recipe(missing), [5], [0]);
    expect(seen.faults).toEqual([{ step: 0, message: '“nosuch” is no field that can be used here' }]);
    expect(await desk.labeller.runRecipe(recipe(missing), [5], true, silent)).toMatchObject({ changed: 0, failing: 1 });
  });

  test('a count ends where something newer is asked for, and a run goes on', async () => {
    const ids = Array.from({ length: 250 }, (_, i) => 10 + i);
    await desk.take(...ids.map((id) => raw(id, `${id}.wav`)));
    let counted = 0;
    const count = desk.labeller.runRecipe(recipe(upper), ids, false, (share) => (counted = share));
    const seen = desk.labeller.previewRecipe(recipe(upper), ids, [249]);
    await expect(count).rejects.toThrow('Cancelled');
    expect((await seen).rows).toHaveLength(1);
    expect(counted).toBeLessThan(0.5);
    const run = desk.labeller.runRecipe(recipe(upper), ids, true, silent);
    await desk.labeller.runRecipe(recipe(upper), ids, false, silent);
    expect(await run).toMatchObject({ changed: 250 });
  });

  test('where it stands can be seen from outside, so that a pattern without end can be stopped', async () => {
    await desk.take(raw(5, 'a.wav'));
    let during = 0;
    await desk.labeller.runRecipe(recipe(upper, upper), [5], false, () => (during = Atomics.load(desk.where, 0)));
    expect(during).toBe(1);
    expect(Atomics.load(desk.where, 0)).toBe(0);
    expect(Atomics.load(desk.where, 1)).toBe(1);
    expect(Atomics.load(desk.where, 2)).toBeGreaterThanOrEqual(2);
  });
});

describe('the review', () => {
  const kronk = (n: number) => raw(n, `kronk_0${n}.wav`);

  test('proposes for what nobody decided on, carries out, learns, and guesses the rest again', async () => {
    await desk.take(kronk(5), kronk(6), raw(7, 'Dog bark.wav'), raw(8, 'x.wav', { catId: 'WOODMisc' }));
    const rows = await desk.labeller.beginReview([5, 6, 7, 8], silent);
    expect(rows.map((r) => r.id)).toEqual([5, 6, 7]);
    expect(rows[0].ranked).toEqual([]);
    expect(rows[2].ranked[0].catId).toBe('ANMLDog');
    const again = await desk.labeller.decide(
      [{ id: 5, catId: 'METLFric', corrected: true, fields: ['fxName'] }],
      'Choose',
    );
    expect(again.map((r) => [r.id, r.ranked[0].catId])).toEqual([[6, 'METLFric']]);
    expect((await desk.one(5)).from).toMatchObject({ catId: 'typed', fxName: 'typed' });
    await desk.labeller.decide(
      [{ id: 7, catId: 'ANMLDog', corrected: false, fields: ['fxName', 'keywords'] }],
      'Accept',
    );
    expect(await desk.fields(7)).toMatchObject({
      catId: 'ANMLDog',
      category: 'ANIMALS',
      fxName: 'Dog Bark',
      keywords: ['dog', 'bark'],
    });
    expect((await desk.one(7)).from).toMatchObject({ catId: 'suggested', keywords: 'suggested' });
    expect(await desk.catalogue.undo()).toMatchObject({ label: 'Accept' });
    expect(await desk.fields(7)).not.toHaveProperty('catId');
  });

  test('what the library has already teaches the next review, and typed values are never touched', async () => {
    const typed = raw(6, 'kronk_06.wav', { fxName: 'My name', keywords: ['mine'] });
    typed.from = { ...typed.from, fxName: 'typed', keywords: 'typed' };
    const known = { ...kronk(5), fields: { ...kronk(5).fields, catId: 'METLFric' }, from: { catId: 'typed' } } as Sound;
    await desk.take(known, typed);
    const [row] = await desk.labeller.beginReview([5, 6], silent);
    expect(row.ranked[0]).toMatchObject({ catId: 'METLFric' });
    expect(Object.keys(row.proposals)).not.toContain('fxName');
    await desk.labeller.decide(
      [{ id: 6, catId: 'METLFric', corrected: false, fields: ['fxName', 'keywords', 'take'] }],
      'Accept',
    );
    expect(await desk.fields(6)).toMatchObject({ fxName: 'My name', keywords: ['mine'], take: '06' });
  });
});

describe('file names', () => {
  const good = { catId: 'DOORGate', creatorId: 'TWA', sourceId: 'SLY' };

  test('are composed, checked and kept as plans; files stay as they are', async () => {
    await desk.take(
      raw(5, 'a/gate.wav', { ...good, fxName: 'Gate slam' }),
      raw(6, 'a/gate2.wav', { ...good, fxName: 'Gate slam' }),
      raw(7, 'b/gate3.wav', { ...good, fxName: 'Gate slam' }),
      raw(8, 'b/bad.wav', { ...good, fxName: 'Gate/slam?' }),
      raw(9, 'b/none.wav', { fxName: 'No category' }),
      raw(10, 'b/border.wav', { ...good, fxName: 'Gate_slam' }),
    );
    const names = await desk.labeller.composeNames(UCS_PATTERN, [5, 6, 7, 8, 9, 10], silent);
    expect(names[2]).toEqual({ id: 7, from: 'gate3.wav', to: 'DOORGate_Gate slam_TWA_SLY.wav', faults: [] });
    expect(names[0].faults).toEqual(['2 sounds of this folder would have this name']);
    expect(names[3].faults[0]).toMatch(/“\/” is not allowed/);
    expect(names[4].faults).toEqual(['CatID is missing']);
    expect(names[5].faults[0]).toMatch(/would not be read back/);
    expect(await desk.labeller.planNames(UCS_PATTERN, [5, 6, 7, 8, 9, 10], silent)).toBe(1);
    expect(await desk.one(7)).toMatchObject({
      path: 'b/gate3.wav',
      fields: { plannedName: 'DOORGate_Gate slam_TWA_SLY.wav' },
    });
  });

  test('are read into the fields that one chooses', async () => {
    await desk.take(raw(5, 'x/Gate - slam (3).wav'), raw(6, 'x/other.wav'));
    const parsed = await desk.labeller.parseNames('{fxName} - {notes} ({take})', [5, 6], silent);
    expect(parsed.map((p) => p.texts)).toEqual([{ fxName: 'Gate', notes: 'slam', take: '3' }, undefined]);
    expect(
      await desk.labeller.fillFromNames(
        '{fxName} - {notes} ({take})',
        { fxName: 'fxName', notes: 'project' },
        [5, 6],
        silent,
      ),
    ).toBe(1);
    expect(await desk.fields(5)).toMatchObject({ fxName: 'Gate', project: 'slam' });
    expect(await desk.fields(5)).not.toHaveProperty('take');
    await expect(desk.labeller.composeNames('{nosuch}', [5], silent)).rejects.toThrow('No field is called “nosuch”.');
  });
});

describe('sheets', () => {
  const csv = (text: string) => new TextEncoder().encode(text);

  test('are read, matched, and carried out as one edit', async () => {
    await desk.take(raw(5, 'a/gate.wav'), raw(6, 'a/rope.wav', { description: 'Old' }));
    const facts = await desk.labeller.readSheet(
      'yard.csv',
      csv('Filename,Description,Tags,Tempo\ngate.wav,A gate,"iron, new",fast\nrope.wav,A rope,,\nnone.wav,x,,\n'),
    );
    expect(facts).toMatchObject({
      columns: ['Filename', 'Description', 'Tags', 'Tempo'],
      guesses: ['file', 'description', 'tags', 'tempo'],
      rows: 3,
    });
    const match = await desk.labeller.matchSheet(facts.guesses, { description: 'replace' }, silent);
    expect(match.counts).toEqual({ new: 1, same: 0, conflict: 1, missing: 1, twice: 0, refused: 0 });
    expect(match.faults).toEqual([{ row: 0, message: 'Tempo: “fast” is no number' }]);
    expect(desk.labeller.sheetCells([1])).toEqual([['rope.wav', 'A rope', '', '']]);
    // The row whose tempo is none is left out whole; leaving the column out lets it in.
    expect(await desk.labeller.applySheet(silent)).toBe(1);
    await desk.labeller.matchSheet(['file', 'description', 'tags', undefined], { description: 'replace' }, silent);
    expect(await desk.labeller.applySheet(silent)).toBe(1);
    const ids = await desk.tagNames();
    expect(await desk.fields(5)).toMatchObject({ description: 'A gate', tags: [ids.get('iron'), ids.get('new')] });
    expect((await desk.one(6)).from.description).toBe('sheet yard.csv');
    await desk.catalogue.undo();
    await desk.catalogue.undo();
    expect((await desk.fields(6)).description).toBe('Old');
  });

  test.each(['csv', 'tsv', 'xlsx'] as const)('a round trip by %s changes nothing', async (format) => {
    await desk.put('Tags', [{ table: 'tags', id: 30, after: { id: 30, name: 'a, b' } }]);
    await desk.take(
      raw(5, 'a/same.wav', {
        description: '=HYPERLINK("x")\nline two',
        keywords: ['one, two', 'three'],
        tags: [30],
        stars: 3,
        tempo: 92.5,
      }),
      raw(6, 'b/same.wav', { description: "'quoted", notes: '+1 more', recorded: Date.UTC(2026, 2, 14) }),
      raw(7, 'b/ü 🚢.wav', { 'description@de': 'Fähre; „Anker“' }),
    );
    const keys = ['description', 'keywords', 'tags', 'stars', 'tempo', 'notes', 'recorded', 'description@de'];
    const bytes = await desk.labeller.exportSheet([5, 6, 7], keys, format, silent);
    const facts = await desk.labeller.readSheet(`out.${format}`, bytes);
    expect(facts.guesses.slice(0, 3)).toEqual(['file', 'path', 'hash']);
    const all = Object.fromEntries(keys.map((k) => [k, 'replace' as const]));
    const match = await desk.labeller.matchSheet(facts.guesses, all, silent);
    expect(match.rows.map((r) => [r.soundId, r.state, r.texts])).toEqual([5, 6, 7].map((id) => [id, 'same', {}]));
  });

  test.each([
    [new Uint8Array(0), /empty/],
    [Uint8Array.from([0x50, 0x4b, 3, 4, 9, 9, 9, 9]), /damaged|no XLSX|cannot be read/],
    [gzipSync('x'), /no text file|one row/],
  ])('%#: what is no sheet is refused in words', async (bytes, message) => {
    await expect(desk.labeller.readSheet('bad', new Uint8Array(bytes))).rejects.toThrow(message);
  });
});
