import { expect, test, type Page } from '@playwright/test';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { voiceFile } from '../../scripts/browser';
import { axeFaults, choose, currentRow, hush, saved, search, visitDemo, type Visit } from '../helpers/app';
import { demoPath } from '../helpers/demo';
import { writeWav } from '@core/files';
import { joined } from '../helpers/signals';
import { imitations, sing } from '../helpers/voice';

// Where else one looks than in the query: conditions, trees, plots, words, days, lists, and by ear.

let visit: Visit;
let url: string;
let page: Page;
let errors: string[];

test.beforeAll(async () => {
  test.setTimeout(180_000);
  // The microphone of the tests: somebody does a splash, once, and is silent then.
  mkdirSync(dirname(voiceFile), { recursive: true });
  writeFileSync(
    voiceFile,
    writeWav(
      [joined(new Float32Array(24_000), sing(imitations['a splash, pshh'].sung, 2), new Float32Array(480_000))],
      { rate: 48000, bits: 16 },
    ),
  );
  visit = await visitDemo();
  ({ url, page, errors } = visit);
});
test.afterAll(() => visit?.end());
test.beforeEach(async () => {
  await page.goto(`${url}find`);
  await told(323);
});
test.afterEach(() => expect(errors.splice(0)).toEqual([]));

const query = () => page.getByRole('textbox', { name: 'Query', exact: true });
const told = (n: number) => expect(page.getByText(new RegExp(`^${n} in `))).toBeVisible();
const sounds = () => page.getByRole('grid', { name: 'Sounds' });
const trail = () => page.getByRole('navigation', { name: 'Trail' });
const side = () => page.getByRole('navigation', { name: 'Lists and libraries' });
const names = async () =>
  (
    await sounds()
      .getByRole('row')
      .getByTitle(/^Name: /)
      .allTextContents()
  ).map((t) => t.trim());
const select = (name: string) => page.getByRole('combobox', { name });
async function doWith(pull: string, what: string, which?: string): Promise<void> {
  const item = page.getByRole('menu').last().getByText(what, { exact: true });
  // A dialog that fades away still takes clicks.
  await expect(async () => {
    await page.getByRole('button', { name: `What to do with the pull ${pull}`, exact: true }).click({ force: true });
    await expect(item).toBeVisible({ timeout: 1500 });
  }).toPass();
  if (which === undefined) return item.click();
  await item.hover();
  await page.getByRole('menuitem', { name: which, exact: true }).last().click();
}

test('the same query stands as conditions, and is edited there', async () => {
  const meant = await search(page, '(wood OR rope) length:<4s -door');
  await page.keyboard.press('Alt+c');
  const form = page.getByRole('region', { name: 'Conditions' });
  await expect(form.getByRole('group', { name: 'Any of these' })).toBeVisible();
  await expect(form.getByRole('textbox', { name: 'Value of condition 2, Length' })).toHaveValue('4s');
  await form.getByRole('textbox', { name: 'Value of condition 2, Length' }).fill('2s');
  await expect(query()).toHaveValue('(wood OR rope) length:<2s -door ');
  await form.getByRole('button', { name: 'Take out condition 3' }).click();
  await form.getByRole('button', { name: 'Condition' }).last().click();
  // A condition that says nothing yet leaves the query as it is.
  await expect(query()).toHaveValue('(wood OR rope) length:<2s ');
  await choose(select('Field of condition 3'), 'Library');
  await form.getByRole('combobox', { name: 'Value of condition 3, Library' }).fill('sluice yard');
  await page
    .getByRole('option', { name: /Sluice Yard/ })
    .or(page.getByText(/^Sluice Yard \(\d+\)$/))
    .last()
    .click();
  await expect(query()).toHaveValue('(wood OR rope) length:<2s library:"sluice yard" ');
  await expect(page.getByText(/^\d+ in /)).toHaveAttribute('aria-busy', 'false');
  for (const row of await sounds()
    .getByRole('row')
    .getByTitle(/^Category|^CatID/)
    .allTextContents())
    expect(row).toContain('Sluice Yard');
  await query().fill('(wood OR rope) length:<4s -door');
  await told(meant);
  await expect(form.getByRole('button', { name: /^not, condition 3/ })).toHaveAttribute('aria-pressed', 'true');
  expect(await axeFaults(page)).toEqual([]);
  await page.keyboard.press('Alt+c');
});

