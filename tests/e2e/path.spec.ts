import { expect, test, type Page } from '@playwright/test';
import { memorySource, readAudioFile, readFrames } from '@core/files';
import { frameRate, frameToSample, readEdl, readOtio, fromTimecode, type Cue, type Scene } from '@core/scene';
import { readDelimited, type Sound } from '@core/library';
import { unzipSync } from 'fflate';
import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import {
  choose,
  currentRow,
  hush,
  ofScenes,
  rendered,
  saved,
  search,
  stored,
  type Visit,
  visitDemo,
} from '../helpers/app';
import { apart } from '../helpers/signals';
import readXlsx from 'read-excel-file/node';

// One editor, from the library to a delivered scene: each test goes on where the one before it ended.
test.describe.configure({ mode: 'serial' });

let visit: Visit;
let page: Page;
let errors: string[];

type Told = { events: { frame: number; name: string }[] };
const { events } = JSON.parse(readFileSync('src/demo/picture/last-ferry.events.json', 'utf8')) as Told;
const clack = events.find((e) => e.name === 'pawl clack 1')!.frame;
const r24 = frameRate('24');

test.beforeAll(async () => {
  visit = await visitDemo({ acceptDownloads: true });
  ({ page, errors } = visit);
});
test.afterAll(() => visit?.end());
test.afterEach(() => expect(errors).toEqual([]));

test('results follow the query while it is typed, and facets narrow them', async () => {
  const all = await search(page, '');
  expect(all).toBe(323);
  const creaks = await search(page, 'creak');
  expect(creaks).toBeGreaterThan(20);
  expect(await search(page, 'creak -pier')).toBeLessThan(creaks);
  expect(await search(page, 'name:"pawl clack" length:<5s')).toBe(24);
  const facets = page.getByRole('complementary', { name: 'Facets' });
  await facets.getByRole('button', { name: /^Tidewrack Audio/ }).click();
  await expect(page.getByText(/^14 in /)).toBeVisible();
  await page.goBack();
  await expect(page.getByText(/^24 in /)).toBeVisible();
});

test('a broken query is told where it breaks and never blanks the list', async () => {
  await page.getByRole('textbox', { name: 'Query', exact: true }).fill('pawl (wet');
  await expect(page.getByText('This bracket is not closed.')).toBeVisible();
  await expect(page.getByRole('row', { name: /Pawl clack wet/ }).first()).toBeVisible();
  await page.getByRole('textbox', { name: 'Query', exact: true }).fill('pawl colour:red');
  await expect(page.getByText(/No field is called “colour”/)).toBeVisible();
});

test('arrow keys walk the rows, and each is heard from its very first sample', async () => {
  await search(page, 'winch pawl clack heavy');
  const out = await rendered(page, 12000, () => page.keyboard.press('ArrowDown'));
  await expect(currentRow(page)).toContainText('Winch Pawl Clack Heavy 01');
  await compare(out, 'Winch Pawl Clack Heavy 01');
  await hush(page);
  const next = await rendered(page, 12000, () => page.keyboard.press('ArrowDown'));
  await compare(next, 'Winch Pawl Clack Heavy 02');
  await expect(page.getByRole('row', { name: /Heavy 01/ })).toContainText('heard');
  await hush(page);
});

async function compare(out: number[][], name: string): Promise<void> {
  const source = memorySource(
    new Uint8Array(readFileSync(`.demo/libraries/Tidewrack Audio/BOATMech/BOATMech_${name}_TWA_TIDE.wav`)),
  );
  const { format } = await readAudioFile(source);
  const file = await readFrames(source, format, 0, out[0].length);
  out.forEach((plane, c) => expect(apart(plane, file[c])).toBeLessThan(1e-6));
}

test('compressed and AIFF sounds are heard too', async () => {
  for (const [query, name] of [
    ['reeds gusts near', /reeds in gusts near/],
    ['warbler mono', /warbler in reeds mono/],
    ['latch snap', /Latch snap/],
  ] as const) {
    await search(page, query);
    const out = await rendered(page, 24000, () => page.keyboard.press('ArrowDown'));
    await expect(currentRow(page)).toContainText(name);
    expect(Math.max(...out[0].map(Math.abs))).toBeGreaterThan(0.001);
    await hush(page);
  }
});

