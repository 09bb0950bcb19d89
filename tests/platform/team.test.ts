import 'fake-indexeddb/auto';
import { choicesOf, chosen, measuredText } from '@core/elsewhere';
import { memorySource, readAudioFile, readFrames, writeWav } from '@core/files';
import { excerptFormat, type Sound } from '@core/library';
import { Team } from '@platform/elsewhere/team';
import { sumOf } from '@platform/files/sum';
import { tagNames } from '@platform/labelling/desk';
import type { RootRecord } from '@platform/store/store';
import { Follower } from '@platform/team/follower';
import { ListFollower } from '@platform/team/lists';
import { Sender } from '@platform/team/sender';
import express from 'express';
import fc from 'fast-check';
import { once } from 'node:events';
import type { AddressInfo } from 'node:net';
import { emptyStore, likeABrowser } from '../helpers/browser';
import { factsOf, formatOf } from '../helpers/catalogue';
import { sine } from '../helpers/signals';
import { begun, endTeams, PASSWORD, quiet, teams } from '../helpers/team-desk';

// A library of a team as a root: what is taken over, what is sent, and what becomes of labels that two people change.

beforeAll(likeABrowser);
afterAll(endTeams);

test('a library is taken over with its labels, tags, anchors and contours, and a second look transfers only what changed', async () => {
  const { team, add, desk, store, follow, here, owner, library } = await begun();
  const format = formatOf(48_000);
  const fields = { fxName: 'Gate slam', catId: 'DOORMetl', tags: ['Rust', 'rust'], stars: 4, loudness: -21.5 };
  const id = await add('Gates/slam.wav', { format, fields, anchor: 1200, contour: '80ff7f00', hash: 'ab' });
  await add('Gates/odd.wav', {
    fields: { fxName: '', stars: 9, tempo: 'quick', nothing: 'x', __proto: 'y' },
    anchor: -1,
  });
  expect(await follow()).toMatchObject({ added: 2, changed: 0, sent: 0, conflicts: [] });
  const slam = await here('Gates/slam.wav');
  const tags = await desk.tagNames();
  expect([...tags.keys()]).toEqual(['Rust']);
  expect(slam).toMatchObject({ marks: { anchor: 1200 }, hash: 'ab', size: 14, team: { id } });
  expect(slam.fields).toMatchObject({
    fxName: 'Gate slam',
    stars: 4,
    loudness: -21.5,
    tags: [tags.get('Rust')],
    folder: 'Gates',
  });
  expect([slam.from.fxName, slam.from.loudness]).toEqual(['team Maren', 'measured']);
  expect((await desk.catalogue.peaks([slam.id]))[0].pairs).toEqual(new Int8Array([-128, -1, 127, 0]));
  // What no field can hold is left there, and nothing is told of it as if it had been emptied here.
  const odd = await here('Gates/odd.wav');
  expect(odd.fields).toMatchObject({ fxName: 'odd' });
  expect(['stars', 'tempo', 'nothing'].filter((key) => key in odd.fields)).toEqual([]);
  // A name of last resort is no label, and is not sent.
  expect((await owner.changes(library.id, 0)).revision).toBe(2);
  await owner.edit(library.id, [{ id, was: { stars: 4 }, is: { stars: 5 } }]);
  team.log.splice(0);
  expect(await follow([])).toMatchObject({ added: 0, changed: 1 });
  expect((await here('Gates/slam.wav')).fields.stars).toBe(5);
  expect(team.log).toEqual([expect.stringMatching(/changes\?since=2$/)]);
  expect(await store.sounds.count()).toBe(2);
  // Gone there: out of reach here, with all that was labelled; nothing is thrown away.
  await owner.remove(library.id, [id]);
  expect(await follow([])).toMatchObject({ gone: 1 });
  expect((await here('Gates/slam.wav')).fields).toMatchObject({ state: 'Missing', stars: 5 });
});

