import type { Print } from '@core/audio';
import { printText } from '@core/elsewhere';
import { Random } from '@core/synth';
import { HostLink } from '@platform/elsewhere/host';
import type { TeamChanges } from '@core/schemas';
import express from 'express';
import { spawn, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { WebSocket } from 'ws';
import { Exchange, type KeptEntry } from '../src/services/exchange/model';
import { HostFolder, SessionHost } from '../src/services/host';
import { Team, TeamFolder } from '../src/services/team';

type Line = (what: string, measured: string, reach: string) => void;

/** Sounds on the exchange, and of how many one asks. */
const [SOUNDS, ASKED] = [100_000, 10_000];
const hashOf = (n: number) => n.toString(16).padStart(32, '0');

/** A print as noise has it: no two are of the same recording. */
function made(random: Random, frames: number): Print {
  return {
    words: Uint32Array.from({ length: frames }, () => Math.floor(random.next() * 2 ** 32)),
    under: Uint8Array.from({ length: frames }, () => Math.floor(random.next() * 40)),
  };
}

/** The same recording in another coding: some bits are turned, and its head is cut. */
function coded({ words, under }: Print, random: Random): Print {
  const turned = words.map((w) => (random.next() < 0.3 ? (w ^ (1 << Math.floor(random.next() * 32))) >>> 0 : w));
  const cut = Math.floor(random.next() * 12);
  return { words: turned.subarray(cut), under: under.subarray(cut) };
}

/** What the stand-in services answer, without the way there. */
export function exchanging(line: Line): void {
  const random = new Random(5);
  const prints = Array.from({ length: SOUNDS }, () => made(random, 40 + Math.floor(random.next() * 120)));
  const entries = prints.map((print, i): KeptEntry => ({
    hash: hashOf(i),
    revision: 1,
    labels: { fxName: `Sound ${i}` },
    print: printText(print),
  }));
  const key = { kty: 'EC', crv: 'P-256', x: '', y: '' } as const;
  const exchange = new Exchange([{ publisher: 'Made up', key, revision: 1, entries, publications: [] }]);
  const timed = <T>(work: () => T): [T, number] => {
    const from = performance.now();
    return [work(), performance.now() - from];
  };
  const hashes = Array.from({ length: ASKED }, (_, i) => hashOf(i * 10));
  const [exact, exactMs] = timed(() => exchange.lookUp({ publisher: 'made up', hashes }));
  line(
    `${ASKED.toLocaleString('en')} exact fingerprints looked up among ${SOUNDS.toLocaleString('en')}`,
    `${(exactMs / 1000).toFixed(3)} s, ${exact.entries.length.toLocaleString('en')} found`,
    '3 s',
  );
  const near = (asked: Print[]) => {
    let found = 0;
    let wrong = 0;
    for (let at = 0; at < asked.length; at += 200) {
      const answer = exchange.lookNear({ publisher: 'made up', prints: asked.slice(at, at + 200).map(printText) });
      found += answer.found.length;
      for (const f of answer.found) if (f.entry.hash !== hashOf((at + f.at) * 10)) wrong++;
    }
    return { found, wrong };
  };
  const [, indexMs] = timed(() => near([prints[0]]));
  line('Their robust fingerprints in a table', `${(indexMs / 1000).toFixed(1)} s, once`, '');
  const [known, knownMs] = timed(() => near(hashes.map((_, i) => coded(prints[i * 10], random))));
  line(
    `${ASKED.toLocaleString('en')} in another coding, cut at the head, looked up there`,
    `${(knownMs / 1000).toFixed(1)} s, ${known.found.toLocaleString('en')} found, ${known.wrong} of them wrong`,
    '3 s',
  );
  const [unknown, unknownMs] = timed(() => near(Array.from({ length: ASKED }, () => made(random, 100))));
  line(
    `${ASKED.toLocaleString('en')} that are not there`,
    `${(unknownMs / 1000).toFixed(1)} s, ${unknown.found} found`,
    'none found',
  );
}

/** How long a session host takes to place a sound, as its sender sees it: over a socket, until what it did is on the disk. */
export async function hosting(line: Line): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'cormorant-bench-host-'));
  const host = new SessionHost(new HostFolder(folder));
  const server = express().use('/host', host.router).listen(0, '127.0.0.1');
  server.on('upgrade', (req, socket, head) => host.upgrade(req, socket, head));
  await new Promise((go) => server.once('listening', go));
  const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}/host/`;
  const nothing = () => undefined;
  const hears = { connection: nothing, state: nothing, transport: nothing, wanted: nothing };
  const link = new HostLink(base, 'The bench', hears, (url) => new WebSocket(url) as never);
  link.connect();
  const random = new Random(7);
  const took: number[] = [];
  for (let i = 0; i < 60; i++) {
    // Two seconds of stereo, 24 bit.
    const file = new Blob([Uint8Array.from({ length: 576_000 }, () => Math.floor(random.next() * 256))]);
    const from = performance.now();
    const sum = await link.send(file);
    const own = { lane: 0, at: i * 96_000, length: 96_000, from: 0, frames: 96_000, file: sum, name: `Sound ${i}` };
    await link.act({ do: 'place', label: own.name, pieces: [{ ...own, gain: 0, fadeIn: 0, fadeOut: 0 }] });
    took.push(performance.now() - from);
  }
  link.close();
  host.close();
  server.close();
  server.closeAllConnections();
  rmSync(folder, { recursive: true, force: true });
  const sorted = took.sort((a, b) => a - b);
  line(
    'A sound of 2 s sent to the session host and placed, until that is on its disk',
    `${sorted[30].toFixed(0)} ms, p95 ${sorted[56].toFixed(0)} ms`,
    '100 ms',
  );
}

/** What a team's server takes over a library of 100,000 sounds: a catch-up, people who look and hear at once, and files that are sent. */
export async function teaming(line: Line): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'cormorant-bench-team-'));
  let invitation = '';
  const team = new Team(new TeamFolder(folder), { invite: (token) => (invitation = token) });
  const server = express().use('/team', team.router).listen(0, '127.0.0.1');
  await new Promise((go) => server.once('listening', go));
  const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}/team/`;
  let cookie = '';
  const ask = async <T>(path: string, body?: unknown, headers: Record<string, string> = {}): Promise<T> => {
    const raw = body instanceof Uint8Array;
    const response = await fetch(base + path, {
      ...(body === undefined ? {} : { method: 'POST', body: raw ? (body as BodyInit) : JSON.stringify(body) }),
      headers: { Cookie: cookie, 'Content-Type': raw ? 'application/octet-stream' : 'application/json', ...headers },
    });
    cookie ||= response.headers.getSetCookie()[0]?.split(';')[0] ?? '';
    if (!response.ok) throw new Error(`${path}: ${response.status} ${await response.text()}`);
    const text = await response.text();
    return (text.startsWith('{') || text.startsWith('[') ? JSON.parse(text) : text) as T;
  };
  await ask('v1/join', { invitation, name: 'Bench', password: 'long enough for it' });
  await ask('v1/libraries', { name: 'Large' });
  const content = new Uint8Array(1_000_000).map((_, i) => i % 251);
  const file = createHash('sha256').update(content).digest('hex');
  await ask(`v1/libraries/1/files/${file}?at=0&size=${content.length}`, content);
  const format = {
    ...{ container: 'WAV', encoding: 'pcm', unsigned: false, littleEndian: true, rate: 48_000, channels: 2, bits: 24 },
    ...{ blockAlign: 6, frames: 160_000, dataOffset: 44 },
  };
  const sound = (i: number) => ({
    ...{ path: `${i % 600}/Sound ${i}.wav`, file, size: content.length, format, anchor: 0, hash: hashOf(i) },
    ...{ contour: '00'.repeat(200), like: 's'.padEnd(129, '5') },
    fields: { fxName: `Sound ${i}`, keywords: ['wood', 'door'], description: 'As it was heard in the yard, close by' },
  });
  const timed = async (work: () => Promise<unknown>): Promise<number> => {
    const from = performance.now();
    await work();
    return performance.now() - from;
  };
  const added = await timed(async () => {
    for (let at = 0; at < SOUNDS; at += 2000)
      await ask('v1/libraries/1/sounds', { sounds: Array.from({ length: 2000 }, (_, i) => sound(at + i)) });
  });
  line(
    `${SOUNDS.toLocaleString('en')} sounds added to a library of a team, 2,000 at a time`,
    `${(added / 1000).toFixed(1)} s`,
    '',
  );
  const first = await timed(() => ask('v1/libraries/1/changes?since=0'));
  line('The first 2,000 of them read by another', `${first.toFixed(0)} ms`, '100 ms');
  const { revision } = (await ask<{ revision: number }[]>('v1/libraries'))[0];
  const edits = Array.from({ length: 100 }, (_, i) => ({ id: 1 + i * 997, was: {}, is: { notes: `n ${i}` } }));
  await ask('v1/libraries/1/edits', { edits });
  let told = 0;
  const caught = await timed(async () => {
    told = (await ask<{ changed: unknown[] }>(`v1/libraries/1/changes?since=${revision}`)).changed.length;
  });
  line('Caught up after 100 changes', `${caught.toFixed(0)} ms, ${told} told`, '300 ms, and only those');
  const opened = await timed(() => Promise.resolve(new TeamFolder(folder)));
  line('Started again over it', `${(opened / 1000).toFixed(1)} s`, '');
  server.close();
  server.closeAllConnections();
  await alone(folder, cookie, revision, line);
  rmSync(folder, { recursive: true, force: true });
}

