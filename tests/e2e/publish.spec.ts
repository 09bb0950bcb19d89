import { memorySource, readAudioFile, readFrames } from '@core/files';
import { expect, test, type Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { unzipSync } from 'fflate';
import { createHash } from 'node:crypto';
import { appendFileSync, copyFileSync, existsSync, mkdirSync, readFileSync, readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { axeFaults, choose, openSettled, saved, search, startOn, watchErrors, type Running } from '../helpers/app';
import { demoPath } from '../helpers/demo';
import { pick, pickedFiles } from '../helpers/picked';
import { has, scratch } from '../helpers/programs';

// A library to hand over: seen as a tree, written with labels inside, verified, written again only where it changed, taken back.

const top = scratch();
const [yard, shop] = ['Yard', 'Shop'].map((name) => join(top, name));
const title = 'Estuary sounds';
const inShop = 'Shop, in its folder “Published”; comes in as sounds, too';
let server: Running;
let page: Page;
let errors: string[];
let count: number;

test.beforeAll(async ({ browser }) => {
  test.setTimeout(180_000);
  for (const folder of [yard, shop]) mkdirSync(folder);
  const tide = readdirSync(demoPath('Tidewrack Audio'), { recursive: true, encoding: 'utf8' });
  const files = [
    ...tide.filter((p) => /Hull Lap.*wav$/.test(p)).slice(0, 3),
    ...tide.filter((p) => /Oar Dip.*wav$/.test(p)).slice(0, 2),
    ...tide.filter((p) => p.endsWith('.ogg')).slice(0, 1),
  ];
  for (const path of files)
    copyFileSync(demoPath(`Tidewrack Audio/${path}`), join(yard, path.slice(path.lastIndexOf('/') + 1)));
  copyFileSync(demoPath('Marram Field Recordings/MFR-0220 reeds in gusts (wide).flac'), join(yard, 'reeds.flac'));
  count = readdirSync(yard).length;
  server = await startOn('--write', yard, shop);
  page = await (await browser.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true })).newPage();
  page.setDefaultTimeout(30_000);
  errors = watchErrors(page);
  await openSettled(page, server.url, count);
  await page.getByRole('link', { name: 'Deliver', exact: true }).click();
  await page.getByRole('link', { name: 'Library', exact: true }).click();
  await page.getByRole('textbox', { name: 'Title' }).fill(title);
});
test.afterAll(async () => {
  await page?.context().close();
  await server?.stop();
  rmSync(top, { recursive: true, force: true });
});
test.afterEach(() => expect(errors.splice(0)).toEqual([]));

const place = join(shop, 'Published', title);
const all = (folder = place) =>
  existsSync(folder) ? readdirSync(folder, { recursive: true, encoding: 'utf8' }).filter((p) => /\.\w+$/.test(p)) : [];
const bytesOf = (path: string) => new Uint8Array(readFileSync(path));
async function look(): Promise<void> {
  // What was published into a folder of the library came in, too.
  await search(page, '-published');
  await page.getByRole('button', { name: 'Look what it comes to' }).click();
}
const tree = () => page.getByRole('grid', { name: 'The library as it would be' });
const told = () => page.getByRole('alert').filter({ hasText: 'written and read again' });
async function publish(into: string): Promise<void> {
  // A file that was changed in a folder of the library may come in meanwhile: then one has to look again.
  await expect(async () => {
    await look();
    await choose(page.getByRole('combobox', { name: 'Where it goes' }), into);
    await page.getByRole('button', { name: /^Publish \d+ sounds?$/ }).click({ timeout: 10_000 });
  }).toPass();
  await expect(told()).toBeVisible({ timeout: 60_000 });
}

test('the tree is seen before anything is written, with what is lacking', async () => {
  await look();
  await expect(tree().getByRole('row', { name: /WATER/ })).toContainText('3');
  await expect(
    tree()
      .getByRole('row', { name: /Not labelled/ })
      .first(),
  ).toContainText('lack a field');
  await page.getByRole('button', { name: 'Close WATER' }).click();
  await expect(tree().getByRole('row', { name: /Hull Lap/ })).toHaveCount(0);
  await expect(page.getByRole('button', { name: `Publish ${count} sounds` })).toBeEnabled();
  expect(await axeFaults(page)).toEqual([]);
  expect(all(shop)).toEqual([]);
});

