import { createApp } from '@server/app';
import { listRoot, rootFor } from '@server/roots';
import { mkdirSync, renameSync, symlinkSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import { join } from 'node:path';
import { fetchEdges, listFiles } from '@platform/files/roots';
import type { RootRecord } from '@platform/store/store';
import { scratch } from '../helpers/programs';
import { served } from '../helpers/served';

const top = scratch();
const folder = join(top, 'sounds');
mkdirSync(join(folder, 'deck gear'), { recursive: true });
const bytes = Buffer.from(Uint8Array.from({ length: 60_000 }, (_, i) => (i * 13 + (i >> 7)) & 255));
writeFileSync(join(folder, 'long.wav'), bytes);
writeFileSync(join(folder, 'deck gear/50 % #1?.wav'), bytes.subarray(0, 100));
writeFileSync(join(folder, 'empty.wav'), '');
writeFileSync(join(top, 'secret.wav'), 'secret');
symlinkSync(join(top, 'secret.wav'), join(folder, 'link out.wav'));
const root = rootFor(folder);

let server: Server;
let base: string;
beforeAll(async () => {
  const { port, ...at } = await served(createApp({ pages: top, roots: [root] }));
  server = at.server;
  base = `http://127.0.0.1:${port}`;
});
afterAll(() => new Promise((done) => server.close(done)));

const { fetch: real } = globalThis;
const post = (body: unknown, headers: Record<string, string> = {}, path = `/api/roots/${root.id}/edges`) =>
  real(base + path, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json', Origin: base, ...headers },
    body: typeof body === 'string' ? body : JSON.stringify(body),
  });

/** Our own client against our own server, as the page uses it. */
const record: RootRecord = { id: 1, name: 'sounds', kind: 'server', serverId: root.id, added: 0 };
beforeAll(() => {
  globalThis.fetch = ((url: string, init?: RequestInit) =>
    real(url.startsWith('/') ? base + url : url, {
      ...init,
      headers: { ...init?.headers, Origin: base },
    })) as typeof fetch;
});
afterAll(() => {
  globalThis.fetch = real;
});

test('heads and tails of many files come by one request, in order; what is not there says so', async () => {
  const paths = ['long.wav', 'gone.wav', 'deck gear/50 % #1?.wav', 'empty.wav', '../secret.wav', 'link out.wav'];
  const sizes = [60_000, 10, 100, 0, 6, 6];
  const edges = await fetchEdges(
    record,
    paths.map((path, i) => ({ path, size: sizes[i], modified: 1 })),
  );
  expect(Buffer.from(edges[0]!.head).equals(bytes.subarray(0, 12_288))).toBe(true);
  expect(Buffer.from(edges[0]!.tail).equals(bytes.subarray(-12_288))).toBe(true);
  expect([edges[1], edges[4], edges[5]]).toEqual([undefined, undefined, undefined]);
  expect([edges[2]!.head.length, edges[2]!.tail.length]).toEqual([100, 0]);
  expect([edges[3]!.head.length, edges[3]!.tail.length]).toEqual([0, 0]);
  // A file that is shorter by now than it was listed is not trusted.
  const [shrunk] = await fetchEdges(record, [{ path: 'deck gear/50 % #1?.wav', size: 20, modified: 1 }]);
  expect(shrunk).toBeUndefined();
  expect(await fetchEdges({ ...record, kind: 'picked' }, [{ path: 'long.wav', size: 1, modified: 1 }])).toEqual([
    undefined,
  ]);
});

test.each([
  ['no list', '{"a":1}', 400],
  ['paths that are none', [5], 400],
  ['an empty path', [''], 400],
  ['too many paths', Array.from({ length: 257 }, () => 'a.wav'), 400],
  ['broken JSON', '[', 400],
  ['more than it takes', ['x'.repeat(600_000)], 413],
])('%s is refused', async (_, body, status) => expect((await post(body)).status).toBe(status));

test('only our own page may ask, and only this may be asked by POST', async () => {
  expect((await post(['long.wav'], { Origin: 'http://elsewhere.example' })).status).toBe(403);
  expect((await post(['long.wav'], {}, `/api/roots/${root.id}/files`)).status).toBe(405);
  expect((await post(['long.wav'], {}, '/api/roots/zzzz/edges')).status).toBe(404);
  const without = await real(`${base}/api/roots/${root.id}/edges`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: '["long.wav"]',
  });
  expect(without.status).toBe(405);
});

test('a root that goes while it is listed breaks the list off, so that no file is taken for gone', async () => {
  const own = join(top, 'pulled out');
  mkdirSync(own);
  for (let i = 0; i < 300; i++) writeFileSync(join(own, `${i}.wav`), 'x');
  const list = listRoot(rootFor(own));
  expect((await list.next()).value.files).toHaveLength(64);
  renameSync(own, join(top, 'elsewhere'));
  await expect(
    (async () => {
      for await (const { files } of list) expect(files.length).toBeLessThanOrEqual(64);
    })(),
  ).rejects.toThrow(/cannot be reached. Is its drive connected/);
});

test('slices are cut as asked, up to the end of the file', async () => {
  const slice = async (range: string) => {
    const response = await real(`${base}/roots/${root.id}/long.wav`, { headers: { Range: range } });
    return {
      status: response.status,
      range: response.headers.get('content-range'),
      body: Buffer.from(await response.arrayBuffer()),
    };
  };
  const some = await slice('bytes=100-299');
  expect([some.status, some.range]).toEqual([206, 'bytes 100-299/60000']);
  expect(some.body.equals(bytes.subarray(100, 300))).toBe(true);
  expect((await slice('bytes=59990-70000')).body.equals(bytes.subarray(59_990))).toBe(true);
  expect((await slice('bytes=59990-70000')).range).toBe('bytes 59990-59999/60000');
  expect((await slice('bytes=60000-60001')).status).toBe(416);
  expect((await slice('bytes=-10')).body.equals(bytes.subarray(-10))).toBe(true);
});

test('the list of a large root comes in parts and whole', async () => {
  const many = join(folder, 'many');
  mkdirSync(many);
  for (let i = 0; i < 200; i++) writeFileSync(join(many, `${i}.wav`), 'x');
  const parts: number[] = [];
  const paths = new Set<string>();
  for await (const { files } of listFiles(record)) {
    parts.push(files.length);
    for (const f of files) paths.add(f.path);
  }
  expect(parts.length).toBeGreaterThan(3);
  expect(paths.size).toBe(203);
  expect(paths.has('link out.wav')).toBe(false);
});
