import type { Sound } from '@core/library';
import type { Cue } from '@core/scene';
import type { OpenSound } from '@core/schemas';
import { expect, test, type Page } from '@playwright/test';
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import {
  axeFaults,
  choose,
  currentRow,
  hush,
  inTheme,
  ofScenes,
  openFirst,
  rendered,
  stored,
  type Visit,
  visitDemo,
} from '../helpers/app';
import { rms } from '../helpers/signals';

// Sounds that others share: found by the query of Find, heard as they come, fetched once with their licence.
test.describe.configure({ mode: 'serial', timeout: 120_000 });

const shared = JSON.parse(readFileSync('.demo/commons/sounds.json', 'utf8')) as OpenSound[];
const titled = (title: string) => shared.find((s) => s.title === title)!;
const bell = titled('Ferry bell, one stroke');
let visit: Visit;
let page: Page;
let errors: string[];
test.beforeAll(async () => {
  visit = await visitDemo();
  ({ page, errors } = visit);
});
test.afterAll(() => visit?.end());
test.afterEach(() => expect(errors.splice(0)).toEqual([]));

const query = () => page.getByRole('textbox', { name: 'Query', exact: true });
const list = () => page.getByRole('grid', { name: 'Open sounds' });
const told = (text: string) => expect(page.getByText(text, { exact: true })).toBeVisible();
const opened = (title: string) => list().getByRole('group', { name: title });
const facet = (name: string) => page.getByRole('complementary', { name: 'Facets' }).getByRole('region', { name });
const ownSounds = async (title: string) =>
  (await stored<Sound>(page, 'sounds')).filter((s) => s.fields.fxName === title);
const counted = (of: OpenSound[]) => (of.length === 1 ? '1 sound' : `${of.length} sounds`);

test('the query of Find is asked of the commons, too; only what the job allows is listed', async () => {
  await query().fill('bell');
  await page.getByText('Commons', { exact: true }).click();
  await expect(query()).toHaveValue('bell');
  const bells = shared.filter((s) => s.tags.includes('bell'));
  const paid = bells.filter((s) => !/NC|SA/.test(s.licence));
  expect(paid.length).toBeLessThan(bells.length);
  await told(counted(paid));
  await page.getByRole('checkbox', { name: 'Only what may be used so' }).uncheck();
  await told(counted(bells));
  await expect(list()).toContainText('Not for commercial work');
  await choose(page.getByRole('combobox', { name: 'What the mix is made for' }), 'in an unpaid job');
  await expect(list()).not.toContainText('Not for commercial work');
  await choose(page.getByRole('combobox', { name: 'What the mix is made for' }), 'in a commercial job');
  await page.getByRole('checkbox', { name: 'Only what may be used so' }).check();
  await told(counted(paid));
  await query().fill('bell stars:>2');
  await expect(page.getByText(/Not asked there: stars:>2/)).toBeVisible();
  // Alternatives and licences are asked for as they are here, and where no word of it is there, what it means.
  await query().fill('foghorn OR curlew licence:cc0');
  const either = shared.filter((s) => /foghorn|curlew/i.test(s.title));
  await told(counted(either.filter((s) => s.licence === 'CC0 1.0')));
  await query().fill('seagull');
  await expect(list()).toContainText('Close in meaning');
  await expect(list()).toContainText('Gull, three calls');
  await query().fill('');
});

test('licences and authors are chosen with their counts; more pages come when they are wanted', async () => {
  await page.getByRole('checkbox', { name: 'Only what may be used so' }).uncheck();
  await told('40 sounds');
  await page.getByRole('button', { name: 'Show more' }).click();
  await expect(page.getByRole('button', { name: 'Show more' })).toBeHidden();
  await expect(list()).toHaveAttribute('aria-rowcount', '41');
  const zero = shared.filter((s) => s.licence === 'CC0 1.0');
  await facet('Licence')
    .getByRole('checkbox', { name: /^CC0 1.0/ })
    .check();
  await told(counted(zero));
  const [{ author }] = zero;
  await facet('Author').getByRole('checkbox', { name: author }).check();
  await told(counted(zero.filter((s) => s.author === author)));
  await facet('Author').getByRole('checkbox', { name: author }).uncheck();
  await facet('Licence')
    .getByRole('checkbox', { name: /^CC0 1.0/ })
    .uncheck();
  await page.getByRole('checkbox', { name: 'Only what may be used so' }).check();
});

test('a row plays as it comes in, by key, and says whose it is and what it asks for', async () => {
  await query().fill('ferry bell');
  await told('1 sound');
  await query().press('Enter');
  const [left] = await rendered(page, 48_000, () => page.keyboard.press('ArrowDown'));
  expect(rms(left)).toBeGreaterThan(0.001);
  await expect(currentRow(page).first()).toContainText(bell.title);
  await expect(opened(bell.title)).toContainText(bell.author);
  await expect(opened(bell.title)).toContainText('“Ferry bell, one stroke” by');
  await expect(opened(bell.title).getByRole('link', { name: bell.licence })).toHaveAttribute(
    'href',
    /creativecommons\.org\/licenses\/by\/4\.0/,
  );
  await hush(page);
  for (const theme of ['dark', 'light']) {
    expect(await axeFaults(page, inTheme(theme))).toEqual([]);
    await page.keyboard.press('Control+Shift+l');
  }
});

