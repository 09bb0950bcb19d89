import { readAudioFile, memorySource, readFrames, writeWav } from '@core/files';
import type { Cue, LineEffect, Scene, Track, Version } from '@core/scene';
import { expect, test, type Locator, type Page } from '@playwright/test';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  axeFaults,
  choose,
  hush,
  openFirst,
  openSettled,
  rendered,
  startOn,
  stored,
  watchErrors,
  type Running,
} from '../helpers/app';
import { scratch } from '../helpers/programs';
import { apart, hit, joined, rms } from '../helpers/signals';

// One sound from several: layers on one anchor, heard, played by keys, moved, kept as a file and laid into a scene.
test.describe.configure({ mode: 'serial', timeout: 120_000 });

const RATE = 48_000;
const top = scratch();
const folder = join(top, 'Yard');
const silence = (seconds: number) => new Float32Array(seconds * RATE);
const takes = {
  'Iron gate': hit(RATE, 0.6, 0.3, 180, 1),
  'Wet plank': hit(RATE, 0.5, 0.3, 420, 2),
  'Wet plank, hard': hit(RATE, 0.5, 0.35, 300, 3),
  Bolt: hit(RATE, 0.4, 0.3, 900, 4),
};
let server: Running;
let page: Page;
let errors: string[];

test.beforeAll(async ({ browser }) => {
  mkdirSync(folder);
  for (const [name, sound] of Object.entries(takes)) {
    const labels = { info: { INAM: name, IKEY: 'yard' }, ixml: { USER: { CATID: 'METLImpt' } } };
    writeFileSync(
      join(folder, `${name}.wav`),
      writeWav([joined(silence(0.2), sound)], { rate: RATE, bits: 24 }, labels),
    );
  }
  server = await startOn('--write', folder);
  page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  page.setDefaultTimeout(30_000);
  errors = watchErrors(page);
  await openSettled(page, server.url, 4);
});
test.afterAll(async () => {
  await page?.context().close();
  await server?.stop();
  rmSync(top, { recursive: true, force: true });
});
test.afterEach(() => expect(errors.splice(0)).toEqual([]));

const layers = () => page.getByRole('list', { name: 'Layers' });
const layer = (name: string) => layers().getByRole('listitem', { name, exact: true });
const stage = (name: string) => page.getByRole('navigation', { name: 'Stages' }).getByRole('link', { name }).click();
const panel = (name: string) => page.getByRole('group', { name: `Layer ${name}` });
const undo = () => page.keyboard.press('Control+z');
const buildRow = async () => (await stored<Scene>(page, 'scenes')).find((s) => s.build)!;
const cueOf = async (name: string) => (await stored<Cue>(page, 'cues')).find((c) => c.name === name)!;
const said = (name: string) => layer(name).getByRole('button', { name: new RegExp(`^${name}`) });

async function open(name: string): Promise<void> {
  if ((await said(name).getAttribute('aria-expanded')) === 'false') await said(name).click();
  await expect(panel(name)).toBeVisible();
}

test('a sound of Find becomes a layer by key, a further one by its words in the stage; their anchors meet', async () => {
  await stage('Build');
  await expect(page.getByText('There is no build yet')).toBeVisible();
  await stage('Find');
  await openFirst(page, 'iron');
  await page.keyboard.press('j');
  await expect(page.getByText('Iron gate is a layer of Iron gate').first()).toBeVisible();
  await stage('Build');
  await expect(layer('Iron gate')).toBeVisible();
  await page.getByRole('combobox', { name: 'Add a layer' }).fill('bolt');
  await page.getByTitle('Bolt.wav').click();
  await expect(said('Bolt')).toContainText('As it is');
  await expect(page.getByLabel('The build in figures')).toHaveText(/^2 layers on one anchor, 0\.8 s/);
  const [gate, bolt] = [await cueOf('Iron gate'), await cueOf('Bolt')];
  expect([gate.at, bolt.at]).toEqual([300 * RATE, 300 * RATE]);
  expect(Math.abs(gate.anchor - 0.2 * RATE)).toBeLessThan(200);
  await page.keyboard.press('Escape');
  expect(await axeFaults(page)).toEqual([]);
});

