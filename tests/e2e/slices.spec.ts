import { readAudioFile, memorySource, readFrames } from '@core/files';
import { expect, test, type Page } from '@playwright/test';
import { copyFileSync, mkdirSync, readFileSync, readdirSync, rmSync, existsSync } from 'node:fs';
import { join } from 'node:path';
import { axeFaults, choose, openSettled, search, startOn, stored, watchErrors, type Running } from '../helpers/app';
import { demoPath, demoTruth } from '../helpers/demo';
import { scratch } from '../helpers/programs';

// Reels become sounds: cut by ear of the program, mended by hand, kept as parts or as files, and taken back.

const top = scratch();
const folder = join(top, 'Heron Point');
const reelsAt = 'Own recordings/2026-03 Heron Point';
const reels = ['REEL_01 boots on deck', 'REEL_04 oar locks', 'REEL_05 gate swings'];
const counts = [60, 34, 10];
let server: Running;
let page: Page;
let errors: string[];

test.beforeAll(async ({ browser }) => {
  test.setTimeout(180_000);
  mkdirSync(folder);
  for (const reel of reels) copyFileSync(demoPath(`${reelsAt}/${reel}.wav`), join(folder, `${reel}.wav`));
  server = await startOn('--write', folder);
  page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  page.setDefaultTimeout(30_000);
  errors = watchErrors(page);
  await openSettled(page, server.url, reels.length);
});
test.afterAll(async () => {
  await page?.context().close();
  await server?.stop();
  rmSync(top, { recursive: true, force: true });
});
test.afterEach(() => expect(errors.splice(0)).toEqual([]));

const slices = () => page.getByRole('grid', { name: /^Slices of the reel/ });
const keepButton = () => page.getByRole('button', { name: /^(Keep|Write) \d+ sounds?$/ });
const reel = (name: RegExp) => page.getByRole('listbox', { name: 'Reels' }).getByRole('option', { name });
const shot = async (name: string) => {
  if (process.env.SHOTS) await page.screenshot({ path: join(process.env.SHOTS, `${name}.png`) });
};

async function find(): Promise<void> {
  await page.getByRole('link', { name: 'Label', exact: true }).click();
  await page.getByRole('navigation', { name: 'Parts of label' }).getByRole('link', { name: 'Slices' }).click();
  await search(page, '');
  await page.getByRole('button', { name: 'Find the takes' }).click();
  await expect(page.getByRole('progressbar', { name: 'Reading reels' })).toHaveCount(0);
}

test('reels are cut into their takes, which are seen before anything is kept', async () => {
  await find();
  for (const [i, name] of ['boots', 'oar locks', 'gate'].entries())
    await expect(reel(new RegExp(name, 'i'))).toContainText(String(counts[i]));
  await expect(keepButton()).toHaveText(/104 sounds/);
  await shot('slices');
  expect(await axeFaults(page)).toEqual([]);
});

test('settings cut at once; slices are split, joined, dropped and named, and that is taken back', async () => {
  await find();
  await page.getByRole('spinbutton', { name: 'Apart' }).fill('3');
  await expect(reel(/boots/)).toContainText('19');
  await page.getByRole('spinbutton', { name: 'Apart' }).fill('');
  await expect(reel(/boots/)).toContainText('60');
  await slices().getByRole('row').nth(2).click();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Delete');
  await expect(reel(/boots/)).toContainText('59');
  await page.keyboard.press('g');
  await expect(reel(/boots/)).toContainText('58');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(reel(/boots/)).toContainText('60');
  const name = page.getByRole('textbox', { name: 'Name of the slice' });
  await name.fill('Heel, hard');
  await name.press('Enter');
  await page.keyboard.press('ArrowDown');
  await expect(slices().getByRole('row', { name: /Heel, hard/ })).toBeVisible();
});

test('kept as parts, they are sounds with anchors, takes of one group; one undo for all', async () => {
  await find();
  await keepButton().click();
  await expect(page.getByText(/104 sounds cut/).first()).toBeVisible();
  await page.getByRole('link', { name: 'Find', exact: true }).click();
  expect(await search(page, 'boots')).toBe(60);
  await shot('cut-find');
  // Parts become files whenever somebody wants them to; what uses them plays the files then.
  await page.getByRole('link', { name: 'Label', exact: true }).click();
  await page.getByRole('navigation', { name: 'Parts of label' }).getByRole('link', { name: 'Write files' }).click();
  expect(await search(page, '"gate swings"')).toBe(10);
  await page.getByRole('button', { name: 'Look what would change' }).click();
  await page.getByRole('textbox', { name: 'Folder below it' }).fill('Gates');
  await page.getByRole('button', { name: 'Make 10 files' }).click();
  const gates = join(folder, 'Gates');
  await expect(page.getByText(/^10 files made/).first()).toBeVisible();
  expect(readdirSync(gates)).toHaveLength(10);
  const sounds = () => stored<{ path: string; excerpt?: object; fields: Record<string, unknown> }>(page, 'sounds');
  expect((await sounds()).filter((x) => x.path.startsWith('Gates/') && !x.excerpt)).toHaveLength(10);
  await page.getByRole('link', { name: 'Find', exact: true }).click();
  expect(await search(page, '"gate swings"')).toBe(10);
  await page.keyboard.press('Control+z');
  await expect.poll(() => existsSync(gates)).toBe(false);
  await expect.poll(async () => (await sounds()).filter((x) => x.excerpt).length).toBe(104);
  await page.keyboard.press('Control+z');
  await expect.poll(() => search(page, '')).toBe(3);
});

