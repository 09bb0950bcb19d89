import { createApp } from '@server/app';
import { listRoot, openBelow, rootFor, type Listed } from '@server/roots';
import { rootSecret } from '@server/secret';
import { execFileSync, spawn } from 'node:child_process';
import {
  chmodSync,
  existsSync,
  mkdirSync,
  renameSync,
  rmSync,
  symlinkSync,
  unlinkSync,
  watch,
  writeFileSync,
} from 'node:fs';
import { request, type IncomingHttpHeaders, type Server } from 'node:http';
import { join } from 'node:path';
import { scratch } from '../helpers/programs';
import { served } from '../helpers/served';

// A stranger at the door: what other pages may ask of the server, and what a folder may hold.

const top = scratch();
const folder = join(top, 'sounds');
mkdirSync(join(folder, 'inner'), { recursive: true });
mkdirSync(join(top, 'pages'));
writeFileSync(join(top, 'pages/index.html'), '<!doctype html>page');
const wav = Buffer.concat([Buffer.from('RIFF....WAVE'), Buffer.alloc(100, 7)]);
writeFileSync(join(folder, 'a.wav'), wav);
const files: Record<string, string> = {
  'evil.html': '<script>alert(1)</script>',
  'evil.htm': '<script>alert(1)</script>',
  'evil.svg': '<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>',
  'evil.js': 'alert(1)',
  'evil.mjs': 'alert(1)',
  'evil.xml': '<?xml version="1.0"?><x xmlns="http://www.w3.org/1999/xhtml"><script>alert(1)</script></x>',
  'evil.xhtml': '<html xmlns="http://www.w3.org/1999/xhtml"><script>alert(1)</script></html>',
  'evil.pdf': '%PDF-1.4',
  'evil.css': 'body{}',
  'evil.json': '{}',
  'evil.wasm': '\0asm',
  'evil.swf': 'FWS',
  evil: '<script>alert(1)</script>',
};
for (const [name, text] of Object.entries(files)) writeFileSync(join(folder, name), text);
writeFileSync(join(folder, 'page.wav'), files['evil.html']);

const root = rootFor(folder);
let server: Server;
let port: number;
beforeAll(async () => {
  ({ server, port } = await served(createApp({ pages: join(top, 'pages'), roots: [root] })));
});
afterAll(() => {
  server.close();
  server.closeAllConnections();
});
function ask(path: string, headers: Record<string, string> = {}, method = 'GET', body = '') {
  return new Promise<{ status: number; headers: IncomingHttpHeaders; body: string }>((done, fail) => {
    const req = request({ host: '127.0.0.1', port, path, method, headers }, (res) => {
      let said = '';
      res.on('data', (d: Buffer) => (said += d.toString('latin1')));
      res.on('end', () => done({ status: res.statusCode!, headers: res.headers, body: said }));
    });
    req.on('error', fail);
    req.end(body);
  });
}