/** Both layers on their anchors, at their levels, from where the first of them begins. */
async function expected(levels: Record<string, number>): Promise<Float32Array> {
  const cues = await Promise.all(Object.keys(levels).map(cueOf));
  const before = Math.max(...cues.map((c) => c.anchor));
  const parts = cues.map((c) => joined(silence((before - c.anchor) / RATE), silence(0.2), takes[c.name as 'Bolt']));
  const sum = new Float32Array(Math.max(...parts.map((p) => p.length)));
  parts.forEach((p, i) => p.forEach((v, k) => (sum[k] += v * 10 ** (levels[cues[i].name] / 20))));
  return sum;
}

test('played through it is the sum of its layers, sample by sample', async () => {
  await layer('Bolt').getByRole('spinbutton', { name: 'Level of Bolt, dB' }).fill('-6');
  await page.keyboard.press('Tab');
  await expect.poll(async () => (await stored<Track>(page, 'tracks')).find((t) => t.name === 'Bolt')?.gain).toBe(-6);
  await page.getByLabel('The build in figures').click();
  const [left, right] = await rendered(page, 24_000, () => page.keyboard.press('Space'));
  const sum = await expected({ 'Iron gate': 0, Bolt: -6 });
  expect(rms(left)).toBeGreaterThan(0.005);
  expect(apart(left, sum.subarray(0, 24_000))).toBeLessThan(1e-5);
  expect(apart(left, right)).toBe(0);
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
});

test('an opened layer says what is done to it, in its row and in its values; each step is taken back here alone', async () => {
  await open('Bolt');
  await panel('Bolt')
    .getByRole('button', { name: /^Direction, pitch/ })
    .click();
  await page.getByRole('spinbutton', { name: 'Speed in semitones' }).fill('-12');
  await page.getByRole('group', { name: 'Shape of the layer' }).getByText('Backward', { exact: true }).click();
  await expect(said('Bolt')).toContainText('Backward, an octave down');
  await page.keyboard.press('Escape');
  await panel('Bolt').getByRole('spinbutton', { name: 'Later by, ms' }).fill('40');
  await expect(said('Bolt')).toContainText('Backward, an octave down, 40 ms later');
  await panel('Bolt').getByRole('spinbutton', { name: 'Plays from, s' }).fill('0.1');
  await expect(said('Bolt')).toContainText('from 0.10 s, 40 ms later');
  expect(await axeFaults(page)).toEqual([]);
  await page.getByLabel('The build in figures').click();
  for (let i = 0; i < 4; i++) await undo();
  await expect(said('Bolt')).toContainText('As it is');
  expect((await stored<Track>(page, 'tracks')).find((t) => t.name === 'Bolt')?.gain).toBe(-6);
});

test('another sound is tried in a layer’s place, then kept or let go of; the anchor stays', async () => {
  const at = (await cueOf('Bolt')).at;
  await page.keyboard.press('n');
  await expect(panel('Bolt').getByText(/^trying/)).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(panel('Bolt').getByText(/^trying/)).toHaveCount(0);
  expect((await cueOf('Bolt')).at).toBe(at);
  await page.keyboard.press('n');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await stored<Cue>(page, 'cues')).some((c) => c.name === 'Bolt')).toBe(false);
  expect((await stored<Cue>(page, 'cues')).every((c) => c.at === at)).toBe(true);
  await undo();
  await expect.poll(async () => (await cueOf('Bolt'))?.at).toBe(at);
  // Sounds that strokes take turns with.
  await panel('Bolt')
    .getByRole('combobox', { name: /^A further sound/ })
    .fill('plank hard');
  await page.getByTitle('Wet plank, hard.wav').click();
  await expect(said('Bolt')).toContainText('each stroke takes another of 2 sounds');
  await undo();
  await expect(said('Bolt')).toContainText(/^BoltAs it is$/);
  await page.keyboard.press('Escape');
});

