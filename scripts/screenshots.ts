// Takes one picture of each main view, on the demo, into docs/screenshots. Needs the build and the demo library.
import { cpSync, mkdirSync, rmSync } from 'node:fs';
import { spawn } from 'node:child_process';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { TeamChanges } from '@core/schemas';
import { request, type Page } from '@playwright/test';
import { choose } from '../tests/helpers/app';
import { pick } from '../tests/helpers/picked';
import { launch } from './browser';

const top = join(dirname(fileURLToPath(import.meta.url)), '..');
const out = join(top, 'docs/screenshots');
mkdirSync(out, { recursive: true });
const started = performance.now();
const sessionFolder = join(top, '.cache/host-pictures');
rmSync(sessionFolder, { recursive: true, force: true });
const teamFolder = join(top, '.cache/team-pictures');
rmSync(teamFolder, { recursive: true, force: true });
cpSync(join(top, '.demo/team'), teamFolder, { recursive: true });
const server = spawn(
  'node',
  [
    ...['--import', 'tsx', 'src/server/main.ts', '--demo', '.demo', '--write', '--port', '4900'],
    ...['--commons', '.demo/commons', '--exchange', '.demo/exchange', '--host', sessionFolder],
    ...['--team', teamFolder],
  ],
  {
    cwd: top,
  },
);
const url = await new Promise<string>((done) => server.stdout.on('data', (d) => done(/http:\S+/.exec(String(d))![0])));
const browser = await launch();
const page: Page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
const shoot = async (name: string) => {
  // Notices come and go; a picture shows what stays.
  const asks = page.getByRole('alert').filter({ hasText: 'backed up on this computer only' }).getByRole('button');
  if ((await asks.count()) > 0) await asks.last().click();
  await page.waitForFunction(() => document.querySelectorAll('.ant-message-notice').length === 0);
  await page.waitForTimeout(500);
  await page.screenshot({ path: join(out, `${name}.png`) });
  console.log(`  ${name}.png`);
};
/** A library of the team whose label waits for a choice, with a list that is shared. */
async function team(): Promise<void> {
  const maren = await request.newContext({
    ...{ baseURL: `${url}services/team/`, extraHTTPHeaders: { Origin: url.slice(0, -1) } },
  });
  const password = 'net loft demo';
  await maren.post('v1/enter', { data: { name: 'Maren Quay', password } });
  await page.goto(`${url}intake/team`);
  await page.getByLabel('Name', { exact: true }).fill('Maren Quay');
  await page.getByLabel('Password', { exact: true }).fill(password);
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await page.getByRole('button', { name: /^Search Net Loft/ }).click();
  await page.getByText('Up to date', { exact: true }).waitFor();
  await page.goto(`${url}deliver/team`);
  await choose(page.getByRole('combobox', { name: 'What goes to the team' }), 'Birds of the estuary (4)');
  await page.getByRole('button', { name: 'Share Birds of the estuary' }).click();
  await page.getByRole('group', { name: /^People of/ }).waitFor();
  await page.context().route('**/services/team/**', (route) => route.abort());
  await page.goto(`${url}label?q=loft%20door`);
  await page.getByRole('row', { name: /Loft door/ }).click();
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Tall door, slow');
  await page.keyboard.press('Enter');
  await page.getByRole('row', { name: /Tall door, slow/ }).waitFor();
  const { changed } = (await (await maren.get('v1/libraries/1/changes?since=0')).json()) as TeamChanges;
  const { id } = changed.find((r) => r.path.endsWith('Loft door 01.wav'))!;
  const edits = [{ id, was: { fxName: 'Loft door, dry hinge' }, is: { fxName: 'Loft door, squeal' } }];
  await maren.post('v1/libraries/1/edits', { data: { edits } });
  await page.context().unroute('**/services/team/**');
  await page.goto(`${url}intake/team`);
  await page.getByRole('region', { name: 'Labels that wait for a choice' }).waitFor();
  await page.getByRole('button', { name: /^More about Net Loft/ }).click();
  await page.getByRole('list', { name: 'What was done' }).waitFor();
  await page.mouse.move(640, 790);
  await shoot('team');
  await maren.dispose();
}