test.each([...Object.keys(files), 'page.wav', 'a.wav'])(
  '%s out of a root is never a page and never a script',
  async (name) => {
    const { status, headers } = await ask(`/roots/${root.id}/${name}`);
    expect(status).toBe(200);
    expect(headers['content-security-policy']).toBe("sandbox; default-src 'none'");
    expect(headers['x-content-type-options']).toBe('nosniff');
    expect(headers['content-type']).toMatch(name.endsWith('.wav') ? /^audio\// : /^application\/octet-stream$/);
    if (!name.endsWith('.wav')) expect(headers['content-disposition']).toBe('attachment');
  },
);

test.each([
  ['/', 'cross-site', 403],
  ['/label', 'cross-site', 403],
  ['/api/roots', 'cross-site', 403],
  ['/api/roots', 'same-site', 403],
  ['/roots/x/a.wav', 'same-site', 403],
  ['/api/changes', 'cross-site', 403],
  ['/label', 'same-site', 200],
  ['/label', 'none', 200],
  ['/api/roots', 'same-origin', 200],
  ['/api/roots', 'none', 200],
])('%s asked for from %s is answered with %i', async (path, site, status) => {
  expect((await ask(path, { 'Sec-Fetch-Site': site })).status).toBe(status);
});

test('a range beyond the file is refused, however it is written, and what is no range is no harm', async () => {
  const at = async (range: string) => (await ask(`/roots/${root.id}/a.wav`, { Range: range })).status;
  for (const range of ['bytes=5000-', 'bytes=-99999999999999999999', 'bytes=112-112'])
    expect([range, await at(range)]).toEqual([range, 416]);
  for (const range of ['bytes=0-1,4-5', 'chapters=1', 'bytes', 'bytes=x-y', 'bytes=9-3'])
    expect([200, 206, 416]).toContain(await at(range));
  expect(await at('bytes=-12')).toBe(206);
});

test('a body in letters that nobody knows is 415, one too large 413, one that is no list 400', async () => {
  const origin = `http://127.0.0.1:${port}`;
  const post = async (body: string, type = 'application/json') =>
    (await ask(`/api/roots/${root.id}/edges`, { Origin: origin, 'Content-Type': type }, 'POST', body)).status;
  expect(await post('[]', 'application/json; charset=klingon')).toBe(415);
  expect(await post(`["${'x'.repeat(600_000)}"]`)).toBe(413);
  expect(await post('{"a":1}')).toBe(400);
  expect(await post('[')).toBe(400);
});

test('an id cannot be made from a path, stays the same from start to start, and is another for another user', () => {
  const state = join(scratch(), 'state');
  const secret = rootSecret(state);
  expect(rootSecret(state).equals(secret)).toBe(true);
  const id = rootFor(folder, undefined, secret).id;
  expect(id).toMatch(/^[0-9a-f]{24}$/);
  expect(rootFor(folder, undefined, rootSecret(state)).id).toBe(id);
  expect(rootFor(folder, undefined, rootSecret(join(scratch(), 'other'))).id).not.toBe(id);
});

test('a link that is turned elsewhere between looking and reading leads nowhere', async () => {
  writeFileSync(join(top, 'secret.wav'), 'SECRET');
  const link = join(folder, 'inner/swapped.wav');
  let turning = true;
  const turn = (async () => {
    for (let i = 0; turning; i++) {
      symlinkSync(i % 2 ? join(top, 'secret.wav') : join(folder, 'a.wav'), `${link}.new`);
      renameSync(`${link}.new`, link);
      if (i % 8 === 0) await new Promise((done) => setImmediate(done));
    }
  })();
  let [given, refused] = [0, 0];
  for (let i = 0; i < 400; i++) {
    const file = await openBelow(root, ['inner', 'swapped.wav']);
    if (!file) {
      refused++;
      continue;
    }
    const text = (await file.handle.readFile()).toString('latin1');
    await file.handle.close();
    expect(text).not.toContain('SECRET');
    given++;
  }
  turning = false;
  await turn;
  unlinkSync(link);
  expect(given + refused).toBe(400);
  expect(Math.min(given, refused)).toBeGreaterThan(0);
});

async function everything(of: string): Promise<Listed> {
  const all: Listed = { files: [], problems: [] };
  for await (const { files: f, problems } of listRoot(rootFor(of))) {
    all.files.push(...f);
    all.problems.push(...problems);
  }
  return all;
}

test('what is no file to read is listed with its reason: links that lead out, dangle or turn in circles, pipes, names that are no UTF-8', async () => {
  const odd = scratch();
  writeFileSync(join(odd, 'good.wav'), wav);
  symlinkSync(join(top, 'secret.wav'), join(odd, 'out.wav'));
  symlinkSync(join(odd, 'nothing'), join(odd, 'dangling.wav'));
  symlinkSync(join(odd, 'round b.wav'), join(odd, 'round a.wav'));
  symlinkSync(join(odd, 'round a.wav'), join(odd, 'round b.wav'));
  mkdirSync(join(odd, 'folder'));
  symlinkSync(join(odd, 'folder'), join(odd, 'folder/again'));
  execFileSync('mkfifo', [join(odd, 'pipe.wav')]);
  writeFileSync(Buffer.concat([Buffer.from(`${odd}/b`), Buffer.from([0xe9, 0xff]), Buffer.from('d.wav')]), wav);
  symlinkSync(join(odd, 'good.wav'), join(odd, 'inside.wav'));
  const { files: found, problems } = await everything(odd);
  expect(found.map((f) => f.path).sort()).toEqual(['good.wav', 'inside.wav']);
  const reasons = Object.fromEntries(problems.map((p) => [p.path, p.reason]));
  expect(reasons['out.wav']).toMatch(/leads out/);
  expect(reasons['dangling.wav']).toMatch(/not there/);
  expect(reasons['round a.wav']).toMatch(/circle/);
  expect(reasons['round b.wav']).toMatch(/circle/);
  expect(reasons['folder/again']).toMatch(/link to a folder/);
  expect(reasons['pipe.wav']).toMatch(/pipe/);
  expect(problems.find((p) => /UTF-8/.test(p.reason))).toBeDefined();
  expect(problems).toHaveLength(7);
});

const asRoot = process.getuid?.() === 0;
test('a file or folder that may not be read keeps no other one out', async () => {
  const shut = scratch();
  chmodSync(shut, 0o755);
  mkdirSync(join(shut, 'closed'));
  writeFileSync(join(shut, 'closed/inner.wav'), wav);
  for (const name of ['one.wav', 'two.wav', 'secret.wav']) writeFileSync(join(shut, name), wav);
  chmodSync(join(shut, 'secret.wav'), 0);
  chmodSync(join(shut, 'closed'), 0);
  // Root may read everything: the server runs as somebody else then.
  const home = scratch();
  chmodSync(home, 0o777);
  const child = spawn('node', ['--import', 'tsx', 'src/server/main.ts', '--port', '0', shut], {
    ...(asRoot ? { uid: 65_534, gid: 65_534 } : {}),
    env: { ...process.env, HOME: home, XDG_STATE_HOME: home, TSX_DISABLE_CACHE: '1', TMPDIR: home },
  });
  try {
    const url = await new Promise<string>((done, fail) => {
      let said = '';
      const listen = (data: Buffer) => {
        said += String(data);
        const found = /http:\/\/127\.0\.0\.1:\d+/.exec(said)?.[0];
        if (found) done(found);
      };
      child.stdout.on('data', listen);
      child.stderr.on('data', listen);
      child.on('close', () => fail(new Error(said)));
    });
    const [{ id }] = (await (await fetch(`${url}/api/roots`)).json()) as { id: string }[];
    const lines = (await (await fetch(`${url}/api/roots/${id}/files`)).text()).trim().split('\n');
    const parts = lines.map((l) => JSON.parse(l) as Listed);
    expect(parts.flatMap((p) => p.files.map((f) => f.path)).sort()).toEqual(['one.wav', 'secret.wav', 'two.wav']);
    expect(parts.flatMap((p) => p.problems)).toEqual([
      { path: 'closed', reason: expect.stringMatching(/no permission/) as string, folder: true },
    ]);
    expect((await fetch(`${url}/roots/${id}/one.wav`)).status).toBe(200);
    const refused = await fetch(`${url}/roots/${id}/secret.wav`);
    expect([refused.status, ((await refused.json()) as { error: string }).error]).toEqual([
      404,
      expect.stringMatching(/no permission/),
    ]);
    const edges = await fetch(`${url}/api/roots/${id}/edges`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', Origin: url },
      body: JSON.stringify(['one.wav', 'secret.wav', 'two.wav']),
    });
    expect((await edges.arrayBuffer()).byteLength).toBe(2 * (8 + wav.length) + 8);
  } finally {
    child.kill();
    chmodSync(join(shut, 'closed'), 0o755);
  }
});

