import type { Chunk } from '../chunks';
import type { ByteSource } from '../source';
import { FileError, joined, viewOf } from '../source';
import { encodeFixed, encodeText } from '../text';
import { tidied, type Piece, type Splice } from './splice';

/** Content for a chunk: undefined takes it away. */
export type ChunkEdits = ReadonlyMap<Chunk, Uint8Array | undefined>;

/** How a family of files is made up. */
interface Family {
  littleEndian: boolean;
  /** The chunk that holds the audio. */
  audio: string;
  /** What readers pass over. */
  filler: string;
  /** 64-bit sizes are in use. */
  long?: boolean;
}

/** Room that a chunk takes with its head and pad byte. */
const roomFor = (length: number): number => 8 + length + (length % 2);
/** The largest size that a field of 32 bits tells; the one above it means that the size stands elsewhere. */
const MOST = 0xfffffffe;

/** A chunk's bytes with its head and pad byte. */
export function chunkBytes(id: string, content: Uint8Array, littleEndian: boolean, size = content.length): Uint8Array {
  const bytes = new Uint8Array(roomFor(content.length));
  bytes.set(encodeFixed(id, 4));
  viewOf(bytes).setUint32(4, size, littleEndian);
  bytes.set(content, 8);
  return bytes;
}

/** Where each chunk ends, its pad byte included. @throws FileError where the file's order is broken, so that nothing can be put into it */
function ends(chunks: readonly Chunk[], size: number): number[] {
  return chunks.map((chunk, i) => {
    const end = chunk.offset + chunk.size;
    const next = chunks[i + 1];
    if (!next) return Math.min(size, end + (chunk.size % 2));
    const gap = next.offset - 8 - end;
    if (gap !== 0 && gap !== 1)
      throw new FileError(`the chunks before and in ${chunk.id.trim()} overlap`, chunk.offset);
    return next.offset - 8;
  });
}

/**
 * Puts chunks into a RIFF or IFF file, and takes some away, so that its audio stays where it is: one in front of the audio goes
 * into its own place and fillers behind it, or leaves a filler there and goes to the end. All others are kept byte for byte, in order.
 * @param chunks as they were found
 * @param added further chunks, for the end
 * @throws FileError where nothing can be put into the file
 */
export async function withChunks(
  source: ByteSource,
  chunks: readonly Chunk[],
  edits: ChunkEdits,
  added: readonly { id: string; bytes: Uint8Array }[],
  family: Family,
): Promise<Splice> {
  const { littleEndian: le, audio, filler } = family;
  const stops = ends(chunks, source.size);
  const audioAt = chunks.findIndex((c) => c.id === audio);
  const claims = await Promise.all(
    chunks.map(async (c) => viewOf(await source.read(c.offset - 4, 4)).getUint32(0, le)),
  );
  const pieces: Piece[] = [];
  const late = [...added];
  const write = (id: string, bytes: Uint8Array) => pieces.push({ bytes: chunkBytes(id, bytes, le) });
  for (let i = 0; i < chunks.length; i++) {
    const chunk = chunks[i];
    const start = chunk.offset - 8;
    if (edits.has(chunk)) {
      const next = edits.get(chunk);
      if (i > audioAt) {
        if (next) write(chunk.id, next);
        continue;
      }
      // Fillers right behind it are room, too.
      let last = i;
      while (chunks[last + 1]?.id === filler && last + 1 < audioAt && !edits.has(chunks[last + 1])) last++;
      const room = stops[last] - start;
      const left = next ? room - roomFor(next.length) : room;
      if (next && (left === 0 || left >= 8)) write(chunk.id, next);
      else if (next) late.push({ id: chunk.id, bytes: next });
      const rest = next && (left === 0 || left >= 8) ? left : room;
      if (rest >= 8) pieces.push({ bytes: chunkBytes(filler, new Uint8Array(rest - 8), le) });
      i = last;
      continue;
    }
    const cut = claims[i] !== chunk.size;
    if (cut && chunk.id !== audio)
      throw new FileError(`the ${chunk.id.trim()} chunk is cut off, so nothing can be put behind it`, chunk.offset);
    if (cut && !family.long) pieces.push({ bytes: chunkBytes(chunk.id, new Uint8Array(0), le, chunk.size) });
    else pieces.push({ from: start, length: 8 });
    pieces.push({ from: chunk.offset, length: stops[i] - chunk.offset });
    // A pad byte that the writer forgot is kept forgotten, unless something follows where none did.
    if (i === chunks.length - 1 && stops[i] - chunk.offset < chunk.size + (chunk.size % 2))
      pieces.push({ bytes: new Uint8Array(1) });
  }
  for (const { id, bytes } of late) write(id, bytes);
  // What could not be read stays behind what can.
  const end = stops.at(-1) ?? 12;
  return {
    before: source.size,
    pieces: tidied([{ from: 0, length: 12 }, ...pieces, { from: end, length: source.size - end }]),
  };
}

