import { memorySource, readAudioFile, readFrames } from '@core/files';
import type { Sound } from '@core/library';
import type { ExchangeEntry, LookupAsk, PublisherKeyFile, PublishAsk } from '@core/schemas';
import { expect, test, type Page } from '@playwright/test';
import { createHash, webcrypto } from 'node:crypto';
import { copyFileSync, cpSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { artwork } from '../../src/demo/artwork';
import { encodeOgg } from '../../src/demo/encode';
import {
  axeFaults,
  inTheme,
  openFirst,
  openSettled,
  saved,
  search,
  startOn,
  stored,
  watchErrors,
  type Running,
} from '../helpers/app';
import { scratch } from '../helpers/programs';

// Labels by the sounds themselves: looked up, corrected by their publisher, kept where they were written here, and published.
test.describe.configure({ mode: 'serial', timeout: 120_000 });

const top = scratch();
const folder = join(top, 'Unsorted');
const exchange = join(top, 'exchange');
const yard = '.demo/libraries/Sluice Yard';
const key = JSON.parse(readFileSync('.demo/Sluice Yard key.json', 'utf8')) as PublisherKeyFile;
type Kept = { entries: (ExchangeEntry & { print: { words: string; under: string } })[] };
const published = JSON.parse(readFileSync('.demo/exchange/sluice-yard.json', 'utf8')) as Kept;
let server: Running;
let page: Page;
let errors: string[];

test.beforeAll(async ({ browser }) => {
  mkdirSync(folder);
  cpSync('.demo/exchange', exchange, { recursive: true });
  // Renamed, and coded otherwise; and one that is not theirs.
  copyFileSync(`${yard}/Iron/ratchets/pawlClack_wet-02.wav`, join(folder, 'untitled 1.wav'));
  const source = memorySource(new Uint8Array(readFileSync(`${yard}/Timber/knocks/plankDrop_hard-01.wav`)));
  const { format } = await readAudioFile(source);
  writeFileSync(
    join(folder, 'untitled 2.ogg'),
    await encodeOgg(await readFrames(source, format, 0, format.frames), format.rate),
  );
  copyFileSync(
    '.demo/libraries/Tidewrack Audio/BOATMech/BOATMech_Winch Pawl Clack Heavy 01_TWA_TIDE.wav',
    join(folder, 'x.wav'),
  );
  server = await startOn('--exchange', exchange, folder);
  page = await (await browser.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true })).newPage();
  page.setDefaultTimeout(30_000);
  errors = watchErrors(page);
  await openSettled(page, server.url, 3);
});
test.afterAll(async () => {
  await page?.context().close();
  await server?.stop();
  rmSync(top, { recursive: true, force: true });
});
test.afterEach(() => expect(errors.splice(0)).toEqual([]));

const sounds = () => stored<Sound>(page, 'sounds');
const named = async (file: string) => (await sounds()).find((s) => s.path === file)!;
const values = () => page.getByRole('grid', { name: 'Values of the publisher' });
const look = () => page.getByRole('button', { name: /^Look up/ }).click();
const told = (text: string | RegExp) => expect(page.getByRole('status').filter({ hasText: text })).toBeVisible();
async function part(stage: string, name: string): Promise<void> {
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('link', { name: stage }).click();
  await page
    .getByRole('navigation', { name: `Parts of ${stage.toLowerCase()}` })
    .getByRole('link', { name })
    .click();
}

/** Publishes as the yard does, from elsewhere. */
async function publish(more: Partial<PublishAsk>): Promise<void> {
  const { d: _, ...shown } = key.key;
  const ask: PublishAsk = {
    ...{ publisher: 'Sluice Yard', key: shown, after: 1, at: new Date().toISOString(), note: 'Corrections' },
    ...{ entries: [], withdrawn: [], ...more },
  };
  const own = await webcrypto.subtle.importKey('jwk', { ...key.key }, { name: 'ECDSA', namedCurve: 'P-256' }, false, [
    'sign',
  ]);
  const body = JSON.stringify(ask);
  const signature = await webcrypto.subtle.sign({ name: 'ECDSA', hash: 'SHA-256' }, own, Buffer.from(body));
  const answer = await fetch(`${server.url}services/exchange/v1/publish`, {
    method: 'POST',
    body,
    headers: {
      ...{ 'Content-Type': 'application/json', Origin: new URL(server.url).origin },
      'X-Signature': Buffer.from(signature).toString('base64url'),
    },
  });
  expect(answer.status).toBe(200);
}

