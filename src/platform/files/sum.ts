import { createSHA256 } from 'hash-wasm';

/** Bytes that are read at once. */
export const READ = 8 << 20;

/** SHA-256 of a file, in hexadecimal. */
export async function sumOf(blob: Blob): Promise<string> {
  const hash = await createSHA256();
  for (let at = 0; at < blob.size; at += READ)
    hash.update(new Uint8Array(await blob.slice(at, at + READ).arrayBuffer()));
  return hash.digest();
}