const effects = () => stored<LineEffect>(page, 'effects');
const lineOf = async (name: string) => (await stored<Track>(page, 'tracks')).find((t) => t.name === name)!.id;
async function addEffect(name: string, onto: string): Promise<void> {
  await page.getByRole('button', { name: `Add an effect to ${onto}` }).click();
  await page
    .getByRole('menu', { name: `Effects for ${onto}` })
    .getByRole('menuitem', { name, exact: true })
    .click();
}

test('effects stand on the line of a layer or of all, and are carried from one to another by hand', async () => {
  await addEffect('Saturation', 'Bolt');
  await expect(page.getByRole('group', { name: 'Saturation', exact: true })).toBeVisible();
  const chip = page.getByRole('group', { name: 'Effects of Bolt' }).getByRole('button', { name: 'Saturation' });
  await chip.dragTo(page.getByRole('group', { name: 'Effects of Iron gate' }));
  const gate = await lineOf('Iron gate');
  await expect.poll(async () => (await effects()).map((e) => e.lineId)).toEqual([gate]);
  await choose(page.getByRole('combobox', { name: 'Copy to' }), 'All layers');
  await expect.poll(async () => (await effects()).map((e) => e.lineId).sort()).toEqual([0, gate]);
  await undo();
  await undo();
  await expect.poll(async () => (await effects()).map((e) => e.lineId)).toEqual([await lineOf('Bolt')]);
});

const levelOf = (name: string) => layer(name).getByRole('spinbutton', { name: /^Level of/ });
async function moveBy(value: Locator, by: string | RegExp): Promise<void> {
  await value.hover();
  await page.keyboard.press('v');
  await page.getByRole('menu', { name: 'What moves it' }).getByRole('menuitem', { name: by }).click();
}
test('a key lets something move the value that is pointed at; sentences tell of it, and one step takes it back', async () => {
  await open('Bolt');
  await page.getByRole('group', { name: 'Effects of Bolt' }).getByRole('button', { name: 'Saturation' }).click();
  const drive = page.getByRole('spinbutton', { name: 'Drive, dB' });
  if (!(await drive.isVisible()))
    await page.getByRole('group', { name: 'Effects of Bolt' }).getByRole('button', { name: 'Saturation' }).click();
  await moveBy(drive, 'Envelope');
  const sentence = page
    .getByRole('list', { name: 'What moves values' })
    .getByRole('listitem')
    .filter({ hasText: 'moves Drive of Saturation, Bolt' });
  await expect(sentence).toContainText('Envelope, 5 ms up, 600 ms down');
  await sentence.getByRole('spinbutton', { name: /^To, for/ }).fill('3');
  await expect.poll(async () => (await buildRow()).movers?.[0].moves[0].to).toBe(3);
  await page.getByRole('spinbutton', { name: 'Attack, ms' }).fill('20');
  await expect(sentence).toContainText('Envelope, 20 ms up');
  // The same one moves a level as well.
  await moveBy(levelOf('Iron gate'), /^Envelope, 20 ms up/);
  await expect(page.getByText('moves Level of Iron gate')).toBeVisible();
  expect(await axeFaults(page)).toEqual([]);
  await sentence.getByRole('button', { name: 'Let it be' }).click();
  await expect(page.getByText('moves Drive of Saturation')).toHaveCount(0);
  await page.getByLabel('The build in figures').click();
  await undo();
  await expect(page.getByText('moves Drive of Saturation')).toBeVisible();
  for (let i = 0; i < 4; i++) await undo();
  await expect.poll(async () => (await buildRow()).movers).toBeUndefined();
  await undo();
  await expect.poll(effects).toEqual([]);
  await page.keyboard.press('Escape');
  await page.keyboard.press('Escape');
});