try {
  await page.goto(`${url}intake`);
  await page
    .getByText(/^Measuring/)
    .first()
    .waitFor();
  await page.waitForTimeout(8000);
  await shoot('intake');
  const roots = page.getByRole('region', { name: 'Roots' }).getByRole('listitem');
  while (
    (await roots.count()) === 0 ||
    (await roots.count()) !== (await page.getByText('Up to date', { exact: true }).count())
  )
    await page.waitForTimeout(300);
  await page.goto(`${url}find?q=creak%20(wood%20OR%20timber%20OR%20rope)%20-door`);
  for (let i = 0; i < 4; i++) {
    await page.getByRole('grid', { name: 'Sounds' }).waitFor();
    await page.keyboard.press('ArrowDown');
    await page.waitForTimeout(700);
  }
  const box = (await page.getByRole('img', { name: /^Waveform/ }).boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.34, box.y + 60);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.7, box.y + 60, { steps: 6 });
  await page.mouse.up();
  await page.keyboard.press('Space');
  await page.waitForTimeout(650);
  await shoot('find');
  await page.goto(`${url}find/commons?q=bell`);
  await page.getByRole('grid', { name: 'Open sounds' }).waitFor();
  await page.keyboard.press('Control+Shift+l');
  await page.getByRole('checkbox', { name: 'Only what may be used so' }).uncheck();
  await page.waitForTimeout(1000);
  await page.keyboard.press('ArrowDown');
  await page.waitForTimeout(1600);
  await shoot('commons');
  await page.getByRole('checkbox', { name: 'Only what may be used so' }).check();
  await page.keyboard.press('Control+Shift+l');
  await page.goto(`${url}label/exchange?q=library:%22Sluice+Yard%22`);
  await page.getByRole('combobox', { name: 'Published by' }).fill('Sluice Yard');
  await page.keyboard.press('Tab');
  await page.getByRole('button', { name: /^Look up/ }).click();
  await page.getByRole('grid', { name: 'Values of the publisher' }).waitFor();
  await page.waitForTimeout(1000);
  await shoot('exchange');
  await page.goto(`${url}find?q=chain+dropped`);
  await page.getByRole('row', { name: /On Deck 01/ }).click();
  await page.keyboard.press('k');
  await page.keyboard.press('y');
  await page.getByRole('button', { name: 'Shape', exact: true }).click();
  await page.getByRole('spinbutton', { name: 'Fades' }).fill('0.3');
  await page.getByRole('spinbutton', { name: 'Speed in semitones' }).fill('-3');
  await page.keyboard.press('Enter');
  await page.waitForTimeout(1200);
  await shoot('audition');
  await page.keyboard.press('Escape');
  await page.evaluate(() => localStorage.setItem('spectral', 'false'));
  await page.goto(`${url}label?q=pawl`);
  await page.getByRole('row', { name: /Winch Pawl Clack Heavy 02/ }).click();
  await page.getByRole('row', { name: /Winch Pawl Clack Heavy 05/ }).click({ modifiers: ['Shift'] });
  await shoot('label');
  await page.goto(`${url}label/review?f.library=Sluice%20Yard`);
  await page.getByText('80 sounds to decide on').waitFor();
  await shoot('review');
  await page.goto(`${url}label/recipes?f.library=Sluice%20Yard`);
  await page.getByRole('combobox', { name: 'Open a recipe' }).click({ force: true });
  await page.keyboard.type('Clean up');
  await page.keyboard.press('Enter');
  await page.getByText(/would change/).waitFor();
  await shoot('recipes');
  await page.goto(`${url}label/anchors?q=ratchet%20OR%20creak`);
  await page.getByRole('grid', { name: 'Anchors to decide on' }).waitFor();
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowDown');
  await page.keyboard.press('k');
  await page.waitForTimeout(1500);
  await shoot('anchors');
  await page.goto(`${url}label/slices?f.library=Own%20recordings`);
  await page.getByRole('button', { name: 'Find the takes' }).click();
  await page.getByRole('button', { name: /^Keep 168 sounds$/ }).waitFor();
  await page.getByRole('option', { name: /gate swings/ }).click();
  await page.keyboard.press('ArrowDown');
  await page.waitForTimeout(1500);
  await page.keyboard.press('Space');
  await page.mouse.move(640, 790);
  await shoot('slices');
  await page.goto(`${url}build`);
  await page.getByRole('button', { name: 'Build …' }).click();
  await page.getByRole('menuitem', { name: 'New build' }).click();
  await page.getByRole('heading', { name: /^Untitled build/ }).waitFor();
  for (const query of ['tyre thump 02', 'plank drop hard 03', 'rudder post strain 01', 'wave slap hull 05']) {
    await page.goto(`${url}find?q=${encodeURIComponent(query)}`);
    await page.getByRole('grid', { name: 'Sounds' }).waitFor();
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('k');
    await page.getByRole('button', { name: 'Add as a layer' }).click();
    await page
      .getByText(/is a layer of/)
      .first()
      .waitFor();
  }
  await page.getByRole('link', { name: 'Build', exact: true }).click();
  await page.getByRole('button', { name: 'Build …' }).click();
  await page.getByRole('menuitem', { name: 'Rename …' }).click();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('Hull meets tyres, heavy');
  await page.keyboard.press('Enter');
  await page.getByRole('heading', { name: 'Hull meets tyres, heavy' }).waitFor();
  const shapes: [
    name: string,
    semitones: number,
    direction: string,
    later: number,
    level: number,
    effects: string[],
  ][] = [
    ['Tyre thump 02', -12, 'Forward', 0, -9, ['Filter', 'Saturation']],
    ['Plank drop hard 03', 0, 'Both ways', 40, -12.5, ['Equaliser']],
    ['Old Rudder Post Strain 01', -3.2, 'Backward', 0, -15, ['Width']],
    ['Wave Slap Against Hull 05', 0, 'Forward', 0, -12, []],
  ];
  for (const [name, semitones, direction, later, level, effects] of shapes) {
    const row = page.getByRole('list', { name: 'Layers' }).getByRole('listitem', { name, exact: true });
    await row.getByRole('spinbutton', { name: /^Level of/ }).fill(String(level));
    for (const effect of effects) {
      await row.getByRole('button', { name: /^Add an effect to/ }).click();
      await page.getByRole('menuitem', { name: effect, exact: true }).click();
      await page.getByRole('group', { name: effect, exact: true }).waitFor();
      await row.getByRole('button', { name: effect, exact: true }).click();
    }
    const head = row.getByRole('button', { name: new RegExp(`^${name}`) });
    if ((await head.getAttribute('aria-expanded')) === 'false') await head.click();
    const opened = page.getByRole('group', { name: `Layer ${name}` });
    if (later !== 0) await opened.getByRole('spinbutton', { name: 'Later by, ms' }).fill(String(later));
    if (semitones === 0 && direction === 'Forward') continue;
    await opened.getByRole('button', { name: /^Direction, pitch/ }).click();
    const shape = page.getByRole('group', { name: 'Shape of the layer' });
    if (semitones !== 0) await shape.getByRole('spinbutton', { name: 'Speed in semitones' }).fill(String(semitones));
    if (direction !== 'Forward') await shape.getByText(direction, { exact: true }).click();
    await page.keyboard.press('Escape');
    await shape.waitFor({ state: 'hidden' });
  }
  await page.keyboard.press('Escape');
  for (const effect of ['Compressor', 'Reverb', 'Limiter']) {
    await page.getByRole('button', { name: 'Add an effect to all layers' }).click();
    await page.getByRole('menuitem', { name: effect, exact: true }).click();
    await page.getByRole('group', { name: effect, exact: true }).waitFor();
  }
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Saturation' }).click();
  const move = async (value: RegExp, by: string) => {
    await page.getByRole('spinbutton', { name: value }).first().hover();
    await page.keyboard.press('v');
    await page.getByRole('menu', { name: 'What moves it' }).getByRole('menuitem', { name: by }).first().click();
    await page.getByRole('dialog').waitFor({ state: 'hidden' });
  };
  await move(/^Mix, %/, 'Controller');
  await move(/^Drive, dB/, 'Envelope');
  await move(/^Level of Old/, 'Drift');
  await page.getByRole('button', { name: /^Drift 3/ }).click();
  await page.getByText(/LUFS/).first().waitFor();
  await page.getByRole('checkbox', { name: 'Round and round' }).check();
  await page.keyboard.press('Space');
  await page.waitForTimeout(2600);
  await shoot('build');
  await page.keyboard.press('Space');
  await page.goto(`${url}build/make`);
  await page.getByRole('combobox', { name: 'Family' }).press('ArrowDown');
  await page.getByTitle('Riser', { exact: true }).click();
  await page.getByRole('heading', { name: 'Riser' }).click();
  await page.getByRole('button', { name: 'Lock Climbs by' }).click();
  await page.getByText('still being made').waitFor({ state: 'hidden' });
  await page.getByRole('heading', { name: 'Riser' }).click();
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowDown');
  await page.waitForTimeout(1500);
  await shoot('make');
  await page.keyboard.press('Space');
  await page.goto(`${url}find?q=winch%20pawl%20heavy%2004`);
  await page.getByRole('row', { name: /Heavy 04/ }).waitFor();
  await page.keyboard.press('ArrowDown');
  await page.getByRole('img', { name: /^Waveform/ }).waitFor();
  await page.getByRole('link', { name: 'Spot', exact: true }).click();
  await page.getByRole('timer').waitFor();
  await page.getByRole('group', { name: 'Events of the picture' }).getByRole('button').first().waitFor();
  await page.getByText('Versions', { exact: true }).click();
  await page.getByRole('button', { name: 'Return to On deck, close' }).click();
  await page.getByText('Sounds', { exact: true }).click();
  await page.keyboard.press('Control+g');
  await page.keyboard.type('01:00:12:23');
  await page.keyboard.press('Enter');
  await page.keyboard.press(']');
  await page.getByRole('listbox', { name: 'Alternates' }).waitFor();
  for (let i = 0; i < 12; i++) await page.keyboard.press(',');
  await page.keyboard.press('i');
  for (let i = 0; i < 40; i++) await page.keyboard.press('.');
  await page.keyboard.press('o');
  for (let i = 0; i < 28; i++) await page.keyboard.press(',');
  await page.keyboard.press('n');
  await page.waitForTimeout(4000);
  await shoot('spot');
  await page.keyboard.press('Enter');
  await page.getByText('Pads', { exact: true }).first().click();
  for (const [letter, query] of [
    ['A', 'boot'],
    ['S', 'pawl clack'],
    ['D', 'rope'],
    ['J', 'oar'],
    ['K', 'estuary'],
  ]) {
    await page.getByRole('button', { name: new RegExp(`^Pad ${letter} `) }).click();
    await page.getByRole('combobox', { name: 'How the pad is filled' }).press('ArrowDown');
    await page.getByTitle('by a query', { exact: true }).last().click();
    await page.getByRole('textbox', { name: 'Query of the pad' }).fill(query);
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: new RegExp(`^Pad ${letter} ${query} \\d+ sounds`) }).waitFor();
  }
  await page.getByRole('button', { name: /^Pad A / }).click();
  await page.getByText('Picture', { exact: true }).first().click();
  await page.keyboard.press('Escape');
  await page.keyboard.press('y');
  await page.keyboard.press('Space');
  for (const key of ['a', 's', 'a', 'd', 'a', 'j', 'a']) {
    await page.waitForTimeout(260);
    await page.keyboard.press(key);
  }
  await page.keyboard.down('k');
  await page.waitForTimeout(300);
  await shoot('pads');
  await page.keyboard.up('k');
  await page.keyboard.press('Space');
  await page.keyboard.press('Escape');
  await page.getByText('Sounds', { exact: true }).click();
  await page.keyboard.press('Control+z');
  await page.keyboard.press('b');
  await page.getByRole('button', { name: 'Distance, 90 m' }).click();
  await page
    .getByText(/ LUFS$/)
    .first()
    .waitFor();
  await page.keyboard.press('Space');
  await page.waitForTimeout(3000);
  await shoot('mix');
  await page.keyboard.press('Space');
  await page.keyboard.press('b');
  await page.getByRole('button', { name: 'Host', exact: true }).click();
  const panel = page.getByRole('group', { name: 'Session host' });
  await panel.getByRole('button', { name: 'Send its cues one by one' }).click();
  await panel
    .getByRole('list')
    .getByText(/^Cues of/)
    .waitFor({ timeout: 120_000 });
  const session = await page.context().newPage();
  await session.setViewportSize({ width: 1280, height: 800 });
  await session.goto(`${url}services/host/`);
  await session.getByRole('group', { name: 'Track Deck' }).getByRole('button').first().waitFor();
  await session.waitForTimeout(500);
  await session.screenshot({ path: join(out, 'host.png') });
  console.log('  host.png');
  await session.close();
  await page.keyboard.press('Escape');
  await page.getByRole('link', { name: 'Deliver', exact: true }).click();
  await pick(page, 'Handed over');
  await page.getByRole('link', { name: 'Delivery', exact: true }).click();
  const look = () => page.getByRole('button', { name: 'Look what it comes to' }).click();
  await look();
  await page.getByRole('button', { name: /^Deliver \d+/ }).click();
  await page.getByText(/written and read again/).waitFor({ timeout: 120_000 });
  await page.getByRole('checkbox', { name: 'Edit list' }).check();
  await page.getByRole('checkbox', { name: 'Project' }).check();
  await look();
  await page.getByRole('grid', { name: 'The delivery as it would be' }).waitFor();
  await page.mouse.move(640, 700);
  await shoot('deliver');
  await page.goto(`${url}deliver/library`);
  await page.getByRole('textbox', { name: 'Title' }).fill('Estuary and timber');
  await page.getByRole('button', { name: 'Look what it comes to' }).click();
  await page.getByRole('button', { name: 'Open WATER' }).click();
  await page.mouse.move(640, 790);
  await shoot('library');
  await team();
  console.log(`Took ${((performance.now() - started) / 1000).toFixed(0)} s`);
} finally {
  await browser.close();
  server.kill();
}
