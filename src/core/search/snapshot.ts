/** A piece of plain data of the index. */
export type Part = Uint8Array | Uint16Array | Uint32Array | Float64Array;

const kinds = { Uint8Array, Uint16Array, Uint32Array, Float64Array } as const;
type Kind = keyof typeof kinds;

interface Entry {
  name: string;
  kind: Kind;
  /** Bytes from the end of the head. */
  at: number;
  length: number;
  sum: number;
}

interface Head {
  format: 'cormorant-index';
  version: number;
  /** What the index was built for; another build's fields make it useless. */
  built: string;
  facts: Record<string, unknown>;
  parts: Entry[];
}

/** The version of the layout; any other is built anew. */
export const SNAPSHOT_VERSION = 2;
const ALIGN = 8;
const aligned = (n: number) => Math.ceil(n / ALIGN) * ALIGN;
const kindOf = (part: Part): Kind =>
  part instanceof Float64Array
    ? 'Float64Array'
    : part instanceof Uint32Array
      ? 'Uint32Array'
      : part instanceof Uint16Array
        ? 'Uint16Array'
        : 'Uint8Array';

/** A sum over all bytes that changes when any of them does: FNV-1a by words of four bytes. */
function sumOf(bytes: Uint8Array): number {
  const whole = bytes.byteLength >>> 2;
  const words = new Uint32Array(bytes.buffer, bytes.byteOffset, whole);
  let sum = 0x811c9dc5 | 0;
  for (let i = 0; i < whole; i++) sum = Math.imul(sum ^ words[i], 0x01000193);
  for (let i = whole * 4; i < bytes.byteLength; i++) sum = Math.imul(sum ^ bytes[i], 0x01000193);
  return sum >>> 0;
}

/** Bytes of a part, at an address that is a multiple of four, as sums are made by words. */
function bytesOf(part: Part): Uint8Array {
  const bytes = new Uint8Array(part.buffer, part.byteOffset, part.byteLength);
  return bytes.byteOffset % 4 === 0 ? bytes : bytes.slice();
}

/**
 * Makes the pieces of a snapshot file, to be written one after another, in steps; nothing large is copied, so that
 * whoever writes them has to begin anew when the parts change meanwhile.
 */
export function* packSnapshot(
  built: string,
  facts: Record<string, unknown>,
  parts: ReadonlyMap<string, Part>,
): Generator<void, Uint8Array[]> {
  const entries: Entry[] = [];
  const pieces: Uint8Array[] = [];
  let at = 0;
  for (const [name, part] of parts) {
    const bytes = bytesOf(part);
    entries.push({ name, kind: kindOf(part), at, length: part.length, sum: sumOf(bytes) });
    pieces.push(bytes, new Uint8Array(aligned(bytes.byteLength) - bytes.byteLength));
    at += aligned(bytes.byteLength);
    yield;
  }
  const head: Head = { format: 'cormorant-index', version: SNAPSHOT_VERSION, built, facts, parts: entries };
  const text = new TextEncoder().encode(JSON.stringify(head));
  const first = new Uint8Array(aligned(ALIGN + text.length));
  const view = new DataView(first.buffer);
  view.setUint32(0, text.length, true);
  // A head that names a part wrongly would leave it out in silence, so the head has a sum as the parts do.
  view.setUint32(4, sumOf(text), true);
  first.set(text, ALIGN);
  return [first, ...pieces];
}

/**
 * Opens a snapshot; its parts are views of the buffer.
 * @throws Error when it is damaged, cut off, or was made by another version or for other fields
 */
export function openSnapshot(
  buffer: ArrayBuffer,
  built: string,
): { facts: Record<string, unknown>; parts: Map<string, Part> } {
  if (buffer.byteLength < ALIGN) throw new Error('it is empty');
  const view = new DataView(buffer);
  const length = view.getUint32(0, true);
  if (ALIGN + length > buffer.byteLength) throw new Error('it is cut off');
  const text = new Uint8Array(buffer, ALIGN, length);
  if (sumOf(text) !== view.getUint32(4, true)) throw new Error('its head is damaged');
  const head = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(text)) as Head;
  if (head.format !== 'cormorant-index' || head.version !== SNAPSHOT_VERSION)
    throw new Error('another version wrote it');
  if (head.built !== built) throw new Error('it was built for other fields');
  const start = aligned(ALIGN + length);
  const parts = new Map<string, Part>();
  for (const { name, kind, at, length: count, sum } of head.parts) {
    const Kind = kinds[kind];
    if (start + at + count * Kind.BYTES_PER_ELEMENT > buffer.byteLength) throw new Error('it is cut off');
    const part = new Kind(buffer, start + at, count);
    if (sumOf(bytesOf(part)) !== sum) throw new Error(`${name} is damaged`);
    parts.set(name, part);
  }
  return { facts: head.facts, parts };
}