test('what is changed here goes there, and so does its undo; without the right it stays here', async () => {
  const { add, desk, follow, edit, there, here } = await begun();
  await add('a.wav', { fields: { fxName: 'A', keywords: ['old'] }, format: formatOf(1000), anchor: 3 });
  await follow();
  const id = await edit('a.wav', { 'fields.fxName': 'Bell', 'marks.anchor': 9, 'fields.plannedName': 'mine alone' });
  expect(await follow([id])).toMatchObject({ sent: 1, conflicts: [] });
  const told = await there('a.wav');
  expect([told.fields, told.anchor, told.by]).toEqual([{ fxName: 'Bell', keywords: ['old'] }, 9, 'Idris']);
  await desk.catalogue.undo();
  expect(await follow([id])).toMatchObject({ sent: 1 });
  expect([(await there('a.wav')).fields.fxName, (await there('a.wav')).anchor]).toEqual(['A', 3]);
  expect(await follow([id])).toMatchObject({ sent: 0, changed: 0 });
  expect((await here('a.wav')).fields.fxName).toBe('A');

  const other = await begun('hear');
  await other.add('a.wav', { fields: { fxName: 'A' } });
  await other.follow();
  const own = await other.edit('a.wav', { 'fields.fxName': 'Mine' });
  expect(await other.follow([own])).toMatchObject({ sent: 0, kept: 1 });
  expect([(await other.there('a.wav')).fields.fxName, (await other.here('a.wav')).fields.fxName]).toEqual([
    'A',
    'Mine',
  ]);
  // A right that is taken away is told, and nothing that is here goes.
  await other.owner.grant({ of: 'library', id: other.library.id }, 'Idris', null);
  await expect(other.follow([own])).rejects.toThrow('not for you. What is here of it stays');
  expect((await other.here('a.wav')).fields.fxName).toBe('Mine');
});

test('a label that both change waits for a choice, and nobody’s work is replaced until then', async () => {
  const { add, owner, library, desk, store, follow, edit, there, here } = await begun();
  const id = await add('a.wav', {
    fields: { fxName: 'A', catId: 'DOORMetl', category: 'DOORS', subCategory: 'METAL' },
  });
  await add('b.wav', { fields: { keywords: ['x', 'y'] } });
  await follow();
  await owner.edit(library.id, [
    { id, was: { fxName: 'A' }, is: { fxName: 'Theirs' } },
    { id: id + 1, was: { keywords: ['x', 'y'] }, is: { keywords: ['y', 'z'] } },
  ]);
  await edit('a.wav', { 'fields.fxName': 'Mine', 'fields.notes': 'kept' });
  await edit('b.wav', { 'fields.keywords': ['x', 'y', 'w'] });
  const ids = [(await here('a.wav')).id, (await here('b.wav')).id];
  expect(await follow(ids)).toMatchObject({ conflicts: [ids[0]] });
  expect((await here('b.wav')).fields.keywords).toEqual(['y', 'z', 'w']);
  expect((await there('b.wav')).fields.keywords).toEqual(['y', 'z', 'w']);
  // Mine is seen here, theirs there; what nobody else changed went there all the same.
  expect([(await here('a.wav')).fields.fxName, (await there('a.wav')).fields]).toEqual([
    'Mine',
    expect.objectContaining({ fxName: 'Theirs', notes: 'kept' }),
  ]);
  const tags = await tagNames({ store });
  expect(choicesOf(await here('a.wav'), tags)).toEqual([{ key: 'fxName', mine: 'Mine', theirs: 'Theirs' }]);
  const choose = async (which: 'mine' | 'theirs') => {
    await desk.put('Choose', [chosen(await here('a.wav'), ['fxName'], which, () => undefined)!]);
    return follow([ids[0]]);
  };
  expect(await choose('mine')).toMatchObject({ sent: 1, conflicts: [] });
  expect((await there('a.wav')).fields.fxName).toBe('Mine');
  // The words of a category go with it.
  await owner.edit(library.id, [
    { id, was: { catId: 'DOORMetl', subCategory: 'METAL' }, is: { catId: 'DOORWood', subCategory: 'WOOD' } },
  ]);
  await edit('a.wav', { 'fields.catId': 'BELLHand', 'fields.category': 'BELLS', 'fields.subCategory': 'HANDBELL' });
  expect(await follow([ids[0]])).toMatchObject({ conflicts: [ids[0]] });
  expect(choicesOf(await here('a.wav'), tags).map((c) => c.key)).toEqual(['catId']);
  await desk.put('Choose', [chosen(await here('a.wav'), ['catId'], 'theirs', () => undefined)!]);
  expect(await follow([ids[0]])).toMatchObject({ sent: 0, conflicts: [] });
  expect((await here('a.wav')).fields).toMatchObject({ catId: 'DOORWood', category: 'DOORS', subCategory: 'WOOD' });
});

