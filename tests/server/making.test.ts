import { writeWav } from '@core/files';
import type { ExpectedFile } from '@core/schemas';
import { createApp } from '@server/app';
import { FileWriter } from '@server/writing';
import { existsSync, mkdirSync, readdirSync, symlinkSync, writeFileSync } from 'node:fs';
import { request } from 'node:http';
import { join } from 'node:path';
import { served } from '../helpers/served';
import { noise } from '../helpers/signals';
import { bytesIn, expected, writableRoot } from '../helpers/writable';

// New files in a root: whole or not at all, in nobody's place but by their leave, and nowhere else.

const rate = 8000;
const good = writeWav([noise(4000, 0.4, 3)], { rate, bits: 16 }, { info: { INAM: 'Gate' } });
const { top, folder, notes, root, ask, make, served: at } = writableRoot();
const put = (name: string) => writeFileSync(join(folder, name), good);

test('a new file is made with its folders, whole, and never in the place of another; what was made is removed with folders that are empty then', async () => {
  const path = 'Cut/2026/Boots 01.wav';
  const answer = await make(path, good);
  expect(answer.status).toBe(200);
  const now = (await answer.json()) as ExpectedFile;
  expect(bytesIn(join(folder, path))).toEqual(good);
  expect(now).toEqual(await expected(join(folder, path)));
  expect((await make(path, good.slice(0, 50))).status).toBe(409);
  expect((await make('Cut/2026', good)).status).toBe(409);
  expect(bytesIn(join(folder, path))).toEqual(good);
  // It is removed for who knows what it is, and nobody else.
  expect((await ask('remove', { path, ...now, hash: '0'.repeat(16) })).status).toBe(409);
  expect((await ask('remove', { path, ...now, size: 1 })).status).toBe(409);
  put('Cut/keep.wav');
  expect((await ask('remove', { path, ...now })).status).toBe(200);
  expect(existsSync(join(folder, 'Cut/2026'))).toBe(false);
  expect(readdirSync(join(folder, 'Cut'))).toEqual(['keep.wav']);
  expect((await ask('remove', { path, ...now })).status).toBe(404);
});

test('nothing is made outside of the root, under names that a file system refuses, through links, or by other requests', async () => {
  const outside = join(top, 'outside');
  mkdirSync(outside, { recursive: true });
  symlinkSync(outside, join(folder, 'way out'));
  for (const path of [
    '../x.wav',
    'a/../../x.wav',
    '/x.wav',
    'a//x.wav',
    './x.wav',
    '.hidden.wav',
    'a:b.wav',
    'con.wav',
    'x.wav ',
    `${'x'.repeat(300)}.wav`,
    'way out/x.wav',
    '',
  ])
    expect({ path, status: (await make(path, good)).status >= 400 }).toEqual({ path, status: true });
  expect(readdirSync(outside)).toEqual([]);
  expect(existsSync(join(top, 'x.wav'))).toBe(false);
  expect((await make('typed.wav', good, at.base, 'text/plain')).status).toBe(400);
  const foreign = await fetch(`${at.base}/api/roots/${root.id}/make?path=f.wav`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/octet-stream', Origin: 'http://evil.example' },
    body: good as Uint8Array<ArrayBuffer>,
  });
  expect(foreign.status).toBe(403);
  expect(existsSync(join(folder, 'typed.wav'))).toBe(false);
  const reading = await served(
    createApp({ pages: top, roots: [{ ...root, writes: false }], writer: new FileWriter(notes) }),
  );
  expect((await make('n.wav', good, `http://127.0.0.1:${reading.port}`)).status).toBe(405);
  reading.server.close();
  reading.server.closeAllConnections();
  expect(existsSync(join(folder, 'n.wav'))).toBe(false);
});