test('folders and fields are browsed as trees, and a folder stands among the pulls', async () => {
  await side().getByText('Browse', { exact: true }).click();
  const branch = (name: string) => side().getByRole('treeitem', { name: new RegExp(`^${name}, `) });
  await branch('Sluice Yard').click();
  await told(80);
  await page.keyboard.press('ArrowRight');
  await expect(branch('Iron')).toBeVisible();
  await page.keyboard.press('ArrowRight');
  while (!(await branch('Iron').evaluate((b) => b === document.activeElement))) await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(trail()).toContainText('Iron');
  const iron = Number(/^(\d+) in/.exec((await page.getByText(/^\d+ in /).textContent())!)![1]);
  expect(iron).toBeGreaterThan(10);
  expect(iron).toBeLessThan(80);
  await side().getByRole('button', { name: 'Keep among the pulls' }).click();
  await choose(select('Levels of the tree'), 'Licence');
  await page.keyboard.type('Channel layout');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Show all', exact: true }).click();
  await branch('Owned').click();
  await told(112);
  await side().getByText('Lists', { exact: true }).click();
  // A list is looked at whole, whatever narrowed what was listed before.
  await side().getByRole('button', { name: /Iron/ }).first().click();
  await told(iron);
  expect(await axeFaults(page)).toEqual([]);
  await doWith('Iron', 'Remove; its sounds stay in the library');
  await expect(side().getByRole('button', { name: /Iron/ })).toHaveCount(0);
});

test('the plot narrows to what is brushed, and plays what is pointed at or walked to', async () => {
  await page.keyboard.press('p');
  const plot = page.getByRole('region', { name: 'Plot of the results' });
  const points = plot.getByRole('application');
  await expect(plot).toContainText(/3\d\d/);
  const box = (await points.boundingBox())!;
  await page.mouse.move(box.x + 80, box.y + 20);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height - 40, { steps: 6 });
  await page.mouse.up();
  await expect(page).toHaveURL(/r\.length=.*r\.brightness=/);
  const inside = Number(/^(\d+) in/.exec((await page.getByText(/^\d+ in /).textContent())!)![1]);
  expect(inside).toBeLessThan(323);
  await points.focus();
  await page.keyboard.press('ArrowRight');
  const first = await currentRow(page).textContent();
  await page.keyboard.press('ArrowLeft');
  await expect(currentRow(page)).not.toHaveText(first!);
  await hush(page);
  expect(await axeFaults(page)).toEqual([]);
  await plot.getByRole('button', { name: 'Whole range' }).click();
  await told(323);
  await page.keyboard.press('p');
  await expect(plot).toHaveCount(0);
});

test('the words of the library say what they find and stand beside; own words are found together', async () => {
  const before = await search(page, 'zinnoberly');
  expect(before).toBe(0);
  const literal = await search(page, '"winch"');
  const winches = await search(page, 'winch ');
  await search(page, '');
  await query().press('Enter');
  await page.keyboard.press('w');
  const dialog = page.getByRole('dialog', { name: 'Words of this library' });
  await dialog.getByRole('textbox', { name: 'Part of a word' }).fill('winch');
  await page.keyboard.press('ArrowDown');
  const word = dialog.getByRole('region', { name: 'The word winch' });
  await expect(word).toContainText(`finds ${winches} sounds`);
  await expect(word.getByRole('button', { name: 'pawl', exact: true })).toBeVisible();
  expect(await axeFaults(page)).toEqual([]);
  await page.getByRole('combobox', { name: 'Words that mean the same here' }).focus();
  await page.keyboard.type('zinnoberly ');
  await expect(word.getByTitle('zinnoberly')).toBeVisible();
  await word.getByRole('button', { name: 'Find it' }).click();
  await told(winches);
  // An own word finds what has the other word, not what that in turn is another word for.
  expect(await search(page, 'zinnoberly ')).toBe(literal);
  await query().press('Enter');
  await page.keyboard.press('Control+z');
  await told(0);
});

