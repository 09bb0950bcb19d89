import type { Pull, Sound } from '@core/library';
import type { TeamChanges, TeamList } from '@core/schemas';
import { expect, request, test, type APIRequestContext, type Page } from '@playwright/test';
import {
  axeFaults,
  choose,
  hush,
  inTheme,
  openFirst,
  rendered,
  search,
  stored,
  visitDemo,
  type Visit,
} from '../helpers/app';

// A team: its library is searched and heard as one's own, labels of two people come together, and lists are followed by both.
test.describe.configure({ mode: 'serial', timeout: 120_000 });

const LIBRARY = 'Net Loft house sounds';
const PASSWORD = 'net loft demo';
let visit: Visit;
let page: Page;
/** Somebody else of the team, who works there by its protocol. */
let maren: APIRequestContext;

test.beforeAll(async () => {
  visit = await visitDemo();
  ({ page } = visit);
  maren = await request.newContext({
    baseURL: `${visit.url}services/team/`,
    extraHTTPHeaders: { Origin: visit.url.slice(0, -1) },
  });
  const entered = await maren.post('v1/enter', { data: { name: 'Maren Quay', password: PASSWORD } });
  expect(entered.ok()).toBe(true);
  await page.goto(`${visit.url}intake/team`);
});
test.afterAll(async () => {
  await maren?.dispose();
  await visit?.end();
});
test.afterEach(() => expect(visit.errors.splice(0)).toEqual([]));

const team = async (): Promise<void> => {
  await page.getByRole('link', { name: 'Intake', exact: true }).click();
  await page.getByRole('navigation', { name: 'Parts of intake' }).getByRole('link', { name: /^Team/ }).click();
};
const there = async () => ((await (await maren.get('v1/libraries/1/changes?since=0')).json()) as TeamChanges).changed;
const rowThere = async (name: string) => (await there()).find((r) => r.path.endsWith(name))!;
const here = async (name: string) => (await stored<Sound>(page, 'sounds')).find((s) => s.team && s.path.endsWith(name));
const changeThere = async (name: string, key: string, to: string) => {
  const { id, fields } = await rowThere(name);
  const was = fields[key] === undefined ? {} : { [key]: fields[key] };
  expect((await maren.post('v1/libraries/1/edits', { data: { edits: [{ id, was, is: { [key]: to } }] } })).ok()).toBe(
    true,
  );
};
/** Plays the sound that a query finds first, and listens to what the engine makes of it. */
async function heard(query: string): Promise<void> {
  await openFirst(page, query);
  await hush(page);
  const [left] = await rendered(page, 48_000, () => page.keyboard.press('Space'));
  expect(Math.max(...left.map(Math.abs))).toBeGreaterThan(0.01);
  await hush(page);
}
/** Types a value into a field of the sound that a query finds first. */
async function label(query: string, field: string, to: string): Promise<void> {
  await page.getByRole('link', { name: 'Label', exact: true }).click();
  // The stage before has a query of its own, which is gone once this one is here.
  await expect(page.getByRole('navigation', { name: 'Parts of label' })).toBeVisible();
  await openFirst(page, query);
  const box = page.getByRole('textbox', { name: field, exact: true });
  await box.fill(to);
  await box.press('Enter');
}

test('whoever is not signed in sees nothing; a wrong password is told', async () => {
  const door = page.getByRole('region', { name: 'Sign in to the team' });
  await expect(door).toContainText('The Net Loft');
  expect(await axeFaults(page)).toEqual([]);
  await door.getByLabel('Name', { exact: true }).fill('Idris Vane');
  await door.getByLabel('Password', { exact: true }).fill('not this one');
  await door.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(door.getByRole('alert')).toContainText('Name or password is wrong');
  await expect(page.getByText(LIBRARY)).toHaveCount(0);
  await door.getByLabel('Password', { exact: true }).fill(PASSWORD);
  await door.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(page.getByText('Signed in as Idris Vane')).toBeVisible();
});

test('a library is searched and heard like one’s own, and nothing of it is measured here', async () => {
  const libraries = page.getByRole('region', { name: 'Libraries of the team' });
  await expect(libraries).toContainText('You may add and edit');
  await libraries.getByRole('button', { name: `Search ${LIBRARY} here` }).click();
  await expect(libraries.getByText('Up to date', { exact: true })).toBeVisible();
  for (const theme of ['dark', 'light']) {
    expect(await axeFaults(page, inTheme(theme))).toEqual([]);
    await page.keyboard.press('Control+Shift+l');
  }
  const files: string[] = [];
  page.on('request', (r) => files.push(r.url()));
  await page.getByRole('link', { name: 'Find', exact: true }).click();
  expect(await search(page, 'loft bell')).toBe(2);
  await heard('loft bell rung once');
  const own = (await here('Loft bell 01.wav'))!;
  const facts = await stored<{ id: number; spectrum: Float32Array }>(page, 'facts');
  expect(Object.keys(facts.find((f) => f.id === own.id)!.spectrum).length).toBeGreaterThan(10);
  // As it is compared by what was measured there, it has its like here.
  expect(await search(page, '')).toBe(335);
});