test('a region is dragged, the anchor is dragged, and both stay', async () => {
  await search(page, 'capstan groan 02');
  await page.keyboard.press('ArrowDown');
  const wave = page.getByRole('img', { name: /^Waveform of Capstan Groan/ });
  const box = (await wave.boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.3, box.y + 60);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.6, box.y + 60, { steps: 5 });
  await page.mouse.up();
  await expect(page.getByRole('button', { name: /^Region .*clear$/ })).toBeVisible();
  const before = await wave.getAttribute('aria-label');
  const anchor = /anchor at ([\d.]+)/.exec(before!)![1];
  await page.keyboard.press('Alt+ArrowRight');
  await expect(wave).not.toHaveAttribute('aria-label', before!);
  await page.reload();
  await expect(page.getByRole('img', { name: /region/ })).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('img', { name: new RegExp(`anchor at ${anchor}`) })).toBeVisible();
});

test('a label is edited, undone, done again and survives a reload', async () => {
  await search(page, 'tyre thump');
  await page.getByRole('link', { name: 'Label', exact: true }).click();
  await page.getByRole('row', { name: /^tyreThump-01/ }).click();
  await page.getByRole('row', { name: /^tyreThump-02/ }).click({ modifiers: ['Shift'] });
  const panel = page.getByRole('complementary', { name: 'Labels' });
  await expect(panel.getByText('Labels of 2 sounds')).toBeVisible();
  await expect(panel.getByText('2 different values')).toBeVisible();
  const name = panel.getByRole('textbox', { name: 'Name', exact: true });
  await name.fill('Hull meets tyre <b>soft</b>');
  await name.press('Enter');
  await expect(page.getByRole('row', { name: /Hull meets tyre <b>soft<\/b>/ })).toHaveCount(2);
  await panel.getByRole('combobox', { name: 'Tags' }).fill('ferry 🚢');
  await page.keyboard.press('Enter');
  await expect(panel.getByText('ferry 🚢').first()).toBeVisible();
  const category = panel.getByRole('combobox', { name: 'Category' });
  await category.fill('rowlock');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('row', { name: /Boats, rowboat/ })).toHaveCount(2);
  await page.getByRole('heading', { name: /Labels of 2/ }).click();
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('row', { name: /Boats, rowboat/ })).toHaveCount(0);
  await page.keyboard.press('Control+Shift+z');
  await expect(page.getByRole('row', { name: /Boats, rowboat/ })).toHaveCount(2);
  await page.reload();
  await expect(page.getByRole('row', { name: /Hull meets tyre <b>soft<\/b>/ })).toHaveCount(2);
  await page.getByRole('link', { name: 'Find', exact: true }).click();
  // Both stages have a query line: the one that is meant belongs to Find.
  await expect(page.getByRole('complementary', { name: 'Facets' })).toBeVisible();
  expect(await search(page, 'tag:ferry')).toBe(2);
});

test('sounds are held in the tray, kept as a pull, ordered and taken out; the library keeps them', async () => {
  await search(page, 'winch pawl clack heavy');
  await page.keyboard.press('ArrowDown');
  const trayCount = () => page.getByRole('button', { name: /Held for now/ });
  await expect(trayCount()).toContainText('4');
  await page.keyboard.press('ArrowDown');
  await expect(currentRow(page)).toContainText('Heavy 02');
  await page.keyboard.press('t');
  await expect(trayCount()).toContainText('5');
  await page.getByRole('button', { name: 'Keep the tray as a pull' }).click();
  await page.getByRole('textbox', { name: 'Name of the pull' }).fill('Winch, reel 2');
  await page.keyboard.press('Enter');
  const pull = page.getByRole('button', { name: /^Winch, reel 2/ });
  await expect(pull).toContainText('5');
  await search(page, '');
  await pull.click();
  const rows = page.getByRole('grid', { name: 'Sounds' }).getByRole('row', { name: /heard/ });
  await expect(rows).toHaveCount(5);
  await rows.nth(1).click();
  await page.keyboard.press('Alt+ArrowUp');
  await expect(rows.first()).toContainText('Winch Pawl Clack Dry 03');
  await page.keyboard.press('Delete');
  await expect(rows).toHaveCount(4);
  await expect(pull).toContainText('4');
  await expect(page.getByRole('button', { name: /^All libraries/ })).toContainText('323');
  await page.getByRole('button', { name: /^All libraries/ }).click();
  await expect(page.getByText(/^323 in /)).toBeVisible();
});

