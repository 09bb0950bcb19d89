import type { Sound } from '@core/library';
import type { Cue, LineEffect, Scene, SceneFile, Track, Version } from '@core/scene';
import { expect, test, type Page } from '@playwright/test';
import { unzipSync, zipSync } from 'fflate';
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  axeFaults,
  choose,
  ofScenes,
  type Running,
  saved,
  startOn,
  stored,
  type Visit,
  visitDemo,
  watchErrors,
} from '../helpers/app';
import { writeWav } from '@core/files';
import { sine } from '../helpers/signals';

// A scene as one file: opened again where its sounds are, and where nobody has ever heard of them.
test.describe.configure({ mode: 'serial', timeout: 120_000 });

const TITLE = 'Last Ferry to Heron Point';
const PICTURES = 'src/demo/picture';
const folder = mkdtempSync(join(tmpdir(), 'cormorant-carried-'));
const files = mkdtempSync(join(tmpdir(), 'cormorant-files-'));
let visit: Visit;
let page: Page;
let other: Running;
let there: Page;
let errors: string[];
test.beforeAll(async ({ browser }) => {
  visit = await visitDemo({ acceptDownloads: true });
  ({ page } = visit);
  writeFileSync(join(folder, 'own.wav'), writeWav([sine(330, 48_000, 4800)], { rate: 48_000, bits: 16 }));
  other = await startOn(folder);
  there = await (await browser.newContext({ acceptDownloads: true })).newPage();
  there.setDefaultTimeout(30_000);
  errors = watchErrors(there);
  await there.goto(`${other.url}intake`);
  await expect(there.getByText('Up to date', { exact: true })).toBeVisible();
});
test.afterAll(async () => {
  await visit?.end();
  await there?.context().close();
  await other?.stop();
  for (const own of [folder, files]) rmSync(own, { recursive: true, force: true });
});
test.afterEach(() => expect([visit.errors.splice(0), errors.splice(0)]).toEqual([[], []]));

const dialog = (on: Page) => on.getByRole('dialog', { name: /^Open / });
async function look(on: Page, name: string, bytes: Uint8Array): Promise<void> {
  await on.getByRole('link', { name: 'Spot', exact: true }).click();
  // From the disk: handed over as text, so much would take longer than a slow machine is given.
  const file = join(files, name);
  writeFileSync(file, bytes);
  await on.getByLabel('Scene file', { exact: true }).setInputFiles(file);
}
async function open(on: Page): Promise<void> {
  await dialog(on).getByRole('button', { name: 'Open', exact: true }).click();
  await expect(dialog(on)).toBeHidden({ timeout: 120_000 });
}
async function save(what: string): Promise<Uint8Array> {
  await page.getByRole('link', { name: 'Deliver', exact: true }).click();
  await choose(page.getByRole('combobox', { name: 'What goes into the scene file' }), what);
  const { bytes } = await saved(page, () => page.getByRole('button', { name: 'Save the scene file' }).click());
  return bytes;
}
/** What a scene consists of, in words that hold in every library. */
async function told(on: Page, name: string) {
  const scene = (await ofScenes<Scene>(on, 'scenes')).find((s) => s.name === name)!;
  const own = async <T extends { sceneId: number }>(table: string) =>
    (await stored<T>(on, table)).filter((r) => r.sceneId === scene.id);
  const sounds = new Map((await stored<Sound>(on, 'sounds')).map((s) => [s.id, s]));
  const tracks = await own<Track>('tracks');
  const line = (id: number | undefined) => (id === 0 ? 'main' : tracks.find((t) => t.id === id)?.name);
  const cue = ({ id: _id, sceneId: _scene, trackId, soundId, tried: _tried, ...rest }: Cue) =>
    JSON.stringify({ ...rest, track: line(trackId), sound: sounds.get(soundId)?.hash });
  return {
    frames: [scene.fps, scene.startFrame, scene.length, scene.main, scene.picture?.frames],
    tracks: tracks.map((t) => JSON.stringify({ ...t, id: 0, sceneId: 0, into: line(t.into) })).sort(),
    cues: (await own<Cue>('cues')).map(cue).sort(),
    effects: (await own<LineEffect>('effects'))
      .map((e) => JSON.stringify({ ...e, id: 0, sceneId: 0, lineId: line(e.lineId), line: line(e.line) }))
      .sort(),
    versions: (await own<Version>('versions')).map((v) => [v.name, v.cues.map(cue).sort()]),
  };
}
const sum = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');
async function mixOf(on: Page): Promise<string> {
  await on.getByRole('link', { name: 'Deliver', exact: true }).click();
  await expect(on.getByText(/cannot be reached now/)).toHaveCount(0);
  const { bytes } = await saved(on, () => on.getByRole('button', { name: 'Save the mix' }).click());
  // Behind its head, which says when it was made.
  const at = Buffer.from(bytes).indexOf('data');
  return sum(bytes.subarray(at));
}

