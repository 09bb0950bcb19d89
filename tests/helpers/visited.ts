import { cpSync, mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** Where Chromium keeps what the first visit took in, and the port it was at: the browser keeps a library for each address. */
export const visited = fileURLToPath(new URL('../../.cache/visited', import.meta.url));
export const visitedAt = join(visited, 'port');

/** A copy of the first visit to go on from. */
export function visitedCopy(): { folder: string; url: string } {
  const folder = mkdtempSync(join(tmpdir(), 'cormorant-visit-'));
  cpSync(visited, folder, { recursive: true, filter: (path) => !/Singleton|lockfile/.test(path) });
  return { folder, url: `http://127.0.0.1:${readFileSync(visitedAt, 'utf8')}/` };
}