/** The server in a process of its own, as it runs: many people at once, killed again and again, and a file beyond its memory. */
async function alone(folder: string, cookie: string, revision: number, line: Line): Promise<void> {
  let child: ChildProcess;
  let base = '';
  const start = async (): Promise<void> => {
    child = spawn('node', ['--import', 'tsx', 'src/services/main.ts', '--team', folder, '--port', '0'], {
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    base = await new Promise<string>((done) => {
      let said = '';
      child.stdout!.on('data', (part) => {
        const found = /http:\/\/\S+\/team\//.exec((said += String(part)));
        if (found) done(found[0]);
      });
    });
  };
  const kill = async (): Promise<void> => {
    const over = new Promise((go) => child.once('exit', go));
    child.kill('SIGKILL');
    await over;
  };
  const ask = async <T>(path: string, init: RequestInit = {}): Promise<T> => {
    const response = await fetch(base + path, { ...init, headers: { Cookie: cookie, ...init.headers } });
    const bytes = await response.arrayBuffer();
    if (!response.ok) throw new Error(`${path}: ${response.status}`);
    const isJson = response.headers.get('content-type')?.includes('json');
    return (isJson ? JSON.parse(Buffer.from(bytes).toString('utf8')) : bytes) as T;
  };
  const json = (body: unknown): RequestInit => ({
    ...{ method: 'POST', body: JSON.stringify(body), headers: { 'Content-Type': 'application/json' } },
  });
  await start();
  const took: number[] = [];
  const person = async (who: number): Promise<void> => {
    for (let n = 0; n < 20; n++) {
      // Nobody hears more than two or three sounds a second.
      await new Promise((go) => setTimeout(go, 200 + ((who * 131 + n * 197) % 400)));
      const id = 1 + ((who * 7919 + n * 104_729) % SOUNDS);
      const from = performance.now();
      await ask(`v1/libraries/1/audio/${id}`, { headers: { Range: `bytes=0-${(1 << 18) - 1}` } });
      if (n % 4 === 0) await ask(`v1/libraries/1/changes?since=${revision}`);
      took.push(performance.now() - from);
    }
  };
  await Promise.all(Array.from({ length: 50 }, (_, i) => person(i)));
  took.sort((a, b) => a - b);
  const p95 = took[Math.floor(took.length * 0.95)].toFixed(0);
  line(
    '50 people hearing two or three sounds a second each and looking for changes, each answer',
    `p95 ${p95} ms`,
    '200 ms',
  );

  // What was answered is there, whenever it is killed; what was not may be or not.
  const kept = new Map<number, string>();
  let asked = 0;
  for (let turn = 0; turn < 10; turn++) {
    let going = true;
    const writes = Array.from({ length: 4 }, async (_, w) => {
      for (let n = 0; going; n++) {
        const id = 1 + turn * 1000 + w * 200 + n;
        const page = `turn ${turn}, ${w}, ${n}`;
        asked++;
        await ask('v1/libraries/1/edits', json({ edits: [{ id, was: {}, is: { page } }] })).then(
          () => kept.set(id, page),
          () => (going = false),
        );
      }
    });
    await new Promise((go) => setTimeout(go, 300 + 40 * turn));
    await kill();
    await Promise.all(writes);
    await start();
  }
  const found = new Map<number, unknown>();
  for (let since = revision, more = true; more;) {
    const told = await ask<TeamChanges>(`v1/libraries/1/changes?since=${since}`);
    for (const row of told.changed) found.set(row.id, row.fields.page);
    [since, more] = [told.revision, told.more];
  }
  const lost = [...kept].filter(([id, page]) => found.get(id) !== page).length;
  line(
    'Killed ten times while four people write, and started again',
    `${asked.toLocaleString('en')} edits, ${kept.size.toLocaleString('en')} answered, ${lost} lost`,
    'none lost',
  );

  const memory = () => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${child.pid}/status`, 'utf8'))?.[1]) / 1000;
  const gigabytes = Number(process.env.CORMORANT_BENCH_GB ?? 2);
  const [size, part] = [gigabytes * 1e9, Buffer.alloc(8 << 20, 1)];
  const hash = createHash('sha256');
  for (let at = 0; at < size; at += part.length) hash.update(part.subarray(0, Math.min(part.length, size - at)));
  const sum = hash.digest('hex');
  const before = memory();
  let most = 0;
  const from = performance.now();
  for (let at = 0; at < size;) {
    const body = part.subarray(0, Math.min(part.length, size - at));
    ({ at } = await ask<{ at: number }>(`v1/libraries/1/files/${sum}?at=${at}&size=${size}`, { method: 'POST', body }));
    most = Math.max(most, memory());
  }
  const seconds = (performance.now() - from) / 1000;
  line(
    `A file of ${gigabytes} GB added`,
    `${seconds.toFixed(0)} s, ${Math.max(0, most - before).toFixed(0)} MB more of memory at the most`,
    'constant memory',
  );
  await kill();
}
