import { memorySource, quickHashOf } from '@core/files';
import type { ExpectedFile } from '@core/schemas';
import { createApp } from '@server/app';
import { rootFor } from '@server/roots';
import { FileWriter } from '@server/writing';
import { mkdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import type { Server } from 'node:http';
import { join } from 'node:path';
import { scratch } from './programs';
import { served } from './served';

export const bytesIn = (path: string): Uint8Array => new Uint8Array(readFileSync(path));

/** What a file is now, as whoever writes it has to say. */
export async function expected(path: string): Promise<ExpectedFile> {
  const { size, mtimeMs } = statSync(path);
  return { size, modified: mtimeMs, hash: await quickHashOf(memorySource(bytesIn(path))) };
}

/** A root that is served for writing, for the tests of one file. */
export function writableRoot() {
  const top = scratch();
  const folder = join(top, 'sounds');
  const notes = join(top, 'notes');
  mkdirSync(folder);
  const root = { ...rootFor(folder), writes: true };
  /** Where it is served, once tests run. */
  const at = { base: '' };
  let server: Server;
  beforeAll(async () => {
    const made = await served(createApp({ pages: top, roots: [root], writer: new FileWriter(notes) }));
    server = made.server;
    at.base = `http://127.0.0.1:${made.port}`;
  });
  afterAll(() => {
    server.close();
    server.closeAllConnections();
    rmSync(top, { recursive: true, force: true });
  });
  const ask = (what: string, body: object, base = at.base) =>
    fetch(`${base}/api/roots/${root.id}/${what}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', Origin: base },
      body: JSON.stringify(body),
    });
  /** Asks for a new file. */
  const make = (path: string, body: Uint8Array, base = at.base, type = 'application/octet-stream', more = '') =>
    fetch(`${base}/api/roots/${root.id}/make?path=${encodeURIComponent(path)}${more}`, {
      method: 'POST',
      headers: { 'Content-Type': type, Origin: base },
      body: body as Uint8Array<ArrayBuffer>,
    });
  return { top, folder, notes, root, ask, make, served: at };
}
