// A large scene in the built application: opening it, and frames while one scrolls, zooms and drags.
import type { Page } from '@playwright/test';
import { spawn } from 'node:child_process';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { launch } from './browser';
import { fill } from './fill';

type Line = (what: string, measured: string, reach: string) => void;
const top = join(dirname(fileURLToPath(import.meta.url)), '..');
const [TRACKS, CUES] = [64, 5000];

/** Puts a scene into the page's store. */
async function lay(page: Page): Promise<void> {
  await page.evaluate(
    async ([tracks, cues]) => {
      const request = indexedDB.open('cormorant');
      const db = await new Promise<IDBDatabase>((done) => (request.onsuccess = () => done(request.result)));
      const t = db.transaction(['scenes', 'tracks', 'cues', 'counters'], 'readwrite');
      const scene = { id: 1, name: 'Large', fps: '24', startFrame: 86_400, sampleRate: 48_000, length: 48_000 * 960 };
      t.objectStore('scenes').put(scene);
      // Beside a small one, from which it is opened.
      t.objectStore('scenes').put({ ...scene, id: 2, name: 'Small' });
      t.objectStore('tracks').put({
        ...{ id: 1000, sceneId: 2, order: 0, name: 'Other', gain: 0, mute: false, solo: false },
      });
      for (let i = 0; i < tracks; i++)
        t.objectStore('tracks').put({
          ...{ id: i + 1, sceneId: 1, order: i, name: `Track ${i + 1}`, gain: 0, mute: false, solo: false },
        });
      for (let i = 0; i < cues; i++)
        t.objectStore('cues').put({
          ...{
            id: i + 1,
            sceneId: 1,
            trackId: 1 + (i % tracks),
            soundId: 10 + (i % 900),
            name: `Cue ${i}`,
            at: i * 9000,
          },
          ...{ anchor: 0, start: 0, end: 48_000, rate: 48_000, gain: 0, mute: false, fadeIn: 0, fadeOut: 0 },
        });
      await new Promise((done) => (t.oncomplete = done));
      db.close();
    },
    [TRACKS, CUES],
  );
}

const told = (frames: number[]) => {
  const sorted = [...frames].sort((a, b) => a - b);
  const at = (p: number) => sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * p))].toFixed(0);
  return `p50 ${at(0.5)}, p95 ${at(0.95)}, longest ${at(1)} ms; ${sorted.filter((f) => f > 32).length} of ${sorted.length} over 32 ms`;
};

/** Lengths of the frames while something is done once a frame, ms. */
const framesWhile = (page: Page, what: 'scroll' | 'zoom' | 'drag') =>
  page.getByRole('region', { name: 'Timeline' }).evaluate(async (timeline, doing) => {
    const lane = [...timeline.querySelectorAll('[role="group"]')].find(
      (g) => g.getAttribute('aria-label') === 'Cues on Track 1',
    )!;
    const box = lane.getBoundingClientRect();
    // In a list, as the compiler would give them names that the page does not know.
    const [frame, hand] = [
      () => new Promise<number>((done) => requestAnimationFrame(done)),
      (type: string, x: number) => {
        const at = { clientX: box.left + x, clientY: box.top + 25 };
        return lane.dispatchEvent(new PointerEvent(type, { bubbles: true, pointerId: 1, button: 0, ...at }));
      },
    ] as const;
    const all: number[] = [];
    let last = await frame();
    if (doing === 'drag') hand('pointerdown', 300);
    for (let i = 0; i < 120; i++) {
      if (doing === 'drag') hand('pointermove', 300 + i * 2);
      else {
        const zoom = doing === 'zoom';
        const deltaY = zoom ? (i < 60 ? 20 : -20) : 60;
        timeline.dispatchEvent(
          new WheelEvent('wheel', { deltaY, ctrlKey: zoom, clientX: box.left + 400, bubbles: true, cancelable: true }),
        );
      }
      const now = await frame();
      all.push(now - last);
      last = now;
    }
    if (doing === 'drag') hand('pointerup', 540);
    return all;
  }, what);

/** What a scene of 5,000 cues on 64 tracks costs in Chromium. */
export async function timeline(line: Line): Promise<void> {
  const server = spawn('node', ['--import', 'tsx', 'src/server/main.ts', '--port', '0'], { cwd: top });
  const url = await new Promise<string>((done) =>
    server.stdout.on('data', (d) => done(/http:\S+/.exec(String(d))![0])),
  );
  const browser = await launch();
  try {
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    page.setDefaultTimeout(60_000);
    await page.goto(`${url}find`);
    await page
      .getByText(/ in (under )?\d+ ms$/)
      .first()
      .waitFor();
    await fill(page, 5000);
    await lay(page);
    await page.reload();
    await page.getByText('5,000 in').waitFor();
    const from = performance.now();
    await page.getByRole('link', { name: 'Spot', exact: true }).click();
    // The last one in sight; the others come as they are scrolled to.
    await page.getByRole('group', { name: 'Cues on Track 9', exact: true }).waitFor();
    await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))));
    line(
      `Entering Spot with a scene of ${CUES.toLocaleString('en')} cues on ${TRACKS} tracks, in Chromium`,
      `${Math.round(performance.now() - from)} ms`,
      '1 s',
    );
    const which = page.getByRole('combobox', { name: 'Scene' });
    const open = async (name: string, track: string) => {
      await which.press('ArrowDown');
      const option = page.locator('.ant-select-item-option').getByText(name, { exact: true });
      await option.waitFor();
      const at = performance.now();
      await option.click();
      await page.getByRole('group', { name: `Cues on ${track}`, exact: true }).waitFor();
      await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))));
      return performance.now() - at;
    };
    await open('Small', 'Other');
    line('The same, chosen in Spot', `${Math.round(await open('Large', 'Track 9'))} ms`, '1 s');
    await page.waitForTimeout(3000);
    line('Frames while it is scrolled', told(await framesWhile(page, 'scroll')), 'none over 32 ms');
    line('Frames while it is zoomed out and in', told(await framesWhile(page, 'zoom')), 'none over 32 ms');
    await page.keyboard.press('Home');
    line('Frames while a cue of it is dragged', told(await framesWhile(page, 'drag')), 'none over 32 ms');
  } finally {
    await browser.close();
    server.kill();
  }
}
