import { open, rename } from 'node:fs/promises';

/** Whole, flushed and renamed: it is the old one or the new one. */
export async function keepWhole(path: string, value: unknown): Promise<void> {
  const file = await open(`${path}.new`, 'w');
  try {
    await file.writeFile(JSON.stringify(value));
    await file.sync();
  } finally {
    await file.close();
  }
  await rename(`${path}.new`, path);
}
