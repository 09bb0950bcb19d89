import { expect, test, type Page } from '@playwright/test';
import { parseUcsName } from '@core/naming';
import { readDelimited } from '@core/library';
import { scratch } from '../helpers/programs';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { axeFaults, inTheme, choose, saved, search, visitDemo, type Visit } from '../helpers/app';

// One librarian takes the unlabelled library from hurried names to uniform labels.

test.describe.configure({ mode: 'serial' });

let visit: Visit;
let url: string;
let page: Page;
let errors: string[];

test.beforeAll(async () => {
  test.setTimeout(180_000);
  visit = await visitDemo({
    acceptDownloads: true,
    permissions: ['clipboard-read', 'clipboard-write'],
  });
  ({ url, page, errors } = visit);
});
test.afterAll(() => visit?.end());
// Each begins at the table of the unlabelled library, whatever the one before left on the screen.
test.beforeEach(async () => {
  await page.goto(`${url}label?f.library=Sluice%20Yard`);
  await expect(page.getByText(/^80 in /)).toBeVisible();
});
test.afterEach(() => expect(errors.splice(0)).toEqual([]));

const part = (name: string | RegExp) =>
  page.getByRole('navigation', { name: 'Parts of label' }).getByRole('link', { name }).click();
const rows = (grid: string) => page.getByRole('grid', { name: grid }).getByRole('row');
const toDecide = () => page.getByText(/^\d+ sounds? to decide on$/);
const undo = () => page.keyboard.press('Control+z');
const count = async (query: string) => {
  await part('Table');
  const n = await search(page, query);
  await search(page, '');
  return n;
};
/** How many answer, as soon as what was done is done. */
const counted = (query: string) => expect.poll(() => count(query));

test('the review by keyboard alone: accept, choose, skip, all above a level, and back', async () => {
  await part('Review');
  await expect(toDecide()).toHaveText('80 sounds to decide on');
  const current = page.getByRole('row', { selected: true });
  const first = await current.textContent();
  await page.keyboard.press('s');
  await expect(current).not.toHaveText(first!);
  await page.keyboard.press('Enter');
  await expect(toDecide()).toHaveText('79 sounds to decide on');
  // Any word for it leads to the category; what is chosen counts for the names alike, where there are takes of a name.
  const called = () => current.getByRole('gridcell').first().textContent();
  for (let was = await called(); !/^[A-Za-z_]+-\d+\./.test(was!); was = await called()) {
    await page.keyboard.press('s');
    await expect(current.getByRole('gridcell').first()).not.toHaveText(was!);
  }
  const like = (await current.getByRole('gridcell').first().textContent())!.replace(/-\d+\.\w+.*$/, '');
  await page.keyboard.press('c');
  await page.keyboard.type('ratchet');
  await expect(page.getByText('MECHRtch').last()).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(toDecide()).toHaveText('78 sounds to decide on');
  expect(await search(page, like)).toBeGreaterThan(1);
  await expect(rows('Sounds to decide on').nth(1)).toContainText('Mechanical, ratchet');
  await search(page, '');
  await expect(toDecide()).toHaveText('78 sounds to decide on');
  await page.keyboard.press('Shift+Enter');
  await expect(toDecide()).not.toHaveText('78 sounds to decide on');
  for (const left of [/^78 /, /^79 /, /^80 /]) {
    await undo();
    await expect(toDecide()).toHaveText(left);
  }
});

