import { memorySource, readAudioFile, readFrames } from '@core/files';
import type { Track } from '@core/scene';
import type { DeliveryManifest } from '@core/schemas';
import { expect, test, type Page } from '@playwright/test';
import { createHash } from 'node:crypto';
import { axeFaults, choose, saved, stored, visitDemo, type Visit } from '../helpers/app';
import { ffmpegSays, has } from '../helpers/programs';
import { rms } from '../helpers/signals';
import { pick, pickedFiles, putInto, removeFrom } from '../helpers/picked';

// A scene as a folder: seen before it is written, verified, written again only where it changed, and never over what others put there.
test.describe.configure({ mode: 'serial' });

const TITLE = 'Last Ferry to Heron Point';
const FOLDER = `Handed over/${TITLE}`;
let visit: Visit;
let page: Page;
test.beforeAll(async () => {
  visit = await visitDemo({ acceptDownloads: true });
  ({ page } = visit);
  await pick(page, 'Handed over');
  await page.getByRole('link', { name: 'Deliver', exact: true }).click();
  await page.getByRole('link', { name: 'Delivery', exact: true }).click();
});
test.afterAll(() => visit?.end());
test.afterEach(() => expect(visit.errors.splice(0)).toEqual([]));

const grid = () => page.getByRole('grid', { name: 'The delivery as it would be' });
const row = (name: string | RegExp) => grid().getByRole('row', { name });
const told = () => page.getByRole('alert').filter({ hasText: 'written and read again' });
const look = () => page.getByRole('button', { name: 'Look what it comes to' }).click();
async function deliver(name: RegExp): Promise<void> {
  await page.getByRole('button', { name }).click();
  await expect(told()).toBeVisible({ timeout: 120_000 });
}
const manifest = async () => {
  const text = new TextDecoder().decode((await pickedFiles(page, FOLDER, /manifest/)).get('manifest.json'));
  return JSON.parse(text) as DeliveryManifest;
};
/** Every file is what manifest and sums say. */
async function whole(): Promise<Map<string, Uint8Array>> {
  const files = await pickedFiles(page, FOLDER);
  const { files: said } = await manifest();
  const sum = (path: string) => createHash('sha256').update(files.get(path)!).digest('hex');
  for (const { path, bytes, sha256 } of said)
    expect([path, files.get(path)?.length, sum(path)]).toEqual([path, bytes, sha256]);
  const sums = new TextDecoder().decode(files.get('checksums.sha256')).trim().split('\n');
  expect(sums).toHaveLength(said.length + 1);
  for (const line of sums) expect(line.split('  ')[0]).toBe(sum(line.split('  ')[1]));
  return files;
}

test('what would be written is seen before, and written at another rate, in mono, with sums that are right', async () => {
  await choose(page.getByRole('combobox', { name: 'Depth and kind of file' }), 'WAV, 16 bit, dithered');
  await choose(page.getByRole('combobox', { name: 'Sample rate' }), '44.1 kHz');
  await choose(page.getByRole('combobox', { name: 'Channels' }), 'mono');
  await look();
  await expect(row(/mix\.wav/)).toContainText('WAV, 16 bit, dithered, 44.1 kHz, mono');
  await expect(row(/mix\.wav/)).toContainText('new');
  expect(await pickedFiles(page, FOLDER)).toEqual(new Map());
  expect(await axeFaults(page)).toEqual([]);
  await deliver(/^Deliver \d+ files$/);
  const files = await whole();
  const source = memorySource(files.get(`${TITLE} mix.wav`)!);
  const { format, labels } = await readAudioFile(source);
  expect(format).toMatchObject({ rate: 44_100, bits: 16, channels: 1 });
  expect(labels.get('bext.TimeReference')).toBe(String(3600 * 44_100));
  const [mix] = await readFrames(source, format, 0, format.frames);
  const stems = [...files].filter(([path]) => path.startsWith('Stems/'));
  expect(stems.length).toBeGreaterThan(1);
  const sum = new Float32Array(mix.length);
  for (const [, bytes] of stems) {
    const stem = memorySource(bytes);
    const own = await readAudioFile(stem);
    (await readFrames(stem, own.format, 0, mix.length))[0].forEach((x, i) => (sum[i] += x));
  }
  // As loud as each other: the main line's limiter alone lies between them.
  const level = (plane: Float32Array) => 10 * Math.log10(plane.reduce((s, x) => s + x * x, 0) / plane.length);
  expect(Math.abs(level(mix) - level(sum))).toBeLessThan(1.5);
});

