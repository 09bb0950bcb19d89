import { memorySource, readAudioFile } from '@core/files';
import { expect, test, type Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { cpSync, existsSync, mkdirSync, readFileSync, readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { choose, openSettled, search, startOn, stored, watchErrors, type Running } from '../helpers/app';
import { demoPath } from '../helpers/demo';
import { has, scratch } from '../helpers/programs';

// From six reels and a library to one that can be sold, as a librarian does it, with the server killed on the way.

const top = scratch();
const [reels, tide, shop] = ['Reels', 'Tidewrack Audio', 'Shop'].map((name) => join(top, name));
const title = 'Heron Point and tide';
const wavsIn = (folder: string) =>
  existsSync(folder)
    ? readdirSync(folder, { recursive: true, encoding: 'utf8' })
        .filter((p) => /\.(wav|flac)$/.test(p) && !/\.part$/.test(p))
        .map((p) => join(folder, p))
    : [];
const labelsOf = async (path: string) => (await readAudioFile(memorySource(new Uint8Array(readFileSync(path))))).labels;
let server: Running;
let page: Page;
let errors: string[];

test.beforeAll(async ({ browser }) => {
  test.setTimeout(240_000);
  cpSync(demoPath('Own recordings/2026-03 Heron Point'), reels, { recursive: true });
  cpSync(demoPath('Tidewrack Audio'), tide, { recursive: true });
  mkdirSync(shop);
  server = await startOn('--write', reels, tide, shop);
  page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  page.setDefaultTimeout(60_000);
  errors = watchErrors(page);
  await openSettled(page, server.url, 118, 200_000);
});
test.afterAll(async () => {
  await page?.context().close();
  await server?.stop();
  rmSync(top, { recursive: true, force: true });
});

const part = async (name: string) => {
  await page.getByRole('link', { name: 'Label', exact: true }).click();
  await page.getByRole('navigation', { name: 'Parts of label' }).getByRole('link', { name }).click();
};
const takesAt = join(reels, 'Takes');

test('six reels become labelled sounds in files, and with a library a published one; all of it is taken back', async () => {
  test.setTimeout(480_000);
  const original = wavsIn(tide).map((p) => readFileSync(p).toString('latin1'));
  // Cut, with the server killed in the middle.
  await part('Slices');
  await search(page, 'reel');
  await page.getByRole('button', { name: 'Find the takes' }).click();
  const keep = page.getByRole('button', { name: /^(Keep|Write) \d+ sounds?$/ });
  await expect(keep).toHaveText(/ [1-9]\d* sounds?$/);
  await expect(page.getByRole('progressbar', { name: 'Reading reels' })).toHaveCount(0);
  const takes = Number(/\d+/.exec((await keep.textContent())!)![0]);
  expect(takes).toBeGreaterThanOrEqual(115);
  await choose(page.getByRole('combobox', { name: 'What slices become' }), 'files in');
  await page.getByRole('textbox', { name: 'Folder below it' }).fill('Takes');
  await keep.click();
  // Looked at often: the files are written faster than a page is usually polled.
  await expect.poll(() => wavsIn(takesAt).length, { intervals: [5] }).toBeGreaterThan(3);
  const port = new URL(server.url).port;
  await server.stop('SIGKILL');
  await expect(page.getByText(/It ended early/)).toBeVisible();
  server = await startOn('--write', '--port', port, reels, tide, shop);
  await expect(keep).toBeEnabled();
  await keep.click();
  await expect.poll(() => wavsIn(takesAt).length, { timeout: 90_000 }).toBe(takes);
  errors.splice(0);
  await expect.poll(() => search(page, ''), { timeout: 60_000 }).toBe(112 + takes);

  // Labelled, and the labels into the files of both.
  await part('Table');
  await search(page, '');
  await page.getByRole('grid', { name: 'Sounds' }).getByRole('row').nth(1).click();
  await page.keyboard.press('Control+a');
  const box = page.getByRole('textbox', { name: 'Author', exact: true });
  if (!(await box.isVisible())) await page.getByRole('button', { name: 'All fields' }).click();
  await box.fill('Ines Möwe');
  await page.keyboard.press('Enter');
  type Row = { hidden?: boolean; fields: Record<string, unknown> };
  await expect
    .poll(
      async () =>
        (await stored<Row>(page, 'sounds')).filter((s) => !s.hidden && s.fields.author !== 'Ines Möwe').length,
    )
    .toBe(0);
  await part('Write files');
  await page.getByRole('button', { name: 'Look what would change' }).click();
  const write = page.getByRole('button', { name: /^Write \d+ files$/ });
  await write.click();
  await expect(page.getByText(/^\d+ files written/).first()).toBeVisible({ timeout: 120_000 });
  const taken = wavsIn(takesAt);
  for (const path of [...taken.slice(0, 5), ...wavsIn(tide).filter((p) => p.endsWith('.wav'))]) {
    const labels = await labelsOf(path);
    expect([path, labels.get('bext.Originator')]).toEqual([path, 'Ines Möwe']);
  }

  // Published: the reels themselves are hidden since they were cut.
  await page.getByRole('link', { name: 'Deliver', exact: true }).click();
  await page.getByRole('link', { name: 'Library', exact: true }).click();
  await page.getByRole('textbox', { name: 'Title' }).fill(title);
  await search(page, '');
  await page.getByRole('button', { name: 'Look what it comes to' }).click();
  await choose(
    page.getByRole('combobox', { name: 'Where it goes' }),
    'Shop, in its folder “Published”; comes in as sounds, too',
  );
  const publish = page.getByRole('button', { name: /^Publish \d+ sounds$/ });
  const sold = Number(/\d+/.exec((await publish.textContent())!)![0]);
  expect(sold).toBe(112 + takes);
  await publish.click();
  const told = page.getByRole('alert').filter({ hasText: 'written and read again' });
  await expect(told).toBeVisible({ timeout: 120_000 });
  const place = join(shop, 'Published', title);
  const sums = readFileSync(join(place, 'checksums.sha256'), 'utf8').trim().split('\n');
  expect(sums.length).toBeGreaterThanOrEqual(sold);
  if (has('sha256sum'))
    expect(execFileSync('sha256sum', ['-c', '--quiet', 'checksums.sha256'], { cwd: place, encoding: 'utf8' })).toBe('');
  for (const path of wavsIn(place).filter((p) => p.endsWith('.wav')))
    expect([path, (await labelsOf(path)).get('bext.Originator')]).toEqual([path, 'Ines Möwe']);

  // And back, step by step.
  await page.getByRole('button', { name: 'Take it back …' }).click();
  await page.getByRole('button', { name: 'Take it back', exact: true }).click();
  await expect.poll(() => wavsIn(place).length, { timeout: 60_000 }).toBe(0);
  await page.keyboard.press('Control+z');
  await expect
    .poll(() => wavsIn(tide).every((p, i) => readFileSync(p).toString('latin1') === original[i]), { timeout: 60_000 })
    .toBe(true);
  expect(errors.splice(0)).toEqual([]);
});
