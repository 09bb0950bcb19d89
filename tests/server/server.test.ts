import { createApp } from '@server/app';
import { rootFor } from '@server/roots';
import { mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { request, type IncomingHttpHeaders, type Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { served } from '../helpers/served';

const top = mkdtempSync(join(tmpdir(), 'cormorant-server-'));
const sounds = join(top, 'sounds');
mkdirSync(join(sounds, 'Deck gear'), { recursive: true });
mkdirSync(join(top, 'sounds-private'));
mkdirSync(join(top, 'pages/assets'), { recursive: true });
const tone = Buffer.from(Array.from({ length: 1000 }, (_, i) => i & 255));
writeFileSync(join(sounds, 'Deck gear/‘wet’ 100% #1? 😀.wav'), tone);
writeFileSync(join(sounds, 'plain.wav'), tone);
writeFileSync(join(sounds, '.hidden.wav'), tone);
writeFileSync(join(top, 'secret.txt'), 'secret');
writeFileSync(join(top, 'sounds-private/secret.txt'), 'secret');
writeFileSync(join(top, 'pages/index.html'), '<!doctype html>page');
writeFileSync(join(top, 'pages/assets/a.js'), 'x');
symlinkSync(join(top, 'secret.txt'), join(sounds, 'link.wav'));
symlinkSync(top, join(sounds, 'up'));
symlinkSync(join(sounds, 'plain.wav'), join(sounds, 'inner.wav'));

const root = rootFor(sounds);
let server: Server;
let port: number;
beforeAll(async () => {
  ({ server, port } = await served(createApp({ pages: join(top, 'pages'), roots: [root] })));
});
afterAll(() => {
  server.close();
  server.closeAllConnections();
  rmSync(top, { recursive: true, force: true });
});

interface Answer {
  status: number;
  headers: IncomingHttpHeaders;
  body: Buffer;
}

/** Asks with the path exactly as given: no client tidies it up on the way. */
function ask(path: string, headers: Record<string, string> = {}, method = 'GET'): Promise<Answer> {
  return new Promise((done, fail) => {
    const req = request({ host: '127.0.0.1', port, path, method, headers }, (res) => {
      const parts: Buffer[] = [];
      res.on('data', (d: Buffer) => parts.push(d));
      res.on('end', () => done({ status: res.statusCode!, headers: res.headers, body: Buffer.concat(parts) }));
    });
    req.on('error', fail);
    req.end();
  });
}
const json = async (path: string) => JSON.parse((await ask(path)).body.toString()) as unknown;

test('lists its roots, and what is below them', async () => {
  expect(await json('/api/roots')).toEqual([{ id: root.id, name: 'sounds', place: sounds }]);
  const lines = (await ask(`/api/roots/${root.id}/files`)).body.toString().trim().split('\n');
  const files = lines
    .flatMap((l) => (JSON.parse(l) as { files: { path: string; size: number }[] }).files)
    .sort((a, b) => (a.path < b.path ? -1 : 1));
  expect(files.map((f) => f.path)).toEqual(['Deck gear/‘wet’ 100% #1? 😀.wav', 'inner.wav', 'plain.wav']);
  expect(files[0].size).toBe(1000);
});

test('serves any part of a file, whatever its name', async () => {
  const path = `/roots/${root.id}/${['Deck gear', '‘wet’ 100% #1? 😀.wav'].map(encodeURIComponent).join('/')}`;
  const part = await ask(path, { Range: 'bytes=100-199' });
  expect([part.status, part.headers['content-range']]).toEqual([206, 'bytes 100-199/1000']);
  expect(part.body).toEqual(tone.subarray(100, 200));
  expect((await ask(path)).body).toEqual(tone);
  expect((await ask(path, { Range: 'bytes=5000-' })).status).toBe(416);
});

test.each([
  '../secret.txt',
  '..%2fsecret.txt',
  '%2e%2e/secret.txt',
  '..%5csecret.txt',
  'Deck%20gear/../../secret.txt',
  '%2e%2e%2fsounds-private/secret.txt',
  'link.wav',
  'up/secret.txt',
  'up/sounds-private/secret.txt',
  'plain.wav%00.txt',
  '',
  'Deck%20gear',
  './plain.wav/..',
  '%2Fetc%2Fpasswd',
  'nothing.wav',
])('never leaves its folder: %j', async (path) => {
  const { status, body } = await ask(`/roots/${root.id}/${path}`);
  expect(status).toBeGreaterThanOrEqual(400);
  expect(body.toString()).not.toContain('secret');
});

test('answers its own page only, and takes nothing', async () => {
  expect((await ask('/api/roots', { Host: 'evil.example' })).status).toBe(403);
  expect((await ask('/api/roots', { Origin: 'http://evil.example' })).status).toBe(403);
  expect((await ask('/api/roots', { Origin: `http://127.0.0.1:${port}`, Host: `127.0.0.1:${port}` })).status).toBe(200);
  for (const method of ['POST', 'PUT', 'DELETE'])
    expect((await ask(`/roots/${root.id}/plain.wav`, {}, method)).status).toBe(405);
});

test('isolates the page and lets it run nothing but its own scripts', async () => {
  const { headers, status, body } = await ask('/find?q=%3Cscript%3E');
  expect([status, body.toString()]).toEqual([200, '<!doctype html>page']);
  expect(headers['cross-origin-opener-policy']).toBe('same-origin');
  expect(headers['cross-origin-embedder-policy']).toBe('require-corp');
  const policy = String(headers['content-security-policy']);
  expect(policy).toContain("default-src 'none'");
  // Only from where the build lies: what roots serve has the same origin.
  expect(policy).toContain(`script-src http://127.0.0.1:${port}/assets/ `);
  expect(/script-src ([^;]*)/.exec(policy)![1]).not.toMatch(/unsafe-inline|unsafe-eval(?<!wasm-unsafe-eval)|\*|'self'/);
});

test('wrong addresses get a plain answer', async () => {
  expect((await ask('/assets/nothing.js')).status).toBe(404);
  expect((await ask('/api/roots/zzzz/files')).status).toBe(404);
  expect((await ask('/roots/%E0%A4%A/plain.wav')).status).toBe(400);
  expect((await ask('/api/project')).status).toBe(204);
});

test('a folder that vanishes says so', async () => {
  const gone = rootFor(join(top, 'gone'));
  const { server: other, port } = await served(createApp({ pages: join(top, 'pages'), roots: [gone] }));
  const response = await fetch(`http://127.0.0.1:${port}/api/roots/${gone.id}/files`);
  expect(response.status).toBe(410);
  expect(((await response.json()) as { error: string }).error).toMatch(/gone cannot be reached/);
  other.close();
});