let whole: Uint8Array;
test('the file holds the scene, and each sound and the picture byte by byte', async () => {
  whole = await save('with sounds and picture');
  const files = unzipSync(whole);
  const { scenes, sounds, pictures } = JSON.parse(new TextDecoder().decode(files['scenes.json'])) as SceneFile;
  expect(scenes.map((s) => [s.scene.name, s.versions.length > 0])).toEqual([[TITLE, true]]);
  const media = [...sounds.map((s) => s.media!), ...pictures.map((p) => p.media!)];
  expect(media.length).toBeGreaterThan(20);
  for (const path of new Set(media)) {
    const original = readFileSync(
      path.startsWith('Picture/') ? path.replace('Picture', PICTURES) : join('.demo/libraries', path),
    );
    expect([path, sum(files[`media/${path}`])]).toEqual([path, sum(original)]);
  }
  expect(Object.keys(files).sort()).toEqual(
    ['scenes.json', ...new Set(media)].map((p) => (p === 'scenes.json' ? p : `media/${p}`)).sort(),
  );
});

test('where its sounds are, they are found, and the scene is there a second time, alike; one step takes it back', async () => {
  const slim = await save('without files');
  expect(slim.length).toBeLessThan(whole.length / 20);
  await look(page, `${TITLE}.cormorant`, slim);
  await expect(dialog(page)).toContainText('Here already');
  await expect(dialog(page)).not.toContainText('Missing');
  expect(await axeFaults(page)).toEqual([]);
  const before = (await stored<Sound>(page, 'sounds')).length;
  await open(page);
  expect(await told(page, `${TITLE} 2`)).toEqual(await told(page, TITLE));
  expect((await stored<Sound>(page, 'sounds')).length).toBe(before);
  await page.getByRole('link', { name: 'Label', exact: true }).click();
  await expect(page.getByRole('link', { name: 'History and backup' })).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await ofScenes<Scene>(page, 'scenes')).map((s) => s.name)).toEqual([TITLE]);
  expect((await ofScenes<Cue>(page, 'cues')).length).toBe((await told(page, TITLE)).cues.length);
});

test('where they are not, they come with it, labels, anchors and all, and the mix is the same to the byte', async () => {
  await look(there, `${TITLE}.cormorant`, whole);
  await expect(dialog(there)).toContainText('In the file');
  await expect(dialog(there)).toContainText('Picture1 in the file');
  await open(there);
  await expect(there.getByRole('timer', { name: 'Playhead' })).toHaveText('01:00:00:00');
  expect(await told(there, TITLE)).toEqual(await told(page, TITLE));
  const here = new Map((await stored<Sound>(page, 'sounds')).map((s) => [`${s.path} ${s.hash}`, s]));
  for (const { hash, path, rootId, fields, marks } of (await stored<Sound>(there, 'sounds')).filter(
    (s) => s.path !== 'own.wav',
  )) {
    const own = here.get(`${path} ${hash}`)!;
    const { tags: _tags, takeGroup, ...rest } = own.fields;
    // Takes belong together within a root.
    const group = typeof takeGroup === 'string' ? takeGroup.replace(`${own.rootId}/`, `${rootId}/`) : undefined;
    expect({ ...fields, marks }).toEqual({ ...rest, ...(group ? { takeGroup: group } : {}), marks: own.marks });
  }
  expect(await mixOf(there)).toBe(await mixOf(page));
  // They are sounds of the library now, and still are when the page is opened anew.
  await there.reload();
  await there.getByRole('link', { name: 'Intake', exact: true }).click();
  await expect(there.getByText('Up to date', { exact: true })).toHaveCount((await stored(there, 'roots')).length);
  expect(await stored(there, 'problems')).toEqual([]);
});

