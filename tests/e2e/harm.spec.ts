import { writeWav } from '@core/files';
import type { Sound, Tag } from '@core/library';
import { expect, test, type BrowserContext, type Page } from '@playwright/test';
import { execFileSync, spawnSync } from 'node:child_process';
import { mkdirSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { launchIn } from '../../scripts/browser';
import { fill } from '../../scripts/fill';
import { choose, saved, startOn, stored, type Running } from '../helpers/app';
import { scratch } from '../helpers/programs';

// Harm from outside: a disk that is full, a browser that is killed at any instant. Afterwards nothing is lost, and nothing is half.

/** How often each long work is killed; CORMORANT_KILLS=20 takes its time, with as many sounds as a library has. */
const KILLS = Number(process.env.CORMORANT_KILLS ?? 2);
const SOUNDS = KILLS < 20 ? 5000 : 10_000;
const ALL = SOUNDS.toLocaleString('en');
/** How often the disk is full. */
const FULL = 2 * KILLS;
let server: Running;
test.beforeAll(async () => {
  const empty = join(scratch(), 'Empty');
  mkdirSync(empty);
  server = await startOn(empty);
});
test.afterAll(() => server.stop());

const total = (page: Page) => page.getByRole('button', { name: /^All libraries/ });

/** Opens the application with so many sounds in it. */
async function begin(folder: string): Promise<{ context: BrowserContext; page: Page }> {
  const context = await launchIn(folder);
  const page = context.pages()[0] ?? (await context.newPage());
  await page.goto(`${server.url}find`);
  // A disk that does not answer for a while is asked again.
  await expect(total(page)).toBeVisible({ timeout: 60_000 });
  return { context, page };
}

async function openRecipe(page: Page): Promise<void> {
  await page.goto(`${server.url}label/recipes`);
  await choose(page.getByRole('combobox', { name: 'Open a recipe' }), 'Take behind');
  await choose(page.getByRole('combobox', { name: 'Add a step' }), 'Set a field');
  const step = page.getByRole('listitem').filter({ hasText: 'Set' }).last();
  await choose(step.getByRole('combobox').first(), 'Notes');
  await step.getByPlaceholder('Text, or {field}').pressSequentially('set');
  await expect(page.getByRole('button', { name: `Run on ${ALL} sounds` })).toBeEnabled();
}
const run = (page: Page) => page.getByRole('button', { name: /^Run on / }).click();

/** How many of the sounds in the store a recipe has changed. */
async function renamed(page: Page): Promise<number> {
  const rows = await stored<{ from: Record<string, string> }>(page, 'sounds');
  expect(rows).toHaveLength(SOUNDS);
  return rows.filter((r) => Object.values(r.from).some((f) => f.startsWith('recipe'))).length;
}

test('a full disk refuses an edit in words, every time, and nothing is lost in silence', async () => {
  // Each time the browser is waited for until it rests.
  test.setTimeout(900_000);
  const disk = join(scratch(), 'disk');
  mkdirSync(disk);
  const mounted = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=500m', 'tmpfs', disk]);
  test.skip(mounted.status !== 0, 'a small file system may not be mounted here');
  let context: BrowserContext | undefined;
  /** The browser's own house-keeping is done when it is started anew: what it fails at on a full disk is nobody's edit. */
  const afresh = async () => {
    await context?.close();
    const begun = await begin(disk);
    ({ context } = begun);
    await whole(begun.page);
    return begun.page;
  };
  /** All sounds are there; where the browser itself has thrown its database away, the page says so, and has them all beside it. */
  const whole = async (page: Page) => {
    await page.goto(`${server.url}find`);
    const gone = page.getByText(/The library that was here is gone|This is another library/);
    const there = async () => new RegExp(ALL).test((await total(page).allTextContents()).join());
    await expect.poll(async () => (await there()) || (await gone.count()) > 0, { timeout: 60_000 }).toBe(true);
    if (await there()) return;
    await page.getByRole('button', { name: /^Restore the backup written/ }).click();
    await page
      .getByRole('dialog')
      .getByRole('button', { name: /^Restore \d+ parts/ })
      .click();
    await expect(page.getByText(/records restored from/).first()).toBeVisible({ timeout: 60_000 });
    await page.getByRole('button', { name: 'Go on with what is here' }).click();
    await expect(gone).toHaveCount(0);
    await page.goto(`${server.url}find`);
    await expect(total(page)).toContainText(ALL);
  };
  const free = () => statfsSync(disk).bavail * statfsSync(disk).bsize;
  const ballast = join(disk, 'ballast');
  /** Somebody else leaves so many bytes. */
  const leave = (bytes: number) => {
    rmSync(ballast, { force: true });
    spawnSync('sh', ['-c', `head -c ${Math.max(0, free() - bytes)} /dev/zero > ${ballast}`]);
  };
  /** The browser has done what it does by itself after much was read: that is in its own hands, and needs room of its own. */
  const rest = async () => {
    let [last, same] = [-1, 0];
    const stands = () => {
      const now = free();
      same = now === last ? same + 1 : 0;
      last = now;
      return same;
    };
    await expect.poll(stands, { intervals: [250], timeout: 60_000 }).toBeGreaterThan(8);
  };
  try {
    let page: Page;
    ({ context, page } = await begin(disk));
    // A browser whose disk runs low throws away what it has not promised to keep, and that is not what is looked at here.
    await (
      await context.newCDPSession(page)
    ).send('Browser.grantPermissions', { permissions: ['durableStorage'], origin: new URL(server.url).origin });
    await page.goto(`${server.url}label/safety`);
    await expect(page.getByText('The browser has promised to keep them.')).toBeVisible({ timeout: 30_000 });
    await page.goto(`${server.url}find`);
    await expect(total(page)).toBeVisible();
    await fill(page, SOUNDS);
    await page.reload();
    await expect(total(page)).toContainText(ALL);
    await page.goto(`${server.url}label/safety`);
    await page.getByRole('button', { name: 'Write one now' }).click();
    await expect(page.getByRole('list', { name: 'Backups written by themselves' })).toContainText('on the disk');
    page = await afresh();
    // A browser whose disk is full takes its time to say so.
    const refusal = () =>
      expect(page.getByText(/the disk has not enough room: |the browser closed its database/i).first()).toBeVisible({
        timeout: 90_000,
      });
    for (let i = 0; i < FULL; i++) {
      await whole(page);
      await openRecipe(page);
      await rest();
      const left = (300 + (1200 / FULL) * i) * 1024;
      leave(left);
      await run(page);
      await refusal();
      if (i % 3 === 2) {
        // What was set aside was let go of, and others take that as well: the catalogue is better not opened.
        leave(left);
        await page.goto(`${server.url}find`);
        await refusal();
        rmSync(ballast);
        // It is tried again by itself.
        await expect(total(page).or(page.getByText('The library that was here is gone')).first()).toBeVisible();
        await whole(page);
      }
      rmSync(ballast, { force: true });
    }
    page = await afresh();
    expect(await renamed(page)).toBe(0);
    // With room again, the same edit is kept.
    await openRecipe(page);
    await run(page);
    await expect.poll(() => renamed(page), { timeout: 60_000 }).toBe(SOUNDS);
  } finally {
    await context?.close();
    execFileSync('umount', ['-l', disk]);
  }
});

/** Ends a browser as a power cut does. */
const kill = (folder: string) => spawnSync('pkill', ['-9', '-f', `user-data-dir=${folder}`]);

const safety = (page: Page) => page.goto(`${server.url}label/safety`);
/** A long work, begun where none of the sounds have been changed, or all; `query` finds those that are. */
interface Work {
  name: string;
  query: string;
  begin(page: Page, changed: boolean): Promise<void>;
  changed(page: Page): Promise<number>;
}
const backup = join(scratch(), 'before.backup');
const runWhole = async (page: Page) => {
  await openRecipe(page);
  await run(page);
};
const works: Work[] = [
  {
    name: 'an edit or of its undo',
    query: 'notes:set',
    changed: renamed,
    async begin(page, done) {
      if (!done) return runWhole(page);
      await safety(page);
      await page.getByRole('button', { name: 'Undo', exact: true }).click();
    },
  },
  {
    name: 'a tag’s new name',
    query: 'tag:sorted',
    changed: async (page) => ((await stored<Tag>(page, 'tags'))[0].name === 'sorted' ? SOUNDS : 0),
    async begin(page, done) {
      await page.goto(`${server.url}label/tags`);
      await page.getByRole('button', { name: 'Rename' }).click();
      await page.getByRole('textbox', { name: 'New name of the tag' }).fill(done ? 'unsorted' : 'sorted');
      await page.keyboard.press('Enter');
    },
  },
  {
    name: 'a restore',
    query: 'notes:set',
    changed: renamed,
    async begin(page, done) {
      if (!done) {
        await runWhole(page);
        await expect.poll(() => renamed(page), { timeout: 60_000 }).toBe(SOUNDS);
      }
      await safety(page);
      await page.locator('input[type=file]').setInputFiles(backup);
      await page
        .getByRole('dialog', { name: 'Restore a backup' })
        .getByRole('button', { name: /^Restore \d+ part/ })
        .click();
    },
  },
];

for (const work of works)
  test(`killed at any instant of ${work.name}, all of it is there or nothing`, async () => {
    const folder = join(scratch(), 'killed');
    let { context, page } = await begin(folder);
    await fill(page, SOUNDS);
    await page.reload();
    await expect(total(page)).toContainText(ALL);
    await safety(page);
    writeFileSync(backup, (await saved(page, () => page.getByRole('button', { name: 'Back up now' }).click())).bytes);
    let had = 0;
    for (let i = 0; i < KILLS; i++) {
      await work.begin(page, had > 0);
      // Instants spread over what the work takes.
      await page.waitForTimeout((i * 311) % 2500);
      kill(folder);
      await context.close().catch(() => undefined);
      rmSync(join(folder, 'SingletonLock'), { force: true });
      ({ context, page } = await begin(folder));
      had = await work.changed(page);
      expect([0, SOUNDS]).toContain(had);
      // The index says the same, and so does what can be taken back.
      await page.goto(`${server.url}find?q=${work.query}`);
      await expect(page.getByText(new RegExp(`^${had > 0 ? ALL : '0'} in `))).toBeVisible();
      await expect(page.getByText(/The library (that was here is gone|went back)/)).toHaveCount(0);
      if (work !== works[0]) continue;
      await safety(page);
      await expect(page.getByRole('button', { name: 'Undo', exact: true })).toBeEnabled({ enabled: had > 0 });
    }
    await context.close();
  });

test('killed at any instant of an intake, it goes on, and every file is a sound once', async () => {
  const files = 1500;
  const top = join(scratch(), 'Many');
  mkdirSync(top);
  const wav = writeWav([new Float32Array(400).fill(0.1)], { rate: 8000, bits: 16 });
  for (let i = 0; i < files; i++) writeFileSync(join(top, `click ${i}.wav`), wav);
  const many = await startOn(top);
  const folder = join(scratch(), 'intake');
  try {
    for (let i = 0; i < KILLS; i++) {
      const context = await launchIn(folder);
      const page = context.pages()[0] ?? (await context.newPage());
      await page.goto(`${many.url}intake`);
      await expect(page.getByRole('region', { name: 'Roots' }).getByRole('listitem')).toHaveCount(1);
      await page.waitForTimeout((i * 431) % 1900);
      kill(folder);
      await context.close().catch(() => undefined);
      rmSync(join(folder, 'SingletonLock'), { force: true });
    }
    const context = await launchIn(folder);
    const page = context.pages()[0] ?? (await context.newPage());
    await page.goto(`${many.url}intake`);
    await expect(page.getByText('Up to date', { exact: true })).toBeVisible({ timeout: 120_000 });
    const paths = (await stored<Sound>(page, 'sounds')).map((sound) => sound.path);
    expect([paths.length, new Set(paths).size]).toEqual([files, files]);
    await context.close();
  } finally {
    await many.stop();
  }
});