test('labels go there and come from there as they change; one that both change waits for a choice', async () => {
  await label('loft stairs boots', 'Name', 'Loft stairs, heavy boots');
  await expect.poll(async () => (await rowThere('Loft stairs 01.wav')).fields.fxName).toBe('Loft stairs, heavy boots');
  expect((await rowThere('Loft stairs 01.wav')).by).toBe('Idris Vane');
  await changeThere('Loft stairs 01.wav', 'microphone', 'Blimp on a pole');
  await expect.poll(async () => (await here('Loft stairs 01.wav'))?.fields.microphone).toBe('Blimp on a pole');
  // Undo goes there, too.
  await page.getByRole('link', { name: 'Find', exact: true }).click();
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await rowThere('Loft stairs 01.wav')).fields.fxName).toBe('Loft stairs, boots down');

  // Offline both change the same, and each something else.
  await visit.context.route('**/services/team/**', (route) => route.abort());
  await label('loft door hinge', 'Name', 'Tall door, slow');
  await expect.poll(async () => (await here('Loft door 01.wav'))?.fields.fxName).toBe('Tall door, slow');
  await changeThere('Loft door 01.wav', 'fxName', 'Loft door, squeal');
  await changeThere('Loft door 01.wav', 'microphone', 'Stereo pair');
  await team();
  const state = page.getByRole('region', { name: 'Libraries of the team' });
  await state.getByRole('button', { name: `Catch up with ${LIBRARY}` }).click();
  await expect(state.getByText(/cannot be reached/)).toBeVisible();
  await visit.context.unroute('**/services/team/**');
  await state.getByRole('button', { name: `Catch up with ${LIBRARY}` }).click();
  const choices = page.getByRole('region', { name: 'Labels that wait for a choice' });
  await expect(choices).toContainText('Tall door, slow');
  await expect(choices).toContainText('Loft door, squeal');
  expect((await rowThere('Loft door 01.wav')).fields).toMatchObject({
    fxName: 'Loft door, squeal',
    microphone: 'Stereo pair',
  });
  expect((await here('Loft door 01.wav'))?.fields).toMatchObject({
    fxName: 'Tall door, slow',
    microphone: 'Stereo pair',
  });
  expect(await axeFaults(page)).toEqual([]);
  await choices.getByRole('button', { name: /^Keep mine for Name/ }).click();
  await expect(choices).toHaveCount(0);
  await expect.poll(async () => (await rowThere('Loft door 01.wav')).fields.fxName).toBe('Tall door, slow');
});

test('files that were fetched are heard without the server', async () => {
  const libraries = page.getByRole('region', { name: 'Libraries of the team' });
  await libraries.getByRole('button', { name: `More about ${LIBRARY}` }).click();
  await libraries.getByRole('button', { name: 'Fetch all files' }).click();
  await expect(page.getByText(/12 files fetched/)).toBeVisible();
  // Somebody who may not administer sees nobody’s rights.
  await expect(page.getByRole('group', { name: `People of ${LIBRARY}` })).toHaveCount(0);
  await visit.context.route('**/services/team/**', (route) => route.abort());
  await page.getByRole('link', { name: 'Find', exact: true }).click();
  await heard('hawser under load');
  await visit.context.unroute('**/services/team/**');
});