test('written as files, they are the samples of the reel to the bit; undo removes them, redo makes them again', async () => {
  test.setTimeout(120_000);
  await find();
  await choose(page.getByRole('combobox', { name: 'What slices become' }), 'files in');
  await page.getByRole('textbox', { name: 'Folder below it' }).fill('Cut/Takes');
  await shot('slices-files');
  await keepButton().click();
  await expect(page.getByText(/104 sounds cut/).first()).toBeVisible({ timeout: 60_000 });
  const place = join(folder, 'Cut/Takes');
  const there = () => (existsSync(place) ? readdirSync(place).filter((f) => f.endsWith('.wav')) : []);
  expect(there()).toHaveLength(104);
  const name = there().find((f) => /boots on deck 07/.test(f))!;
  const source = memorySource(new Uint8Array(readFileSync(join(place, name))), name);
  const file = await readAudioFile(source);
  expect(file.format).toMatchObject({ container: 'WAV', rate: 48_000, bits: 24 });
  const whole = memorySource(new Uint8Array(readFileSync(join(folder, `${reels[0]}.wav`))), 'reel');
  const reelFile = await readAudioFile(whole);
  const at = Number(
    BigInt(file.labels.get('bext.TimeReference')!) - BigInt(reelFile.labels.get('bext.TimeReference')!),
  );
  const event = demoTruth()[`${reelsAt}/${reels[0]}.wav`].events[6];
  expect(Math.abs((at + file.cues[0].frame) / 48_000 - event)).toBeLessThan(0.02);
  const [own, cut] = await Promise.all([
    readFrames(source, file.format, 0, file.format.frames),
    readFrames(whole, reelFile.format, at, file.format.frames),
  ]);
  expect(own).toEqual(cut);
  await page.getByRole('link', { name: 'Find', exact: true }).click();
  expect(await search(page, 'oar')).toBe(34);
  await page.keyboard.press('Control+z');
  await expect.poll(() => there().length).toBe(0);
  await expect.poll(() => search(page, '')).toBe(3);
  await page.keyboard.press('Control+Shift+z');
  await expect.poll(() => there().length).toBe(104);
  expect(await search(page, 'boots')).toBe(60);
  expect(existsSync(join(folder, `${reels[0]}.wav`))).toBe(true);
  await page.keyboard.press('Control+z');
  await expect.poll(() => there().length).toBe(0);
  await expect.poll(() => search(page, '')).toBe(3);
});

test('the server is killed while slices are written: each file is whole or not there, and the rest is written later', async () => {
  test.setTimeout(240_000);
  await find();
  await choose(page.getByRole('combobox', { name: 'What slices become' }), 'files in');
  await page.getByRole('textbox', { name: 'Folder below it' }).fill('Broken off');
  const place = join(folder, 'Broken off');
  const there = () => (existsSync(place) ? readdirSync(place).filter((f) => f.endsWith('.wav')) : []);
  await keepButton().click();
  // Looked at often: the files are written faster than a page is usually polled.
  await expect.poll(() => there().length, { intervals: [5] }).toBeGreaterThan(3);
  const port = new URL(server.url).port;
  await server.stop('SIGKILL');
  await expect(page.getByText(/It ended early/)).toBeVisible();
  expect(there().length).toBeLessThan(104);
  for (const name of there()) {
    const file = await readAudioFile(memorySource(new Uint8Array(readFileSync(join(place, name)))));
    expect([name, file.warnings, file.format.bits]).toEqual([name, [], 24]);
  }
  server = await startOn('--write', '--port', port, folder);
  await expect(keepButton()).toBeEnabled();
  await keepButton().click();
  await expect.poll(() => there().length, { timeout: 60_000 }).toBe(104);
  expect(readdirSync(place).filter((f) => f.startsWith('.'))).toEqual([]);
  errors.splice(0);
  await page.getByRole('link', { name: 'Find', exact: true }).click();
  await expect.poll(() => search(page, 'oar')).toBe(34);
  // Pressed quickly: each step is taken, one after the other. What was on its way when the server went may have come in by itself: it is
  // nobody's edit, and stays.
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z');
  await expect.poll(() => there().length, { timeout: 90_000 }).toBeLessThanOrEqual(3);
});