test('stepping finds the first clack, and a sound is placed on its frame', async () => {
  await search(page, 'winch pawl clack heavy 04');
  await page.keyboard.press('ArrowDown');
  await expect(currentRow(page)).toContainText('Heavy 04');
  await page.getByRole('link', { name: 'Spot', exact: true }).click();
  const head = page.getByRole('timer', { name: 'Playhead' });
  await expect(head).toHaveText('01:00:00:00');
  for (let s = 0; s < 13; s++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('.');
  await expect(head).toHaveText('01:00:13:01');
  await page.keyboard.press(',');
  await expect(head).toHaveText('01:00:13:00');
  const video = page.locator('video');
  await expect.poll(() => video.evaluate((v: HTMLVideoElement) => Math.floor(v.currentTime * 24))).toBe(clack);
  await page.getByRole('button', { name: 'Place on Winch' }).click();
  await page.keyboard.press('Enter');
  await expect(
    page
      .getByRole('group', { name: 'Cues on Winch' })
      .getByRole('button', { name: 'Winch Pawl Clack Heavy 04, anchor at 01:00:13:00' }),
  ).toBeVisible();
});

test('three alternates are tried while the loop runs; the anchor never moves', async () => {
  const cue = () => page.getByRole('group', { name: 'Cues on Winch' }).getByRole('button');
  for (let i = 0; i < 12; i++) await page.keyboard.press(',');
  await page.keyboard.press('i');
  for (let i = 0; i < 36; i++) await page.keyboard.press('.');
  await page.keyboard.press('o');
  await page.getByRole('button', { name: /Winch Pawl Clack Heavy 04, anchor/ }).click();
  await page.keyboard.press('Space');
  const list = page.getByRole('listbox', { name: 'Alternates' });
  const tried = new Set<string>();
  for (let i = 0; i < 3; i++) {
    await page.keyboard.press('n');
    await expect(list.getByRole('option').nth(i + 1)).toHaveAttribute('aria-selected', 'true');
    const name = (await cue().getAttribute('aria-label'))!;
    expect(name).toContain('anchor at 01:00:13:00');
    tried.add(name);
  }
  expect(tried.size).toBe(3);
  await page.keyboard.press('Escape');
  await expect(cue()).toHaveAttribute('aria-label', /Heavy 04/);
  // What is typed here is answered in bands, as in Find.
  await page.keyboard.press('/');
  await page.keyboard.type('pawl clack trombone ');
  await expect(list.getByText('Without “trombone”')).toBeVisible();
  await page.getByRole('textbox', { name: 'Query for sounds to place' }).fill('');
  await expect(list.getByText('Without “trombone”')).toHaveCount(0);
  await page.getByRole('textbox', { name: 'Query for sounds to place' }).press('Enter');
  await page.keyboard.press('n');
  await page.keyboard.press('Enter');
  await expect(page.getByText('trying')).toHaveCount(0);
  const kept = (await cue().getAttribute('aria-label'))!;
  expect(kept).not.toContain('Heavy 04');
  await page.keyboard.press('Space');
  await page.keyboard.press('Control+z');
  await expect(cue()).toHaveAttribute('aria-label', /Heavy 04, anchor at 01:00:13:00/);
  await page.reload();
  await expect(cue()).toHaveAttribute('aria-label', /Heavy 04, anchor at 01:00:13:00/);
});

test('a cue is moved by frames, its gain set, tracks muted and soloed', async () => {
  await page.getByRole('button', { name: /Heavy 04, anchor/ }).click();
  await page.keyboard.press('Alt+ArrowRight');
  await expect(page.getByRole('button', { name: /Heavy 04, anchor at 01:00:13:01/ })).toBeVisible();
  await page.keyboard.press('Alt+ArrowLeft');
  await expect(page.getByRole('button', { name: /Heavy 04, anchor at 01:00:13:00/ })).toBeVisible();
  await page.keyboard.press('Alt+ArrowUp');
  await expect(page.getByRole('spinbutton', { name: 'Gain of the cue, dB' })).toHaveValue('1.0');
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('spinbutton', { name: 'Gain of the cue, dB' })).toHaveValue('0.0');
  await page.getByRole('button', { name: 'Solo Winch' }).click();
  await expect(page.getByRole('button', { name: 'Solo Winch' })).toHaveAttribute('aria-pressed', 'true');
});

