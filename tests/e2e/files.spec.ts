import { expect, test, type Page } from '@playwright/test';
import { readFileSync, renameSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { hush, openSettled, rendered, type Running, search, startOn, stored, watchErrors } from '../helpers/app';
import { foreignFolder, oddName } from '../helpers/foreign';
import { pickedFiles } from '../helpers/picked';

test.describe.configure({ mode: 'serial' });
const { folder, sounds } = foreignFolder();
let server: Running;
test.beforeAll(async () => {
  server = await startOn(folder);
});
test.afterAll(() => server?.stop());

test('npm start takes in a folder that nobody prepared; what cannot be read is listed with its reason', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await openSettled(page, server.url, sounds);
  await page.getByRole('link', { name: 'Intake', exact: true }).click();
  await page.getByRole('link', { name: 'Problems 3' }).click();
  const problems = page.getByRole('region', { name: 'Problems' });
  await expect(problems.getByRole('row', { name: /empty\.wav the file is empty/ })).toBeVisible();
  await expect(problems.getByRole('row', { name: /notes\.wav.*no sound file: it holds text/ })).toBeVisible();
  await expect(problems.getByRole('row', { name: /cut in the head\.wav.*fmt chunk.*is missing/ })).toBeVisible();
  await expect(problems.getByRole('heading')).toContainText('3 files could not be read');
  await expect(page.getByText('readme.txt')).toHaveCount(0);
  await page.getByRole('link', { name: 'Find', exact: true }).click();
  // The name is text, whatever stands in it.
  await search(page, 'file:~"co"');
  await search(page, 'möwe');
  await expect(page.getByRole('row', { name: /Möwe/ })).toBeVisible();
  for (const name of ['eight bit', 'cd', 'float', 'high rate', 'cut off']) {
    await search(page, `file:"${name}"`);
    const [left] = await rendered(page, 9600, () => page.keyboard.press('ArrowDown'));
    // 440 Hz at -9 dB, whatever the depth and rate: 4 periods of 109 samples, level as made.
    const level = Math.max(...left.slice(2000).map(Math.abs));
    expect(level).toBeGreaterThan(0.3);
    expect(level).toBeLessThan(0.52);
    await hush(page);
  }
  await search(page, `folder:"gulls co" `);
  await page.getByRole('link', { name: 'Label', exact: true }).click();
  await page.getByRole('row', { name: /Möwe/ }).click();
  await expect(page.getByRole('complementary', { name: 'Labels' })).toContainText(oddName);
  expect(errors).toEqual([]);
});

test('a root that vanishes says so, and comes back', async ({ page }) => {
  await openSettled(page, server.url, sounds);
  const away = join(dirname(folder), 'moved away');
  renameSync(folder, away);
  await page.getByRole('link', { name: 'Intake', exact: true }).click();
  await page.getByRole('button', { name: 'Look again in Field tapes' }).click();
  await expect(page.getByRole('alert')).toContainText(/Field tapes cannot be reached/);
  await page.getByRole('link', { name: 'Find', exact: true }).click();
  await search(page, 'cd');
  await expect(page.getByRole('row', { name: /Cd/ })).toBeVisible();
  await page.keyboard.press('ArrowDown');
  await expect(page.getByText(/cannot be played: .*(cannot be reached|not in|no such)/i).first()).toBeVisible();
  renameSync(away, folder);
  await page.getByRole('link', { name: 'Intake', exact: true }).click();
  // It may have been noticed already that the folder is back.
  await page
    .getByRole('button', { name: /^(Try again|Look again in Field tapes)$/ })
    .first()
    .click();
  await expect(page.getByRole('alert').filter({ hasText: 'cannot be reached' })).toHaveCount(0);
});