test('keys strike it, on other stages too, sample by sample as it is played through', async () => {
  await page.keyboard.press('Shift+k');
  await page.getByRole('button', { name: 'Arm keys' }).click();
  const strike = async (key: string) => {
    const made = await rendered(page, 12_000, () => page.keyboard.down(key));
    await page.keyboard.up(key);
    return made[0];
  };
  const sum = await expected({ 'Iron gate': 0, Bolt: -6 });
  expect(apart(await strike('f'), sum.subarray(0, 12_000))).toBeLessThan(1e-5);
  await page.keyboard.press('Escape');
  await stage('Find');
  await page.getByRole('button', { name: 'Play by keys' }).click();
  await expect(page.getByText('Iron gate, as it is at C4')).toBeVisible();
  expect(apart(await strike('f'), sum.subarray(0, 12_000))).toBeLessThan(1e-5);
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Play the current sound' }).click();
  await page.getByRole('button', { name: 'Play by keys' }).click();
  await stage('Build');
  await expect(page.getByRole('checkbox', { name: 'Keys play it' })).not.toBeChecked();
});

test('a layer may sound as the key goes up, and one at a time; its row says so', async () => {
  await open('Bolt');
  await panel('Bolt').getByRole('button', { name: 'As the key goes down …' }).click();
  const keys = page.getByRole('group', { name: 'How keys play the layer' });
  await keys.getByText('goes up', { exact: true }).click();
  await keys.getByRole('spinbutton', { name: 'Strokes of the layer at once' }).fill('1');
  await page.keyboard.press('Tab');
  await expect(said('Bolt')).toContainText('as the key goes up, one at a time');
  await page.keyboard.press('Escape');
  const bolt = async () => (await stored<Track>(page, 'tracks')).find((t) => t.name === 'Bolt')!;
  expect((await bolt()).struck).toEqual({ on: 'up', voices: 1 });
  await page.getByRole('checkbox', { name: 'Keys play it' }).check();
  await page.getByRole('button', { name: 'Arm keys' }).click();
  const down = await rendered(page, 12_000, () => page.keyboard.down('f'));
  const alone = await expected({ 'Iron gate': 0 });
  expect(apart(down[0], alone.subarray(0, 12_000))).toBeLessThan(1e-5);
  const up = await rendered(page, 12_000, () => page.keyboard.up('f'));
  const release = await expected({ Bolt: -6 });
  // What was held dies away in the first of it.
  expect(apart(up[0].slice(9600), release.subarray(9600, 12_000))).toBeLessThan(1e-5);
  await page.keyboard.press('Escape');
  await page.getByRole('checkbox', { name: 'Keys play it' }).uncheck();
  await undo();
  await undo();
  await expect(said('Bolt')).not.toContainText('key goes up');
  await expect(said('Bolt')).not.toContainText('one at a time');
  await said('Bolt').click();
});

