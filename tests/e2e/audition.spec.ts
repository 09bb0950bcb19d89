import { expect, test, type Page } from '@playwright/test';
import { memorySource, readAudioFile, readFrames } from '@core/files';
import { unzipSync } from 'fflate';
import {
  axeFaults,
  choose,
  currentRow,
  hush,
  openFirst as openFirstOf,
  rendered,
  saved,
  visitDemo,
  type Visit,
} from '../helpers/app';

// An editor shapes candidates, hears them in every way, and takes them along as files.

let visit: Visit;
let page: Page;
let errors: string[];

test.beforeAll(async () => {
  test.setTimeout(180_000);
  visit = await visitDemo({ acceptDownloads: true });
  ({ page, errors } = visit);
  await page.getByRole('checkbox', { name: 'Play when moving' }).uncheck();
});
test.afterAll(() => visit?.end());
test.afterEach(async () => {
  await hush(page);
  expect(errors.splice(0)).toEqual([]);
});

const shape = () => page.getByRole('group', { name: 'Shape' });
const stopped = () => expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
const sounding = () => expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible();

const openFirst = (query: string) => openFirstOf(page, query);
async function number(name: string, value: string): Promise<void> {
  const box = shape().getByRole('spinbutton', { name, exact: true });
  await box.fill(value);
  await box.press('Enter');
}
async function read(bytes: Uint8Array) {
  const { format, cues } = await readAudioFile(memorySource(bytes));
  return { format, cues, audio: await readFrames(memorySource(bytes), format, 0, format.frames) };
}
const select = (name: string) => page.getByRole('combobox', { name, exact: true });

test('what is heard of a shaped sound is what is taken away, to the bit', async () => {
  await openFirst('capstan groan 02');
  const plain = await rendered(page, 4800, () => page.keyboard.press('Space'));
  await hush(page);
  await page.getByRole('button', { name: 'Shape', exact: true }).click();
  await shape().getByText('Backward').click();
  await number('Speed in semitones', '-3');
  await number('Fades', '0.02');
  await number('Gain', '-4');
  await page.keyboard.press('Escape');
  await page.getByRole('grid', { name: 'Sounds' }).getByRole('rowgroup').last().focus();
  const heard = await rendered(page, 24000, () => page.keyboard.press('Space'));
  await hush(page);
  expect(heard[0].slice(0, 4800)).not.toEqual(plain[0]);
  await page.keyboard.press('d');
  const dialog = page.getByRole('dialog', { name: 'Save as a file' });
  await choose(select('Format'), 'WAV, 32 bit float');
  await choose(select('Sample rate'), '48 kHz');
  const file = await saved(page, () => dialog.getByRole('button', { name: 'Save' }).click());
  expect(file.name).toMatch(/ shaped\.wav$/);
  const { format, audio } = await read(file.bytes);
  expect(format).toMatchObject({ rate: 48000, bits: 32 });
  heard.forEach((plane, c) => expect(plane.every((x, i) => x === audio[Math.min(c, audio.length - 1)][i])).toBe(true));
  // The file in the library is as it was: heard plain, it gives what it gave before.
  await page.keyboard.press('q');
  expect((await rendered(page, 4800, () => page.keyboard.press('Space')))[0]).toEqual(plain[0]);
  await page.keyboard.press('q');
});

test('a shape is kept, taken over by another sound, and taken back by undo', async () => {
  await openFirst('capstan groan 02');
  await page.reload();
  await page.getByRole('button', { name: 'Shape', exact: true }).click();
  await expect(shape().getByRole('spinbutton', { name: 'Speed in semitones' })).toHaveValue('-3');
  await shape().getByRole('button', { name: 'Copy' }).click();
  await openFirst('anchor chain 02');
  await page.keyboard.press('Shift+v');
  await page.getByRole('button', { name: 'Shape', exact: true }).click();
  await expect(shape().getByRole('spinbutton', { name: 'Speed in semitones' })).toHaveValue('-3');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+z');
  await page.getByRole('button', { name: 'Shape', exact: true }).click();
  await expect(shape().getByRole('spinbutton', { name: 'Speed in semitones' })).toHaveValue(/^0/);
  await page.keyboard.press('Escape');
});

