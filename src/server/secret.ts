import { randomBytes } from 'node:crypto';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { join } from 'node:path';

/** The user's own folder for what is kept from start to start (XDG Base Directory Specification). */
export const stateFolder = (): string =>
  join(process.env.XDG_STATE_HOME ?? join(homedir(), '.local/state'), 'cormorant');

/**
 * What ids of roots are made with, so that nobody who knows a path can guess its id; kept in the user's own state folder, so that they
 * stay the same from start to start.
 * @param folder where
 */
export function rootSecret(folder = stateFolder()): Buffer {
  const file = join(folder, 'root-secret');
  try {
    const kept = readFileSync(file);
    if (kept.length === 32) return kept;
  } catch {
    // There is none yet.
  }
  const made = randomBytes(32);
  try {
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    writeFileSync(file, made, { mode: 0o600 });
  } catch {
    // Nowhere to keep it: ids are others next time, and roots are recognised by what is in them.
  }
  return made;
}