test('whatever two people do, and whenever they meet: once all is chosen both have the same, and no value is made up', async () => {
  const { add, owner, library, desk, store, follow, edit, there, here } = await begun();
  const paths = ['a.wav', 'b.wav'];
  for (const path of paths) await add(path, { fields: { fxName: 'start', keywords: ['k'] } });
  await follow();
  const value = fc.oneof(
    fc.record({
      key: fc.constantFrom('fxName', 'notes'),
      to: fc.option(fc.constantFrom('p', 'q', 'r'), { nil: undefined }),
    }),
    fc.record({ key: fc.constant('keywords'), to: fc.subarray(['k', 'l', 'm'], { minLength: 1 }) }),
  );
  const step = fc.record({ who: fc.constantFrom('mine', 'theirs', 'meet'), at: fc.nat(1), value });
  const fieldsOf = async (path: string) => {
    const { fields } = await here(path);
    return Object.fromEntries(
      ['fxName', 'notes', 'keywords'].flatMap((k) => (fields[k] === undefined ? [] : [[k, fields[k]]])),
    );
  };
  await fc.assert(
    fc.asyncProperty(
      fc.array(step, { maxLength: 12 }),
      fc.constantFrom('mine' as const, 'theirs' as const),
      async (steps, side) => {
        for (const { who, at, value: v } of steps) {
          const path = paths[at];
          if (who === 'mine') await edit(path, { [`fields.${v.key}`]: v.to });
          else if (who === 'theirs') {
            const row = await there(path);
            const was = row.fields[v.key] === undefined ? {} : { [v.key]: row.fields[v.key] };
            await owner.edit(library.id, [{ id: row.id, was, is: v.to === undefined ? {} : { [v.key]: v.to } }]);
          } else await follow([(await here('a.wav')).id, (await here('b.wav')).id]);
        }
        const ids = [(await here('a.wav')).id, (await here('b.wav')).id];
        const { conflicts } = await follow(ids);
        for (const sound of await desk.catalogue.sounds(conflicts)) {
          const keys = choicesOf(sound, await tagNames({ store })).map((c) => c.key);
          await desk.put('Choose', [chosen(sound, keys, side, () => undefined)!]);
        }
        expect((await follow(ids)).conflicts).toEqual([]);
        for (const path of paths) {
          const row = await there(path);
          // A sound has a name in any case: where there is none, it is called as its file is.
          expect({ ...(await fieldsOf(path)) }).toEqual({ ...row.fields });
        }
      },
    ),
    { numRuns: 25 },
  );
});

test('offline, what is changed waits, and goes there once the server is back, also after the page was loaded anew', async () => {
  const { team, door, add, desk, store, edit, there, mine } = await begun();
  await add('a.wav', { fields: { fxName: 'A' } });
  const follower = new Follower(store, desk.catalogue);
  await follower.follow(mine, 7, undefined, quiet);
  await door.close();
  const id = await edit('a.wav', { 'fields.fxName': 'Made offline' });
  await expect(follower.follow(mine, 7, [id], quiet)).rejects.toThrow('cannot be reached');
  // Killed and started again from its folder; whoever was signed in still is.
  team.start();
  const back = await team.door();
  const again = new Team(back.base);
  await again.enter('Idris', PASSWORD);
  expect(await new Follower(store, desk.catalogue).follow(again, 7, undefined, quiet)).toMatchObject({ sent: 1 });
  expect((await there('a.wav')).fields.fxName).toBe('Made offline');
});

