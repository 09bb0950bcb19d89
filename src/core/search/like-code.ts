import { LIKENESS_SIZE } from './likeness';

/** What a region, a dropped file or a voice is compared by, as a text that a link can hold: its kind, then two digits a number. */
export function likeCode(vector: Int8Array, voice = false): string {
  return (voice ? 'v' : 's') + Array.from(vector, (n) => (n & 255).toString(16).padStart(2, '0')).join('');
}

/** The inverse of {@link likeCode}; undefined for any other text. */
export function readLikeCode(code: string): { vector: Int8Array; voice: boolean } | undefined {
  if (code.length !== 1 + 2 * LIKENESS_SIZE || !/^[sv][0-9a-f]*$/.test(code)) return undefined;
  const vector = Int8Array.from({ length: LIKENESS_SIZE }, (_, i) => parseInt(code.slice(2 * i + 1, 2 * i + 3), 16));
  return { vector, voice: code.startsWith('v') };
}