test('lists stand in folders, are duplicated, compared, merged, noted on, ordered and carried away as files', async () => {
  await doWith('Ferry, reel 1', 'Move to a folder of lists …');
  await page.getByRole('combobox', { name: 'Folder of lists' }).fill('Night/Boats');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(side().getByRole('button', { name: 'Boats', exact: true })).toBeVisible();
  await doWith('Ferry, reel 1', 'Duplicate');
  await side()
    .getByRole('button', { name: /^Ferry, reel 1 \(copy\)/ })
    .click();
  await told(14);
  const order = await names();
  await page.keyboard.press('ArrowDown');
  await expect(currentRow(page)).toContainText(order[0]);
  await hush(page);
  await page.keyboard.press('n');
  const note = page.getByRole('textbox', { name: /^Note on/ });
  await expect(note).toBeFocused();
  await note.fill('Too clean; wants grit');
  await note.press('Enter');
  await expect(currentRow(page)).toContainText('Too clean; wants grit');
  const row = (name: string) =>
    sounds()
      .getByRole('row', { name: new RegExp(name) })
      .first();
  await row(order[3]).dragTo(row(order[1]), { targetPosition: { x: 60, y: 5 } });
  await expect.poll(async () => (await names()).slice(0, 3)).toEqual([order[0], order[3], order[1]]);
  await row(order[2]).click();
  await hush(page);
  await page.keyboard.press('Delete');
  await told(13);
  await doWith('Ferry, reel 1 (copy)', 'Compare with', 'Ferry, reel 1');
  const compared = page.getByRole('dialog', { name: 'Two pulls compared' });
  await expect(compared.getByRole('region', { name: 'In both' })).toContainText('13');
  await compared
    .getByRole('region', { name: 'Only in Ferry, reel 1', exact: true })
    .getByRole('button', { name: 'Add these to' })
    .click();
  await expect(compared.getByRole('region', { name: 'In both' })).toContainText('14');
  expect(await axeFaults(page)).toEqual([]);
  await compared.getByRole('button', { name: 'Close' }).click();
  const file = await saved(page, () => doWith('Ferry, reel 1 (copy)', 'Save as a file'));
  const read = JSON.parse(readFileSync(file.path, 'utf8')) as {
    name: string;
    shelf: string;
    sounds: { path: string; note?: string; hash: string }[];
  };
  expect(read).toMatchObject({
    format: 'cormorant-pull',
    version: 1,
    name: 'Ferry, reel 1 (copy)',
    shelf: 'Night/Boats',
  });
  expect(read.sounds).toHaveLength(14);
  expect(read.sounds[0].note).toBe('Too clean; wants grit');
  // Read again elsewhere: one file lies in another place now, one is not there at all.
  read.sounds[1].path = 'elsewhere.wav';
  read.sounds[2] = { path: 'gone.wav', hash: '00000000' };
  const changed = JSON.stringify({
    ...read,
    name: 'Read back',
    sounds: read.sounds.map((s) => ({ root: 'Tidewrack Audio', ...s })),
  });
  const input = page.getByLabel('Pull files');
  await input.setInputFiles({ name: 'back.pull.json', mimeType: 'application/json', buffer: Buffer.from(changed) });
  await expect(page.getByText(/^1 sound of Read back is not in this library/).first()).toBeVisible();
  await told(13);
  await input.setInputFiles({
    name: 'bad.pull.json',
    mimeType: 'application/json',
    buffer: Buffer.from('{"format":"cormorant-pull",\n"version":1}'),
  });
  await expect(page.getByText(/^bad\.pull\.json is not as expected: line 1/).first()).toBeVisible();
  await doWith('Read back', 'Add all of it to', 'Pier and timber');
  await expect(side().getByRole('button', { name: /^Pier and timber/ })).toContainText('23');
});

