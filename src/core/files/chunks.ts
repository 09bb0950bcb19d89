import type { ByteSource } from './source';
import { FileError, fourCC, viewOf } from './source';

/** One chunk of an IFF-like file: its id and where its content lies. */
export interface Chunk {
  id: string;
  /** Byte offset of the content. */
  offset: number;
  /** Bytes of content present in the file. */
  size: number;
}

/** A chunk is only labels when it is at most this long; longer claims are refused, not allocated. */
const MAX_LABEL_CHUNK = 2 << 20;

const plausible = (id: string) => /^[\x20-\x7e]{4}$/.test(id);

/** Whether a chunk that fits the file begins here: tells an empty `data` from one whose length was never written. */
async function chunkAt(source: ByteSource, at: number, littleEndian: boolean): Promise<boolean> {
  const head = await source.read(at, 8);
  return (
    head.length === 8 && plausible(fourCC(head)) && viewOf(head).getUint32(4, littleEndian) <= source.size - at - 8
  );
}

/**
 * Walks the chunks between `from` and the end of the source.
 *
 * Sizes are never trusted: a content that runs past the end is cut there with a warning; a `data` size of 0 or
 * 0xFFFFFFFF, as recorders leave behind that lost power, means "to the end of the file"; a missing pad byte after an
 * odd size is noticed by looking for the next id where it should not be.
 * @param longSizes 64-bit sizes by chunk id (the `ds64` chunk of EBU Tech 3306)
 */
export async function walkChunks(
  source: ByteSource,
  from: number,
  littleEndian: boolean,
  warnings: string[],
  longSizes: (id: string) => number | undefined = () => undefined,
): Promise<Chunk[]> {
  const chunks: Chunk[] = [];
  let at = from;
  while (at + 8 <= source.size && chunks.length < 10_000) {
    const head = await source.read(at, 8);
    const id = fourCC(head);
    if (!plausible(id)) {
      warnings.push(`unreadable bytes from ${at} on were left out`);
      break;
    }
    const offset = at + 8;
    const left = source.size - offset;
    let size = viewOf(head).getUint32(4, littleEndian);
    if (id === 'data' && (size === 0xffffffff || (size === 0 && !(await chunkAt(source, offset, littleEndian))))) {
      size = longSizes(id) ?? left;
      if (longSizes(id) === undefined && left > 0) {
        warnings.push('the recorder did not write the length of the audio; all of the rest was taken for audio');
      }
    }
    if (size > left) {
      warnings.push(`the ${id.trim()} chunk is cut off: ${left} of ${size} bytes are there`);
      size = left;
    }
    chunks.push({ id, offset, size });
    at = offset + size;
    if (size % 2 === 1 && at < source.size) {
      const next = await source.read(at, 5);
      // Writers that forget the pad byte put the next id right here; a pad byte is NUL nearly always.
      if (next[0] === 0 || next.length < 5 || !plausible(fourCC(next))) at += 1;
      else warnings.push(`the pad byte after the ${id.trim()} chunk is missing`);
    }
  }
  return chunks;
}

/** The content of a chunk that holds labels. */
export async function readChunk(source: ByteSource, chunk: Chunk): Promise<Uint8Array> {
  if (chunk.size > MAX_LABEL_CHUNK) {
    throw new FileError(`the ${chunk.id.trim()} chunk claims ${chunk.size} bytes of labels`, chunk.offset);
  }
  return source.read(chunk.offset, chunk.size);
}