test('a second time nothing is written; then only what has changed, is gone, or is new', async () => {
  await look();
  await expect(page.getByText(/^0 to write, \d+ as delivered before/)).toBeVisible();
  await deliver(/^Read \d+ files again$/);
  await expect(told()).toContainText('0 files written');
  const before = await manifest();
  await removeFrom(page, `${FOLDER}/${TITLE}.otio`);
  await page.getByRole('checkbox', { name: 'Edit list' }).check();
  await look();
  await expect(row(/\.otio/)).toContainText('was delivered and is gone');
  await expect(row(/\.edl/).first()).toContainText('new');
  await expect(row(/mix\.wav/)).toContainText('as it was delivered');
  await deliver(/^Deliver \d+ files?$/);
  await whole();
  const after = await manifest();
  const [mix] = [before, after].map((m) => m.files.find((f) => f.path.endsWith('mix.wav')));
  expect(after.files).toContainEqual(mix);
  // A louder main line changes the mix and its stems, and no list.
  await page.getByRole('link', { name: 'Scene', exact: true }).click();
  await page.getByRole('button', { name: 'Measure it' }).click();
  await page.getByRole('button', { name: 'Bring the mix to it' }).click();
  await page.getByRole('link', { name: 'Delivery', exact: true }).click();
  await look();
  await expect(row(/mix\.wav/)).toContainText('changed since it was delivered');
  await expect(row(/\.otio/)).toContainText('as it was delivered');
});

