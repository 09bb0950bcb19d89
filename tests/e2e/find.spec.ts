import { expect, test, type Page } from '@playwright/test';
import { axeFaults, inTheme, choose, currentRow, hush, saved, search, visitDemo, type Visit } from '../helpers/app';

// An editor looks for sounds; each test begins at the whole list.

let visit: Visit;
let url: string;
let page: Page;
let errors: string[];

test.beforeAll(async () => {
  test.setTimeout(180_000);
  visit = await visitDemo();
  ({ url, page, errors } = visit);
});
test.afterAll(() => visit?.end());
test.beforeEach(async () => {
  await page.goto(`${url}find`);
  await expect(page.getByText(/^323 in /)).toBeVisible();
});
test.afterEach(() => expect(errors.splice(0)).toEqual([]));

const query = () => page.getByRole('textbox', { name: 'Query', exact: true });
const told = (n: number) => expect(page.getByText(new RegExp(`^${n} in `))).toBeVisible();
const facet = (name: string) => page.getByRole('complementary', { name: 'Facets' }).getByRole('region', { name });
const trail = () => page.getByRole('navigation', { name: 'Trail' });
const rowNames = async () =>
  (
    await page
      .getByRole('grid', { name: 'Sounds' })
      .getByRole('row')
      .getByTitle(/^Name: /)
      .allTextContents()
  ).map((t) => t.trim());

