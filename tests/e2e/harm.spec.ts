import { writeWav } from '@core/files';
import { expect, test, type BrowserContext, type Page } from '@playwright/test';
import { execFileSync, spawnSync } from 'node:child_process';
import { mkdirSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { launchIn } from '../../scripts/browser';
import { fill } from '../../scripts/fill';
import { choose, startOn, type Running } from '../helpers/app';
import { scratch } from '../helpers/programs';

// Harm from outside: a disk that is full, a browser that is killed at any instant. Afterwards nothing is lost, and nothing is half.

const SOUNDS = 10_000;
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
  await expect(total(page)).toBeVisible();
  return { context, page };
}

async function openRecipe(page: Page): Promise<void> {
  await page.goto(`${server.url}label/recipes`);
  await choose(page.getByRole('combobox', { name: 'Open a recipe' }), 'Take behind');
  await choose(page.getByRole('combobox', { name: 'Add a step' }), 'Set a field');
  const step = page.getByRole('listitem').filter({ hasText: 'Set' }).last();
  await choose(step.getByRole('combobox').first(), 'Notes');
  await step.getByPlaceholder('Text, or {field}').pressSequentially('set');
  await expect(page.getByRole('button', { name: `Run on ${SOUNDS.toLocaleString('en')} sounds` })).toBeEnabled();
}
const run = (page: Page) => page.getByRole('button', { name: /^Run on / }).click();

/** How many of the sounds in the store have another name than they were given. */
const renamed = (page: Page) =>
  page.evaluate(async () => {
    const request = indexedDB.open('cormorant');
    const db = await new Promise<IDBDatabase>((done) => (request.onsuccess = () => done(request.result)));
    const all = db.transaction('sounds').objectStore('sounds').getAll();
    const rows = await new Promise<{ from: Record<string, string> }[]>(
      (done) => (all.onsuccess = () => done(all.result)),
    );
    db.close();
    return {
      sounds: rows.length,
      changed: rows.filter((r) => Object.values(r.from).some((f) => f.startsWith('recipe'))).length,
    };
  });

test('a full disk refuses an edit in words, ten times, and loses nothing', async () => {
  const disk = join(scratch(), 'disk');
  mkdirSync(disk);
  const mounted = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=200m', 'tmpfs', disk]);
  test.skip(mounted.status !== 0, 'a small file system may not be mounted here');
  let context: BrowserContext | undefined;
  try {
    let page: Page;
    ({ context, page } = await begin(disk));
    await fill(page, SOUNDS);
    await page.reload();
    await expect(total(page)).toContainText('10,000');
    const free = () => statfsSync(disk).bavail * statfsSync(disk).bsize;
    for (let i = 0; i < 10; i++) {
      await openRecipe(page);
      const left = (300 + 120 * i) * 1024;
      rmSync(join(disk, 'ballast'), { force: true });
      writeFileSync(join(disk, 'ballast'), Buffer.alloc(Math.max(0, free() - left), 1));
      await run(page);
      await expect(page.getByText(/the disk has not enough room: this needs \d+ MB/).first()).toBeVisible();
    }
    rmSync(join(disk, 'ballast'));
    await page.goto(`${server.url}label/safety`);
    await expect(page.getByText(/Nothing has been changed yet/)).toBeVisible();
    await page.goto(`${server.url}find`);
    await expect(total(page)).toContainText('10,000');
    expect(await renamed(page)).toEqual({ sounds: SOUNDS, changed: 0 });
    // With room again, the same edit is kept.
    await openRecipe(page);
    await run(page);
    await expect.poll(() => renamed(page), { timeout: 60_000 }).toEqual({ sounds: SOUNDS, changed: SOUNDS });
  } finally {
    await context?.close();
    execFileSync('umount', ['-l', disk]);
  }
});

/** How often each long work is killed; CORMORANT_KILLS=20 takes its time. */
const KILLS = Number(process.env.CORMORANT_KILLS ?? 3);
/** Ends a browser as a power cut does. */
const kill = (folder: string) => spawnSync('pkill', ['-9', '-f', `user-data-dir=${folder}`]);

test('killed at any instant of an edit or of its undo, all of it is there or nothing', async () => {
  const folder = join(scratch(), 'killed');
  let { context, page } = await begin(folder);
  await fill(page, SOUNDS);
  await page.reload();
  await expect(total(page)).toContainText('10,000');
  let had = 0;
  for (let i = 0; i < 2 * KILLS; i++) {
    if (had === 0) {
      await openRecipe(page);
      await run(page);
    } else {
      await page.goto(`${server.url}label/safety`);
      await page.getByRole('button', { name: 'Undo', exact: true }).click();
    }
    // Instants spread over what the work takes.
    await page.waitForTimeout((i * 311) % 2500);
    kill(folder);
    await context.close().catch(() => undefined);
    rmSync(join(folder, 'SingletonLock'), { force: true });
    ({ context, page } = await begin(folder));
    const now = await renamed(page);
    expect([0, SOUNDS]).toContain(now.changed);
    expect(now.sounds).toBe(SOUNDS);
    had = now.changed;
    // What can be taken back is what is there, and the index says the same.
    await page.goto(`${server.url}label/safety`);
    await expect(page.getByRole('button', { name: 'Undo', exact: true })).toBeEnabled({ enabled: had > 0 });
    await page.goto(`${server.url}find?q=notes:set`);
    await expect(page.getByText(new RegExp(`^${had > 0 ? '10,000' : '0'} in `))).toBeVisible();
    await expect(page.getByText(/The library (that was here is gone|went back)/)).toHaveCount(0);
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
    const paths = await page.evaluate(async () => {
      const request = indexedDB.open('cormorant');
      const db = await new Promise<IDBDatabase>((done) => (request.onsuccess = () => done(request.result)));
      const all = db.transaction('sounds').objectStore('sounds').getAll();
      return new Promise<string[]>((done) => {
        all.onsuccess = () => done((all.result as { path: string }[]).map((s) => s.path));
      });
    });
    expect([paths.length, new Set(paths).size]).toEqual([files, files]);
    await context.close();
  } finally {
    await many.stop();
  }
});
