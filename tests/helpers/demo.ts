import { readFileSync } from 'node:fs';
import { join } from 'node:path';

/** Where each event of the demo's files lies, seconds; by library and path. The demo library has to be made before. */
export function demoTruth(): Record<string, { events: number[]; anchor: number; rate: number }> {
  return JSON.parse(readFileSync('.demo/truth.json', 'utf8')) as ReturnType<typeof demoTruth>;
}

/** The file of a key of {@link demoTruth}. */
export const demoPath = (key: string) => join('.demo/libraries', key);
