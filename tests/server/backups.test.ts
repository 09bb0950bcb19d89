import 'fake-indexeddb/auto';
import type { KeptBackup } from '@core/library';
import { serverShelf, type Shelf } from '@platform/store/shelves';
import { createApp } from '@server/app';
import { BackupFolder } from '@server/backups';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { emptyStore, likeABrowser } from '../helpers/browser';
import { Desk, raw } from '../helpers/desk';
import { served } from '../helpers/served';

const top = mkdtempSync(join(tmpdir(), 'cormorant-backups-'));
const folder = join(top, 'backups');
const library = '0f8fad5b-d9cb-469f-a165-70867728950e';
const real = globalThis.fetch;
let server: Server;
let port: number;
let shelf: Shelf;
/** Told what the server logs: something failed, and is over. */
let logged: (line: string) => void = () => undefined;

beforeAll(async () => {
  likeABrowser();
  ({ server, port } = await served(
    createApp({ pages: top, roots: [], backups: new BackupFolder(folder), log: (line) => logged(line) }),
  ));
  const base = `http://127.0.0.1:${port}`;
  // A page says where it comes from; Node.js does not.
  globalThis.fetch = (url, init) => real(url, { ...init, headers: { ...init?.headers, Origin: base } });
  shelf = serverShelf(base);
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));
afterAll(() => {
  globalThis.fetch = real;
  server.close();
  rmSync(top, { recursive: true, force: true });
});

const text = async (backup: KeptBackup) => (await shelf.read(backup)).text();

test('what is handed over comes back to the byte, newest first, and goes when asked', async () => {
  expect(await shelf.list()).toEqual([]);
  for (const at of [1000, 3000, 2000]) await shelf.write({ library, at, revision: at / 1000 }, new Blob([`at ${at}`]));
  const all = (await shelf.list())!;
  expect(all).toEqual([3, 2, 1].map((n) => ({ where: 'server', library, at: 1000 * n, revision: n, bytes: 7 })));
  expect(await Promise.all(all.map(text))).toEqual(['at 3000', 'at 2000', 'at 1000']);
  await shelf.remove(all[1]);
  expect((await shelf.list())!.map((b) => b.at)).toEqual([3000, 1000]);
  await expect(shelf.read(all[1])).rejects.toThrow('There is no such backup.');
});

test('what lies there beside is no backup, and nothing is reached outside of the folder', async () => {
  await shelf.write({ library, at: 1, revision: 1 }, new Blob(['x']));
  writeFileSync(join(folder, 'notes.txt'), 'mine');
  for (const name of ['1-1.backup.bak', '.x.writing', '2-2.backup']) writeFileSync(join(folder, library, name), '');
  expect((await shelf.list())!.map((b) => b.at)).toEqual([1]);
  writeFileSync(join(top, '5-5.backup'), 'outside');
  for (const bad of ['..', '%2e%2e', `..%2f${library}`, 'x'.repeat(36), `${library}%00`]) {
    const at = `http://127.0.0.1:${port}/api/backups/${bad}/5/5`;
    expect((await fetch(at)).status).toBeGreaterThanOrEqual(400);
    for (const what of ['keep', 'remove'])
      expect((await fetch(`${at}/${what}`, { method: 'POST', body: new Blob(['y']) })).status).toBeGreaterThanOrEqual(
        400,
      );
  }
  expect(readdirSync(top).sort()).toEqual(['5-5.backup', 'backups']);
});

test('another page keeps, reads and removes nothing', async () => {
  await shelf.write({ library, at: 1, revision: 1 }, new Blob(['x']));
  const at = `http://127.0.0.1:${port}/api/backups/${library}/1/1`;
  for (const headers of [
    { Origin: 'http://elsewhere.example' },
    { 'Sec-Fetch-Site': 'cross-site' },
    { 'Sec-Fetch-Site': 'same-site' },
  ])
    for (const [url, method] of [
      [at, 'GET'],
      [`${at}/keep`, 'POST'],
      [`${at}/remove`, 'POST'],
    ] as const)
      expect((await real(url, { method, headers: headers as unknown as HeadersInit })).status).toBeGreaterThanOrEqual(
        403,
      );
  expect(await text({ where: 'server', library, at: 1, revision: 1, bytes: 1 })).toBe('x');
});