test('sounds are recognised whatever their files are called and however they are coded; each value is seen before it is taken', async () => {
  await part('Label', 'Exchange');
  await page.getByRole('combobox', { name: 'Published by' }).fill('Nobody at all');
  await page.keyboard.press('Tab');
  await look();
  await expect(page.getByText('Nobody publishes there under this name')).toBeVisible();
  const sent: string[] = [];
  page.on('request', (r) => r.url().includes('/services/exchange/') && sent.push(r.postData() ?? ''));
  await page.getByRole('combobox', { name: 'Published by' }).fill('  sluice yard');
  await page.keyboard.press('Tab');
  await look();
  await told('2 sounds known to Sluice Yard, 1 of them in another coding; 1 not known there');
  await expect(values()).toContainText('Winch pawl clacking over its ratchet, wet iron');
  await expect(values()).toContainText('Description (de)');
  // Fingerprints are sent, and not a second of audio.
  expect(Math.max(...sent.map((s) => s.length))).toBeLessThan(20_000);
  for (const theme of ['dark', 'light']) {
    expect(await axeFaults(page, inTheme(theme))).toEqual([]);
    await page.keyboard.press('Control+Shift+l');
  }
  const [before] = [await named('untitled 1.wav')];
  expect(before.fields.description).toBeUndefined();
  // The keywords of one are not wanted.
  const row = values().getByRole('row').filter({ hasText: 'pawl, winch, ratchet, clack' });
  await row.getByText('Mine', { exact: true }).click();
  await page.getByRole('button', { name: 'Change 2 sounds' }).click();
  await expect.poll(async () => (await named('untitled 1.wav')).fields.catId).toBe('METLImpt');
  const { fields, from, told: kept } = await named('untitled 1.wav');
  expect(fields).toMatchObject({ fxName: 'Winch pawl, wet 02', licence: 'Owned', category: 'METAL' });
  expect(fields['description@de']).toContain('Sperrklinke');
  expect(fields.keywords).toBeUndefined();
  expect(from.description).toMatch(/^exchange Sluice Yard, \d{4}-\d\d-\d\d$/);
  expect(kept).toMatchObject({ publisher: 'Sluice Yard', revision: 1, hash: (await named('untitled 1.wav')).hash });
  expect((await named('untitled 2.ogg')).fields.fxName).toBe('Plank dropped flat 01');
  await expect(page.getByText(/2 sounds labelled as Sluice Yard does/).first()).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await named('untitled 1.wav')).fields).toEqual(before.fields);
  expect((await named('untitled 2.ogg')).told).toBeUndefined();
  await page.keyboard.press('Control+Shift+z');
  await expect.poll(async () => (await named('untitled 1.wav')).fields.catId).toBe('METLImpt');
});

test('looked up again only what changed is sent; a correction is one, and what was written here stays', async () => {
  const own = await named('untitled 2.ogg');
  const entry = published.entries.find((e) => e.labels.fxName === 'Plank dropped flat 01')!;
  const { labels } = entry;
  const corrected = {
    ...labels,
    description: 'A scaffold plank dropped flat on stone',
    ...{ fxName: 'Scaffold plank dropped 01', rootNote: 'low' },
  };
  await publish({ entries: [{ hash: entry.hash, print: entry.print, labels: corrected }] });
  // Somebody wrote a name here meanwhile.
  await part('Label', 'Table');
  await page
    .getByRole('row')
    .filter({ hasText: 'untitled 2.ogg' })
    .getByText('Plank dropped flat 01', { exact: true })
    .dblclick();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('My plank');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await named('untitled 2.ogg')).fields.fxName).toBe('My plank');
  await part('Label', 'Exchange');
  const asked = page.waitForRequest(
    (r) => r.url().endsWith('/v1/lookup') && 'since' in (r.postDataJSON() as LookupAsk),
  );
  await look();
  const answer = await (await (await asked).response())!.json();
  expect((answer as { entries: unknown[] }).entries).toHaveLength(1);
  const field = (name: string) => values().getByRole('row', { name });
  await expect(field('A scaffold plank dropped flat on stone').getByRole('radio', { name: 'Theirs' })).toBeChecked();
  await expect(field('My plank Name').getByRole('radio', { name: 'Mine' })).toBeChecked();
  // What a field cannot hold is told, and the rest goes on.
  await expect(page.getByRole('alert').filter({ hasText: /^1 value left out/ })).toBeVisible();
  await page.getByRole('button', { name: 'Change 1 sound', exact: true }).click();
  await expect.poll(async () => (await named('untitled 2.ogg')).fields.description).toBe(corrected.description);
  expect((await named('untitled 2.ogg')).fields.fxName).toBe('My plank');
  expect((await named('untitled 2.ogg')).told).toMatchObject({ revision: 2, hash: entry.hash });
  expect(own.hash).not.toBe(entry.hash);
});

