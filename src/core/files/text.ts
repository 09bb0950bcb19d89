// Windows-1252 is what editors of the nineties wrote into INFO and bext; UTF-8 is what is written today.
const utf8 = new TextDecoder('utf-8', { fatal: true });
// Not every host's decoder knows where Windows-1252 departs from Latin-1: 0x80 to 0x9f, five of them unassigned.
const upper = '€\u0081‚ƒ„…†‡ˆ‰Š‹Œ\u008dŽ\u008f\u0090‘’“”•–—˜™š›œ\u009džŸ';
const windows1252 = (bytes: Uint8Array) =>
  Array.from(bytes, (b) => (b >= 0x80 && b < 0xa0 ? upper[b - 0x80] : String.fromCharCode(b))).join('');
const encoder = new TextEncoder();

/** Decodes a text field up to its first NUL: as UTF-8 where that is valid, else as Windows-1252. Trims white space. */
export function decodeText(bytes: Uint8Array): string {
  const end = bytes.indexOf(0);
  const text = end < 0 ? bytes : bytes.subarray(0, end);
  try {
    return utf8.decode(text).trim();
  } catch {
    return windows1252(text).trim();
  }
}

/** Encodes text as UTF-8. */
export function encodeText(text: string): Uint8Array {
  return encoder.encode(text);
}

/** Encodes text into a field of exactly `length` bytes, cut at a character border and filled with NUL. */
export function encodeFixed(text: string, length: number): Uint8Array {
  const field = new Uint8Array(length);
  let at = 0;
  for (const character of text) {
    const bytes = encoder.encode(character);
    if (at + bytes.length > length) break;
    field.set(bytes, at);
    at += bytes.length;
  }
  return field;
}