test('what was heard is listed by day, and what was not yet for the scene', async () => {
  expect(await search(page, 'oar dip')).toBeGreaterThan(3);
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowDown');
  const last = (await currentRow(page)
    .getByTitle(/^Name: /)
    .textContent())!.trim();
  await hush(page);
  const today = side().getByRole('button', { name: /^Today/ });
  await today.click();
  await expect(query()).toHaveValue('');
  await expect.poll(async () => (await names())[0]).toBe(last);
  const heard = Number(/(\d+)/.exec((await today.textContent())!)![1]);
  await told(heard);
  // Listening on leaves the list as it is: one walks down through it, once all of its rows are there.
  await expect.poll(async () => (await names()).length).toBeGreaterThanOrEqual(Math.min(heard, 10));
  const order = await names();
  for (const name of order.slice(0, 3)) {
    await page.keyboard.press('ArrowDown');
    await expect(currentRow(page)).toContainText(name);
  }
  await hush(page);
  expect(await names()).toEqual(order);
  await today.click();
  await side().getByRole('button', { name: 'Not for this scene yet' }).click();
  await told(323 - heard);
  await side().getByRole('button', { name: 'Forget what was heard' }).click();
  await page.getByRole('button', { name: 'Forget', exact: true }).click();
  await expect(today).toHaveCount(0);
  await told(323);
});

test('a region, a file from elsewhere and a voice find what is like them', async () => {
  await search(page, 'bollard splash deep 01');
  await page.keyboard.press('ArrowDown');
  await hush(page);
  const wave = (await page.getByRole('img', { name: /^Waveform/ }).boundingBox())!;
  await page.mouse.move(wave.x + 10, wave.y + 60);
  await page.mouse.down();
  await page.mouse.move(wave.x + wave.width * 0.6, wave.y + 60, { steps: 5 });
  await page.mouse.up();
  await expect(page.getByRole('button', { name: /^Region .*clear$/ })).toBeVisible();
  // The region is kept a moment after it is drawn.
  await expect(async () => {
    await page.keyboard.press('Shift+E');
    await expect(trail()).toContainText('Like a part of Bollard Splash Deep 01', { timeout: 1500 });
  }).toPass();
  await told(200);
  expect((await names()).slice(0, 5).filter((n) => /splash/i.test(n)).length).toBeGreaterThan(2);
  await page.getByLabel('A file to compare').setInputFiles(demoPath('Sluice Yard/Timber/knocks/plankDrop_hard-01.wav'));
  await expect(trail()).toContainText('Like plankDrop_hard-01.wav');
  await expect.poll(async () => (await names()).slice(0, 6).some((n) => /plank drop/i.test(n))).toBe(true);
  // The link holds what was heard: it can be opened again, and elsewhere.
  const near = await names();
  await page.reload();
  await expect.poll(names).toEqual(near);
  await page
    .getByLabel('A file to compare')
    .setInputFiles({ name: 'no.wav', mimeType: 'audio/wav', buffer: Buffer.from('not audio') });
  await expect(page.getByText(/^no\.wav cannot be compared/).first()).toBeVisible();

  await page.keyboard.press('v');
  const dialog = page.getByRole('dialog', { name: 'Find by voice' });
  await dialog.getByRole('button', { name: 'Record' }).click();
  await expect(dialog.getByRole('alert')).toContainText('does not let this page use the microphone');
  expect(await axeFaults(page)).toEqual([]);
  await visit.context.grantPermissions(['microphone']);
  await dialog.getByRole('button', { name: 'Record' }).click();
  await expect(dialog.getByRole('timer')).toContainText(/^3\.\d of 8 s/);
  await dialog.getByRole('button', { name: 'Find what is like it' }).click();
  await expect(dialog).toBeHidden();
  await expect(trail()).toContainText('Like your voice');
  await told(200);
  expect((await names()).slice(0, 10).filter((n) => /splash|water|oar|slap/i.test(n)).length).toBeGreaterThan(0);
  await visit.context.clearPermissions();
});