test('the mix has the clack on the frame, to the millisecond, and starts at the right time of day', async () => {
  await page.getByRole('link', { name: 'Deliver', exact: true }).click();
  const mix = await saved(page, () => page.getByRole('button', { name: 'Save the mix' }).click());
  expect(mix.name).toBe('Last Ferry to Heron Point mix.wav');
  const source = memorySource(mix.bytes);
  const file = await readAudioFile(source);
  expect(file.format).toMatchObject({ rate: 48000, bits: 24, channels: 2 });
  expect(file.labels.get('bext.TimeReference')).toBe(String(3600 * 48000));
  const [left] = await readFrames(source, file.format, 0, file.format.frames);
  const wanted = frameToSample(clack, r24, 48000);
  // Only the winch is heard: everything before the clack's own attack is silence.
  const attack = left.findIndex((x) => Math.abs(x) > 0.02);
  expect(Math.abs(attack - wanted)).toBeLessThan(48);
  if (existsSync('/usr/bin/ffprobe')) {
    const said = JSON.parse(
      execFileSync('ffprobe', ['-v', 'error', '-show_format', '-show_streams', '-of', 'json', mix.path], {
        encoding: 'utf8',
      }),
    ) as {
      streams: { codec_name: string; sample_rate: string; channels: number }[];
      format: { tags: Record<string, string> };
    };
    expect(said.streams[0]).toMatchObject({ codec_name: 'pcm_s24le', sample_rate: '48000', channels: 2 });
    expect(said.format.tags.time_reference).toBe(String(3600 * 48000));
  }
  // As FLAC another program finds the very same samples in it.
  await choose(page.getByRole('combobox', { name: 'Depth and kind of file' }), 'FLAC, 24 bit');
  const flac = await saved(page, () => page.getByRole('button', { name: 'Save the mix' }).click());
  expect(flac.name).toBe('Last Ferry to Heron Point mix.flac');
  if (existsSync('/usr/bin/ffmpeg')) {
    const samples = (path: string) =>
      execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-map', '0:a', '-f', 'md5', '-'], { encoding: 'utf8' });
    expect(samples(flac.path)).toBe(samples(mix.path));
  }
  await choose(page.getByRole('combobox', { name: 'Depth and kind of file' }), 'WAV, 24 bit');
});

test('how loud the mix is stands beside what is asked for, and all of it is brought there as one step', async () => {
  await page.getByRole('button', { name: 'Measure it' }).click();
  const loudness = page.getByRole('region', { name: 'Loudness' });
  const told = async () => Number(/Loudness (-?[\d.]+) LUFS/.exec((await loudness.textContent()) ?? '')?.[1]);
  await expect.poll(told).toBeLessThan(-10);
  const gainOf = async () => (await ofScenes<Scene>(page, 'scenes'))[0].main?.gain ?? 0;
  const before = await gainOf();
  await choose(page.getByRole('combobox', { name: 'Loudness that is asked for' }), 'ATSC A/85');
  const by = -24 - (await told());
  await loudness.getByRole('button', { name: 'Bring the mix to it' }).click();
  await expect.poll(async () => (await gainOf()) - before).toBeCloseTo(by, 0);
  await page.getByRole('button', { name: 'Measure it' }).click();
  // The limiter takes a little of what it is turned up by.
  await expect.poll(async () => Math.abs((await told()) + 24)).toBeLessThanOrEqual(1);
  await expect(loudness.getByRole('status')).toHaveText(/^As loud as -24 LUFS/);
  await page.getByRole('link', { name: 'Spot', exact: true }).click();
  await page.keyboard.press('Control+z');
  await expect.poll(gainOf).toBe(before);
  await page.getByRole('link', { name: 'Deliver', exact: true }).click();
});

