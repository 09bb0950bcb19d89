import { textVector, vectorText } from './likeness';

/** What a region, a dropped file or a voice is compared by, as a text that a link can hold. */
export function likeCode(vector: Int8Array, voice = false): string {
  return (voice ? 'v' : 's') + vectorText(vector);
}

/** The inverse of {@link likeCode}; undefined for any other text. */
export function readLikeCode(code: string): { vector: Int8Array; voice: boolean } | undefined {
  const vector = /^[sv]/.test(code) ? textVector(code.slice(1)) : undefined;
  return vector && { vector, voice: code.startsWith('v') };
}
