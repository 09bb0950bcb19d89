import type { Print } from '@core/audio';
import { printText } from '@core/elsewhere';
import { Random } from '@core/synth';
import { HostLink } from '@platform/elsewhere/host';
import express from 'express';
import { mkdtempSync, rmSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { WebSocket } from 'ws';
import { Exchange, type KeptEntry } from '../src/services/exchange/model';
import { HostFolder, SessionHost } from '../src/services/host';

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