test('stems are files of their own, as long as the mix and from the same instant', async () => {
  const zip = await saved(page, () => page.getByRole('button', { name: 'Save the stems' }).click());
  expect(zip.name).toBe('Last Ferry to Heron Point stems.zip');
  const files = unzipSync(zip.bytes);
  // Only the winch is heard.
  expect(Object.keys(files)).toEqual(['Winch.wav']);
  const file = await readAudioFile(memorySource(files['Winch.wav']));
  expect(file.format).toMatchObject({ rate: 48000, bits: 24, channels: 2 });
  expect(file.labels.get('bext.TimeReference')).toBe(String(3600 * 48000));
  expect(file.labels.get('bext.Description')).toBe('Last Ferry to Heron Point, Winch');
  const [left] = await readFrames(memorySource(files['Winch.wav']), file.format, 0, file.format.frames);
  const attack = left.findIndex((x) => Math.abs(x) > 0.02);
  expect(Math.abs(attack - frameToSample(clack, r24, 48000))).toBeLessThan(48);
});

/** A timeline of ours comes into an empty scene as the cues that it was written from; that scene is put into the bin again. */
async function takenIn(path: string): Promise<void> {
  const shown = async () => {
    const id = await page.getByRole('combobox', { name: 'Scene', exact: true }).locator('xpath=../..').textContent();
    const { id: sceneId } = (await ofScenes<Scene>(page, 'scenes')).find((s) => id?.includes(s.name))!;
    return (await ofScenes<Cue>(page, 'cues'))
      .filter((c) => c.sceneId === sceneId)
      .map(({ soundId, at, anchor, start, end, gain }) => ({ soundId, at, anchor, start, end, gain }))
      .sort((a, b) => a.at - b.at || a.soundId - b.soundId);
  };
  const menu = (name: string | RegExp) => async () => {
    await page.getByRole('button', { name: 'Scene …' }).click();
    await page.getByRole('menuitem', { name }).click();
  };
  await page.getByRole('link', { name: 'Spot', exact: true }).click();
  const written = await shown();
  await menu('New scene')();
  await expect.poll(shown).toEqual([]);
  const chooser = page.waitForEvent('filechooser');
  await menu(/^Take in a list/)();
  await (await chooser).setFiles(path);
  const dialog = page.getByRole('dialog', { name: /^Take in/ });
  await expect(dialog.getByText(`${written.length} clips, as cues`)).toBeVisible();
  await dialog.getByRole('button', { name: 'Take it in' }).click();
  await expect.poll(async () => (await shown()).length).toBe(written.length);
  // A sound that is not at 48 kHz lands between two samples; what goes beyond a cue's own rate is rounded once.
  (await shown()).forEach((c, i) => {
    const { soundId, gain } = written[i];
    expect(c).toMatchObject({ soundId, gain });
    for (const key of ['at', 'anchor', 'start', 'end'] as const)
      expect(Math.abs(c[key] - written[i][key])).toBeLessThanOrEqual(1);
  });
  await menu('Put into the bin')();
  await expect.poll(shown).toEqual(written);
  await page.getByRole('link', { name: 'Deliver', exact: true }).click();
}

