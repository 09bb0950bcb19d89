import { encodePcm, memorySource, readAudioFile, readFrames, writeWav } from '@core/files';
import type { Made } from '@core/library';
import type { Cue, LineEffect, Scene } from '@core/scene';
import { renderRoll, rollFrom } from '@core/synth';
import { expect, test, type Download, type Page } from '@playwright/test';
import { unzipSync } from 'fflate';
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
import { apart, hit, rms } from '../helpers/signals';

// Sounds made from nothing: rolled, locked, turned, mixed, walked back through, and kept as sounds, layers and a set for a pad.
test.describe.configure({ mode: 'serial', timeout: 120_000 });

const RATE = 48_000;
const top = scratch();
const folder = join(top, 'Yard');
const built = join(folder, 'Built');
let server: Running;
let page: Page;
let errors: string[];

test.beforeAll(async ({ browser }) => {
  mkdirSync(folder);
  writeFileSync(join(folder, 'Bolt.wav'), writeWav([hit(RATE, 0.4, 0.3, 900, 4)], { rate: RATE, bits: 24 }));
  server = await startOn('--write', folder);
  page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  page.setDefaultTimeout(30_000);
  errors = watchErrors(page);
  await openSettled(page, server.url, 1);
});
test.afterAll(async () => {
  await page?.context().close();
  await server?.stop();
  rmSync(top, { recursive: true, force: true });
});
test.afterEach(() => expect(errors.splice(0)).toEqual([]));

const stage = (name: string) => page.getByRole('navigation', { name: 'Stages' }).getByRole('link', { name }).click();
const rows = () => page.getByRole('list', { name: 'Rolls' }).getByRole('listitem');
const current = () => rows().and(page.locator('[aria-current="true"]'));
const which = () => page.getByLabel('Which list');
const said = async () => (await rows().allInnerTexts()).map((t) => t.replace(/\s+/g, ' '));
const kept = async () =>
  (await stored<{ id: number; path: string; made?: Made }>(page, 'sounds')).filter((s) => s.made);
/** Once all thirty can be heard. */
const allMade = () => expect(page.getByText('still being made')).toHaveCount(0, { timeout: 60_000 });
const leaveField = () => page.getByRole('heading', { level: 1 }).click();

test('thirty rolls of a family are there at once, each with its contour, its name and its numbers', async () => {
  await stage('Build');
  await page.getByText('From nothing').last().click();
  await expect(rows()).toHaveCount(30);
  await choose(page.getByRole('combobox', { name: 'Family' }), 'Zap');
  await expect(page.getByRole('heading', { level: 1, name: 'Zap' })).toBeVisible();
  await allMade();
  await expect(rows().first()).toContainText(/Zap.*starts at \d+ Hz, falls by \d\.\d octaves/);
  await expect(page.getByRole('region', { name: 'Numbers' }).getByRole('spinbutton')).toHaveCount(11);
  await expect(page.getByRole('slider', { name: 'Driven by, as a slider' })).toBeVisible();
  expect(await axeFaults(page)).toEqual([]);
});

test('what is locked stays while the others are rolled again; one walks back through what was there', async () => {
  await leaveField();
  const before = await said();
  const pitch = await page.getByRole('spinbutton', { name: 'Starts at' }).inputValue();
  await page.getByRole('button', { name: 'Lock Starts at' }).click();
  await leaveField();
  await page.keyboard.press('r');
  await expect(which()).toHaveText('List 3 of 3, rolled with 1 locked');
  await allMade();
  const after = await said();
  expect(after.every((text) => text.includes(`starts at ${pitch} Hz`))).toBe(true);
  expect(new Set(after).size).toBeGreaterThan(20);
  await page.keyboard.press('Alt+ArrowLeft');
  await expect(which()).toHaveText(/^List 2 of 3/);
  await allMade();
  expect(await said()).toEqual(before);
  await page.keyboard.press('Alt+ArrowRight');
  await expect(which()).toHaveText(/^List 3 of 3/);
  await page.getByRole('button', { name: 'Let Starts at be rolled' }).click();
});

