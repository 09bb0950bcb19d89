import { memorySource, pictureSize, readAudioFile, writeWav } from '@core/files';
import { expect, test, type Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { copyFileSync, mkdirSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { axeFaults, choose, openSettled, search, startOn, stored, watchErrors, type Running } from '../helpers/app';
import { demoPath } from '../helpers/demo';
import { encodePng } from '../helpers/picture';
import { has, scratch } from '../helpers/programs';
import { noise } from '../helpers/signals';

// What the library says goes into the files: seen before, written, read by other programs, and taken back byte for byte.

const top = scratch();
const folder = join(top, 'To sell');
let server: Running;
let page: Page;
let errors: string[];
let files: string[];
const bytesOf = (name: string) => new Uint8Array(readFileSync(join(folder, name)));
/** Every file with a hash of all its bytes. */
const all = () =>
  Object.fromEntries(
    readdirSync(folder).map((name) => [name, createHash('sha256').update(bytesOf(name)).digest('hex')]),
  );

test.beforeAll(async ({ browser }) => {
  test.setTimeout(180_000);
  mkdirSync(folder);
  for (const name of ['MFR-0208 sedge bed, light wind (wide).wav', 'MFR-0220 reeds in gusts (wide).flac'])
    copyFileSync(demoPath(`Marram Field Recordings/${name}`), join(folder, name));
  const yard = readdirSync(demoPath('Sluice Yard'), { recursive: true, encoding: 'utf8' });
  for (const ending of ['.wav', '.aif'])
    for (const path of yard.filter((p) => p.endsWith(ending)).slice(0, 3))
      copyFileSync(demoPath(`Sluice Yard/${path}`), join(folder, path.slice(path.lastIndexOf('/') + 1)));
  const ogg = readdirSync(demoPath('Tidewrack Audio'), { recursive: true, encoding: 'utf8' }).find((p) =>
    p.endsWith('.ogg'),
  );
  if (ogg) copyFileSync(demoPath(`Tidewrack Audio/${ogg}`), join(folder, 'coded.ogg'));
  files = readdirSync(folder);
  server = await startOn('--write', folder);
  page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  page.setDefaultTimeout(30_000);
  errors = watchErrors(page);
  await openSettled(page, server.url, files.length);
});
test.afterAll(async () => {
  await page?.context().close();
  await server?.stop();
  rmSync(top, { recursive: true, force: true });
});
test.beforeEach(() => page.getByRole('link', { name: 'Label', exact: true }).click());
test.afterEach(() => expect(errors.splice(0)).toEqual([]));

const part = (name: string) =>
  page.getByRole('navigation', { name: 'Parts of label' }).getByRole('link', { name }).click();
const look = () => page.getByRole('button', { name: /^Look (what would change|again)$/ });
const writeButton = () => page.getByRole('button', { name: /^Write \d+ files?$/ });
const rows = () => page.getByRole('grid', { name: 'What writing would change' }).getByRole('row');
const side = () => page.getByRole('complementary', { name: 'Before and after of the file' });

/** Types a value into a field of all sounds of the list. */
async function putOnAll(field: string, text: string): Promise<void> {
  await page.getByRole('link', { name: 'Label', exact: true }).click();
  await part('Table');
  await search(page, '');
  await page.getByRole('grid', { name: 'Sounds' }).getByRole('row').nth(1).click();
  await page.keyboard.press('Control+a');
  const box = page.getByRole('textbox', { name: field, exact: true });
  if (!(await box.isVisible())) await page.getByRole('button', { name: 'All fields' }).click();
  await box.fill(text);
  await page.keyboard.press('Enter');
  await expect(box).toHaveValue(text);
  // It is kept a moment later, on a busy machine.
  type Row = { fields: Record<string, unknown> };
  await expect
    .poll(async () => (await stored<Row>(page, 'sounds')).every((s) => Object.values(s.fields).includes(text)))
    .toBe(true);
}

test('what would change is shown file by file before anything is written, and what cannot be written says why', async () => {
  const before = all();
  await putOnAll('Author', 'Ines Möwe');
  await part('Write files');
  await expect(page.getByText('Put the library’s labels into the files themselves')).toBeVisible();
  await look().click();
  const count = files.length - (files.includes('coded.ogg') ? 1 : 0);
  await expect(writeButton()).toHaveText(`Write ${count} files`);
  await rows().filter({ hasText: '.wav' }).first().click();
  await expect(side()).toContainText('Author');
  await expect(side()).toContainText('Ines Möwe');
  await expect(side()).toContainText('Its audio stays where it is');
  expect(await axeFaults(page)).toEqual([]);
  if (files.includes('coded.ogg')) {
    await page.getByRole('combobox', { name: 'Files to show' }).click();
    await page.getByText('Files that cannot be written (1)').last().click();
    await expect(rows().nth(1)).toContainText('WAV, AIFF, FLAC and MP3');
  }
  expect(all()).toEqual(before);
});

test('what was written is in the files, for us and for other programs; a second look finds nothing; Ctrl Z brings every byte back', async () => {
  const before = all();
  await part('Write files');
  await look().click();
  await writeButton().click();
  await expect(page.getByText(/^\d+ files written\.$/)).toBeVisible();
  for (const name of files.filter((f) => /\.(wav|aif|flac)$/.test(f))) {
    const said = await readAudioFile(memorySource(bytesOf(name)));
    const place = name.endsWith('.wav') ? 'bext.Originator' : name.endsWith('.flac') ? 'vorbis.ARTIST' : 'AIFF.AUTH';
    expect([name, said.labels.get(place), said.warnings]).toEqual([name, 'Ines Möwe', []]);
  }
  if (has('exiftool')) {
    const wav = files.find((f) => f.startsWith('MFR') && f.endsWith('.wav'))!;
    const told = execFileSync('exiftool', ['-json', '-Originator', '-Artist', join(folder, wav)], { encoding: 'utf8' });
    expect(JSON.parse(told)).toMatchObject([{ Originator: 'Ines Möwe' }]);
  }
  if (has('ffprobe'))
    for (const name of files.filter((f) => f.endsWith('.flac'))) {
      const told = execFileSync('ffprobe', [
        '-v',
        'error',
        '-show_entries',
        'format_tags=ARTIST',
        '-of',
        'csv=p=0',
        join(folder, name),
      ]);
      expect(told.toString().trim()).toBe('Ines Möwe');
    }
  // The watcher takes nothing of it for somebody else's, and the sounds are the same ones.
  await look().click();
  await expect(
    page
      .getByText(`Files that have it all (${files.length - (files.includes('coded.ogg') ? 1 : 0)})`)
      .or(page.getByText('All of these files say what the library says.')),
  ).toBeVisible();
  await expect(writeButton()).toBeDisabled();
  await page.keyboard.press('Control+z');
  await expect(page.getByText(/^Taken back: Write \d+ files/).first()).toBeVisible();
  expect(all()).toEqual(before);
  await page.keyboard.press('Control+Shift+z');
  await expect(page.getByText(/^Done again: Write \d+ files/).first()).toBeVisible();
  expect(Object.values(all()).filter((hash) => Object.values(before).includes(hash)).length).toBeLessThan(2);
  await page.keyboard.press('Control+z');
  await expect.poll(all).toEqual(before);
});

test('a picture goes into files of every kind, and Ctrl Z takes it out again; what is none is refused', async () => {
  const before = all();
  const count = files.length - (files.includes('coded.ogg') ? 1 : 0);
  await part('Write files');
  await page.getByRole('checkbox', { name: 'Labels' }).uncheck();
  await choose(page.getByRole('combobox', { name: 'Artwork' }), 'Artwork in all files');
  const pick = (name: string, buffer: Buffer) =>
    page.locator('input[type=file]').last().setInputFiles({ name, mimeType: 'image/png', buffer });
  await pick('cover.png', Buffer.from('no picture at all, but long enough to be one'));
  await expect(page.getByText(/cover\.png cannot be put into files: it is no PNG/).first()).toBeVisible();
  // A large one is made smaller.
  await pick('cover.png', Buffer.from(encodePng(2400, 1200)));
  await expect(page.getByRole('img', { name: 'The chosen picture' })).toBeVisible();
  await look().click();
  await expect(writeButton()).toHaveText(`Write ${count} files`);
  await expect(side()).toContainText(/Artwork.*JPEG, \d+ KB/s);
  await writeButton().click();
  await expect(page.getByText(`${count} files written.`, { exact: true })).toBeVisible();
  for (const name of files.filter((f) => /\.(wav|aif|flac)$/.test(f))) {
    const source = memorySource(bytesOf(name));
    const { artwork } = await readAudioFile(source);
    expect([name, artwork?.mime]).toEqual([name, 'image/jpeg']);
    const picture = await source.read(artwork!.offset, artwork!.length);
    expect(pictureSize(picture)).toEqual({ width: 600, height: 300 });
  }
  await page.keyboard.press('Control+z');
  await expect.poll(all).toEqual(before);
  await page.getByRole('checkbox', { name: 'Labels' }).check();
  await choose(page.getByRole('combobox', { name: 'Artwork' }), 'Artwork stays');
});

test('files get their planned names with their labels, and their old ones back', async () => {
  const before = all();
  await part('File names');
  await page.getByRole('textbox', { name: 'Pattern' }).fill('Kell {fxName}');
  await page.getByRole('button', { name: /^Plan \d+ names$/ }).click();
  await expect(page.getByText(/names planned/).first()).toBeVisible();
  await part('Write files');
  await look().click();
  await writeButton().click();
  await expect(page.getByText(/^\d+ files written\.$/)).toBeVisible();
  const now = readdirSync(folder);
  expect(now.filter((n) => n.startsWith('Kell ')).length).toBeGreaterThan(5);
  await page.getByRole('link', { name: 'Find', exact: true }).click();
  await expect(page.getByRole('button', { name: /^All libraries/ })).toContainText(String(files.length));
  expect(await search(page, 'file:~Kell')).toBe(now.filter((n) => n.startsWith('Kell ')).length);
  await search(page, '');
  await page.keyboard.press('Control+z');
  await expect(page.getByText(/^Taken back: Write \d+ files/).first()).toBeVisible();
  await expect.poll(all).toEqual(before);
  await page.keyboard.press('Control+z');
});

test('a file that another program changed, and one that is gone, are left out and told; the rest is written', async () => {
  const [first, second] = files.filter((f) => f.endsWith('.wav'));
  await putOnAll('Copyright', '© 2026 Ines');
  await part('Write files');
  await look().click();
  await expect(writeButton()).toBeEnabled();
  const old = bytesOf(first);
  const gone = bytesOf(second);
  // Between the look and the writing, where no watcher is as fast.
  await page.route('**/api/roots/*/write', async (route) => {
    if (route.request().postDataJSON().path === first)
      writeFileSync(join(folder, first), writeWav([noise(900, 0.3, 8)], { rate: 8000, bits: 16 }));
    if (route.request().postDataJSON().path === second) rmSync(join(folder, second));
    await route.continue();
  });
  await writeButton().click();
  await expect(page.getByText(/^\d+ files written, 2 files left as before\.$/)).toBeVisible();
  await expect(page.getByRole('listitem').filter({ hasText: first })).toContainText('changed by another program');
  await page.unroute('**/api/roots/*/write');
  await page.keyboard.press('Control+z');
  await expect(page.getByText(/^Taken back: Write \d+ files/).first()).toBeVisible();
  writeFileSync(join(folder, first), old);
  writeFileSync(join(folder, second), gone);
});

test('the server may be killed in the middle: each file is the old one or the new, and the library knows which', async () => {
  await openSettled(page, server.url, files.length);
  const before = all();
  const labelsOf = async (name: string) =>
    (await readAudioFile(memorySource(bytesOf(name))).catch(() => undefined))?.labels;
  const had = new Map(await Promise.all(files.map(async (name) => [name, (await labelsOf(name))?.size ?? 0] as const)));
  await putOnAll('Project', 'Last Ferry');
  await part('Write files');
  await look().click();
  let asked = 0;
  await page.route('**/api/roots/*/write', async (route) => {
    // The third goes out, and the server with it.
    if (++asked === 3) await server.stop();
    await route.continue().catch(() => undefined);
  });
  await writeButton().click();
  await expect(page.getByText(/It ended early: the Cormorant server does not answer/)).toBeVisible();
  await page.unroute('**/api/roots/*/write');
  const { port } = new URL(server.url);
  server = await startOn('--write', '--port', port, folder);
  await page.reload();
  await openSettled(page, server.url, files.length);
  for (const [name, hash] of Object.entries(all())) {
    const said = await labelsOf(name);
    // FLAC has no place for a project; what else was written into it tells.
    const isNew =
      said?.get('iXML.PROJECT') === 'Last Ferry' || (name.endsWith('.flac') && (said?.size ?? 0) > had.get(name)!);
    if (said && !isNew) expect([name, hash]).toEqual([name, before[name]]);
  }
  await page.getByRole('link', { name: 'Label', exact: true }).click();
  await part('Write files');
  await look().click();
  await writeButton().click();
  await expect(page.getByText(/^\d+ files written\.$/)).toBeVisible();
  for (const name of files.filter((f) => f.endsWith('.wav')))
    expect((await readAudioFile(memorySource(bytesOf(name)))).labels.get('iXML.PROJECT')).toBe('Last Ferry');
});

test('a page that is closed in the middle: the next one finds out what became of each file, and takes it back', async () => {
  await openSettled(page, server.url, files.length);
  const before = all();
  await putOnAll('Scene', '12 B');
  await part('Write files');
  await look().click();
  const context = page.context();
  let asked = 0;
  let closed: Promise<void> | undefined;
  await page.route('**/api/roots/*/write', async (route) => {
    // What is on its way arrives; its answer finds nobody.
    if (++asked === 4) closed = page.close();
    else await route.continue().catch(() => undefined);
  });
  await writeButton().click();
  await expect.poll(() => closed !== undefined).toBe(true);
  await closed;
  page = await context.newPage();
  page.setDefaultTimeout(30_000);
  errors = watchErrors(page);
  await page.goto(`${server.url}label`);
  await expect(page.getByText(/^Writing files was broken off: \d files? had been written/).first()).toBeVisible();
  expect(all()).not.toEqual(before);
  await page.keyboard.press('Control+z');
  await expect.poll(all).toEqual(before);
});

test('into a folder that the browser was given, whole or not at all, and back', async () => {
  // The private file system's folder handle stands in for a picked one: the interface is the same.
  await page.evaluate(() => {
    window.showDirectoryPicker = async () =>
      (await navigator.storage.getDirectory()).getDirectoryHandle('Given', { create: true });
  });
  const sound = writeWav([noise(9000, 0.4, 5)], { rate: 8000, bits: 16 }, { info: { ISFT: 'recorder 3' } });
  await page.evaluate(
    async (bytes) => {
      const folder = await (await navigator.storage.getDirectory()).getDirectoryHandle('Given', { create: true });
      for (const name of ['one.wav', 'two.wav']) {
        const out = await (await folder.getFileHandle(name, { create: true })).createWritable();
        await out.write(new Uint8Array(bytes));
        await out.close();
      }
    },
    [...sound],
  );
  const given = async (name: string) =>
    new Uint8Array(
      await page.evaluate(async (n) => {
        const folder = await (await navigator.storage.getDirectory()).getDirectoryHandle('Given');
        return [...new Uint8Array(await (await (await folder.getFileHandle(n)).getFile()).arrayBuffer())];
      }, name),
    );
  await page.getByRole('link', { name: 'Intake', exact: true }).click();
  await page.getByRole('button', { name: 'Add a folder' }).click();
  await expect(page.getByText('Up to date', { exact: true })).toHaveCount(2);
  await page.goto(`${server.url}label?q=folder-of-nothing OR library:Given`);
  await page.getByRole('grid', { name: 'Sounds' }).getByRole('row').nth(1).click();
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Möwe ruft');
  await page.keyboard.press('Enter');
  await part('Write files');
  await look().click();
  await writeButton().click();
  await expect(page.getByText(/^2 files written\.$/)).toBeVisible();
  const said = await Promise.all(
    ['one.wav', 'two.wav'].map(async (n) => (await readAudioFile(memorySource(await given(n)))).labels),
  );
  expect(said.map((l) => l.get('INFO.ISFT'))).toEqual(['recorder 3', 'recorder 3']);
  expect(said.map((l) => l.get('iXML.ASWG.fxName')).filter((n) => n === 'Möwe ruft')).toHaveLength(1);
  await page.keyboard.press('Control+z');
  await expect
    .poll(async () => Buffer.compare(await given('one.wav'), sound) || Buffer.compare(await given('two.wav'), sound))
    .toBe(0);
});
