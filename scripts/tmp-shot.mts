import { spawn } from 'node:child_process';
import { launch } from './browser';
const server = spawn('node', ['--import', 'tsx', 'src/server/main.ts', '--demo', '.demo', '--write', '--port', '4912'], { cwd: process.cwd() });
const url = await new Promise<string>((done) => server.stdout.on('data', (d) => { const m = /http:\S+/.exec(String(d)); if (m) done(m[0]); }));
const browser = await launch();
const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
page.on('console', (m) => m.type() === 'error' && console.log('ERR', m.text().slice(0, 300)));
page.on('pageerror', (e) => console.log('PAGE', String(e).slice(0, 300)));
try {
  await page.goto(`${url}intake`);
  const roots = page.getByRole('region', { name: 'Roots' }).getByRole('listitem');
  for (let i = 0; i < 400 && ((await roots.count()) === 0 || (await roots.count()) !== (await page.getByText('Up to date', { exact: true }).count())); i++) await page.waitForTimeout(300);
  const steps = (await import('./tmp-steps.mts')).default as (page: unknown, url: string, shot: (n: string) => Promise<void>) => Promise<void>;
  await steps(page, url, async (n) => { await page.screenshot({ path: `/tmp/shots/${n}.png` }); });
} finally { await browser.close(); server.kill(); }
