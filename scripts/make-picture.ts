// Draws and encodes the demo's picture in headless Chromium and writes it, with its events, into src/demo/picture.
// usage: tsx scripts/make-picture.ts [--still FRAME FILE]…
import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { createServer } from 'vite';
import { pictureEvents } from '../src/demo/film/events';
import { launch } from './browser';

const top = join(dirname(fileURLToPath(import.meta.url)), '..');
const folder = join(top, 'src/demo/picture');
const vite = await createServer({
  configFile: false,
  root: top,
  server: { port: 5199, host: '127.0.0.1' },
  logLevel: 'error',
  appType: 'custom',
});
vite.middlewares.use('/picture', (_req, res) => {
  res.setHeader('Content-Type', 'text/html');
  res.end('<!doctype html><script type="module" src="/src/demo/film/encode.ts"></script>');
});
await vite.listen();
const browser = await launch();
try {
  const page = await browser.newPage();
  await page.goto('http://127.0.0.1:5199/picture');
  await page.waitForFunction(() => 'encodePicture' in window);
  const stills = process.argv.flatMap((a, i) =>
    a === '--still' ? [[Number(process.argv[i + 1]), process.argv[i + 2]] as const] : [],
  );
  for (const [frame, file] of stills) {
    const url = await page.evaluate((f) => (window as unknown as { still: (f: number) => string }).still(f), frame);
    writeFileSync(file, Buffer.from(url.split(',')[1], 'base64'));
  }
  if (stills.length === 0) {
    const started = performance.now();
    const base64 = await page.evaluate(() =>
      (window as unknown as { encodePicture: () => Promise<string> }).encodePicture(),
    );
    const bytes = Buffer.from(base64, 'base64');
    mkdirSync(folder, { recursive: true });
    writeFileSync(join(folder, 'last-ferry.webm'), bytes);
    writeFileSync(join(folder, 'last-ferry.events.json'), `${JSON.stringify(pictureEvents, null, 2)}\n`);
    console.log(
      `last-ferry.webm: ${(bytes.length / 1e6).toFixed(2)} MB in ${((performance.now() - started) / 1000).toFixed(0)} s`,
    );
  }
} finally {
  await browser.close();
  await vite.close();
}
