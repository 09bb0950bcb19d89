import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** Whether an independent program is there to check with. */
export const has = (program: string) => existsSync(`/usr/bin/${program}`);

/** `test` where the programs are there; elsewhere the test is skipped, and its name says why. */
export function testWith(...programs: string[]): (name: string, task: () => Promise<void>, timeout?: number) => void {
  const missing = programs.filter((p) => !has(p));
  return (name, task, timeout) => {
    if (missing.length === 0) test(name, task, timeout);
    else test.skip(`${name} (${missing.join(', ')} not installed)`, task);
  };
}

/** A folder that no other test writes into. */
export const scratch = () => mkdtempSync(join(tmpdir(), 'cormorant-test-'));

/** Runs a program quietly. @throws Error with what it said when it fails */
export function run(program: string, ...args: string[]): void {
  execFileSync(program, args, { stdio: ['ignore', 'ignore', 'pipe'] });
}

/** Runs ffmpeg and hands over what it reports. */
export const ffmpegSays = (...args: string[]) =>
  spawnSync('ffmpeg', ['-nostats', '-hide_banner', ...args], { encoding: 'utf8' }).stderr;

/** A file's bytes. */
export const bytesOf = (path: string) => new Uint8Array(readFileSync(path));
