import { open, rename } from 'node:fs/promises';

/** Whole, flushed and renamed: it is the old one or the new one. */
export const keepWhole = (path: string, value: unknown): Promise<void> => keepBytes(path, JSON.stringify(value));

/** The same of bytes, or a text. */
export async function keepBytes(path: string, content: Uint8Array | string): Promise<void> {
  const file = await open(`${path}.new`, 'w');
  try {
    await file.writeFile(content);
    await file.sync();
  } finally {
    await file.close();
  }
  await rename(`${path}.new`, path);
}