test('edit list, timeline and credits read back to where the cues are', async () => {
  const edl = await saved(page, () => page.getByRole('button', { name: 'Save the edit list' }).click());
  const event = readEdl(new TextDecoder().decode(edl.bytes), r24).events.find((e) => e.name.includes('Heavy 04'))!;
  const start = fromTimecode('01:00:13:00', r24);
  expect(start - event.recordIn).toBeGreaterThanOrEqual(0);
  expect(start - event.recordIn).toBeLessThan(5);
  const otio = await saved(page, () => page.getByRole('button', { name: 'Save the timeline' }).click());
  const clip = readOtio(new TextDecoder().decode(otio.bytes)).clips.find((c) => c.name.includes('Heavy 04'))!;
  const truth = JSON.parse(readFileSync('.demo/truth.json', 'utf8')) as Record<string, { anchor: number }>;
  const path = Object.keys(truth).find((p) => p.includes('Pawl Clack Heavy 04'))!;
  expect(clip.start + truth[path].anchor * 48000).toBeCloseTo(frameToSample(clack, r24, 48000), -1);
  await takenIn(otio.path);
  const csv = await saved(page, () => page.getByRole('button', { name: 'Save the credits' }).click());
  const text = new TextDecoder().decode(csv.bytes);
  expect(text).toMatch(/^Sound,Author,Library,Licence,Uses,Credit,Conflict\r\n/);
  expect(text).toMatch(/heron takes off.*Marram Field Recordings.*CC BY 4.0/);
  await expect(page.getByRole('row', { name: /Boot step.*No licence is stated/ }).first()).toBeVisible();
  const form = page.getByRole('combobox', { name: 'Form of the credits' });
  const printed = async (name: string) => {
    await choose(form, name);
    const made = await saved(page, () => page.getByRole('button', { name: 'Save the credits' }).click());
    return new TextDecoder().decode(made.bytes);
  };
  expect(await printed('for an end crawl')).toMatch(/^Sounds\n\nMarram.*\n“.*waves.*changed\n“.*heron takes off/);
  expect(await printed('as Markdown')).toContain('[CC BY 4.0](https://creativecommons.org/licenses/by/4.0/)');
  const other = await visit.context.newPage();
  await other.setContent(await printed('as HTML'));
  const licence = other.getByRole('link', { name: 'CC BY 4.0' }).first();
  await expect(licence).toHaveAttribute('href', 'https://creativecommons.org/licenses/by/4.0/');
  await other.close();
});

test('a project holds the sounds as their files are, and comes back as the cues that it was written from', async () => {
  const project = await saved(page, () => page.getByRole('button', { name: 'Save the project' }).click());
  expect(project.name).toMatch(/\.dawproject$/);
  const files = unzipSync(project.bytes);
  const xml = new TextDecoder().decode(files['project.xml']);
  const paths = [...xml.matchAll(/<File path="([^"]*)"/g)].map((m) => m[1]);
  expect(new Set(paths)).toEqual(new Set(Object.keys(files).filter((name) => name.startsWith('audio/'))));
  const sounds = await stored<Sound>(page, 'sounds');
  const roots = await stored<{ id: number; name: string }>(page, 'roots');
  for (const path of new Set(paths)) {
    const name = path.slice('audio/'.length);
    const same = sounds
      .filter((s) => s.path.endsWith(name))
      .map((s) => readFileSync(`.demo/libraries/${roots.find((r) => r.id === s.rootId)!.name}/${s.path}`));
    expect(same.some((bytes) => bytes.equals(files[path]))).toBe(true);
  }
  await takenIn(project.path);
});

test('the cue sheet says the same in every form, and its page shows frames and fetches nothing', async () => {
  const form = page.getByRole('combobox', { name: 'Form of the cue sheet' });
  const made = async (name: string) => {
    await choose(form, name);
    return saved(page, () => page.getByRole('button', { name: 'Save the cue sheet' }).click());
  };
  const csv = await made('as CSV');
  const rows = readDelimited(csv.bytes).rows;
  const heavy = rows.find((r) => r[6].includes('Heavy 04'))!;
  expect(heavy.slice(4, 6)).toEqual(['01:00:13:00', 'Winch']);
  expect(heavy[7]).toMatch(/Heavy.?04.*\.wav$/i);
  const book = await made('as XLSX');
  const sheet = await readXlsx(Buffer.from(book.bytes));
  expect(sheet[0].data.slice(1).map((row) => row.map((cell) => cell ?? ''))).toEqual(rows);
  const html = new TextDecoder().decode((await made('as a page to print')).bytes);
  const other = await visit.context.newPage();
  const asked: string[] = [];
  other.on('request', (request) => void asked.push(request.url().slice(0, 5)));
  await other.setContent(html);
  await expect(other.getByRole('row')).toHaveCount(rows.length + 1);
  const frame = other.getByRole('img', { name: 'Frame 01:00:13:00' }).first();
  await expect(frame).toBeVisible();
  expect(await frame.evaluate((img: HTMLImageElement) => img.naturalHeight)).toBe(80);
  expect(asked.filter((url) => url !== 'data:')).toEqual([]);
  await other.close();
});