test('however many pages listen, a folder is watched once, and not at all when none does', async () => {
  const own = scratch();
  const watched = jest.fn(watch);
  jest.spyOn(jest.requireActual<typeof import('node:fs')>('node:fs'), 'watch').mockImplementation(watched as never);
  const { server: other, port } = await served(createApp({ pages: top, roots: [rootFor(own)] }));
  const stops = Array.from({ length: 5 }, () => new AbortController());
  const streams = await Promise.all(
    stops.map((s) => fetch(`http://127.0.0.1:${port}/api/changes`, { signal: s.signal })),
  );
  const readers = streams.map((s) => s.body!.pipeThrough(new TextDecoderStream()).getReader());
  const until = async (reader: (typeof readers)[number], text: string) => {
    for (let said = ''; !said.includes(text);) said += (await reader.read()).value ?? '';
  };
  await Promise.all(readers.map((r) => until(r, 'begun')));
  expect(watched.mock.calls.filter(([path]) => path === own).length).toBe(1);
  writeFileSync(join(own, 'a.wav'), 'x');
  await Promise.all(readers.map((r) => until(r, 'data:')));
  for (const s of stops) s.abort();
  jest.restoreAllMocks();
  other.closeAllConnections();
  await new Promise((done) => other.close(done));
  expect(existsSync(own)).toBe(true);
  rmSync(own, { recursive: true });
});