test('a picked folder is read where it is, survives a reload, and a second tab follows', async ({ page, context }) => {
  // The private file system's folder handle stands in for a picked one: the interface is the same.
  await context.addInitScript(() => {
    window.showDirectoryPicker = async () =>
      (await navigator.storage.getDirectory()).getDirectoryHandle('Picked tapes', { create: true });
  });
  await openSettled(page, server.url, sounds);
  await page.evaluate(async () => {
    const folder = await (await navigator.storage.getDirectory()).getDirectoryHandle('Picked tapes', { create: true });
    const bytes = new Uint8Array(44 + 96000);
    const view = new DataView(bytes.buffer);
    const put = (at: number, text: string) => [...text].forEach((c, i) => (bytes[at + i] = c.charCodeAt(0)));
    put(0, 'RIFF');
    view.setUint32(4, bytes.length - 8, true);
    put(8, 'WAVEfmt ');
    [16, 1].forEach((n, i) => (i === 0 ? view.setUint32(16, n, true) : view.setUint16(20, n, true)));
    view.setUint16(22, 1, true);
    view.setUint32(24, 48000, true);
    view.setUint32(28, 96000, true);
    view.setUint16(32, 2, true);
    view.setUint16(34, 16, true);
    put(36, 'data');
    view.setUint32(40, 96000, true);
    for (let i = 0; i < 48000; i++) view.setInt16(44 + 2 * i, 12000 * Math.sin(i / 9), true);
    const out = await (await folder.getFileHandle('reedSwish_02.wav', { create: true })).createWritable();
    await out.write(bytes);
    await out.close();
  });
  await page.getByRole('link', { name: 'Intake', exact: true }).click();
  await page.getByRole('button', { name: 'Add a folder' }).click();
  await expect(page.getByText('Picked tapes').first()).toBeVisible();
  await page.getByRole('link', { name: 'Find', exact: true }).click();
  await expect(page.getByRole('button', { name: /^All libraries/ })).toContainText(String(sounds + 1));
  await page.reload();
  await search(page, 'swish');
  const [left] = await rendered(page, 4800, () => page.keyboard.press('ArrowDown'));
  expect(Math.max(...left.map(Math.abs))).toBeCloseTo(12000 / 32768, 2);
  const other = await context.newPage();
  await other.goto(`${server.url}label?q=swish`);
  await other.getByRole('row', { name: /Reed swish/ }).click();
  await other.getByRole('textbox', { name: 'Name', exact: true }).fill('Reeds cut through');
  await other.keyboard.press('Enter');
  await expect(page.getByRole('row', { name: /heard Reeds cut through/ })).toBeVisible();
  // What another tab did is not taken back here, but there.
  await page.keyboard.press('Control+z');
  await expect(page.getByText('There is nothing to take back').first()).toBeVisible();
  await other.getByRole('row', { name: /Reeds cut through/ }).click();
  await other.keyboard.press('Control+z');
  await expect(page.getByRole('row', { name: /heard Reed swish 02/ })).toBeVisible();
});

test('who turns away from the page leaves a backup of what was done, and none where nothing was', async ({ page }) => {
  await openSettled(page, server.url, sounds);
  /** Names of the backups in the private file system: they tell of which state each is. */
  const kept = async () => [...(await pickedFiles(page, 'backups', /^$/)).keys()].sort();
  const turn = (state: string) =>
    page.evaluate((now) => {
      Object.defineProperty(document, 'visibilityState', { configurable: true, get: () => now });
      document.dispatchEvent(new Event('visibilitychange'));
    }, state);
  await turn('hidden');
  await expect.poll(kept).toHaveLength(1);
  await turn('visible');
  const [first] = await kept();
  await page.getByRole('link', { name: 'Label', exact: true }).click();
  await page.getByRole('row', { name: /wav/ }).first().click();
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Kept at once');
  await page.keyboard.press('Enter');
  await expect.poll(async () => JSON.stringify(await stored(page, 'sounds'))).toContain('Kept at once');
  await turn('hidden');
  await expect.poll(async () => (await kept()).filter((name) => name !== first).length).toBe(1);
  const after = await kept();
  // Nothing has changed since.
  await turn('visible');
  await turn('hidden');
  await page.getByRole('link', { name: 'History and backup' }).click();
  await expect(page.getByRole('list', { name: 'Backups written by themselves' })).toBeVisible();
  expect(await kept()).toEqual(after);
});