test('fetched it is the very file, in the library with author, licence, source and anchor; nobody fetches it twice', async () => {
  await page.keyboard.press('Control+Enter');
  await expect(opened(bell.title)).toContainText('It is in your library.');
  const [own, ...others] = await ownSounds(bell.title);
  expect(others).toEqual([]);
  expect(own.fields).toMatchObject({
    author: bell.author,
    licence: bell.licence,
    page: bell.page,
    keywords: bell.tags,
  });
  expect(own.from.licence).toBe('site The Foreshore Commons');
  expect(own.marks.anchor).toBe(bell.anchor);
  expect(own.format).toMatchObject({ container: 'FLAC', rate: bell.rate, bits: bell.bits, channels: bell.channels });
  const kept = await page.evaluate(async ({ rootId, path }) => {
    let folder = await (
      await (await navigator.storage.getDirectory()).getDirectoryHandle('copied')
    ).getDirectoryHandle(`${rootId}`);
    const parts = path.split('/');
    for (const part of parts.slice(0, -1)) folder = await folder.getDirectoryHandle(part);
    return [...new Uint8Array(await (await (await folder.getFileHandle(parts.at(-1)!)).getFile()).arrayBuffer())];
  }, own);
  expect(createHash('sha256').update(Uint8Array.from(kept)).digest('hex')).toBe(bell.original.sha256);
  // Nothing is left to press, and the key finds that it is here.
  await expect(page.getByRole('button', { name: 'Fetch the original' })).toBeDisabled();
  await page.keyboard.press('Control+Enter');
  await expect(page.getByText(`${bell.title} is in the library already`).first()).toBeVisible();
  expect(await ownSounds(bell.title)).toHaveLength(1);
});

test('it is spotted from there, its credit stands in Deliver, and undo takes it out of the library again', async () => {
  await page.keyboard.press('Shift+Enter');
  await expect(page).toHaveURL(/\/spot/);
  const [own] = await ownSounds(bell.title);
  await expect.poll(async () => (await ofScenes<Cue>(page, 'cues')).some((c) => c.soundId === own.id)).toBe(true);
  await page.getByRole('link', { name: 'Deliver', exact: true }).click();
  await expect(page.getByRole('row', { name: new RegExp(bell.title) }).first()).toContainText(bell.author);
  await page.getByRole('link', { name: 'Spot', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await ofScenes<Cue>(page, 'cues')).some((c) => c.soundId === own.id)).toBe(false);
  await page.getByRole('link', { name: 'Find', exact: true }).click();
  await expect(query()).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await ownSounds(bell.title)).length).toBe(0);
  await page.keyboard.press('Control+Shift+z');
  await expect.poll(async () => (await ownSounds(bell.title)).length).toBe(1);
});

test('what is like a sound of the library is found in the commons, nearest first', async () => {
  await openFirst(page, 'foghorn');
  await page.getByRole('button', { name: 'Find what is like something else' }).click();
  await page.getByRole('menuitem', { name: 'Like this sound, in the commons' }).click();
  await query().fill('');
  await expect(page.getByText(/^Like .*foghorn/i)).toBeVisible();
  await expect(list().getByRole('row').nth(1)).toContainText(/Foghorn/);
  await page.getByRole('button', { name: 'Not by likeness any more' }).click();
  await expect(page.getByText(/^Like .*foghorn/i)).toBeHidden();
});

test('a file that is not what was told is not kept; a commons that is gone is said, and asked again', async () => {
  const crate = titled('Crate knocked twice');
  await query().fill('crate');
  await told('1 sound');
  await query().press('Enter');
  await page.keyboard.press('ArrowDown');
  await expect(opened(crate.title)).toBeVisible();
  await page.route(`**/${crate.original.href}`, (route) => route.fulfill({ body: Buffer.alloc(crate.original.size) }));
  await page.keyboard.press('Control+Enter');
  await expect(page.getByText(/is not the file that the commons tells of; nothing was kept/).first()).toBeVisible();
  expect(await ownSounds(crate.title)).toEqual([]);
  await page.unrouteAll();
  await page.route('**/v1/sounds?**', (route) => route.abort());
  await query().fill('gull');
  await expect(page.getByText(/The commons cannot be reached/).first()).toBeVisible();
  await page.unrouteAll();
  await page.getByRole('button', { name: 'Ask again' }).click();
  await told('1 sound');
  // What the browser says of a request that was cut off is no fault of the page.
  errors.splice(0);
});