const lengthOf = (piece: Piece): number => ('bytes' in piece ? piece.bytes.length : piece.length);

/** Replaces the first bytes of a splice, whose beginning is kept from the file. */
function headed(pieces: readonly Piece[], bytes: Uint8Array, at: number): Piece[] {
  const out: Piece[] = [];
  let offset = 0;
  for (const piece of pieces) {
    const n = lengthOf(piece);
    const [from, to] = [Math.max(at, offset) - offset, Math.min(at + bytes.length, offset + n) - offset];
    if (to <= from) out.push(piece);
    else {
      const first = offset + from - at;
      out.push(partOf(piece, 0, from), { bytes: bytes.subarray(first, first + to - from) }, partOf(piece, to, n));
    }
    offset += n;
  }
  return tidied(out);
}

const number32 = (n: number, le: boolean) => {
  const bytes = new Uint8Array(4);
  viewOf(bytes).setUint32(0, n, le);
  return bytes;
};

const number64 = (n: number) => {
  const bytes = new Uint8Array(8);
  viewOf(bytes).setBigUint64(0, BigInt(n), true);
  return bytes;
};

/**
 * Tells the size of the whole in the head of a RIFF or IFF file. One of RIFF that grew past 4 GiB becomes RF64 (EBU Tech 3306): its
 * sizes go into a `ds64` chunk, for which a filler in front gives room if it can.
 * @param unread bytes at the end that are no chunks
 * @param frames of the audio
 * @throws FileError for an AIFF file that would grow past 4 GiB
 */
export function sized(
  splice: Splice,
  unread: number,
  family: Family & { audioSize: number; frames: number; first?: Chunk },
): Splice {
  const total = splice.pieces.reduce((sum, p) => sum + lengthOf(p), 0) - 8 - unread;
  const { long, littleEndian: le, filler, first } = family;
  if (long) return { ...splice, pieces: headed(splice.pieces, number64(total), 20) };
  if (total <= MOST) return { ...splice, pieces: headed(splice.pieces, number32(total, le), 4) };
  if (!le || family.audio !== 'data') throw new FileError('a file of this kind holds 4 GiB at the most', 0);
  const fits = first?.id === filler && first.offset === 20 && first.size >= 28;
  const grown = fits ? total : total + roomFor(28);
  const sizes = joined([number64(grown), number64(family.audioSize), number64(family.frames), new Uint8Array(4)]);
  const ds64 = joined([encodeText('ds64'), number32(fits ? first.size : 28, true), sizes]);
  const head = joined([encodeText('RF64'), number32(0xffffffff, true)]);
  if (fits) return { ...splice, pieces: headed(headed(splice.pieces, head, 0), ds64, 12) };
  return { ...splice, pieces: insertedAt(headed(splice.pieces, head, 0), 12, ds64) };
}

/** A part of a piece, from its `a`th byte to its `b`th. */
const partOf = (piece: Piece, a: number, b: number): Piece =>
  'bytes' in piece ? { bytes: piece.bytes.subarray(a, b) } : { from: piece.from + a, length: b - a };

function insertedAt(pieces: readonly Piece[], at: number, bytes: Uint8Array): Piece[] {
  const out: Piece[] = [];
  let offset = 0;
  let done = false;
  for (const piece of pieces) {
    const n = lengthOf(piece);
    if (!done && offset + n >= at) {
      const cut = at - offset;
      out.push(partOf(piece, 0, cut), { bytes }, partOf(piece, cut, n));
      done = true;
    } else out.push(piece);
    offset += n;
  }
  return tidied(out);
}