test('a number that is turned is heard at once and can go back; what lies between two is rolled, too', async () => {
  await leaveField();
  await page.keyboard.press('ArrowDown');
  await expect(current()).toContainText(/^2/);
  const length = page.getByRole('spinbutton', { name: 'Length' });
  const rolled = await length.inputValue();
  const [left] = await rendered(page, 4800, async () => {
    await length.fill('0.73');
    await page.keyboard.press('Tab');
  });
  expect(rms(left)).toBeGreaterThan(0.001);
  await expect(current()).toContainText('turned by hand');
  await expect(current()).toContainText('0.73 s');
  await leaveField();
  await page.keyboard.press('Escape');
  await expect(current()).not.toContainText('turned by hand');
  await expect(length).toHaveValue(rolled);

  await page.keyboard.press('x');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('x');
  const ends = [1, 2].map(async (i) => Number(/starts at (\d+)/.exec(await rows().nth(i).innerText())![1]));
  const [a, b] = (await Promise.all(ends)).sort((x, y) => x - y);
  await page.keyboard.press('m');
  await expect(which()).toHaveText('List 4 of 4, between two');
  const pitches = (await said()).map((text) => Number(/starts at (\d+)/.exec(text)![1]));
  expect(pitches.every((p) => p >= a && p <= b)).toBe(true);
});

test('kept as a sound, the file holds the bytes that its recipe gives anywhere, and is what was heard', async () => {
  await page.keyboard.press('Control+Enter');
  const dialog = page.getByRole('dialog', { name: 'Keep as a sound' });
  await dialog.getByRole('textbox', { name: 'Name of the sound' }).fill('Far ray');
  await choose(dialog.getByRole('combobox', { name: 'Where it goes' }), 'Yard');
  await expect(dialog).toContainText('LASERS, GUN');
  await expect(dialog).toContainText('Built/Far ray.wav');
  expect(await axeFaults(page)).toEqual([]);
  await dialog.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByText(/^Far ray is a sound now/).first()).toBeVisible();
  await expect.poll(async () => (await kept()).map((s) => s.path)).toEqual(['Built/Far ray.wav']);
  const [sound] = await kept();
  const source = memorySource(new Uint8Array(readFileSync(join(built, 'Far ray.wav'))));
  const { format, labels } = await readAudioFile(source);
  expect(format).toMatchObject({ rate: RATE, bits: 24, channels: 2 });
  expect(labels.get('INFO.INAM')).toBe('Far ray');
  const { planes } = renderRoll(rollFrom(sound.made!)!, RATE);
  const bytes = await source.read(format.dataOffset, format.frames * 6);
  expect(Buffer.from(bytes).equals(Buffer.from(encodePcm(planes, { bits: 24 })))).toBe(true);

  await hush(page);
  const own = await readFrames(source, format, 0, 4800);
  const [left] = await rendered(page, 4800, () => page.keyboard.press('Space'));
  const gain = rms(own[0].subarray(2000)) / rms(Float32Array.from(left).subarray(2000));
  expect(
    apart(
      left.map((x) => x * gain),
      own[0],
    ),
  ).toBeLessThan(1e-3);
});

test('undo takes the file away; what a sound was made by opens again from its details', async () => {
  await stage('Find');
  await openFirst(page, 'far ray');
  const details = page.getByRole('complementary', { name: 'Details' });
  if (!(await details.isVisible())) await page.getByRole('button', { name: 'Details', exact: true }).click();
  await expect(details.getByText(/^Zap: starts at/)).toBeVisible();
  await details.getByRole('button', { name: 'Open what it was made by' }).click();
  await expect(page).toHaveURL(/\/build\/make/);
  const [{ made }] = await kept();
  await expect(page.getByRole('spinbutton', { name: 'Starts at' })).toHaveValue(String(made!.values.pitch));
  await expect(which()).toContainText('as it was kept');
  await leaveField();
  await page.keyboard.press('Control+z');
  await expect.poll(() => existsSync(join(built, 'Far ray.wav'))).toBe(false);
  await expect.poll(kept).toEqual([]);
  await page.keyboard.press('Control+Shift+z');
  await expect.poll(() => existsSync(join(built, 'Far ray.wav'))).toBe(true);
});