const file = join(folder, 'Built', 'Gate and bolt.wav');
test('what keys play is recorded, heard again, and kept as a sound of the length in which it was played', async () => {
  await moveBy(levelOf('Iron gate'), 'Controller');
  await page.keyboard.press('Shift+k');
  await page.getByRole('button', { name: 'Record', exact: true }).click();
  const played = page.getByRole('group', { name: 'What was played' });
  await expect(played).toContainText('it begins with the first stroke');
  await page.getByLabel('The build in figures').click();
  // Both stay down: a key that goes up would end its stroke.
  await page.keyboard.down('a');
  await expect(played).toContainText('1 stroke');
  await page.keyboard.down('g');
  await expect(played).toContainText('2 strokes');
  await page.getByRole('slider', { name: 'Stands at, %' }).press('Home');
  await page.getByRole('button', { name: 'Stop recording' }).click();
  for (const key of ['a', 'g']) await page.keyboard.up(key);
  await expect(played).toContainText(/2 strokes\s*in \d+\.\d s, with Wheel \(controller 1\)/);
  const [again] = await rendered(page, 24_000, () => played.getByRole('button', { name: 'Hear it again' }).click());
  expect(rms(again)).toBeGreaterThan(0.001);
  await hush(page);

  await played.getByRole('button', { name: 'Keep what was played' }).click();
  const dialog = page.getByRole('dialog', { name: 'Keep what was played' });
  await dialog.getByRole('textbox', { name: 'Name of the sound' }).fill('Two knocks');
  const goes = dialog.getByRole('combobox', { name: 'Where it goes' });
  await choose(goes, 'Yard');
  await expect(goes).toHaveAttribute('aria-expanded', 'false');
  expect(await axeFaults(page)).toEqual([]);
  await dialog.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByText(/^Two knocks is a sound now/).first()).toBeVisible();
  const source = memorySource(new Uint8Array(readFileSync(join(folder, 'Built', 'Two knocks.wav'))));
  const { format } = await readAudioFile(source);
  expect(format).toMatchObject({ rate: RATE, bits: 24, channels: 2 });
  const [left] = await readFrames(source, format, 0, format.frames);
  expect(Math.max(...left.map(Math.abs))).toBeGreaterThan(0.01);
  await played.getByRole('button', { name: 'Let it go' }).click();
  await expect(played).toHaveCount(0);
  await page.getByRole('button', { name: 'Let it be' }).click();
  await expect.poll(async () => (await buildRow()).movers).toBeUndefined();
  await page.getByRole('checkbox', { name: 'Keys play it' }).uncheck();
});

test('kept as a sound it is a file with labels, its parents and its build; undo removes it, redo makes it again', async () => {
  await page.keyboard.press('Control+Enter');
  const dialog = page.getByRole('dialog', { name: 'Keep as a sound' });
  await dialog.getByRole('textbox', { name: 'Name of the sound' }).fill('Gate and bolt');
  await choose(dialog.getByRole('combobox', { name: 'Where it goes' }), 'Yard');
  await expect(dialog).toContainText('Built from Iron gate and Bolt');
  await expect(dialog).toContainText('Built/Gate and bolt.wav');
  expect(await axeFaults(page)).toEqual([]);
  await dialog.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByText(/^Gate and bolt is a sound now/).first()).toBeVisible();
  const bytes = readFileSync(file);
  const source = memorySource(new Uint8Array(bytes));
  const read = await readAudioFile(source);
  const [left] = await readFrames(source, read.format, 0, read.format.frames);
  const sum = await expected({ 'Iron gate': 0, Bolt: -6 });
  expect(read.format).toMatchObject({ rate: RATE, bits: 24, channels: 2, frames: sum.length });
  expect(apart(left, sum)).toBeLessThan(1e-5);
  expect(read.labels.get('INFO.INAM')).toBe('Gate and bolt');
  const made = async () =>
    (
      await stored<{
        id: number;
        path: string;
        built?: { of: number[]; build: number; version: number };
        marks: { anchor: number };
      }>(page, 'sounds')
    ).find((s) => s.path === 'Built/Gate and bolt.wav');
  const sound = (await made())!;
  expect(sound.marks.anchor).toBe(Math.max((await cueOf('Iron gate')).anchor, (await cueOf('Bolt')).anchor));
  expect(sound.built).toMatchObject({ build: (await buildRow()).id });
  expect((await stored<Version>(page, 'versions')).map((v) => v.name)).toEqual(['Two knocks', 'Gate and bolt']);

  await stage('Find');
  await openFirst(page, 'gate and bolt');
  const details = page.getByRole('complementary', { name: 'Details' });
  if (!(await details.isVisible())) await page.getByRole('button', { name: 'Details', exact: true }).click();
  await expect(details.getByRole('link', { name: 'Bolt' })).toBeVisible();
  await undo();
  await expect.poll(() => existsSync(file)).toBe(false);
  await expect.poll(made).toBeUndefined();
  await page.keyboard.press('Control+Shift+z');
  await expect.poll(() => existsSync(file)).toBe(true);
  expect(readFileSync(file).equals(bytes)).toBe(true);
  // The library knows of it a moment after it is there.
  await expect.poll(made).toBeDefined();
  await openFirst(page, 'gate and bolt');
  await details.getByRole('button', { name: 'Open its build' }).click();
  await expect(layer('Bolt')).toBeVisible();
});