test('sounds and a list are shared: files are sent once, and both change the list', async () => {
  // Another tab of the same browser is told by this one: it holds no connection of its own.
  const streams: string[] = [];
  visit.context.on('request', (r) => r.url().endsWith('/v1/events') && streams.push(r.url()));
  const other = await visit.context.newPage();
  await other.goto(`${visit.url}intake/team`);
  const libraries = other.getByRole('region', { name: 'Libraries of the team' });
  await expect(libraries).toContainText('12 sounds');
  await page.bringToFront();
  await page.getByRole('link', { name: 'Deliver', exact: true }).click();
  await page
    .getByRole('navigation', { name: 'Parts of deliver' })
    .getByRole('link', { name: 'Team', exact: true })
    .click();
  await choose(page.getByRole('combobox', { name: 'What goes to the team' }), 'Birds of the estuary (4)');
  await expect(page.getByRole('button', { name: 'Add 4 sounds', exact: true })).toBeEnabled();
  expect(await axeFaults(page)).toEqual([]);
  await page.getByRole('button', { name: 'Share Birds of the estuary', exact: true }).click();
  const people = page.getByRole('group', { name: 'People of Birds of the estuary' });
  await expect(people).toContainText('Idris Vane');
  expect(await there()).toHaveLength(16);
  const pull = async () => (await stored<Pull>(page, 'pulls')).find((p) => p.team)!;
  const lists = async () => (await (await maren.get('v1/lists')).json()) as TeamList[];
  expect(await lists()).toEqual([]);
  await people.getByRole('textbox', { name: 'Somebody else' }).fill('Maren Quay');
  await choose(people.getByRole('combobox', { name: 'What they may do' }), 'change it');
  await people.getByRole('button', { name: 'Let them' }).click();
  await expect(people).toContainText('Maren Quay');
  const [list] = await lists();
  expect(list).toMatchObject({ name: 'Birds of the estuary', right: 'add' });
  expect(list.members).toHaveLength(4);
  // Maren puts the bell into it, with a note; it is seen here as it comes.
  const bell = { library: 1, sound: (await rowThere('Loft bell 01.wav')).id };
  await maren.post(`v1/lists/${list.id}`, { data: { add: [bell] } });
  await maren.post(`v1/lists/${list.id}`, { data: { notes: [{ ...bell, was: '', is: 'for the last shot' }] } });
  await expect.poll(async () => Object.values((await pull()).notes ?? {})).toContain('for the last shot');
  expect((await pull()).soundIds).toContain((await here('Loft bell 01.wav'))!.id);
  // What is added is in the library for all; adding it again sends nothing.
  await choose(page.getByRole('combobox', { name: 'What goes to the team' }), 'Pier and timber (10)');
  await page.getByRole('button', { name: 'Add 10 sounds', exact: true }).click();
  await expect(page.getByText(/^10 sounds are in Net Loft house sounds; [^0]/)).toBeVisible();
  await page.getByRole('button', { name: 'Add 10 sounds', exact: true }).click();
  await expect(page.getByText('10 sounds are in Net Loft house sounds; 0.0 MB were sent')).toBeVisible();
  expect(await there()).toHaveLength(26);
  await expect(libraries).toContainText('26 sounds');
  expect(streams).toEqual([]);
  await other.close();
  await page.bringToFront();
});

test('a right that is taken away is felt at once, and what is known stays; signing out ends it', async () => {
  expect((await maren.post('v1/libraries/1/people', { data: { person: 'Idris Vane', right: 'hear' } })).ok()).toBe(
    true,
  );
  await team();
  const libraries = page.getByRole('region', { name: 'Libraries of the team' });
  await expect(libraries).toContainText('You may search and hear');
  await label('capstan pawl', 'Name', 'Mine alone');
  await team();
  await expect(libraries).toContainText('1 sound changed here alone');
  expect((await rowThere('Capstan pawl 01.wav')).fields.fxName).toBe('Capstan pawl, slow');
  await page.getByRole('button', { name: 'Sign out' }).click();
  await expect(page.getByRole('region', { name: 'Sign in to the team' })).toBeVisible();
  await page.getByRole('link', { name: 'Find', exact: true }).click();
  expect(await search(page, 'loft bell')).toBe(2);
});

test('what one person changed and could not send waits for them while another sits at the desk, who may take it on', async () => {
  await team();
  const door = page.getByRole('region', { name: 'Sign in to the team' });
  await door.getByLabel('Name', { exact: true }).fill('Maren Quay');
  await door.getByLabel('Password', { exact: true }).fill(PASSWORD);
  await door.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(page.getByText('Signed in as Maren Quay')).toBeVisible();
  const libraries = page.getByRole('region', { name: 'Libraries of the team' });
  await expect(libraries).toContainText('1 sound that Idris Vane changed here waits until they sign in again.');
  expect((await rowThere('Capstan pawl 01.wav')).fields.fxName).toBe('Capstan pawl, slow');
  expect(await axeFaults(page)).toEqual([]);
  await page.getByRole('button', { name: `Send as mine what waits in ${LIBRARY}` }).click();
  await expect.poll(async () => (await rowThere('Capstan pawl 01.wav')).fields.fxName).toBe('Mine alone');
  await expect(libraries.getByText('Idris Vane changed here')).toHaveCount(0);
});
