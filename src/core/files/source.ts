/** Random access to the bytes of one file, wherever it lies. Readers and players know only this. */
export interface ByteSource {
  /** For messages: the file's name or path as the user knows it. */
  readonly name: string;
  /** Bytes. */
  readonly size: number;
  /**
   * Reads `length` bytes at `offset`; fewer come back only at the end of the file.
   * Rejects when the file cannot be reached any more.
   */
  read(offset: number, length: number): Promise<Uint8Array>;
}

/** A file could not be understood. Says where, and what was expected there. */
export class FileError extends Error {
  override name = 'FileError';
  constructor(
    /** What was wrong, in words for the user. */
    message: string,
    /** Byte offset at which reading failed. */
    readonly offset: number,
  ) {
    super(`${message} (at byte ${offset})`);
  }
}

/** Bytes held in memory as a source. */
export function memorySource(bytes: Uint8Array, name = 'memory'): ByteSource {
  return {
    name,
    size: bytes.length,
    read: (offset, length) => Promise.resolve(bytes.subarray(offset, offset + length)),
  };
}

/** Bytes of a file that are here already: its beginning and its end. */
export interface Edges {
  head: Uint8Array;
  tail: Uint8Array;
}

/**
 * Serves small reads from cached windows, the file's head and wherever it was read last, so that walking a file's chunks
 * costs a few reads rather than one each. Reads of more than a window go straight through.
 * @param edges head and tail, where they were fetched together with those of other files
 */
export function windowed(source: ByteSource, edges?: Edges, windowBytes = 16384): ByteSource {
  // A window over a window would ask the inner one for more than it holds.
  if (!edges && isWindowed.has(source)) return source;
  let head = { start: 0, bytes: edges?.head ?? new Uint8Array(0) };
  let held = head;
  const tail = { start: source.size - (edges?.tail.length ?? 0), bytes: edges?.tail ?? new Uint8Array(0) };
  const within = (w: typeof head, offset: number, length: number) =>
    offset >= w.start && offset + length <= w.start + w.bytes.length
      ? w.bytes.subarray(offset - w.start, offset - w.start + length)
      : undefined;
  const window: ByteSource = {
    name: source.name,
    size: source.size,
    async read(offset, wanted) {
      const length = Math.max(0, Math.min(wanted, source.size - offset));
      const there = within(head, offset, length) ?? within(held, offset, length) ?? within(tail, offset, length);
      if (there) return there;
      if (length > windowBytes) return source.read(offset, length);
      held = { start: offset, bytes: await source.read(offset, Math.min(windowBytes, source.size - offset)) };
      if (offset === 0) head = held;
      return held.bytes.subarray(0, length);
    },
  };
  isWindowed.add(window);
  return window;
}
const isWindowed = new WeakSet<ByteSource>();

/** A `DataView` over exactly these bytes. */
export function viewOf(bytes: Uint8Array): DataView {
  return new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
}

/** Four bytes as a chunk id, each byte one Latin-1 character. */
export function fourCC(bytes: Uint8Array, at = 0): string {
  return String.fromCharCode(bytes[at], bytes[at + 1], bytes[at + 2], bytes[at + 3]);
}

/** Bytes one after another. */
export function joined(parts: readonly Uint8Array[]): Uint8Array {
  const whole = new Uint8Array(parts.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}