test('a picture that the publisher tells is one more value, and is shown where the file has none', async () => {
  const png = artwork('Sluice Yard');
  const sha256 = createHash('sha256').update(png).digest('hex');
  const ref = { sha256, mime: 'image/png' as const, size: png.length };
  const { hash, print, labels } = published.entries.find((e) => e.labels.fxName === 'Winch pawl, wet 02')!;
  const pictures = [{ sha256, data: Buffer.from(png).toString('base64') }];
  await publish({ after: 2, entries: [{ hash, print, labels, artwork: ref }], pictures });
  await look();
  const row = values().getByRole('row', { name: /Artwork/ });
  await expect(row).toContainText('PNG');
  await expect(row.getByRole('radio', { name: 'Theirs' })).toBeChecked();
  await page.getByRole('button', { name: 'Change 1 sound', exact: true }).click();
  await expect.poll(async () => (await named('untitled 1.wav')).picture).toEqual(ref);
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('link', { name: 'Find' }).click();
  await openFirst(page, 'winch pawl');
  await page.keyboard.press('Alt+Enter');
  await expect(page.getByRole('img', { name: 'Artwork' })).toBeVisible();
  await page.keyboard.press('Alt+Enter');
  await search(page, '');
});

test('published from Deliver under a name of one’s own: seen before, corrected, taken back; whoever has not its key cannot', async () => {
  await part('Deliver', 'Labels');
  const as = page.getByRole('textbox', { name: 'Published as' });
  await as.fill('Unsorted & Sons');
  await page.getByRole('button', { name: 'See what would be said' }).click();
  await told(/^3 new; 0 corrected/);
  await page.getByRole('textbox', { name: 'Note on this revision' }).fill('First');
  await page.getByRole('button', { name: 'Publish 3 sounds' }).click();
  await expect(page.getByText('Revision 1 of Unsorted & Sons is published: 3 new').first()).toBeVisible();
  await told(/0 new; 0 corrected; 3 as published/);
  await expect(page.getByRole('list', { name: 'Revisions' })).toContainText('First');
  const file = await saved(page, () => page.getByRole('button', { name: 'Save the key' }).click());
  expect(file.name).toMatch(/key\.json$/);
  const facts = async () =>
    (await (await fetch(`${server.url}services/exchange/v1/publishers/unsorted%20%26%20sons`)).json()) as {
      key: object;
      sounds: number;
    };
  const { d: _, ...shown } = (JSON.parse(Buffer.from(file.bytes).toString()) as PublisherKeyFile).key;
  expect((await facts()).key).toEqual(shown);
  for (const theme of ['dark', 'light']) {
    expect(await axeFaults(page, inTheme(theme))).toEqual([]);
    await page.keyboard.press('Control+Shift+l');
  }
  await page.getByRole('button', { name: 'Take back 3 sounds' }).click();
  await page.getByRole('button', { name: 'Take it back' }).click();
  await expect.poll(async () => (await facts()).sounds).toBe(0);
  // A name that somebody else began, until one has its key.
  await as.fill('Sluice Yard');
  await page.getByRole('button', { name: 'See what would be said' }).click();
  await expect(page.getByText(/is published by somebody else/)).toBeVisible();
  await expect(page.getByRole('button', { name: /^Publish / })).toBeDisabled();
  await page.getByLabel('Open a key').setInputFiles('.demo/Sluice Yard key.json');
  await expect(page.getByText('This browser may publish as Sluice Yard now').first()).toBeVisible();
  await page.getByRole('button', { name: 'See what would be said' }).click();
  await expect(page.getByRole('button', { name: /^Publish / })).toBeEnabled();
});