test('a sound plays once, as long as a key is down, or round and round', async () => {
  await openFirst('foghorn harbor 02');
  // The keys mean the list again as soon as that is chosen.
  await choose(select('How long it plays'), 'While held');
  await expect(select('How long it plays')).not.toBeFocused();
  await page.keyboard.down('Space');
  await sounding();
  await page.keyboard.up('Space');
  await stopped();
  await page.getByRole('checkbox', { name: 'Play when moving' }).check();
  await page.keyboard.down('ArrowDown');
  await sounding();
  await page.keyboard.up('ArrowDown');
  await stopped();
  await page.getByRole('checkbox', { name: 'Play when moving' }).uncheck();
  await choose(select('How long it plays'), 'Looped');
  await openFirst('winch pawl 02');
  // A second and a half of a sound of half a second: it comes round, and its beginning is the same each time.
  const looped = await rendered(page, 72000, () => page.keyboard.press('Space'));
  const loudest = (from: number, to: number) => Math.max(...looped[0].slice(from, to).map(Math.abs));
  expect(loudest(48000, 72000)).toBeGreaterThan(0.01);
  await page.keyboard.press('r');
  await stopped();
});

test('the list plays through by itself until somebody stops it', async () => {
  await openFirst('winch pawl');
  await page.getByRole('button', { name: 'How to listen' }).click();
  const seconds = page.getByRole('spinbutton', { name: /each for/ });
  await seconds.fill('0.5');
  await seconds.press('Enter');
  await page.getByRole('button', { name: 'Play the list through' }).click();
  const at = async () => Number(await currentRow(page).first().getAttribute('aria-rowindex'));
  await expect.poll(at).toBeGreaterThan(3);
  await page.getByRole('button', { name: 'Stop playing through' }).click();
  await stopped();
  await page.keyboard.press('Escape');
});

test('all that is listed is taken as an archive; what was marked as a region is what is in it', async () => {
  await openFirst('foghorn harbor');
  const wave = page.getByRole('img', { name: /^Waveform of/ });
  const box = (await wave.boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.25, box.y + 40);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.5, box.y + 40, { steps: 4 });
  await page.mouse.up();
  await expect(page.getByRole('button', { name: /^Region .*clear$/ })).toBeVisible();
  const count = await page.getByRole('row', { name: /Foghorn Harbor/ }).count();
  await page.getByRole('button', { name: 'Take away' }).click();
  const dialog = page.getByRole('dialog', { name: 'Save as a file' });
  await dialog.getByText(/^All \d+ sounds listed$/).click();
  await choose(select('Format'), 'WAV, 16 bit');
  await choose(select('Sample rate'), 'Its own rate');
  expect(await axeFaults(page)).toEqual([]);
  const file = await saved(page, () => dialog.getByRole('button', { name: 'Save as ZIP' }).click());
  const files = Object.entries(unzipSync(file.bytes));
  expect(files.length).toBeGreaterThan(2);
  expect(files.length).toBeLessThanOrEqual(count);
  const lengths = await Promise.all(
    files.map(async ([name, bytes]) => [name.includes('excerpt'), (await read(bytes)).format.frames] as const),
  );
  const excerpts = lengths.filter(([excerpt]) => excerpt);
  expect(excerpts).toHaveLength(1);
  expect(Math.min(...lengths.map(([, frames]) => frames))).toBe(excerpts[0][1]);
});

test('the waveform is seen from the whole down to single samples, or as a spectrogram', async () => {
  await openFirst('foghorn harbor 03');
  const seen = () => page.getByRole('img', { name: /^Waveform of/ }).getAttribute('aria-label');
  expect(await seen()).not.toContain('seen from');
  await page.keyboard.press('+');
  await page.keyboard.press('+');
  expect(await seen()).toMatch(/seen from [\d.:]+ to [\d.:]+ seconds/);
  await page.getByRole('button', { name: 'Whole', exact: true }).click();
  expect(await seen()).not.toContain('seen from');
  await page.getByRole('img', { name: /^Waveform of/ }).hover();
  await page.mouse.wheel(0, -600);
  await expect.poll(seen).toContain('seen from');
  await page.keyboard.press('0');
  await page.keyboard.press('y');
  await expect(page.getByRole('button', { name: 'Spectrum' })).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('y');
});

test('a row that is dragged out of the window brings its file along', async () => {
  await openFirst('winch pawl 01');
  const row = currentRow(page).first();
  const carried = async () => {
    const transfer = await page.evaluateHandle(() => new DataTransfer());
    await row.dispatchEvent('dragstart', { dataTransfer: transfer });
    return transfer.evaluate((t) => t.getData('DownloadURL'));
  };
  await expect.poll(carried).toMatch(/^audio\/wav:[^:]+\.wav:blob:/);
  const url = (await carried()).replace(/^audio\/wav:[^:]+:/, '');
  const bytes = await page.evaluate(async (u) => [...new Uint8Array(await (await fetch(u)).arrayBuffer())], url);
  const { format, audio } = await read(Uint8Array.from(bytes));
  expect(format.frames).toBeGreaterThan(1000);
  expect(Math.max(...audio[0].map(Math.abs))).toBeGreaterThan(0.01);
});