test('chosen files are copied in where the browser keeps no handles, and the screen says so', async ({ page }) => {
  await page.addInitScript(() => {
    delete (window as { showDirectoryPicker?: unknown }).showDirectoryPicker;
    delete (window as { showOpenFilePicker?: unknown }).showOpenFilePicker;
  });
  await openSettled(page, server.url, sounds);
  await page.getByRole('link', { name: 'Intake', exact: true }).click();
  await expect(page.getByText(/cannot keep a folder open: what you add is copied/)).toBeVisible();
  const choosing = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Add files' }).click();
  await (await choosing).setFiles([join(folder, 'cd.wav'), join(folder, 'notes.wav')]);
  await expect(page.getByText('Copied into the browser')).toBeVisible();
  await page.getByRole('link', { name: 'Problems 4' }).click();
  await expect(page.getByRole('region', { name: 'Problems' }).getByRole('heading')).toContainText(
    '4 files could not be read',
  );
  await page.getByRole('link', { name: 'Find', exact: true }).click();
  await search(page, 'library:chosen');
  const [left] = await rendered(page, 4800, () => page.keyboard.press('ArrowDown'));
  expect(Math.max(...left.map(Math.abs))).toBeGreaterThan(0.3);
});

/** Drops a file on the window. A drop made by a script has no place on disk; a browser that keeps no handles has no way to ask for one. */
const drop = (page: Page, name: string, file: string) =>
  page.evaluate(
    ([called, content]) => {
      delete (DataTransferItem.prototype as { getAsFileSystemHandle?: unknown }).getAsFileSystemHandle;
      const dropped = new DataTransfer();
      dropped.items.add(new File([new Uint8Array(content)], called, { type: 'audio/wav' }));
      for (const type of ['dragover', 'drop'])
        window.dispatchEvent(
          new DragEvent(type, { dataTransfer: dropped, bubbles: true, cancelable: true, clientX: 10 }),
        );
    },
    [name, [...readFileSync(file)]] as const,
  );

test('files dropped on the window are taken in, whichever stage is open', async ({ page }) => {
  const errors = watchErrors(page);
  await openSettled(page, server.url, sounds);
  await page.getByRole('link', { name: 'Deliver', exact: true }).click();
  await expect(page.getByText('There is no scene yet')).toBeVisible();
  await drop(page, 'dropped gull.wav', join(folder, 'cd.wav'));
  await expect(page.getByRole('region', { name: 'Roots' })).toContainText('dropped gull.wav');
  await page.getByRole('link', { name: 'Find', exact: true }).click();
  await expect(page.getByRole('button', { name: /^All libraries/ })).toContainText(String(sounds + 1));
  await search(page, 'gull');
  // Rows dragged onto the tray are held there.
  await page.getByRole('row', { name: /Dropped gull/ }).dragTo(page.getByRole('button', { name: /Held for now/ }));
  await expect(page.getByRole('button', { name: /Held for now/ })).toContainText('1');
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('button', { name: /Held for now/ })).toContainText('0');
  // In Build they are layers as well, and one stays there.
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('link', { name: 'Build' }).click();
  await expect(page.getByRole('link', { name: 'Build' })).toHaveAttribute('aria-current', 'page');
  await drop(page, 'dropped drum.wav', join(folder, 'cd.wav'));
  const layer = page.getByRole('list', { name: 'Layers' }).getByRole('listitem', { name: 'Dropped drum' });
  await expect(layer).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(layer).toHaveCount(0);
  await page.getByRole('link', { name: 'Find', exact: true }).click();
  await expect(page.getByRole('button', { name: /^All libraries/ })).toContainText(String(sounds + 2));
  expect(errors).toEqual([]);
});