test('sounds that are nowhere stand as out of reach with their cues, and damage is told by file', async () => {
  const files = unzipSync(whole);
  const scenes = JSON.parse(new TextDecoder().decode(files['scenes.json'])) as SceneFile;
  const text = (of: unknown) => new TextEncoder().encode(JSON.stringify(of));
  // Others than those that are here by now.
  const foreign = structuredClone(scenes);
  for (const { sound } of foreign.sounds) sound.hash = sum(Buffer.from(String(sound.id))).slice(0, 32);
  foreign.scenes[0].scene.name = 'Elsewhere';
  foreign.roots = foreign.roots.map((r) => ({ ...r, name: `${r.name}, far away` }));
  const [kept] = foreign.sounds;
  const damaged = files[`media/${kept.media}`].slice();
  const packed = zipSync({ 'scenes.json': text(foreign), [`media/${kept.media}`]: damaged }, { level: 0 });
  // A byte of it is another one than its sum was made of.
  packed[Buffer.from(packed).indexOf(Buffer.from(damaged.subarray(2000, 2100))) + 50] ^= 0xff;
  await look(there, 'Elsewhere.cormorant', packed);
  await expect(dialog(there)).toContainText('Missing');
  await open(there);
  await expect(there.getByText(/was not unpacked/).first()).toBeVisible();
  expect((await told(there, 'Elsewhere')).cues.length).toBe(scenes.scenes[0].cues.length);
  await there.getByRole('link', { name: 'Deliver', exact: true }).click();
  await expect(there.getByText(/cannot be reached now/)).toBeVisible();

  const refused = async (bytes: Uint8Array, why: RegExp) => {
    const before = JSON.stringify([await stored(there, 'scenes'), await stored(there, 'roots')]);
    await look(there, 'broken.cormorant', bytes);
    await expect(dialog(there)).toContainText(why);
    await expect(dialog(there).getByRole('button', { name: 'Open', exact: true })).toBeDisabled();
    await there.keyboard.press('Escape');
    await expect(dialog(there)).toBeHidden();
    expect(JSON.stringify([await stored(there, 'scenes'), await stored(there, 'roots')])).toBe(before);
  };
  await refused(
    new TextEncoder().encode('no archive at all'),
    /broken\.cormorant cannot be read: the archive is damaged/,
  );
  await refused(zipSync({ 'other.json': text({}) }), /an archive without scenes\.json/);
  await refused(zipSync({ 'scenes.json': text({ ...scenes, version: 2 }) }), /newer Cormorant \(version 2/);
  // It says a hundred bytes, and is three hundred million of them once it is unpacked.
  const bomb = zipSync({ 'scenes.json': new Uint8Array(3e8).fill(32) });
  const view = new DataView(bomb.buffer, bomb.byteOffset);
  for (const [signature, at] of [
    [0x04034b50, 22],
    [0x02014b50, 24],
  ])
    for (let i = 0; i < bomb.length - 4; i++)
      if (view.getUint32(i, true) === signature) view.setUint32(i + at, 100, true);
  await refused(bomb, /cannot be read: the archive is damaged/);
  const twice = structuredClone(scenes);
  twice.scenes[0].cues = [twice.scenes[0].cues[0], ...twice.scenes[0].cues];
  await refused(zipSync({ 'scenes.json': text(twice) }), /two of its cues have the same id/);
  const climbing = structuredClone(scenes);
  climbing.sounds[0].media = '../../up.wav';
  await refused(zipSync({ 'scenes.json': text(climbing) }), /is not as expected.*media/);
});