test('several become layers of a build, or a set for a pad of the scene', async () => {
  await page.keyboard.press('j');
  await expect.poll(async () => (await stored<Scene>(page, 'scenes')).filter((s) => s.build).length).toBe(1);
  const layered = (await kept()).map((s) => s.id);
  expect((await stored<Cue>(page, 'cues')).every((c) => layered.includes(c.soundId))).toBe(true);

  await stage('Spot');
  await page.getByRole('button', { name: 'Make a scene' }).click();
  await expect(page.getByRole('timer', { name: 'Playhead' })).toHaveText('01:00:00:00');
  await stage('Build');
  await page.getByText('From nothing').click();
  await expect(rows()).toHaveCount(30);
  for (const n of [2, 4, 5]) await rows().nth(n).getByRole('checkbox').check();
  await page.getByRole('button', { name: 'Onto a pad …' }).click();
  await page.getByRole('menuitem', { name: /^Pad 3 of/ }).click();
  await expect(page.getByText(/^3 sounds on pad 3 of/).first()).toBeVisible();
  const scene = (await stored<Scene>(page, 'scenes')).find((s) => !s.build)!;
  const [pad] = scene.pads!;
  const ids = (await kept()).map((s) => s.id);
  expect([
    pad.slot,
    pad.source.by,
    pad.source.by === 'hand' && pad.source.soundIds.every((id) => ids.includes(id)),
  ]).toEqual([2, 'hand', true]);
  expect(new Set(pad.source.by === 'hand' ? pad.source.soundIds : []).size).toBe(3);
  expect(readdirSync(built)).toHaveLength(5);
});

test('a build goes to other programs as a project: files as they are, the anchor marked, and each layer as it is heard beside it', async () => {
  await page.getByText('From layers').click();
  await page
    .getByRole('button', { name: /^Add an effect to / })
    .first()
    .click();
  await page.getByRole('menuitem', { name: 'Saturation', exact: true }).click();
  await expect.poll(async () => (await stored<LineEffect>(page, 'effects')).length).toBe(1);
  await page.getByRole('button', { name: 'As a project …' }).click();
  const panel = page.getByRole('group', { name: 'As a project' });
  await expect(panel).toContainText('It cannot say: 1 effect.');
  expect(await axeFaults(page)).toEqual([]);
  const both: Download[] = [];
  page.on('download', (d) => both.push(d));
  await panel.getByRole('button', { name: 'Save the project' }).click();
  await expect.poll(() => both.length).toBe(2);
  const [project, layers] = await Promise.all(both.map(async (d) => unzipSync(readFileSync(await d.path()))));
  const cue = (await stored<Cue>(page, 'cues'))[0];
  const own = (await stored<{ id: number; path: string }>(page, 'sounds')).find((s) => s.id === cue.soundId)!;
  const [audio] = Object.keys(project).filter((n) => n.startsWith('audio/'));
  expect(Buffer.from(project[audio]).equals(readFileSync(join(folder, own.path)))).toBe(true);
  const xml = new TextDecoder().decode(project['project.xml']);
  // The project begins where the sound does, and its anchor is marked there.
  const marked = Number(
    /<Marker[^>]*name="Anchor"[^>]*time="([\d.]+)"|<Marker[^>]*time="([\d.]+)"[^>]*name="Anchor"/
      .exec(xml)!
      .slice(1)
      .find(Boolean),
  );
  expect(marked).toBeCloseTo((cue.anchor - cue.start) / cue.rate, 4);
  const [wav] = Object.values(layers);
  const source = memorySource(wav);
  const { format } = await readAudioFile(source);
  const heard = (await readFrames(source, format, 0, format.frames))[0];
  const plain = await readFrames(
    memorySource(project[audio]),
    (await readAudioFile(memorySource(project[audio]))).format,
    0,
    format.frames,
  );
  expect(rms(heard)).toBeGreaterThan(0.001);
  expect(apart(heard.subarray(0, 4800), plain[0].subarray(0, 4800))).toBeGreaterThan(1e-4);
});