test('sounds are added with labels and what was measured; what broke off is gone on with, and nothing is sent twice', async () => {
  emptyStore();
  const { team, owner, mine, door, library, desk, store } = await begun();
  const bytes = ['one', 'two', 'three'].map((_, i) =>
    writeWav([sine(200 + i, 48_000, 4000)], { rate: 48_000, bits: 16 }),
  );
  const tree = { 'one.wav': bytes[0], 'two.wav': bytes[1], 'copy.wav': bytes[0], 'three.wav': bytes[2] };
  const files = express().get('/:name', (req, res) => {
    const found = tree[req.params.name as keyof typeof tree];
    if (found) res.send(Buffer.from(found));
    else res.status(404).json({ error: 'it is not there any more' });
  });
  const server = files.listen(0, '127.0.0.1');
  teams.push({ close: () => server.close().closeAllConnections() });
  await once(server, 'listening');
  const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}/`;
  const root: RootRecord = { id: 8, name: 'Own', kind: 'server', base, added: 0 };
  await store.roots.put(root);
  const names = ['one.wav', 'two.wav', 'copy.wav', 'three.wav', 'lost.wav'];
  const part = { start: 960, end: 1060 };
  const { format: whole } = await readAudioFile(memorySource(bytes[2]));
  const sounds = names.map((path, i): Sound => ({
    ...{
      id: 20 + i,
      rootId: 8,
      path,
      size: bytes[0].length,
      modified: 0,
      intakeId: 2,
      format: formatOf(4000, 48_000, 1),
    },
    ...{
      fields: { fxName: path, file: path, loudness: -20 - i, plannedName: 'mine' },
      from: {},
      marks: { anchor: 7 },
      warnings: [],
    },
    ...(path === 'three.wav' ? { format: excerptFormat(whole, part), excerpt: part } : {}),
  }));
  await desk.take(...sounds);
  const pairs = Int8Array.from({ length: 4000 }, (_, i) => (i % 2 === 0 ? -(i % 100) : i % 90));
  await store.peaks.put({ id: 20, frames: 4000, span: 2, pairs });
  await store.facts.put({ ...factsOf(20), onsets: Uint32Array.of(5, 70_000), loudness: Float32Array.of(-20.25) });
  // Half of the first file was sent before.
  const file = { sha256: await sumOf(new Blob([bytes[0] as BlobPart])), size: bytes[0].length };
  await mine.send(library.id, file, 0, bytes[0].slice(0, 3000) as BodyInit);
  const told = await new Sender(store).add(
    mine,
    library.id,
    sounds.map((s) => s.id),
    quiet,
  );
  expect(told.added.map((a) => a.id)).toEqual([20, 21, 22, 23]);
  expect(told.left).toEqual([{ path: 'lost.wav', reason: 'it is not there any more' }]);
  const { changed } = await owner.changes(library.id, 0);
  expect(changed.map((r) => r.path)).toEqual([
    ...['Own/one.wav', 'Own/two.wav', 'Own/copy.wav'],
    'Own/three/three.wav 0.020 s.wav',
  ]);
  // A part of a longer file goes as a file of its own, sample for sample.
  const [, , , row] = changed;
  expect([row.format.frames, row.anchor]).toEqual([100, 7]);
  const sent = memorySource(
    new Uint8Array(await (await fetch(`${door.base}v1/libraries/${library.id}/audio/${row.id}`)).arrayBuffer()),
  );
  const { format } = await readAudioFile(sent);
  const reel = await readFrames(memorySource(bytes[2]), whole, part.start, 100);
  expect(await readFrames(sent, format, 0, 100)).toEqual(reel);
  expect(told.bytes).toBe(2 * bytes[0].length - 3000 + row.size);
  expect(changed[0].fields).toEqual({ fxName: 'one.wav', loudness: -20 });
  expect([changed[0].anchor, changed[0].by]).toEqual([7, 'Idris']);
  // Whoever follows has what was measured, to the bit, and measures nothing.
  const follower = new Follower(store, desk.catalogue);
  expect((await follower.follow(mine, 7, undefined, quiet)).unmeasured).toBeUndefined();
  // Of one content under two names it was measured once.
  expect(await follower.measure(mine, 7, undefined, quiet)).toBe(2);
  const own = (await desk.catalogue.soundsOf(7)).find((s) => s.path === 'Own/one.wav')!;
  expect(await store.facts.get(own.id)).toEqual({ ...(await store.facts.get(20)), id: own.id });
  expect((await store.peaks.get(own.id))!.pairs).toEqual(pairs);
  // Once more: nothing is sent, nothing is added.
  team.log.splice(0);
  expect(await new Sender(store).add(mine, library.id, [20, 21, 22, 23], quiet)).toMatchObject({ bytes: 0, left: [] });
  expect(team.log.filter((l) => /files\/[0-9a-f]{64}/.test(l))).toEqual([]);
  expect((await owner.changes(library.id, 0)).changed).toHaveLength(4);
});

test('a list is a pull: members and notes of two people come together, and sounds are heard that one sees by the list alone', async () => {
  const { add, put, owner, mine, library, desk, store, follow, here } = await begun();
  const ids = [await add('a.wav', { fields: { fxName: 'A' } }), await add('b.wav')];
  const closed = await owner.make('Vault');
  const secret = await put(closed.id, 'v.wav', { fields: { fxName: 'From the vault' } });
  const facts = { ...factsOf(1), onsets: Uint32Array.of(5, 70_000), loudness: Float32Array.of(-20.25) };
  const peaks = { frames: 4000, span: 2, pairs: new Int8Array(4000).fill(3) };
  const measured = measuredText(facts.version, peaks, facts);
  await owner.tellMeasured(closed.id, [{ file: await sumOf(new Blob(['v.wav'])), measured }]);
  await follow();
  const list = await owner.makeList('For the ferry');
  await owner.editList(list.id, {
    add: [
      { library: library.id, sound: ids[0] },
      { library: closed.id, sound: secret },
    ],
  });
  await owner.grant({ of: 'list', id: list.id }, 'Idris', 'add');
  const was = { name: 'For the ferry', members: [] };
  await desk.put('Follow', [
    {
      table: 'pulls',
      id: 30,
      after: { id: 30, name: 'For the ferry', soundIds: [], created: 0, team: { list: list.id, was } },
    },
  ]);
  const lists = new ListFollower(store, desk.catalogue, new Follower(store, desk.catalogue));
  const pull = async () => (await store.pulls.get(30))!;
  const meet = () => lists.follow(mine, 30, quiet);
  // What is here of a list that was never seen is not taken for what somebody took out of it.
  await meet();
  expect((await owner.lists())[0].members).toHaveLength(2);
  const names = async () => (await desk.catalogue.sounds((await pull()).soundIds)).map((s) => s.fields.fxName);
  expect([(await pull()).name, await names()]).toEqual(['For the ferry', ['A', 'From the vault']]);
  expect(await mine.libraries()).toHaveLength(1);
  // What whoever added it measured comes along.
  const vaulted = (await store.sounds.filter((s) => s.path === 'v.wav').first())!;
  expect(await store.facts.get(vaulted.id)).toEqual({ ...facts, id: vaulted.id });
  expect((await store.peaks.get(vaulted.id))!.pairs).toEqual(peaks.pairs);
  // Of two sounds that are heard by the list alone, one is taken out and put in again: the library has not changed by that.
  const extra = await put(closed.id, 'w.wav');
  const place = { library: closed.id, sound: extra };
  const told = async (how: 'add' | 'remove') => {
    await owner.editList(list.id, { [how]: [place] });
    return meet();
  };
  const stateOf = async () => (await store.sounds.filter((s) => s.path === 'w.wav').first())?.fields.state;
  await told('add');
  expect(await names()).toContain('w.wav');
  await told('remove');
  expect([await stateOf(), await names()]).toEqual(['Missing', ['A', 'From the vault']]);
  await told('add');
  expect([await stateOf(), await names()]).toEqual([undefined, ['A', 'From the vault', 'w.wav']]);
  await told('remove');
  // Both change it: one adds and notes here, the other one takes out and notes there.
  const [a, b] = [await here('a.wav'), await here('b.wav')];
  await desk.put('Edit', [
    {
      table: 'pulls',
      id: 30,
      before: {},
      after: { soundIds: [...(await pull()).soundIds, b.id], notes: { [b.id]: 'louder', [a.id]: 'mine' } },
    },
  ]);
  await owner.editList(list.id, {
    remove: [{ library: closed.id, sound: secret }],
    notes: [{ library: library.id, sound: ids[0], was: '', is: 'theirs' }],
  });
  const met = await meet();
  expect([met.told, met.conflicts]).toEqual([
    true,
    [{ library: library.id, sound: ids[0], theirs: 'theirs', mine: 'mine' }],
  ]);
  expect([await names(), (await pull()).notes]).toEqual([['A', 'b.wav'], { [a.id]: 'theirs', [b.id]: 'louder' }]);
  expect((await owner.lists())[0].members.map((m) => [m.sound, m.note])).toEqual([
    [ids[0], 'theirs'],
    [ids[1], 'louder'],
  ]);
  // Everybody has an order of their own.
  const turned = { before: { soundIds: [a.id, b.id] }, after: { soundIds: [b.id, a.id] } };
  await desk.put('Reorder', [{ table: 'pulls', id: 30, ...turned }]);
  expect([(await meet()).told, (await pull()).soundIds]).toEqual([false, [b.id, a.id]]);
  // Without the right to change it, what is done here stays here and is not undone.
  await owner.grant({ of: 'list', id: list.id }, 'Idris', 'hear');
  await desk.put('Edit', [{ table: 'pulls', id: 30, before: { soundIds: [a.id, b.id] }, after: { soundIds: [b.id] } }]);
  expect(await meet()).toMatchObject({ kept: true, told: false });
  expect([(await pull()).soundIds, (await owner.lists())[0].members.length]).toEqual([[b.id], 2]);
  // No longer for one: it stays as a list of this catalogue.
  await owner.grant({ of: 'list', id: list.id }, 'Idris', null);
  expect((await meet()).lost).toBe(true);
  expect([(await pull()).team, (await pull()).soundIds]).toEqual([undefined, [b.id]]);
});