test('a begun word, field and value are completed by key, and the clauses stand as chips', async () => {
  await query().click();
  await query().pressSequentially('ratc');
  const completions = page.getByRole('group', { name: 'Completions' });
  await expect(completions.getByRole('button').first()).toHaveText(/^Tab\s*ratchet/);
  await page.keyboard.press('Tab');
  await expect(query()).toHaveValue(/^ratchet/);
  await query().fill('');
  await query().pressSequentially('licence:cc');
  await expect(completions.getByRole('button', { name: /CC BY 4.0/ })).toBeVisible();
  await page.keyboard.press('Tab');
  await expect(query()).toHaveValue(/^licence:"CC BY/);
  await query().pressSequentially(' -gull length:<9s');
  await page.keyboard.press('Enter');
  const chips = page.getByRole('list', { name: 'Clauses of the query' });
  await expect(chips.getByRole('listitem')).toHaveCount(3);
  await chips.getByRole('button', { name: 'Take out -gull' }).click();
  await expect(query()).toHaveValue(/^licence:"CC BY[^"]*" length:<9s$/);
  await chips.getByRole('button', { name: 'length:<9s', exact: true }).click();
  await page.keyboard.type('length:<1s');
  await expect(query()).toHaveValue(/" length:<1s$/);
});

const headings = () =>
  page
    .getByRole('grid', { name: 'Sounds' })
    .getByRole('row')
    .filter({ hasText: /^[^\d]+ \d+$/ });

test('results stand in bands, each headed; why a row is there is said, and one key leaves only the very words', async () => {
  const all = await search(page, 'foghorn distant trombone');
  await expect(headings()).toContainText(['Without “trombone”']);
  // What says exactly what it means is taken at its word.
  expect(await search(page, 'foghorn AND distant AND trombone')).toBe(0);
  const ways = page.getByRole('group', { name: 'What would be found' }).getByRole('button');
  await expect(ways).toHaveText([/^Without “trombone” *\d+$/]);
  await ways.click();
  await expect(query()).toHaveValue('foghorn AND distant');
  await search(page, 'foghorn distant trombone');
  await told(all);
  await query().press('Enter');
  await page.keyboard.press('ArrowDown');
  await expect(page.getByText(/“trombone” is not there/)).toBeVisible();
  await page.keyboard.press('z');
  await expect(
    page.getByRole('status').filter({ hasText: /“foghorn” in its name.*“trombone” is not there/ }),
  ).not.toHaveCount(0);
  await page.keyboard.press('Shift+W');
  await expect(page.getByText('Nothing matches')).toBeVisible();
  await page.keyboard.press('Shift+W');
  await told(all);
});

test('the first steps tick themselves off, and can be sent away', async () => {
  const card = page.getByRole('region', { name: 'First steps' });
  const steps = card.getByRole('listitem');
  await expect(steps).toHaveCount(5);
  await search(page, 'winch');
  await expect(steps.nth(0)).toContainText('(done)');
  await query().press('Enter');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('t');
  await expect(steps.nth(1)).toContainText('(done)');
  await expect(steps.nth(2)).toContainText('(done)');
  await expect(steps.nth(3)).not.toContainText('(done)');
  await page.keyboard.press('Control+z');
  await card.getByRole('button', { name: 'Close the first steps' }).click();
  await expect(card).toHaveCount(0);
});

test('keys are listed by what they are for', async () => {
  await page.keyboard.press('?');
  const dialog = page.getByRole('dialog', { name: 'Keys of this screen' });
  await expect(dialog.getByRole('region', { name: 'Finding' }).getByText('Go to the query')).toBeVisible();
  await expect(dialog.getByRole('region', { name: 'Going through the list' }).getByText('Next sound')).toBeVisible();
  await page.keyboard.press('Escape');
});

test('an adjective is answered by ear where no label says it', async () => {
  await search(page, 'bright creak');
  await expect(headings()).toContainText(['By ear, though no label says so']);
  await query().press('Enter');
  await page.keyboard.press('End');
  await expect(page.getByText(/brighter than \d+ % of these/)).toBeVisible();
});

test('results are kept to look inside of them, again and again, and one steps back out', async () => {
  const creaks = await search(page, 'creak');
  await query().press('Control+Enter');
  await expect(query()).toHaveValue('');
  await expect(query()).toBeFocused();
  const slow = await search(page, 'slow OR wood');
  expect(slow).toBeLessThan(creaks);
  await page.keyboard.press('Control+Enter');
  await expect(trail().getByRole('button', { name: /^creak/ })).toContainText(String(creaks));
  await expect(trail().getByRole('button', { name: /^slow OR wood/ })).toContainText(String(slow));
  await page.reload();
  await told(slow);
  await trail()
    .getByRole('button', { name: /^creak/ })
    .click();
  await expect(query()).toHaveValue('creak');
  await told(creaks);
  await expect(trail().getByRole('button', { name: /^slow/ })).toHaveCount(0);
});

test('values are chosen, left out and searched; other fields are counted; a histogram is brushed', async () => {
  const library = facet('Library');
  await library.getByRole('button', { name: /^Tidewrack Audio/ }).click();
  await told(112);
  await library.getByRole('button', { name: /^Sluice Yard/ }).click();
  await told(192);
  await library.getByRole('button', { name: /^Sluice Yard/ }).click({ modifiers: ['Alt'] });
  await told(112);
  await page.getByRole('button', { name: 'Show all', exact: true }).click();
  await library.getByRole('button', { name: /^Sluice Yard/ }).press('-');
  await told(243);
  await expect(library.getByRole('button', { name: 'No longer leave out Sluice Yard' })).toBeVisible();
  await page.getByRole('button', { name: 'Show all', exact: true }).click();
  await page.getByRole('button', { name: 'Choose what is counted' }).click();
  await choose(page.getByRole('combobox', { name: 'Fields whose values are counted' }), 'Takes of');
  await choose(page.getByRole('combobox', { name: 'Numbers that are counted by spans' }), 'Loudness');
  await page.keyboard.press('Escape');
  await page.getByRole('heading', { name: 'Tray' }).click();
  const stems = facet('Takes of');
  await stems.getByRole('button', { name: /more$/ }).click();
  await stems.getByRole('textbox').fill('ratchet run');
  await stems
    .getByRole('button', { name: /ratchet run/i })
    .first()
    .click();
  await expect(page.getByRole('row', { name: /Ratchet Run 01/ })).toBeVisible();
  await page.getByRole('button', { name: 'Show all', exact: true }).click();
  await expect(page.getByText(/^323 in /)).toHaveAttribute('aria-busy', 'false');
  const bins = facet('Loudness').getByRole('group').getByRole('button');
  await bins.nth(14).scrollIntoViewIfNeeded();
  const inside = await bins.evaluateAll((all) =>
    all.slice(14, 24).map((b) => Number(/(\d+)$/.exec(b.getAttribute('aria-label')!)![1])),
  );
  const [from, to] = [(await bins.nth(14).boundingBox())!, (await bins.nth(23).boundingBox())!];
  await page.mouse.move(from.x + 2, from.y + 20);
  await page.mouse.down();
  await page.mouse.move(to.x + 2, to.y + 20, { steps: 8 });
  await page.mouse.up();
  await expect(page).toHaveURL(/r\.loudness=-/);
  const sum = inside.reduce((a, b) => a + b);
  expect(sum).toBeGreaterThan(50);
  await told(sum);
});

test('alike sounds stand nearest first and say how they differ, and a query looks among them', async () => {
  await search(page, 'winch pawl clack heavy 03');
  await page.keyboard.press('ArrowDown');
  await hush(page);
  await page.keyboard.press('e');
  await expect(trail()).toContainText('Like Winch Pawl Clack Heavy 03');
  await told(200);
  const near = (await rowNames()).slice(0, 8);
  expect(near[0]).toBe('Winch Pawl Clack Heavy 03');
  expect(near.filter((n) => /Pawl clack heavy/i.test(n)).length).toBeGreaterThanOrEqual(5);
  await expect(page.getByText(/^(longer|shorter|brighter|darker|fewer hits|more hits)/).first()).toBeVisible();
  await search(page, 'chain');
  // A riser is built of one.
  for (const name of await rowNames()) expect(name).toMatch(/chain|^Riser for the title/i);
  await trail()
    .getByRole('button', { name: /^Like Winch/ })
    .click();
  await expect(trail()).not.toContainText('Like Winch');
});

test('a search is kept under a name with its live count, and goes into the bin', async () => {
  const owned = await search(page, 'licence:owned creak');
  await page.getByRole('button', { name: 'Keep this search' }).click();
  await expect(page.getByRole('textbox', { name: 'Name of the search' })).toBeFocused();
  // The name that is offered is selected: what is typed stands in its place.
  await page.keyboard.type('Own creaks');
  await page.keyboard.press('Enter');
  const saved = page.getByRole('button', { name: /^Own creaks/ });
  await expect(saved).toContainText(String(owned));
  await page.getByRole('button', { name: 'Show all', exact: true }).click();
  await told(323);
  await page.reload();
  await saved.click();
  await told(owned);
  await page.getByRole('button', { name: 'Remove the search Own creaks' }).click({ force: true });
  await expect(saved).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect(saved).toBeVisible();
});

test('random picks meet each sound once; what was heard is stepped through; sounds are set aside and come back', async () => {
  expect(await search(page, 'winch AND pawl AND clack AND heavy')).toBe(8);
  const picked: string[] = [];
  for (let i = 0; i < 8; i++) {
    const before = i === 0 ? '' : picked[i - 1];
    await page.keyboard.press('x');
    await expect(currentRow(page)).not.toContainText(before || 'nothing yet');
    picked.push(/Heavy \d+/.exec((await currentRow(page).textContent())!)![0]);
  }
  expect(new Set(picked).size).toBe(8);
  await page.keyboard.press('b');
  await page.keyboard.press('b');
  await expect(currentRow(page)).toContainText(picked[5]);
  await page.keyboard.press('Shift+B');
  await expect(currentRow(page)).toContainText(picked[6]);
  await hush(page);
  await page.keyboard.press('h');
  await page.keyboard.press('h');
  await told(6);
  await page.keyboard.press('Shift+H');
  await told(8);
});

test('a row’s menu finds what shares a value, compares, and sets aside', async () => {
  const found = await search(page, 'capstan groan');
  // The opened part of a row is a row of its own.
  const row = page.getByRole('row', { name: /Capstan Groan Slow Turn 02/ }).first();
  const pick = async (name: string) => {
    await row.click({ button: 'right' });
    await page.getByRole('menuitem', { name, exact: true }).click();
    await expect(page.getByRole('menuitem')).toHaveCount(0);
  };
  await pick('Set aside');
  await told(found - 1);
  await page.keyboard.press('Control+z');
  await told(found);
  await pick('All takes of this sound');
  await search(page, '');
  for (const name of await rowNames()) expect(name).toMatch(/^Capstan Groan Slow Turn/);
  await pick('Find alike');
  await expect(trail()).toContainText('Like Capstan Groan Slow Turn 02');
});

test('the index opens from its snapshot with the edits since; a damaged one is made anew', async () => {
  /** The snapshot's text from a place on; empty while there is none. */
  const at = (from: number) =>
    page.evaluate(async (place) => {
      const root = await navigator.storage.getDirectory();
      const folder = await root.getDirectoryHandle('snapshots', { create: true });
      const file = await folder.getFileHandle('sounds').catch(() => undefined);
      return file ? (await file.getFile()).slice(place, place + 15).text() : '';
    }, from);
  await expect.poll(() => at(100_000), { timeout: 60_000 }).not.toBe('');
  await search(page, 'capstan groan 02');
  await page.keyboard.press('ArrowDown');
  await hush(page);
  await page.getByRole('link', { name: 'Label', exact: true }).click();
  const name = page.getByRole('complementary', { name: 'Labels' }).getByRole('textbox', { name: 'Name', exact: true });
  await name.fill('Zinnober groan');
  await name.press('Enter');
  await expect(page.getByRole('row', { name: /Zinnober groan/ })).toBeVisible();
  await page.goto(`${url}find?q=zinnober`);
  await told(1);
  await page.evaluate(async () => {
    const folder = await (await navigator.storage.getDirectory()).getDirectoryHandle('snapshots');
    const written = await (await folder.getFileHandle('sounds')).createWritable({ keepExistingData: true });
    await written.write({ type: 'write', position: 60_000, data: 'no index at all' });
    await written.close();
  });
  await page.reload();
  await told(1);
  await page.goto(`${url}find`);
  await told(323);
  // The good one takes the damaged one's place.
  await expect.poll(() => at(60_000), { timeout: 60_000 }).not.toBe('no index at all');
});

test('a key is given to another command, carried as a file, and everything can be as it was', async () => {
  const key = (command: string, keys: string) =>
    page.getByRole('button', { name: `Key of ${command}: ${keys}`, exact: true });
  await page.keyboard.press('?');
  await key('Random pick', 'X').click();
  await page.keyboard.press('h');
  await expect(key('Random pick', 'H')).toBeVisible();
  await expect(key('Set aside', 'none')).toBeVisible();
  const file = await saved(page, () => page.getByRole('button', { name: 'Save as a file' }).click());
  expect(JSON.parse(new TextDecoder().decode(file.bytes))).toEqual({
    format: 'cormorant-keys',
    version: 1,
    keys: { 'Random pick': ['h'], 'Set aside': [] },
  });
  await page.getByRole('button', { name: 'Done' }).click();
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await search(page, 'creak');
  const count = page.getByText(/^\d+ in (under )?\d+ ms$/);
  const before = (await count.textContent())!.split(' ')[0];
  await page.keyboard.press('h');
  await expect(currentRow(page).first()).toBeVisible();
  await expect(count).toHaveText(new RegExp(`^${before} in`));
  await page.getByRole('button', { name: 'Random pick' }).hover();
  // The row that was picked may have opened under the pointer, and have a tooltip of its own on the way out.
  await expect(page.getByRole('tooltip').filter({ hasText: 'at random' })).toContainText('(H)');

  await page.keyboard.press('?');
  await page.getByRole('button', { name: 'Reset all' }).click();
  await expect(key('Set aside', 'H')).toBeVisible();
  const take = async (name: string, text: string | Buffer) => {
    const choosing = page.waitForEvent('filechooser');
    await page.getByRole('button', { name: 'Take keys from a file' }).click();
    await (await choosing).setFiles({ name, mimeType: 'application/json', buffer: Buffer.from(text) });
  };
  await take('own.json', Buffer.from(file.bytes));
  await expect(key('Random pick', 'H')).toBeVisible();
  await take('broken.json', '{\n"format": "cormorant-keys",\n"version": 1,\n"keys": { "Set aside": "h" }\n}');
  await expect(page.getByText(/broken\.json is not as expected: line 4/).last()).toBeVisible();
  await expect(key('Random pick', 'H')).toBeVisible();
  await page.getByRole('button', { name: 'Reset the key of Set aside' }).click();
  await page.getByRole('button', { name: 'Reset the key of Random pick' }).click();
  await expect(key('Random pick', 'X')).toBeVisible();
  await page.keyboard.press('Escape');
});

test('rows of one line show more sounds, stay so over a reload, and still open in place', async () => {
  await search(page, 'pawl');
  const shown = () => page.getByRole('grid', { name: 'Sounds' }).getByRole('row');
  // Rows stand in the document in any order; what is opened is a row of its own behind the one that it belongs to.
  const at = (index: number) =>
    shown()
      .and(page.locator(`[aria-rowindex="${index}"]`))
      .first()
      .boundingBox();
  const height = async () => (await at(9))!.height;
  const [roomy, many] = [await height(), await shown().count()];
  await page.keyboard.press('Shift+C');
  await expect.poll(height).toBeLessThan(roomy * 0.75);
  expect(await shown().count()).toBeGreaterThan(many);
  await page.keyboard.press('Home');
  const wave = page.getByRole('img', { name: /^Waveform of/ });
  await expect(wave).toBeVisible();
  // What is opened lies between its row and the next.
  const [row, box, next] = [await at(2), await wave.boundingBox(), await at(3)];
  expect(box!.y).toBeGreaterThanOrEqual(row!.y + row!.height - 1);
  expect(next!.y).toBeGreaterThanOrEqual(box!.y + box!.height);
  await page.reload();
  await expect.poll(height).toBeLessThan(roomy * 0.75);
  await page.getByRole('button', { name: 'Rows of one line or two' }).click();
  await expect.poll(height).toBe(roomy);
});

test('a sound that was built of others names them, and opens the build that it was made of', async () => {
  await page.goto(`${url}find?q=horn+far+side`);
  const own = page.getByRole('row', { name: /Horn from the far side/ });
  await expect(own).toBeVisible();
  await own.click();
  await page.keyboard.press('Alt+Enter');
  const parents = page.getByRole('region', { name: 'What it was built of' });
  await expect(parents.getByRole('listitem')).toHaveText([/^Foghorn Harbor Mouth 02/, /shore waves wide.*CC BY/]);
  await parents.getByRole('button', { name: 'Open its build' }).click();
  await expect(page.getByRole('heading', { name: /^Horn from the far side/ })).toBeVisible();
  await expect(page.getByText('2 layers on one anchor')).toBeVisible();
});

test('nothing serious stands in the way of assistive technology while one finds', async () => {
  for (const theme of ['dark', 'light']) {
    await page.evaluate((t) => localStorage.setItem('theme', t), theme);
    await page.goto(`${url}find?q=creak&step=q%3Dwood&x.licence=Owned&r.length=..4`);
    await expect(trail()).toContainText('wood');
    expect(await axeFaults(page, inTheme(theme))).toEqual([]);
    await query().click();
    await query().pressSequentially(' la');
    await expect(page.getByRole('group', { name: 'Completions' })).toBeVisible();
    expect(await axeFaults(page, inTheme(theme))).toEqual([]);
  }
  await page.evaluate(() => localStorage.setItem('theme', 'dark'));
});