test('one that breaks off on its way leaves the one that was there, and nothing beside', async () => {
  await shelf.write({ library, at: 1, revision: 1 }, new Blob(['whole']));
  const over = new Promise<string>((done) => (logged = done));
  await new Promise<void>((done) => {
    const socket = connect(port, '127.0.0.1', () => {
      const head = `POST /api/backups/${library}/1/1/keep HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\nOrigin: http://127.0.0.1:${port}\r\n`;
      socket.write(`${head}Content-Type: application/octet-stream\r\nContent-Length: 1000\r\n\r\nonly some`, () =>
        socket.destroy(),
      );
    });
    socket.on('close', () => done());
  });
  expect(await over).toContain(`/api/backups/${library}/1/1/keep`);
  expect(readdirSync(join(folder, library))).toEqual(['1-1.backup']);
  expect(await text({ where: 'server', library, at: 1, revision: 1, bytes: 5 })).toBe('whole');
});

describe('by itself', () => {
  const desk = new Desk();
  const silent = () => undefined;
  const full: Shelf = {
    where: 'browser',
    list: () => Promise.resolve([]),
    read: () => Promise.reject(new Error('there is none')),
    write: () => Promise.reject(new Error('the disk is full')),
    remove: () => Promise.resolve(),
  };
  beforeEach(() => desk.fresh());
  afterEach(() => desk.close());

  test('a library is kept on each shelf that takes it, once for each state, and comes back from there', async () => {
    await desk.start(full, shelf);
    const root = { id: 2, name: 'Root', kind: 'picked', added: 1, handles: [] };
    await desk.put('Add a folder', [{ table: 'roots', id: 2, after: root }]);
    await desk.take(raw(5, 'a.wav', { notes: 'kept' }));
    await expect(desk.labeller.backUpByItself(silent)).rejects.toThrow('in the browser: the disk is full');
    expect(await shelf.list()).toHaveLength(1);
    await expect(desk.labeller.backUpByItself(silent)).rejects.toThrow('full');
    expect(await shelf.list()).toHaveLength(1);
    const [backup] = (await shelf.list())!;
    expect(backup.library).toBe((await desk.catalogue.known()).store);
    // The browser throws its database away: another library, whose backups are others.
    desk.close();
    emptyStore();
    await desk.start(shelf);
    const facts = await desk.labeller.readBackup((await shelf.read(backup)) as File, silent);
    await desk.labeller.restore(
      facts.tables.map((t) => t.table),
      false,
      'Restore',
      silent,
    );
    expect((await desk.fields(5)).notes).toBe('kept');
    expect(await desk.labeller.backUpByItself(silent)).toBe(true);
    expect(new Set((await shelf.list())!.map((b) => b.library)).size).toBe(2);
    expect(await desk.labeller.backUpByItself(silent)).toBe(false);
  });

  test('old ones of its own go, those of another library stay', async () => {
    const hour = 3_600_000;
    const other = library.replace('0', '1');
    await desk.start(shelf);
    const own = (await desk.catalogue.known()).store;
    for (let n = 0; n < 40; n++)
      for (const whose of [own, other])
        await shelf.write({ library: whose, at: Date.now() - (n + 1) * hour, revision: 9000 + n }, new Blob(['x']));
    await desk.take(raw(5, 'a.wav'));
    expect(await desk.labeller.backUpByItself(silent)).toBe(true);
    const left = (await shelf.list())!;
    expect(left.filter((b) => b.library === other)).toHaveLength(40);
    expect(left.filter((b) => b.library === own).length).toBeLessThan(12);
  });
});
