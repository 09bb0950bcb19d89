import {
  expect,
  type BrowserContext,
  type BrowserContextOptions,
  type Download,
  type Locator,
  type Page,
} from '@playwright/test';
import { spawn, type ChildProcess } from 'node:child_process';
import { cpSync, readFileSync, rmSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { launchIn } from '../../scripts/browser';
import { visitedCopy } from './visited';

const top = fileURLToPath(new URL('../..', import.meta.url));
const axeFile = createRequire(import.meta.url).resolve('axe-core/axe.min.js');

/** A running Cormorant and where it is. */
export interface Running {
  url: string;
  /** @param signal `SIGKILL` leaves it no time to put anything in order */
  stop(signal?: 'SIGKILL'): Promise<void>;
}

/** Starts a command and waits until it says where its page is. */
function running(command: string, args: string[]): Promise<Running> {
  return new Promise((done, fail) => {
    // What the server keeps for its user stays here.
    const env = { ...process.env, CI: 'true', XDG_STATE_HOME: join(top, '.cache/state') };
    const child: ChildProcess = spawn(command, args, { cwd: top, env, detached: true });
    let said = '';
    const listen = (data: Buffer) => {
      said += String(data);
      const url = /http:\/\/127\.0\.0\.1:\d+\//.exec(said)?.[0];
      if (url) done({ url, stop: (signal) => stop(child, signal) });
    };
    child.stdout!.on('data', listen);
    child.stderr!.on('data', listen);
    child.on('exit', (code) => fail(new Error(`ended with ${code}: ${said}`)));
  });
}

function stop(child: ChildProcess, signal: 'SIGTERM' | 'SIGKILL' = 'SIGTERM'): Promise<void> {
  return new Promise((done) => {
    child.removeAllListeners('exit');
    child.on('exit', () => done());
    process.kill(-child.pid!, signal);
  });
}

/** The server on the demo, with its services; what is published or shared goes into copies. */
export function startDemo(port = '0'): Promise<Running> {
  const exchange = join(top, '.cache/exchange');
  rmSync(exchange, { recursive: true, force: true });
  cpSync(join(top, '.demo/exchange'), exchange, { recursive: true });
  const host = join(top, '.cache/host');
  rmSync(host, { recursive: true, force: true });
  const team = join(top, '.cache/team');
  rmSync(team, { recursive: true, force: true });
  cpSync(join(top, '.demo/team'), team, { recursive: true });
  const services = [
    ...['--commons', join(top, '.demo/commons'), '--exchange', exchange],
    ...['--host', host, '--team', team],
  ];
  return running('node', ['--import', 'tsx', 'src/server/main.ts', '--demo', '.demo', ...services, '--port', port]);
}

/** `npm start` on folders, as a user types it. */
export const startOn = (...folders: string[]) => running('npm', ['start', '--', '--port', '0', ...folders]);

/** Fails a test on any error that the page reports. */
export function watchErrors(page: Page): string[] {
  const errors: string[] = [];
  page.on('pageerror', (e) => errors.push(e.message));
  page.on('console', (m) => {
    if (m.type() === 'error' && !/Failed to load resource/.test(m.text())) errors.push(m.text());
  });
  return errors;
}

/** Opens a page of the application and waits until nothing is being taken in any more. */
export async function openSettled(page: Page, url: string, sounds: number, timeout = 85_000): Promise<void> {
  await page.goto(`${url}intake`);
  const roots = page.getByRole('region', { name: 'Roots' }).getByRole('listitem');
  const settled = async () =>
    (await roots.count()) > 0 &&
    (await roots.count()) === (await page.getByText('Up to date', { exact: true }).count());
  await expect.poll(settled, { timeout }).toBe(true);
  await page.getByRole('link', { name: 'Find', exact: true }).click();
  await expect(page.getByRole('button', { name: /^All libraries/ })).toContainText(String(sounds));
}

/** Opens a page of the application and waits until all sounds can be found; they are still being measured. */
export async function openRead(page: Page, url: string, sounds: number): Promise<void> {
  await page.goto(`${url}find`);
  await expect(page.getByRole('button', { name: /^All libraries/ })).toContainText(String(sounds), { timeout: 60_000 });
}

/** Types a query and waits for its count. */
export async function search(page: Page, text: string): Promise<number> {
  const query = page.getByRole('textbox', { name: 'Query', exact: true });
  await query.fill(text);
  await expect(page).toHaveURL((u) => (u.searchParams.get('q') ?? '') === text);
  const found = page.getByText(/^[\d,]+ in (under )?\d+ ms$/);
  await expect(found).toHaveAttribute('aria-busy', 'false');
  const told = await found.textContent();
  await query.press('Enter');
  return Number(told!.split(' ')[0].replace(/,/g, ''));
}

/** The row of the list that is current. */
export const currentRow = (page: Page): Locator => page.getByRole('row', { selected: true });

/** Types a query and makes its first result the current sound, whichever was before. */
export async function openFirst(page: Page, query: string): Promise<void> {
  await search(page, query);
  await page.keyboard.press('Home');
  await expect(currentRow(page).first()).toHaveAttribute('aria-rowindex', '2');
}

/** The demo with somebody in front of it, for tests that go on with one another's page. */
export interface Visit {
  /** Where the application is. */
  url: string;
  context: BrowserContext;
  page: Page;
  /** What the page reported; a test that wants none takes them out. */
  errors: string[];
  end(): Promise<void>;
}

/** Goes on from the first visit to the demo: its sounds are taken in and measured, nobody has done anything with them. */
export async function visitDemo(options: BrowserContextOptions = {}): Promise<Visit> {
  const { folder, url } = visitedCopy();
  const context = await launchIn(folder, options);
  const page = context.pages()[0] ?? (await context.newPage());
  page.setDefaultTimeout(30_000);
  const errors = watchErrors(page);
  await openSettled(page, url, 323);
  const end = async () => {
    await context.close();
    rmSync(folder, { recursive: true, force: true });
  };
  return { url, context, page, errors, end };
}

/** Chooses an option of a select, by typing what it is called where it takes typing; Enter takes the nearest. */
export async function choose(select: Locator, text: string): Promise<void> {
  // What is chosen already needs no choosing, and a list that closes while it is clicked is no place to do so.
  if ((await select.locator('xpath=../..').getByTitle(text, { exact: true }).count()) > 0) return;
  let typed = false;
  // The dropdown may still be on its way out from the last time, and the chosen one is shown under its title too.
  await expect(async () => {
    if ((await select.getAttribute('aria-expanded')) !== 'true') await select.press('ArrowDown');
    expect(await select.getAttribute('aria-expanded')).toBe('true');
    typed = await select.isEditable();
    if (typed) await select.fill(text);
    else await select.page().getByTitle(text, { exact: true }).last().click({ timeout: 2000 });
  }).toPass({ timeout: 20_000 });
  if (typed) await select.press('Enter');
}

/** What the engine renders next, left and right, while `act` is done. */
export async function rendered(page: Page, frames: number, act: () => Promise<void>): Promise<number[][]> {
  type Window = { cormorant: { rendered: (n: number) => Promise<Float32Array[]> } };
  await page.evaluate((n) => {
    const w = window as unknown as Window & { taken: Promise<Float32Array[]> };
    w.taken = w.cormorant.rendered(n);
  }, frames);
  await act();
  return page.evaluate(async () =>
    (await (window as unknown as { taken: Promise<Float32Array[]> }).taken).map((p) => [...p]),
  );
}

/** Ends what sounds, and waits until nothing of it is left, so that it does not mix with what is heard next. */
export async function hush(page: Page): Promise<void> {
  await page.keyboard.press('k');
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  await page.waitForFunction(() => {
    const { cormorant } = window as unknown as { cormorant: { levels: () => number[] } };
    return cormorant.levels().every((level) => level === -Infinity);
  });
}

/** Does something that saves a file, and hands its bytes over. */
export async function saved(
  page: Page,
  act: () => Promise<void>,
): Promise<{ name: string; bytes: Uint8Array; path: string }> {
  const waiting: Promise<Download> = page.waitForEvent('download');
  await act();
  const download = await waiting;
  const path = await download.path();
  return { name: download.suggestedFilename(), bytes: new Uint8Array(readFileSync(path)), path };
}

/** All rows of a table of the store. */
export const stored = <T>(page: Page, table: string) =>
  page.evaluate(async (name) => {
    const request = indexedDB.open('cormorant');
    const db = await new Promise<IDBDatabase>((done) => (request.onsuccess = () => done(request.result)));
    const all = db.transaction(name).objectStore(name).getAll();
    await new Promise((done) => (all.onsuccess = done));
    db.close();
    return all.result;
  }, table) as Promise<T[]>;

/** The same, but for what belongs to builds. @param table of scenes, or of what they have */
export async function ofScenes<T>(page: Page, table: string): Promise<T[]> {
  const [rows, scenes] = await Promise.all([
    stored<T & { id: number; sceneId: number }>(page, table),
    stored<{ id: number; build?: object }>(page, 'scenes'),
  ]);
  const builds = new Set(scenes.flatMap((s) => (s.build ? [s.id] : [])));
  return rows.filter((row) => !builds.has(table === 'scenes' ? row.id : row.sceneId));
}

/** The rules of {@link axeFaults} that a theme can break once all were looked at in the dark one: it has other colours, and nothing else. */
export const inTheme = (theme: string): string[] | undefined => (theme === 'dark' ? undefined : ['color-contrast']);

/**
 * Serious and critical faults that axe finds on the page as it is.
 * @param only these rules; all when absent
 */
export async function axeFaults(page: Page, only?: string[]): Promise<string[]> {
  const source = readFileSync(axeFile, 'utf8');
  await page.evaluate(source);
  // What is on its way from one look to another has neither, and anything may set out while axe looks.
  await page.evaluate(() => {
    const still = new CSSStyleSheet();
    still.replaceSync('*, ::before, ::after { transition: none !important; animation: none !important }');
    document.adoptedStyleSheets = [still];
    // What was on its way is there with the next frame, and what is mended by whoever watches the page with the one after it.
    return new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
  });
  return page.evaluate(async (rules) => {
    type Axe = {
      run: (o: object) => Promise<{
        violations: { id: string; impact: string; nodes: { html: string; failureSummary?: string }[] }[];
      }>;
    };
    const { violations } = await (window as unknown as { axe: Axe }).axe.run({
      resultTypes: ['violations'],
      ...(rules && { runOnly: rules }),
    });
    document.adoptedStyleSheets = [];
    return violations
      .filter((v) => v.impact === 'serious' || v.impact === 'critical')
      .flatMap((v) =>
        v.nodes.slice(0, 3).map((n) => `${v.id}: ${n.html.slice(0, 160)} ${n.failureSummary?.split('\n')[1] ?? ''}`),
      );
  }, only);
}