test('what others put there or changed is left as it is, what is no part any more stays, and a broken manifest is told', async () => {
  await putInto(page, `${FOLDER}/${TITLE}.otio`, 'mine');
  await page.getByRole('checkbox', { name: 'Stems' }).uncheck();
  await look();
  await expect(row(/\.otio/)).toContainText('another file lies in its place');
  await expect(row(/Stems\//).first()).toContainText('of an earlier delivery; stays');
  await deliver(/^Deliver \d+ files?$/);
  await expect(told()).toContainText('1 could not be delivered');
  const files = await whole();
  expect(new TextDecoder().decode(files.get(`${TITLE}.otio`))).toBe('mine');
  const stems = (await manifest()).files.filter((f) => f.path.startsWith('Stems/'));
  expect(stems.length).toBeGreaterThan(1);
  for (const { path, former, bytes } of stems) expect([former, files.get(path)?.length]).toEqual([true, bytes]);
  await putInto(page, `${FOLDER}/manifest.json`, '{ "format": "cormorant-delivery", "version": 2 }');
  await look();
  await expect(page.getByText(/manifest.json is not as expected: line 1/)).toBeVisible();
  await expect(row(/mix\.wav/)).toContainText('another file lies in its place');
  // What is called as our own, and is not, is not written over.
  await expect(page.getByRole('button', { name: /^(Deliver|Read) \d+ files?/ })).toBeDisabled();
  await removeFrom(page, `${FOLDER}/manifest.json`);
  await look();
  await expect(page.getByText(/checksums.sha256 lies there, and no delivery of a scene does/)).toBeVisible();
  await expect(page.getByRole('button', { name: /^(Deliver|Read) \d+ files?/ })).toBeDisabled();
});

test('a delivery that is stopped says so, and has in its manifest what it wrote', async () => {
  await pick(page, 'Another place');
  await choose(page.getByRole('combobox', { name: 'Where it goes' }), 'a folder, chosen next');
  await page.getByRole('checkbox', { name: 'Stems' }).check();
  await choose(page.getByRole('combobox', { name: 'Sample rate' }), '192 kHz');
  await look();
  await page.getByRole('button', { name: /^Deliver \d+ files$/ }).click();
  await expect(page.getByText(/^1 of \d+$/)).toBeVisible();
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await expect(told()).toContainText('It ended early: it was stopped.');
  const text = (await pickedFiles(page, `Another place/${TITLE}`, /manifest/)).get('manifest.json');
  const { files } = JSON.parse(new TextDecoder().decode(text)) as DeliveryManifest;
  expect(files[0].what).toBe('Mix: WAV, 16 bit, dithered, 192 kHz, mono');
});

test('in six channels a track that was set behind comes out of the loudspeakers there', async () => {
  await page.goto(`${visit.url}spot/mix`);
  const deck = page.getByRole('listitem', { name: 'Deck', exact: true });
  await deck.getByRole('button', { name: 'Deck', exact: true }).click({ button: 'right' });
  await page.getByRole('menuitem', { name: /^Name, place, flow/ }).click();
  await page.getByRole('slider', { name: 'How much of Deck stands behind' }).focus();
  for (let step = 0; step < 10; step++) await page.keyboard.press('ArrowRight');
  await expect(page.getByRole('slider', { name: 'How much of Deck stands behind' })).toHaveAttribute(
    'aria-valuenow',
    '50',
  );
  await page.getByRole('button', { name: 'Done' }).click();
  const behind = async () => (await stored<Track>(page, 'tracks')).find((t) => t.name === 'Deck')?.behind;
  await expect.poll(behind).toBe(0.5);
  await page.goto(`${visit.url}deliver`);
  await choose(page.getByRole('combobox', { name: 'Depth and kind of file' }), 'WAV, 24 bit');
  await choose(page.getByRole('combobox', { name: 'Sample rate' }), '48 kHz');
  await choose(page.getByRole('combobox', { name: 'Channels' }), '5.1');
  const { bytes, path } = await saved(page, () => page.getByRole('button', { name: 'Save the mix' }).click());
  const source = memorySource(bytes);
  const { format } = await readAudioFile(source);
  const levels = (await readFrames(source, format, 0, format.frames)).map(rms);
  // Sounds of the scene are of two channels: nothing of them belongs into the middle.
  expect(levels.map((level) => level > 1e-4)).toEqual([true, true, false, false, true, true]);
  if (has('ffmpeg')) expect(ffmpegSays('-i', path)).toContain('48000 Hz, 5.1');
});

test('what speaks against a sound is allowed with a reason, or leads to another sound; both are taken back', async () => {
  await page.getByRole('link', { name: 'Scene', exact: true }).click();
  const licences = page.getByRole('region', { name: 'Licences' });
  const conflicts = async () => Number(/(\d+) conflict/.exec((await licences.textContent()) ?? '')?.[1]);
  const before = await conflicts();
  expect(before).toBeGreaterThan(0);
  const step = licences.getByRole('row', { name: /Boot step 01/ });
  await expect(step).toContainText('No licence is stated');
  await step.getByRole('button', { name: 'Allow Boot step 01' }).click();
  await page.getByRole('textbox', { name: 'Why it may be used' }).fill('Recorded by ourselves, <b>May</b>');
  expect(await axeFaults(page)).toEqual([]);
  await page.keyboard.press('Enter');
  await expect(step).toContainText('Allowed: Recorded by ourselves, <b>May</b>');
  await expect.poll(conflicts).toBe(before - 1);
  await page.reload();
  await expect(step).toContainText('Allowed: Recorded by ourselves');
  const sheet = await saved(page, () => page.getByRole('button', { name: 'Save the credits' }).click());
  expect(new TextDecoder().decode(sheet.bytes)).toContain(
    'No licence is stated; allowed: Recorded by ourselves, <b>May</b>',
  );
  await step.getByRole('button', { name: 'Allow Boot step 01 no more' }).click();
  await expect.poll(conflicts).toBe(before);
  const cues = Number(await step.getByRole('cell').nth(3).textContent());
  expect(cues).toBeGreaterThan(1);
  await step.getByRole('button', { name: 'Another sound for Boot step 01' }).click();
  await expect(page.getByText(`${cues} cues of Boot step 01 selected`).first()).toBeVisible();
  await expect(page).toHaveURL(/\/spot/);
  await expect(page.getByText(`Alternates for ${cues} cues`).first()).toBeVisible();
});