test('by mouse: every sound gets a category, names get their takes, files get planned names after the standard', async () => {
  await part('Review');
  await page.getByRole('slider', { name: 'Level' }).press('Home');
  await page.getByRole('button', { name: /^Accept \d+$/ }).click();
  await expect(page.getByText(/suggestions; Ctrl Z takes them back/).first()).toBeVisible();
  // What is left is decided one by one.
  const done = page.getByText('Every sound of this list has a category');
  const accept = page.getByRole('button', { name: 'Accept', exact: true });
  for (let i = 0; i < 40 && !(await done.isVisible()); i++) {
    await expect(done.or(accept)).toBeVisible();
    if (await done.isVisible()) break;
    const before = await toDecide().textContent();
    if (await accept.isEnabled()) await accept.click();
    else {
      await choose(page.getByRole('combobox', { name: 'Another category' }), 'beep');
    }
    await expect(toDecide()).not.toHaveText(before!);
  }
  await expect(done).toBeVisible();

  await part('Recipes');
  await choose(page.getByRole('combobox', { name: 'Open a recipe' }), 'Take behind');
  for (const [field, text] of [
    ['CreatorID', 'SLY'],
    ['SourceID', 'SLUICE'],
  ]) {
    await choose(page.getByRole('combobox', { name: 'Add a step' }), 'Set a field');
    const step = page.getByRole('listitem').filter({ hasText: 'Set' }).last();
    await choose(step.getByRole('combobox').first(), field);
    await step.getByPlaceholder('Text, or {field}').pressSequentially(text);
  }
  await expect(page.getByText('80 would change, 0 stay as they are, 0 cannot')).toBeVisible();
  const step = rows('Before and after').nth(1);
  await expect(step).toContainText('Boot Step 01');
  await expect(step).toContainText('SLUICE');
  await page.getByRole('button', { name: 'Run on 80 sounds' }).click();
  await expect(page.getByText(/changed 80 sounds/).first()).toBeVisible();

  await part('File names');
  await expect(page.getByText(/^80 names are good, 0 are not/)).toBeVisible();
  const name = rows('File names before and after').nth(1).getByRole('gridcell').last();
  expect(parseUcsName((await name.textContent())!.trim(), (id) => /^[A-Z]{2,}[a-zA-Z]*$/.test(id))).toMatchObject({
    fxName: expect.stringMatching(/^[A-Z][a-z]+.* \d\d$/) as unknown,
    creatorId: 'SLY',
    sourceId: 'SLUICE',
  });
  await page.getByRole('button', { name: 'Plan 80 names' }).click();
  await expect(page.getByText(/80 names planned/).first()).toBeVisible();
  await counted('plannedname:~_SLY_SLUICE').toBe(80);
});