test('a file takes the place of another for who knows what that one is; until it does, the old one is there', async () => {
  const path = 'Sold/gate.wav';
  const first = (await (await make(path, good)).json()) as ExpectedFile;
  const fresh = writeWav([noise(3000, 0.2, 5)], { rate, bits: 16 });
  const instead = ({ size, modified, hash }: ExpectedFile) => `&instead=${size},${modified},${hash}`;
  for (const wrong of ['&instead=', '&instead=x,y,z', instead({ ...first, size: -1 }), `${instead(first)}0`])
    expect((await make(path, fresh, at.base, undefined, wrong)).status).toBe(400);
  for (const other of [{ size: 1 }, { hash: '0'.repeat(16) }, { modified: 5 }])
    expect((await make(path, fresh, at.base, undefined, instead({ ...first, ...other }))).status).toBe(409);
  const writer = new FileWriter(notes);
  async function* broken() {
    yield fresh.subarray(0, 1000);
    throw new Error('the line went dead');
  }
  await expect(writer.make(root, { path, size: fresh.length, instead: first }, broken())).rejects.toThrow('dead');
  expect(bytesIn(join(folder, path))).toEqual(good);
  // What it was at another time is asked for by content alone.
  const answer = await make(path, fresh, at.base, undefined, instead({ ...first, modified: 0 }));
  expect(await answer.json()).toEqual(await expected(join(folder, path)));
  expect(bytesIn(join(folder, path))).toEqual(fresh);
  const elsewhere = join(top, 'elsewhere.wav');
  writeFileSync(elsewhere, good);
  symlinkSync(elsewhere, join(folder, 'Sold/link.wav'));
  expect((await make('Sold/link.wav', fresh, at.base, undefined, instead(first))).status).toBe(409);
  expect(bytesIn(elsewhere)).toEqual(good);
  expect(readdirSync(join(folder, 'Sold')).sort()).toEqual(['gate.wav', 'link.wav']);
});

test('what breaks off on its way leaves nothing behind', async () => {
  const writer = new FileWriter(notes);
  async function* broken(fail: boolean) {
    yield good.subarray(0, 1000);
    if (fail) throw new Error('the line went dead');
  }
  const path = 'Half/one.wav';
  await expect(writer.make(root, { path, size: good.length }, broken(true))).rejects.toThrow('dead');
  await expect(writer.make(root, { path, size: good.length }, broken(false))).rejects.toThrow('broke off');
  await expect(writer.make(root, { path, size: 10 }, broken(false))).rejects.toThrow('more bytes');
  expect(readdirSync(join(folder, 'Half'))).toEqual([]);
  expect(readdirSync(notes)).toEqual([]);
});

test('who comes back is told to wait until what is on its way has been written, or given up', async () => {
  const until = async (is: () => boolean) => {
    while (!is()) await new Promise((next) => setImmediate(next));
  };
  for (const closed of [false, true]) {
    const path = `slow ${closed}.wav`;
    const asked = request(`${at.base}/api/roots/${root.id}/make?path=${encodeURIComponent(path)}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/octet-stream', 'Content-Length': good.length, Origin: at.base },
    });
    asked.on('error', () => undefined);
    asked.write(good.subarray(0, 1000));
    // It has begun once its file lies beside the place where it will be.
    await until(() => readdirSync(folder).some((name) => name.startsWith(`.${path}`)));
    let rests = false;
    const rest = ask('rest', {}).then((answer) => {
      rests = true;
      return answer;
    });
    // Another request comes and goes, and this one still waits.
    expect(
      (await ask('rename', { path: 'none.wav', name: 'x.wav', size: 1, modified: 1, hash: '0'.repeat(16) })).status,
    ).toBe(404);
    expect([rests, existsSync(join(folder, path))]).toEqual([false, false]);
    if (closed) asked.destroy();
    else asked.end(good.subarray(1000));
    expect((await rest).status).toBe(200);
    expect(existsSync(join(folder, path))).toBe(!closed);
    expect(readdirSync(folder).filter((name) => name.startsWith(`.${path}`))).toEqual([]);
  }
  expect((await ask('rest', {})).status).toBe(200);
});