test('into a folder: labels within, a sheet and sums beside; a second time nothing is written; foreign files are left alone', async () => {
  test.setTimeout(120_000);
  await publish(inShop);
  await expect(told()).toContainText(`${count + 5} files written`);
  const files = all();
  expect(files).toEqual(
    expect.arrayContaining(['Contents.txt', 'Credits.csv', 'Licence.txt', 'checksums.sha256', `${title}.csv`]),
  );
  if (has('sha256sum'))
    expect(execFileSync('sha256sum', ['-c', 'checksums.sha256'], { cwd: place, encoding: 'utf8' })).not.toContain(
      'FAILED',
    );
  const lap = files.find((f) => /Hull Lap.*01/.test(f))!;
  expect(lap).toMatch(/^Tidewrack Audio\/WATER\/LAP\//);
  const [mine, own] = [join(place, lap), join(yard, lap.slice(lap.lastIndexOf('/') + 1))].map((p) =>
    memorySource(bytesOf(p)),
  );
  const [a, b] = [await readAudioFile(mine), await readAudioFile(own)];
  expect(a.labels.get('iXML.ASWG.catId')).toBe('WATRLap');
  expect(await readFrames(mine, a.format, 0, a.format.frames)).toEqual(
    await readFrames(own, b.format, 0, b.format.frames),
  );
  await publish(inShop);
  await expect(told()).toContainText(`${count + 5} were there and the same`);
  appendFileSync(join(place, lap), 'changed by somebody');
  await publish(inShop);
  await expect(told()).toContainText('1 could not be published');
  await expect(told()).toContainText('there is another file in its place, which is left as it is');
});

test('into a folder that was picked, as FLAC; and that is taken back', async () => {
  await pick(page, 'Picked');
  await choose(page.getByRole('combobox', { name: 'Format' }), 'FLAC, 16 bit');
  await publish('a folder, chosen next');
  const listed = async () => [...(await pickedFiles(page, `Picked/${title}`, /Hull Lap/)).keys()];
  const flacs = (await listed()).filter((f) => f.endsWith('.flac'));
  expect(flacs).toHaveLength(count);
  // What was made of a file with a picture has that picture.
  const [, lap] = [...(await pickedFiles(page, `Picked/${title}`, /Hull Lap/))].find(([, bytes]) => bytes.length > 0)!;
  const pictured = await readAudioFile(memorySource(lap));
  expect([pictured.artwork?.mime, pictured.warnings]).toEqual(['image/png', []]);
  // Another visit takes it back.
  await page.reload();
  const before = page.getByRole('region', { name: 'Published before' });
  const last = before.getByRole('listitem').first();
  await expect(last).toContainText(`Picked/${title}`);
  await last.getByRole('button', { name: 'Take it back …' }).click();
  await expect(page.getByText(/files that it wrote will be removed/)).toBeVisible();
  expect(await axeFaults(page)).toEqual([]);
  await page.getByRole('button', { name: 'Take it back', exact: true }).click();
  // Files go while they are listed.
  await expect(async () => expect(await listed()).toEqual([])).toPass();
  await expect(page.getByText(/^\d+ files removed$/).first()).toBeVisible();
});

test('into an archive, whose sums are right', async () => {
  await choose(page.getByRole('combobox', { name: 'Format' }), 'as they are');
  await look();
  await choose(page.getByRole('combobox', { name: 'Where it goes' }), 'a ZIP archive');
  const file = await saved(page, () => page.getByRole('button', { name: /^Publish \d+ sounds?$/ }).click());
  const entries = unzipSync(new Uint8Array(file.bytes));
  const sums = new TextDecoder().decode(entries[`${title}/checksums.sha256`]);
  expect(sums.trim().split('\n')).toHaveLength(count + 5);
  for (const line of sums.trim().split('\n')) {
    const [sum, path] = line.split('  ');
    expect(createHash('sha256').update(entries[`${title}/${path}`]).digest('hex')).toBe(sum);
  }
});
