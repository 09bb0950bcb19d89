import type { ByteSource } from '../source';
import { joined } from '../source';

/** A part of a file as it is to be: bytes of the file as it was, or new ones. */
export type Piece = { from: number; length: number } | { bytes: Uint8Array };

/** How one file becomes another: what is kept of it and what is new, in order. No byte of the old file is kept twice. */
export interface Splice {
  /** Bytes of the file as it was. */
  before: number;
  pieces: readonly Piece[];
}

/** Bytes to be written at a place of a file. */
export interface Patch {
  offset: number;
  bytes: Uint8Array;
}

const lengthOf = (piece: Piece): number => ('bytes' in piece ? piece.bytes.length : piece.length);

/** Bytes of the file as it will be. */
export const sizeAfter = ({ pieces }: Splice): number => pieces.reduce((sum, p) => sum + lengthOf(p), 0);

/** Pieces one after the other, neighbours joined and empty ones left out. */
export function tidied(pieces: readonly Piece[]): Piece[] {
  const out: Piece[] = [];
  for (const piece of pieces) {
    if (lengthOf(piece) === 0) continue;
    const last = out.at(-1);
    if (last && 'bytes' in last && 'bytes' in piece) out[out.length - 1] = { bytes: joined([last.bytes, piece.bytes]) };
    else if (last && !('bytes' in last) && !('bytes' in piece) && last.from + last.length === piece.from)
      out[out.length - 1] = { from: last.from, length: last.length + piece.length };
    else out.push(piece);
  }
  return out;
}

/** What has to be written where all that is kept stays in its place; undefined when some of it moves, so that the file is written anew. */
export function patchesOf({ pieces }: Splice): Patch[] | undefined {
  const patches: Patch[] = [];
  let at = 0;
  for (const piece of pieces) {
    if ('bytes' in piece) patches.push({ offset: at, bytes: piece.bytes });
    else if (piece.from !== at) return undefined;
    at += lengthOf(piece);
  }
  return patches;
}

/** Up to so many bytes that move are written where they come to lie, rather than the whole file anew. */
const MOVED = 4 << 20;

/**
 * The same splice with small kept parts that move as new bytes, so that the large ones may stay in place; and with new bytes that stand
 * there already as kept ones.
 * @param audio where it lies in the file as it is: it is never taken for small; where it has to move, all is left as it was planned
 */
export async function settledSplice(
  splice: Splice,
  source: ByteSource,
  audio: { offset: number; size: number },
): Promise<Splice> {
  const moved = (piece: Piece, at: number): piece is { from: number; length: number } =>
    !('bytes' in piece) && piece.from !== at;
  let at = 0;
  let moving = 0;
  for (const piece of splice.pieces) {
    if (moved(piece, at))
      moving +=
        piece.from < audio.offset + audio.size && piece.from + piece.length > audio.offset ? MOVED : piece.length;
    at += lengthOf(piece);
  }
  if (moving >= MOVED) return { ...splice, pieces: tidied(splice.pieces) };
  const pieces: Piece[] = [];
  at = 0;
  for (const piece of splice.pieces) {
    const bytes = moved(piece, at)
      ? await source.read(piece.from, piece.length)
      : 'bytes' in piece
        ? piece.bytes
        : undefined;
    if (!bytes) pieces.push(piece);
    else {
      const old = await source.read(at, bytes.length);
      const same = old.length === bytes.length && old.every((b, i) => b === bytes[i]);
      pieces.push(same ? { from: at, length: bytes.length } : { bytes });
    }
    at += lengthOf(piece);
  }
  return { ...splice, pieces: tidied(pieces) };
}

/** Whether a splice leaves everything as it is. */
export const changesNothing = ({ before, pieces }: Splice): boolean => {
  const [only, ...more] = pieces;
  return more.length === 0 && only && !('bytes' in only) && only.from === 0 && only.length === before;
};

/**
 * The splice that makes the old file of the new one, byte for byte.
 * @param source the file as it is now
 */
export async function inverted(splice: Splice, source: ByteSource): Promise<Splice> {
  const kept: { from: number; length: number; to: number }[] = [];
  let at = 0;
  for (const piece of splice.pieces) {
    if (!('bytes' in piece)) kept.push({ ...piece, to: at });
    at += lengthOf(piece);
  }
  const size = at;
  kept.sort((a, b) => a.from - b.from);
  const pieces: Piece[] = [];
  at = 0;
  for (const { from, length, to } of kept) {
    if (from < at) throw new RangeError('a byte of a file was to be kept twice');
    if (from > at) pieces.push({ bytes: (await source.read(at, from - at)).slice() });
    pieces.push({ from: to, length });
    at = from + length;
  }
  if (at < splice.before) pieces.push({ bytes: (await source.read(at, splice.before - at)).slice() });
  return { before: size, pieces: tidied(pieces) };
}

/** The file as it will be, as a source: it can be read before it is written. @param source the file as it is */
export function spliced(splice: Splice, source: ByteSource): ByteSource {
  return {
    name: source.name,
    size: sizeAfter(splice),
    async read(offset, length) {
      const parts: Uint8Array[] = [];
      let at = 0;
      for (const piece of splice.pieces) {
        const n = lengthOf(piece);
        const [from, to] = [Math.max(offset, at) - at, Math.min(offset + length, at + n) - at];
        if (to > from)
          parts.push(
            'bytes' in piece ? piece.bytes.subarray(from, to) : await source.read(piece.from + from, to - from),
          );
        at += n;
      }
      return parts.length === 1 ? parts[0] : joined(parts);
    },
  };
}

/** Whether a file is what a splice makes, as far as what is new in it tells: by the bytes at their places. */
export async function isMadeBy(splice: Splice, source: ByteSource): Promise<boolean> {
  if (source.size !== sizeAfter(splice)) return false;
  let at = 0;
  for (const piece of splice.pieces) {
    if ('bytes' in piece) {
      const there = await source.read(at, piece.bytes.length);
      if (there.length !== piece.bytes.length || there.some((b, i) => b !== piece.bytes[i])) return false;
    }
    at += lengthOf(piece);
  }
  return true;
}
