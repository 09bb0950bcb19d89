// Finding in the built application: from the key to painted rows, frames while scrolling, opening from the snapshot.
import { spawn } from 'node:child_process';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { fill } from './fill';
import { launch } from './browser';

type Line = (what: string, measured: string, reach: string) => void;
const top = join(dirname(fileURLToPath(import.meta.url)), '..');
const SOUNDS = Number(process.env.CORMORANT_BENCH_FOUND ?? 1_000_000);
const typed = ['creak near lock', 'rope slow', 'gate take 12', 'chain 77'];

export async function painted(line: Line): Promise<void> {
  const server = spawn('node', ['--import', 'tsx', 'src/server/main.ts', '--port', '0'], { cwd: top });
  const url = await new Promise<string>((done) =>
    server.stdout.on('data', (d) => done(/http:\S+/.exec(String(d))![0])),
  );
  const browser = await launch();
  const many = SOUNDS.toLocaleString('en');
  try {
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    page.setDefaultTimeout(300_000);
    const told = page.getByText(/ in (under )?\d+ ms$/).first();
    await page.goto(`${url}find`);
    await told.waitFor();
    await fill(page, SOUNDS);
    await page.reload();
    await page.getByText(`${many} in`).waitFor();
    // Snapshots are written once nothing has happened for a while.
    const written = () =>
      page.evaluate(async () => {
        const root = await navigator.storage.getDirectory();
        const folder = await root.getDirectoryHandle('snapshots').catch(() => undefined);
        const file = await folder?.getFileHandle('sounds').catch(() => undefined);
        return file ? (await file.getFile()).size : 0;
      });
    for (let before = -1, now = 0; now === 0 || now !== before;) {
      before = now;
      await page.waitForTimeout(1500);
      now = await written();
    }
    const from = performance.now();
    await page.reload();
    await page.getByText(`${many} in`).waitFor();
    line(
      `Opening ${many} sounds in Chromium from the snapshot, the page included, to the first rows`,
      `${((performance.now() - from) / 1000).toFixed(1)} s`,
      '3 s',
    );
    const query = page.getByRole('textbox', { name: 'Query', exact: true });
    const waits: number[] = [];
    for (const text of typed) {
      await query.fill('');
      await page.waitForTimeout(700);
      for (const key of text) {
        waits.push(
          await query.evaluate(async (box: HTMLInputElement, letter) => {
            const status = document.querySelector('[role="status"][aria-busy]')!;
            const answered = new Promise<void>((done) => {
              const seen = new MutationObserver(() => done());
              seen.observe(status, { attributes: true, childList: true, characterData: true, subtree: true });
              setTimeout(done, 2000);
            });
            const begun = performance.now();
            box.focus();
            document.execCommand('insertText', false, letter);
            await answered;
            // Rows whose labels are on their way stand empty until then.
            while (document.querySelector('[role="grid"] .loading'))
              await new Promise((done) => requestAnimationFrame(done));
            // The frame after the one in which it changed has been painted.
            await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
            return performance.now() - begun;
          }, key),
        );
        await page.waitForTimeout(120);
      }
    }
    waits.sort((a, b) => a - b);
    const at = (p: number) => `${Math.round(waits[Math.floor(waits.length * p)])} ms`;
    line(
      `A letter typed among ${many} sounds, to painted rows, in Chromium`,
      `p50 ${at(0.5)}, p95 ${at(0.95)}`,
      '50 ms p95 (at 1,000,000)',
    );
    await query.fill('');
    await page.getByText(`${many} in`).waitFor();
    await page.waitForTimeout(1500);
    const frames = await page.getByRole('grid', { name: 'Sounds' }).evaluate(async (grid) => {
      const scroller = [...grid.querySelectorAll('[role="rowgroup"]')].at(-1)!;
      const all: number[] = [];
      let last = await new Promise<number>((done) => requestAnimationFrame(done));
      for (let i = 0; i < 240; i++) {
        scroller.scrollTop += 330;
        const now = await new Promise<number>((done) => requestAnimationFrame(done));
        all.push(now - last);
        last = now;
      }
      return all.sort((a, b) => a - b);
    });
    line(
      `Frames while scrolling 80,000 pixels through ${many} rows`,
      `p50 ${frames[120].toFixed(0)}, p95 ${frames[228].toFixed(0)}, longest ${frames[239].toFixed(0)} ms; ${frames.filter((f) => f > 32).length} of 240 over 32 ms`,
      'none over 32 ms',
    );
  } finally {
    await browser.close();
    server.kill();
  }
}