test('variations take by chance what is left to it, are told apart by ear, and are one step', async () => {
  await open('Bolt');
  await panel('Bolt')
    .getByRole('button', { name: /^Direction, pitch/ })
    .hover();
  await page.keyboard.press('v');
  const left = page.getByRole('list', { name: 'What is left to chance' }).getByRole('listitem');
  await expect(left).toHaveText(/^Pitch of Bolt/);
  await left.getByRole('spinbutton', { name: 'Pitch of Bolt, from' }).fill('-14');
  await left.getByRole('spinbutton', { name: 'Pitch of Bolt, to' }).fill('14');
  await expect.poll(async () => (await buildRow()).ranges?.[0]).toMatchObject({ key: 'pitch', least: -14, most: 14 });
  expect(await axeFaults(page)).toEqual([]);
  await page.getByLabel('The build in figures').click();
  await page.keyboard.press('Control+Enter');
  const dialog = page.getByRole('dialog', { name: 'Keep as a sound' });
  await dialog.getByRole('textbox', { name: 'Name of the sound' }).fill('Gate set');
  await dialog.getByRole('spinbutton', { name: 'Variations' }).fill('4');
  await choose(dialog.getByRole('combobox', { name: 'How they are told apart' }), 'just so that one hears it');
  await dialog.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByText(/variations? of Gate set made/).first()).toBeVisible();
  const made = readdirSync(join(folder, 'Built')).filter((n) => n.startsWith('Gate set'));
  expect(made.length).toBeGreaterThan(1);
  const bytes = made.map((n) => readFileSync(join(folder, 'Built', n)));
  for (let i = 1; i < bytes.length; i++) expect(bytes[i].equals(bytes[0])).toBe(false);
  await stage('Find');
  await undo();
  await expect.poll(() => readdirSync(join(folder, 'Built')).filter((n) => n.startsWith('Gate set'))).toEqual([]);
  await stage('Build');
  await left.getByRole('button', { name: 'Leave it as it is' }).click();
  await expect(left).toHaveCount(0);
});

test('laid into a scene it stands there in its layers, and undo in the scene takes it out again', async () => {
  await stage('Spot');
  await page.getByRole('button', { name: 'Make a scene' }).click();
  await expect(page.getByRole('timer', { name: 'Playhead' })).toHaveText('01:00:00:00');
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await stage('Build');
  await page.getByRole('button', { name: 'Lay into the scene' }).click();
  await expect(page).toHaveURL(/\/spot/);
  const scene = (await stored<Scene>(page, 'scenes')).find((s) => !s.build)!;
  const there = async () => (await stored<Cue>(page, 'cues')).filter((c) => c.sceneId === scene.id);
  await expect
    .poll(async () => (await there()).map((c) => [c.name, c.at]))
    .toEqual([
      ['Iron gate', 2 * RATE],
      ['Bolt', 2 * RATE],
    ]);
  await expect(page.getByRole('timer', { name: 'Playhead' })).toHaveText('01:00:02:00');
  // What stands in a scene becomes a build in turn.
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: 'Build from it' }).click();
  await expect(page.getByRole('heading', { name: 'Iron gate and 1 more' })).toBeVisible();
  await expect(layer('Bolt').getByRole('spinbutton', { name: 'Level of Bolt, dB' })).toBeVisible();
  await stage('Spot');
  await undo();
  await expect.poll(there).toEqual([]);
  // The builds are as they were, and what is done in one is taken back there.
  await stage('Build');
  await expect(layer('Bolt')).toBeVisible();
  await said('Bolt').click();
  await page.keyboard.press('Delete');
  await expect(layer('Bolt')).toHaveCount(0);
  await undo();
  await expect(layer('Bolt')).toBeVisible();
  await hush(page);
});
