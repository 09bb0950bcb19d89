import { expect, test, type Page } from '@playwright/test';
import { copyFileSync, mkdirSync, mkdtempSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Papa from 'papaparse';
import { writeWav } from '@core/files';
import {
  axeFaults,
  currentRow,
  openSettled,
  rendered,
  saved,
  search,
  stored,
  startOn,
  watchErrors,
  type Running,
} from '../helpers/app';
import { hit } from '../helpers/signals';

const top = mkdtempSync(join(tmpdir(), 'cormorant-intake-'));
const root = join(top, 'Yard tapes');
const sound = (pitch: number, name = '', bits: 16 | 24 = 24, level = 0.7) =>
  writeWav(
    [hit(48000, 1.4, level, pitch, pitch)],
    { rate: 48000, bits },
    name ? { info: { INAM: name, ICMT: 'by the sluice' }, bext: { Description: name } } : {},
  );
mkdirSync(join(root, 'Iron'), { recursive: true });
mkdirSync(join(root, 'Timber'));
writeFileSync(join(root, 'Iron/gateSlam_01.wav'), sound(180, 'Gate slam heavy'));
writeFileSync(join(root, 'Iron/gateSlam_02.wav'), sound(195));
writeFileSync(join(root, 'Iron/copy of gate.wav'), sound(180));
writeFileSync(join(root, 'Iron/gate quiet.wav'), sound(180, '', 24, 0.35));
writeFileSync(join(root, 'Timber/plankKnock-A.wav'), sound(320));
writeFileSync(join(root, 'Timber/<b>bold<i> & "quoted".wav'), sound(410));
writeFileSync(join(root, 'broken one.wav'), 'RIFF....WAVEnothing');
writeFileSync(join(root, 'broken two.wav'), '');
const COUNT = 6;

let server: Running;
test.beforeAll(async () => {
  server = await startOn(root);
});
test.afterAll(() => server?.stop());

const part = (page: Page, name: RegExp) =>
  page.getByRole('navigation', { name: 'Parts of intake' }).getByRole('link', { name }).click();
const intake = (page: Page) => page.getByRole('link', { name: 'Intake', exact: true }).click();
const find = (page: Page) => page.getByRole('link', { name: 'Find', exact: true }).click();
const libraries = (page: Page) => page.getByRole('button', { name: /^All libraries/ });

test('problems are listed, filtered, saved as a sheet, and tried again once they are mended', async ({ page }) => {
  const errors = watchErrors(page);
  await openSettled(page, server.url, COUNT);
  await intake(page);
  await part(page, /Problems 2/);
  const problems = page.getByRole('region', { name: 'Problems' });
  await expect(problems.getByRole('heading')).toHaveText('2 files could not be read');
  await problems.getByRole('textbox', { name: 'Filter problems' }).fill('empty');
  await expect(problems.getByRole('row', { name: /broken two/ })).toBeVisible();
  await expect(problems.getByRole('row', { name: /broken one/ })).toHaveCount(0);
  const { bytes, name } = await saved(page, () => problems.getByRole('button', { name: 'Save as CSV' }).click());
  expect(name).toBe('Problems.csv');
  const sheet = Papa.parse<Record<string, string>>(new TextDecoder().decode(bytes), { header: true }).data;
  expect(sheet).toMatchObject([
    { Folder: 'Yard tapes', File: 'broken two.wav', Problem: expect.stringMatching(/the file is empty/) as unknown },
  ]);
  await problems.getByRole('textbox', { name: 'Filter problems' }).fill('');
  await problems.getByRole('button', { name: 'Try all again' }).click();
  await expect(problems.getByRole('heading')).toHaveText('2 files could not be read');
  // Mended on disk, it comes in by itself.
  writeFileSync(join(root, 'broken two.wav'), sound(500));
  await expect(problems.getByRole('heading')).toHaveText('1 file could not be read');
  rmSync(join(root, 'broken two.wav'));
  expect(await axeFaults(page)).toEqual([]);
  expect(errors).toEqual([]);
});

test('the details say what was measured and where every label came from', async ({ page }) => {
  const errors = watchErrors(page);
  await openSettled(page, server.url, COUNT);
  await search(page, 'gate slam heavy');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Alt+Enter');
  const details = page.getByRole('complementary', { name: 'Details' });
  await expect(details).toContainText('Gate slam heavy');
  await expect(details.getByText('INFO.INAM', { exact: true })).toBeVisible();
  await expect(details.getByText('bext.Description', { exact: true })).toBeVisible();
  for (const fact of ['Loudness', 'True peak', 'Noise floor', 'Brightness', 'Onsets', 'Force', 'Channel layout'])
    await expect(details.getByText(fact, { exact: true })).toBeVisible();
  await expect(details.getByRole('img', { name: 'Loudness over time, LUFS' })).toBeVisible();
  await expect(details.getByRole('img', { name: /^Spectrum/ })).toBeVisible();
  await details.getByRole('button', { name: 'Everything the file says' }).click();
  await expect(details.getByText('INFO.ICMT')).toBeVisible();
  expect(await axeFaults(page)).toEqual([]);
  await page.keyboard.press('Alt+Enter');
  await expect(details).toHaveCount(0);
  // Facts are fields like any other: they can be asked for.
  expect(await search(page, 'force:>40 loudness:-40..0')).toBeGreaterThan(0);
  expect(await search(page, 'layout:mono take:01')).toBe(1);
  // A tempo by hand is a number, and one click halves it.
  await page.getByRole('link', { name: 'Label', exact: true }).click();
  await page
    .getByRole('row', { name: /Gate slam heavy/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'All fields' }).click();
  const tempo = page.getByRole('textbox', { name: 'Tempo', exact: true });
  await tempo.fill('quick');
  await tempo.press('Enter');
  await expect(page.getByText(/“quick” is no number/).first()).toBeVisible();
  await tempo.fill('184');
  await tempo.press('Enter');
  const tempos = async () => (await stored<{ fields: { tempo?: number } }>(page, 'sounds')).map((s) => s.fields.tempo);
  await expect.poll(tempos).toContain(184);
  await find(page);
  expect(await search(page, 'tempo:180..190')).toBe(1);
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Alt+Enter');
  await expect(details.getByText('typed', { exact: true })).toBeVisible();
  await details.getByRole('button', { name: 'Halve the tempo' }).click();
  await expect(details).toContainText('92.0 BPM');
  expect(await search(page, 'tempo:92')).toBe(1);
  expect(errors).toEqual([]);
});

test('what happens in the folder appears by itself: added, moved with its labels, gone, back', async ({ page }) => {
  await openSettled(page, server.url, COUNT);
  await page.getByRole('link', { name: 'Label', exact: true }).click();
  await page.getByRole('textbox', { name: 'Query', exact: true }).fill('plank');
  await page.getByRole('row', { name: /Plank knock/ }).click();
  await page.getByRole('textbox', { name: 'Description', exact: true }).fill('the loose plank');
  await page.keyboard.press('Tab');
  await find(page);
  await page.getByRole('textbox', { name: 'Query', exact: true }).fill('');
  writeFileSync(join(root, 'Timber/oarLock_01.wav'), sound(260));
  await expect(libraries(page)).toContainText(String(COUNT + 1));
  mkdirSync(join(root, 'Sorted/Wood'), { recursive: true });
  renameSync(join(root, 'Timber/plankKnock-A.wav'), join(root, 'Sorted/Wood/knock, loose.wav'));
  await search(page, 'description:loose folder:sorted');
  await expect(page.getByRole('row', { name: /Plank knock/ }).first()).toBeVisible();
  rmSync(join(root, 'Timber/oarLock_01.wav'));
  await search(page, 'oar');
  await expect(page.getByRole('row', { name: /Missing Oar lock/ })).toBeVisible();
  writeFileSync(join(root, 'Timber/oarLock_01.wav'), sound(260));
  await expect(page.getByRole('row', { name: /Missing Oar lock/ })).toHaveCount(0);
  await expect(page.getByRole('row', { name: /Oar lock/ })).toBeVisible();
  rmSync(join(root, 'Timber/oarLock_01.wav'));
});

test('takes of one sound stand as one row, opened and closed by key', async ({ page }) => {
  await openSettled(page, server.url, COUNT);
  expect(await search(page, 'iron')).toBe(4);
  await page.keyboard.press('g');
  await expect(page).toHaveURL(/fold=1/);
  await expect(page.getByText(/^3 in /)).toBeVisible();
  await page.getByRole('row', { name: /2 takes/ }).click();
  await page.keyboard.press('ArrowRight');
  await expect(page.getByText(/^4 in /)).toBeVisible();
  await page.keyboard.press('ArrowDown');
  await expect(currentRow(page)).toContainText(/Gate slam/);
  await page.keyboard.press('ArrowLeft');
  await expect(page.getByText(/^3 in /)).toBeVisible();
  await page.reload();
  await expect(page.getByText(/^3 in /)).toBeVisible();
  await page.getByRole('button', { name: 'Fold takes' }).click();
  await expect(page.getByText(/^4 in /)).toBeVisible();
});

test('duplicates: heard side by side by key, one kept, the others set aside and brought back', async ({ page }) => {
  const errors = watchErrors(page);
  await openSettled(page, server.url, COUNT);
  await intake(page);
  await part(page, /Duplicates/);
  await expect(page.getByText('The same recording, under any name')).toBeVisible();
  await page.getByRole('button', { name: 'Look for duplicates' }).click();
  const grid = page.getByRole('grid', { name: 'Duplicates' });
  await expect(grid.getByRole('row', { name: /The same recording 3 copies/ })).toBeVisible();
  const row = (name: string) => grid.getByRole('row', { name: new RegExp(name) });
  await expect(row('Gate slam heavy').getByText('Better', { exact: true })).toBeVisible();
  const [left] = await rendered(page, 4800, () => page.keyboard.press('ArrowDown'));
  expect(Math.max(...left.map(Math.abs))).toBeGreaterThan(0.2);
  await expect(currentRow(page)).toContainText('Gate slam heavy');
  await page.keyboard.press('ArrowDown');
  await expect(currentRow(page)).not.toContainText('Gate slam heavy');
  await page.keyboard.press('ArrowUp');
  expect(await axeFaults(page)).toEqual([]);
  await page.keyboard.press('Enter');
  await expect(page.getByText('No duplicates', { exact: true })).toBeVisible();
  await find(page);
  await expect(libraries(page)).toContainText(String(COUNT - 2));
  await search(page, 'gate -slam');
  await intake(page);
  await part(page, /Duplicates/);
  await page.getByRole('button', { name: 'Bring back 2 hidden' }).click();
  await expect(grid.getByRole('row', { name: /The same recording 3 copies/ })).toBeVisible();
  for (const file of ['Iron/copy of gate.wav', 'Iron/gate quiet.wav'])
    expect(readFileSync(join(root, file)).length).toBeGreaterThan(1000);
  expect(errors).toEqual([]);
});

test('a paused intake stays paused over a reload, and goes on when asked', async ({ page }) => {
  const many = join(top, 'Many');
  mkdirSync(many);
  for (let i = 0; i < 90; i++) copyFileSync(join(root, 'Iron/gateSlam_02.wav'), join(many, `take ${i}.wav`));
  const other = await startOn(many);
  try {
    await page.goto(`${other.url}intake`);
    await page.getByRole('button', { name: 'Pause Many' }).click();
    await expect(page.getByText('Paused', { exact: true })).toBeVisible();
    await page.reload();
    await expect(page.getByText('Paused', { exact: true })).toBeVisible();
    await expect(page.getByText('Up to date', { exact: true })).toHaveCount(0);
    await page.getByRole('button', { name: 'Go on with Many' }).click();
    await expect(page.getByText('Up to date', { exact: true })).toBeVisible({ timeout: 60_000 });
    await expect(page.getByRole('region', { name: 'Roots' })).toContainText('90 sounds');
    // A second start finds everything done.
    await page.reload();
    await expect(page.getByText('Up to date', { exact: true })).toBeVisible();
    await expect(page.getByRole('region', { name: 'Arrivals' }).getByRole('listitem')).toHaveCount(1);
  } finally {
    await other.stop();
  }
});

test('thousands of sounds: found while they come in, cancelled, scrolled from end to end with few nodes', async ({
  page,
}) => {
  const count = 3000;
  const many = join(top, 'Thousands');
  mkdirSync(many);
  const plane = hit(8000, 0.05);
  for (let i = 0; i < count; i++) {
    plane[i % 400] = ((i * 37) % 100) / 200;
    writeFileSync(
      join(many, `deckKnock ${String(i).padStart(4, '0')} oak.wav`),
      writeWav([plane], { rate: 8000, bits: 16 }),
    );
  }
  const other = await startOn(many);
  try {
    await page.goto(`${other.url}find?q=oak`);
    await expect(page.getByRole('row', { name: /Deck knock/ }).first()).toBeVisible();
    await intake(page);
    await page.getByRole('button', { name: 'Cancel Thousands' }).click();
    await expect(page.getByText('Cancelled; what was read is kept')).toBeVisible();
    await page.getByRole('button', { name: 'Go on with Thousands' }).click();
    await expect(page.getByRole('region', { name: 'Roots' })).toContainText('3,000 sounds', { timeout: 60_000 });
    await find(page);
    expect(await search(page, 'oak')).toBe(count);
    const grid = page.getByRole('grid', { name: 'Sounds' });
    const rows = () => grid.getByRole('row').count();
    await page.keyboard.press('End');
    await expect(grid.getByRole('row', { name: /Deck knock 2999 oak/ }).first()).toBeVisible();
    expect(await rows()).toBeLessThan(60);
    await expect(grid).toHaveAttribute('aria-rowcount', String(count + 1));
    // From end to end by wheel: no frame may stand still for long, whatever comes into view.
    await page.keyboard.press('Home');
    await grid.hover();
    const slowest = page.evaluate(
      () =>
        new Promise<number>((done) => {
          let [last, worst, n] = [performance.now(), 0, 0];
          const frame = (now: number) => {
            worst = Math.max(worst, now - last);
            last = now;
            if (++n < 90) requestAnimationFrame(frame);
            else done(worst);
          };
          requestAnimationFrame(frame);
        }),
    );
    for (let i = 0; i < 40; i++) await page.mouse.wheel(0, 3600);
    expect(await slowest).toBeLessThan(2000);
    expect(await rows()).toBeLessThan(60);
  } finally {
    await other.stop();
  }
});

test('a folder that moved to another drive is connected again, by preview, with everything attached; undo takes it back', async ({
  page,
  context,
}) => {
  // The private file system's folders stand in for drives.
  await context.addInitScript(() => {
    window.showDirectoryPicker = async (options) =>
      (await navigator.storage.getDirectory()).getDirectoryHandle(options?.id === 'reconnect' ? 'Drive B' : 'Drive A', {
        create: true,
      });
  });
  const errors = watchErrors(page);
  await openSettled(page, server.url, COUNT);
  const write = (drive: string, path: string, bytes: Uint8Array) =>
    page.evaluate(
      async ({ drive: d, path: p, content }) => {
        const folder = await (await navigator.storage.getDirectory()).getDirectoryHandle(d, { create: true });
        const out = await (await folder.getFileHandle(p, { create: true })).createWritable();
        await out.write(new Uint8Array(content));
        await out.close();
      },
      { drive, path, content: [...bytes] },
    );
  await write('Drive A', 'swing.wav', sound(700));
  await write('Drive A', 'latch.wav', sound(800));
  await intake(page);
  await page.getByRole('button', { name: 'Add a folder' }).click();
  await expect(page.getByRole('region', { name: 'Roots' })).toContainText('Drive A');
  await expect(page.getByText('Up to date', { exact: true })).toHaveCount(2);
  await find(page);
  await search(page, 'swing');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('t');
  await expect(page.getByRole('button', { name: /Held for now/ })).toContainText('1');
  await write('Drive B', 'renamed swing.wav', sound(700));
  await write('Drive B', 'latch.wav', sound(800));
  await page.evaluate(async () => {
    const folder = await (await navigator.storage.getDirectory()).getDirectoryHandle('Drive A');
    for (const name of ['swing.wav', 'latch.wav']) await folder.removeEntry(name);
  });
  await intake(page);
  await page.getByRole('button', { name: 'Look again in Drive A' }).click();
  await part(page, /Missing files 2/);
  const missing = page.getByRole('region', { name: 'Missing files' });
  await expect(missing.getByRole('heading')).toContainText('2 sounds of Drive A out of reach');
  await missing.getByRole('button', { name: 'Look in another folder' }).click();
  const plan = page.getByRole('region', { name: 'Before and after' });
  await expect(plan.getByRole('row', { name: /swing\.wav renamed swing\.wav Same size, head and tail/ })).toBeVisible();
  await expect(plan.getByRole('row', { name: /latch\.wav latch\.wav Same folder, name and size/ })).toBeVisible();
  expect(await axeFaults(page)).toEqual([]);
  await plan.getByRole('button', { name: 'Reconnect 2 sounds' }).click();
  await expect(page.getByText('Every file is where it was')).toBeVisible();
  await find(page);
  await page.getByRole('button', { name: /Held for now/ }).click();
  const [left] = await rendered(page, 4800, () => page.getByRole('row', { name: /Swing/ }).click());
  expect(Math.max(...left.map(Math.abs))).toBeGreaterThan(0.2);
  await page.keyboard.press('Control+z');
  await intake(page);
  await part(page, /Missing files 2/);
  expect(errors).toEqual([]);
});
