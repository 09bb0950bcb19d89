import 'fake-indexeddb/auto';
import { usualChoices } from '@core/elsewhere';
import type { Sound } from '@core/library';
import { PublisherKeys } from '@platform/elsewhere/keys';
import { Exchange } from '@platform/elsewhere/exchange';
import { Service } from '@platform/elsewhere/service';
import { sumOf } from '@platform/files/sum';
import type { RootRecord } from '@platform/store/store';
import { ExchangeFolder, exchangeRouter } from '@services/exchange';
import { artwork } from '@demo/artwork';
import express from 'express';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { serve } from '../helpers/bucket';
import { likeABrowser } from '../helpers/browser';
import { factsOf } from '../helpers/catalogue';
import { Desk, raw } from '../helpers/desk';

// Artwork by the exchange: what lies in a publisher's files comes to those whose files have none, and nobody's own is written over.

const top = mkdtempSync(join(tmpdir(), 'cormorant-artwork-'));
const closing: (() => unknown)[] = [];
const desk = new Desk();
beforeAll(likeABrowser);
afterAll(async () => {
  for (const close of closing) await close();
  desk.close();
  rmSync(top, { recursive: true, force: true });
});
const silent = () => undefined;

test('a picture is published once, taken where the file has none, corrected, kept where it is one’s own, and taken back with the edit', async () => {
  await desk.fresh();
  const pictures = { a: artwork('Sluice Yard'), b: artwork('Another') };
  let shown: Uint8Array = pictures.a;
  const files = await serve(express().use('/own', (_req, res) => void res.send(Buffer.from(shown))));
  const there = await serve(express().use('/exchange', exchangeRouter(new ExchangeFolder(top))));
  closing.push(files.close, there.close);
  const base = `${there.base}/exchange/`;
  const root: RootRecord = { id: 2, name: 'Own', kind: 'server', base: `${files.base}/own/`, added: 0 };
  await desk.put('Add', [{ table: 'roots', id: 2, after: { ...root } }], false);
  const hash = 'ab'.repeat(16);
  const own = (id: number, more: Partial<Sound>): Sound => ({ ...raw(id, `${id}.wav`), hash, ...more });
  const inFile = () => ({ size: shown.length, artwork: { mime: 'image/png', offset: 0, length: shown.length } });
  // The publisher's, one without a picture, and one whose file has another.
  await desk.take(own(10, inFile()), own(11, {}), own(12, { artwork: { mime: 'image/png', offset: 0, length: 9 } }));
  await desk.put('Name', [{ table: 'sounds', id: 10, before: {}, after: { 'fields.fxName': 'Gate slam' } }], false);
  const { store } = (desk.labeller as unknown as { desk: { store: import('@platform/store/store').Store } }).desk;
  for (const id of [10, 11, 12]) await store.facts.put(factsOf(id));
  const key = await new PublisherKeys().make('Sluice Yard');
  const plan = (withArtwork = true) => desk.labeller.planLabels(base, 'Sluice Yard', [10], silent, withArtwork);
  expect((await plan(false)).rows[0].keys).not.toContain('artwork');
  expect((await plan()).rows[0]).toMatchObject({ state: 'added', keys: expect.arrayContaining(['artwork']) });
  expect(await desk.labeller.publishLabels(base, key, '', 'say')).toMatchObject({ added: 1 });
  expect((await plan()).counts).toEqual({ added: 0, changed: 0, same: 1 });
  // Where it cannot be read, that is told, and the labels go all the same.
  const unread = await desk.labeller.planLabels(base, 'Sluice Yard', [12], silent, true);
  expect([unread.unpictured, unread.rows.length]).toEqual([[12], 1]);
  await plan();
  // One that cannot be read for now is not taken back by that.
  shown = new Uint8Array(40);
  expect(await plan()).toMatchObject({ counts: { changed: 0, same: 1 }, unpictured: [10] });
  shown = pictures.a;
  await plan();
  // Publishing without artwork takes none away.
  expect((await plan(false)).counts.same).toBe(1);

  const look = () => desk.labeller.lookLabelsUp(base, 'Sluice Yard', [11, 12], silent);
  const states = async () =>
    (await look()).rows.map(({ id, fields }) => [id, fields.find((f) => f.key === 'artwork')?.state]);
  expect(await states()).toEqual([
    [11, 'new'],
    [12, 'edited'],
  ]);
  await desk.labeller.takeLabels({ ...usualChoices }, {}, silent);
  const ref = { sha256: await sumOf(new Blob([pictures.a as BlobPart])), mime: 'image/png', size: pictures.a.length };
  expect([(await desk.one(11)).picture, (await desk.one(12)).picture]).toEqual([ref, undefined]);
  const client = new Exchange(new Service(base, 'the exchange'));
  expect(new Uint8Array(await (await client.picture(ref as never)).arrayBuffer())).toEqual(new Uint8Array(pictures.a));
  expect(await states()).toEqual([
    [11, 'same'],
    [12, 'edited'],
  ]);
  // Another picture is a correction, of what was taken alone.
  shown = pictures.b;
  await desk.put('Read', [{ table: 'sounds', id: 10, before: {}, after: inFile() }], false);
  expect((await plan()).rows[0]).toMatchObject({ state: 'changed', keys: ['artwork'] });
  await desk.labeller.publishLabels(base, key, '', 'say');
  expect(await states()).toEqual([
    [11, 'corrected'],
    [12, 'edited'],
  ]);
  await desk.labeller.takeLabels({ ...usualChoices, edited: 'theirs' }, {}, silent);
  const second = await sumOf(new Blob([pictures.b as BlobPart]));
  expect([(await desk.one(11)).picture?.sha256, (await desk.one(12)).picture?.sha256]).toEqual([second, second]);
  await desk.catalogue.undo();
  expect([(await desk.one(11)).picture, (await desk.one(12)).picture]).toEqual([ref, undefined]);
});