test('all of it can be taken back step by step, after a reload as well, and done again', async () => {
  await page.reload();
  await part('History and backup');
  await expect(page.getByText('Plan the names of 80 files')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await counted('plannedname:~_SLY_SLUICE').toBe(0);
  await part('History and backup');
  await page.getByRole('button', { name: 'Redo' }).click();
  await counted('plannedname:~_SLY_SLUICE').toBe(80);
});

test('cells are edited in place, filled down, copied and pasted as a spreadsheet does', async () => {
  await part('Table');
  await search(page, 'pawl');
  const grid = page.getByRole('grid', { name: 'Sounds to label' });
  const cell = (row: number, column: number) => grid.getByRole('row').nth(row).getByRole('gridcell').nth(column);
  await cell(1, 4).click();
  await page.keyboard.press('Enter');
  await grid.getByRole('textbox', { name: 'Description' }).fill('Wet, =loud\twords');
  await page.keyboard.press('Enter');
  await expect(cell(1, 4)).toContainText('Wet, =loud');
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Control+d');
  await expect(cell(3, 4)).toContainText('Wet, =loud');
  await cell(1, 3).click();
  await cell(2, 4).click({ modifiers: ['Shift'] });
  await page.keyboard.press('Control+c');
  await expect(page.getByText('2 rows copied').first()).toBeVisible();
  const copied = await page.evaluate(() => navigator.clipboard.readText());
  expect(copied.split('\n')).toHaveLength(2);
  expect(copied).toContain('"Wet, =loud\twords"');
  await page.evaluate(() => navigator.clipboard.writeText('iron, gate\tFirst\nrope\t"Second ""one"""'));
  await cell(4, 3).click();
  await page.keyboard.press('Control+v');
  await expect(cell(4, 3)).toContainText('iron, gate');
  await expect(cell(5, 4)).toContainText('Second "one"');
  await undo();
  await expect(cell(5, 4)).not.toContainText('Second');
});

test('columns are added and kept, and the panel edits what is selected', async () => {
  await page.getByRole('button', { name: 'Choose columns' }).click();
  await choose(page.getByRole('combobox', { name: 'Add a column' }), 'CreatorID');
  await page.getByRole('button', { name: 'Take Stars out' }).click();
  await page.getByRole('button', { name: 'Close' }).click();
  await expect(page.getByRole('columnheader', { name: 'CreatorID' })).toBeAttached();
  await page.reload();
  await expect(page.getByRole('columnheader', { name: 'CreatorID' })).toBeAttached();
  await expect(page.getByRole('columnheader', { name: 'Stars' })).toHaveCount(0);
  await search(page, 'pawl');
  await page.keyboard.press('Control+a');
  const panel = page.getByRole('complementary', { name: 'Labels' });
  await expect(panel).toContainText(/Labels of \d+ sounds/);
  await choose(panel.getByRole('combobox', { name: 'Add a language' }), 'Deutsch (de)');
  await panel.getByLabel('Description (de)').fill('Sperrklinke');
  await panel.getByLabel('Notes').click();
  await search(page, '');
  expect(await search(page, 'Sperrklinke')).toBeGreaterThan(5);
  await search(page, '');
});

test('a tag is renamed, merged, deleted, and comes back from the bin with its sounds', async () => {
  await search(page, 'boot');
  await page.keyboard.press('Control+a');
  const panel = page.getByRole('complementary', { name: 'Labels' });
  for (const name of ['deck', '👢 boots']) {
    await panel.getByLabel('Tags').fill(name);
    await page.keyboard.press('Enter');
    await expect(panel.getByTitle(name).first()).toBeAttached();
  }
  await search(page, '');
  const tagged = await count('tag:deck');
  expect(tagged).toBeGreaterThan(3);
  await part(/^Tags/);
  const row = (name: string) => page.getByRole('row').filter({ hasText: name });
  await expect(row('deck')).toContainText(String(tagged));
  await row('deck').getByRole('button', { name: 'Rename' }).click();
  await page.getByRole('textbox', { name: 'New name of the tag' }).fill('on deck');
  await page.keyboard.press('Enter');
  await expect(row('on deck')).toBeVisible();
  await counted('tag:"on deck"').toBe(tagged);
  await part(/^Tags/);
  await row('on deck').getByRole('checkbox').check();
  await row('👢 boots').getByRole('checkbox').check();
  await page.getByRole('button', { name: 'Merge 2 tags' }).click();
  await expect(row('👢 boots')).toHaveCount(0);
  await row('on deck').getByRole('button', { name: 'Delete' }).click();
  await expect(page.getByText('There are no tags yet')).toBeVisible();
  await part('History and backup');
  await page.getByRole('row').filter({ hasText: 'on deck' }).getByRole('button', { name: 'Restore' }).click();
  await expect(page.getByText(/wait here/)).toBeVisible();
  await counted('tag:"on deck"').toBe(tagged);
});

test('a stamp made of one sound goes onto others with one key', async () => {
  await search(page, 'knock');
  await rows('Sounds to label').nth(1).getByRole('gridcell').first().click();
  const panel = page.getByRole('complementary', { name: 'Labels' });
  await choose(panel.getByLabel('Licence'), 'CC BY 4.0');
  await part(/^Stamps/);
  await page.getByRole('textbox', { name: 'Name of the stamp' }).fill('Knocks');
  await page.getByRole('button', { name: 'From the current sound' }).click();
  const stamp = page.getByRole('article', { name: 'Knocks' });
  await expect(stamp.getByLabel('Licence', { exact: true })).toHaveValue('CC BY 4.0');
  await choose(stamp.getByRole('combobox', { name: 'Key of Knocks' }), 'Ctrl Alt 1');
  await part('Table');
  await page.keyboard.press('Control+a');
  await page.keyboard.press('Control+Alt+1');
  await expect(page.getByText(/Put Knocks on \d+ sounds/).first()).toBeVisible();
  await undo();
  await search(page, '');
});

test('a sheet fills labels after every row was seen, and what is written out changes nothing when read again', async () => {
  await part('Sheets');
  await page.locator('input[type=file]').setInputFiles('.demo/Sluice Yard labels.csv');
  await expect(page.getByText(/1 find no sound/)).toBeVisible();
  await expect(page.getByText(/differ from what is there/).first()).toBeVisible();
  await choose(page.getByRole('combobox', { name: 'What to do with CatID' }), 'Leave as it is');
  await page.getByRole('button', { name: /^Change \d+ sounds$/ }).click();
  await expect(page.getByText(/filled from Sluice Yard labels.csv/).first()).toBeVisible();
  await counted('description:"winch pawl clacking"').toBeGreaterThan(5);
  await part('Sheets');
  for (const format of ['CSV', 'XLSX']) {
    await page.getByText(format, { exact: true }).click();
    const file = await saved(page, () => page.getByRole('button', { name: /^Write \d+ sounds?$/ }).click());
    if (format === 'CSV') {
      const sheet = readDelimited(file.bytes);
      expect(sheet.columns.slice(0, 4)).toEqual(['File name', 'Path', 'Fingerprint', 'Name']);
      expect(sheet.rows).toHaveLength(80);
      expect(sheet.rows.flat()).toContain('=low blip, made for the lantern');
      expect(new TextDecoder().decode(file.bytes)).toContain(`'=low blip`);
    }
    const path = test.info().outputPath(file.name);
    writeFileSync(path, file.bytes);
    await page.locator('input[type=file]').setInputFiles(path);
    await expect(page.getByText('80 say what is there')).toBeVisible();
    await expect(page.getByRole('button', { name: 'Change 0 sounds' })).toBeDisabled();
  }
  const bad = test.info().outputPath('bad.xlsx');
  writeFileSync(bad, 'PK\u0003\u0004 not a workbook');
  await page.locator('input[type=file]').setInputFiles(bad);
  await expect(page.getByRole('alert').filter({ hasText: /bad.xlsx: The workbook is damaged/ })).toBeVisible();
});

test('a pattern that does not come to an end is stopped, said, and leaves everything as it was', async () => {
  await part('Table');
  await rows('Sounds to label').nth(1).getByRole('gridcell').first().click();
  const notes = page.getByRole('complementary', { name: 'Labels' }).getByLabel('Notes');
  await notes.fill(`${'a'.repeat(60)}b`);
  await page.getByRole('heading', { name: /Labels of/ }).click();
  await part('Recipes');
  await choose(page.getByRole('combobox', { name: 'Add a step' }), 'Replace a pattern');
  const step = page.getByRole('listitem').filter({ hasText: 'Replace the pattern' });
  await choose(step.getByRole('combobox').first(), 'Notes');
  await step.getByRole('textbox').first().fill('(a+)+$');
  await expect(page.getByRole('alert').filter({ hasText: /Step 1 takes too long/ })).toBeVisible({ timeout: 20_000 });
  await step.getByRole('textbox').first().fill('a+b$');
  await expect(page.getByText(/1 would change/)).toBeVisible();
  await step.getByRole('textbox').first().fill('(');
  await expect(page.getByText(/the pattern cannot be read/).first()).toBeVisible();
  const file = test.info().outputPath('x.recipe.json');
  writeFileSync(
    file,
    '{\n "format": "cormorant-recipes",\n "version": 1,\n "recipes": [{ "name": "x", "steps": [{ "kind": "clear", "on": 1, "to": "notes" }] }]\n}',
  );
  await page.locator('input[type=file]').setInputFiles(file);
  await expect(page.getByText(/x.recipe.json is not as expected: line 4/).first()).toBeVisible();
});

test('a value is put back from a sound’s history, and a backup brings back what was changed since', async () => {
  await part('Table');
  await search(page, 'latch');
  await rows('Sounds to label').nth(1).getByRole('gridcell').first().click();
  const panel = page.getByRole('complementary', { name: 'Labels' });
  const name = panel.getByLabel('Name', { exact: true });
  const before = await name.inputValue();
  await name.fill('Something else');
  await page.keyboard.press('Enter');
  await part('History and backup');
  await page
    .getByRole('button', { name: `Put Name back to ${before}` })
    .first()
    .click();
  await part('Table');
  await expect(name).toHaveValue(before);
  await part('History and backup');
  const backup = await saved(page, () => page.getByRole('button', { name: 'Back up now' }).click());
  expect(backup.name).toMatch(/^Cormorant \d{4}-\d\d-\d\d \d\d\.\d\d\.backup$/);
  await part('Table');
  await name.fill('Changed after the backup');
  await page.keyboard.press('Enter');
  await expect(rows('Sounds to label').nth(1)).toContainText('Changed after the backup');
  await part('History and backup');
  await page.locator('input[type=file]').setInputFiles(backup.path);
  const dialog = page.getByRole('dialog', { name: 'Restore a backup' });
  await expect(
    dialog.getByText(/^0 come back, [1-9]\d* change, \d+ are the same, 0 are only here$/).first(),
  ).toBeVisible();
  await dialog.getByRole('button', { name: /^Restore \d+ parts$/ }).click();
  await part('Table');
  await expect(name).toHaveValue(before);
  const cut = test.info().outputPath('cut.backup');
  writeFileSync(cut, backup.bytes.slice(0, 2000));
  await part('History and backup');
  await page.locator('input[type=file]').setInputFiles(cut);
  await expect(page.getByRole('alert').filter({ hasText: /cut.backup: This backup cannot be used/ })).toBeVisible();
});

test('a category is found in another language, an own row is made and assigned', async () => {
  await rows('Sounds to label').nth(1).getByRole('gridcell').first().click();
  await part('Categories');
  const find = page.getByRole('textbox', { name: 'Find a category' });
  await find.fill('Holz Aufprall');
  await find.fill('Holz');
  await expect(rows('Categories').filter({ hasText: 'WOODImpt' })).toBeVisible();
  await page.getByRole('button', { name: 'Own row' }).click();
  const dialog = page.getByRole('dialog', { name: 'A row of the category list' });
  await dialog.getByLabel('Category', { exact: true }).fill('Locks');
  await dialog.getByLabel('SubCategory').fill('Sluice');
  await dialog.getByLabel('CatID').fill('LOCKSlui');
  await dialog.getByLabel('Explanation').fill('Gates that hold water');
  await dialog.getByLabel(/Synonyms/).fill('weir gate, sluice gate');
  await dialog.getByRole('button', { name: 'Keep' }).click();
  await find.fill('weir gate');
  await expect(rows('Categories').nth(1)).toContainText('LOCKSlui');
  await page.getByRole('button', { name: /^Assign to 1 selected sound$/ }).click();
  await expect(page.getByRole('button', { name: 'Show 1 sound' })).toBeVisible();
  await counted('catid:LOCKSlui').toBe(1);
});

test('a loaded list corrects a CatID: it is said which sounds have the old one, and they are carried over as one edit', async () => {
  await part('Categories');
  const sheet = join(scratch(), 'list.csv');
  writeFileSync(sheet, 'Category,SubCategory,CatID\nLOCKS,SLUICE,LOCKSluice\nDOORS,WOOD,DOORWood\n');
  const note = page.getByRole('note').filter({ hasText: 'CatIDs that are not in the list' });
  await expect(note).toHaveCount(0);
  // A row made by hand is nobody's list: without it the sound's CatID is lost.
  await page.getByRole('textbox', { name: 'Find a category' }).fill('LOCKSlui');
  await rows('Categories').nth(1).click();
  await page.getByRole('button', { name: 'Delete the row' }).click();
  await expect(note).toContainText('LOCKSlui (1)');
  await page.locator('input[type=file]').setInputFiles(sheet);
  await expect(page.getByText(/based on UCS 8\.2, 1 row as a loaded sheet has it/)).toBeVisible();
  await expect(note.getByRole('button')).toHaveCount(0);
  writeFileSync(sheet, 'Category,SubCategory,CatID\nMETAL,IMPACT,METLHit\n');
  await page.locator('input[type=file]').setInputFiles(sheet);
  await expect(note).toContainText(/METLImpt → METLHit \(\d+\)/);
  const had = await count('catid:METLImpt');
  expect(had).toBeGreaterThan(0);
  await part('Categories');
  await note.getByRole('button', { name: 'Carry over as one edit' }).click();
  await expect(note).not.toContainText('METLImpt');
  await counted('catid:METLHit').toBe(had);
  await page.keyboard.press('Control+z');
  await counted('catid:METLImpt').toBe(had);
});

test('nothing serious is wrong with any part for those who cannot see or point, in either theme', async () => {
  for (const theme of ['dark', 'light']) {
    for (const name of [
      'Table',
      'Review',
      'Recipes',
      'File names',
      'Write files',
      'Sheets',
      /^Tags/,
      /^Stamps/,
      'Categories',
      'History and backup',
    ]) {
      await part(name);
      await expect(page.getByRole('navigation', { name: 'Parts of label' })).toBeVisible();
      expect([theme, String(name), await axeFaults(page, inTheme(theme))]).toEqual([theme, String(name), []]);
    }
    await page.keyboard.press('Control+Shift+l');
  }
});
