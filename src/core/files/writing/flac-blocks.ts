import type { ByteSource } from '../source';
import { FileError, joined, viewOf } from '../source';
import { decodeText, encodeText } from '../text';
import { tidied, type Piece, type Splice } from './splice';
import { COVER, type Picture } from './wanted';

const [PADDING, COMMENTS, PICTURE] = [1, 4, 6];
/** Lengths of blocks have 24 bits. */
const MOST = 0xffffff;
/** Room that is left where a file is written anew. */
const ROOM = 8192;

interface Block {
  type: number;
  offset: number;
  size: number;
}

const number32 = (n: number) => {
  const bytes = new Uint8Array(4);
  viewOf(bytes).setUint32(0, n, true);
  return bytes;
};

/** A VORBIS_COMMENT block (RFC 9639, section 8.6): its vendor and its comments, as they lie. */
function readBlock(bytes: Uint8Array): { vendor: Uint8Array; comments: Uint8Array[] } | undefined {
  const view = viewOf(bytes);
  let at = 0;
  const take = (): Uint8Array | undefined => {
    if (at + 4 > bytes.length) return undefined;
    const length = view.getUint32(at, true);
    if (length > bytes.length - at - 4) return undefined;
    const part = bytes.subarray(at + 4, at + 4 + length);
    at += 4 + length;
    return part;
  };
  const vendor = take();
  if (!vendor || at + 4 > bytes.length) return undefined;
  const count = view.getUint32(at, true);
  at += 4;
  const comments: Uint8Array[] = [];
  for (let i = 0; i < count; i++) {
    const comment = take();
    if (!comment) return undefined;
    comments.push(comment);
  }
  return { vendor, comments };
}

const nameOf = (comment: Uint8Array) => decodeText(comment).split('=', 1)[0].toUpperCase();

/** The block with texts put in by name: the first comment of a name takes it, further ones of that name go; all others stay. */
function withComments(
  old: { vendor: Uint8Array; comments: Uint8Array[] },
  texts: ReadonlyMap<string, string>,
): Uint8Array {
  const left = new Map(texts);
  const write = (name: string, text: string) => encodeText(`${name}=${text}`);
  const kept = old.comments.flatMap((comment) => {
    const name = nameOf(comment);
    const text = texts.get(name);
    if (text === undefined) return [comment];
    return left.delete(name) && text !== '' ? [write(name, text)] : [];
  });
  const all = [...kept, ...[...left].flatMap(([name, text]) => (text === '' ? [] : [write(name, text)]))];
  return joined([
    number32(old.vendor.length),
    old.vendor,
    number32(all.length),
    ...all.flatMap((c) => [number32(c.length), c]),
  ]);
}

/** The content of a PICTURE block (RFC 9639, section 8.8); of its colours nothing is said. */
function pictureBytes({ mime, bytes, width, height }: Picture): Uint8Array {
  const big = (n: number) => number32(n).reverse();
  const type = encodeText(mime);
  const size = [width, height, 0, 0].map(big);
  return joined([big(COVER), big(type.length), type, big(0), ...size, big(bytes.length), bytes]);
}

/**
 * A FLAC file with comments put into it, and a picture: within its padding where that is enough, so that the audio stays where it is.
 * @param picture as `Wanted.picture`
 * @returns the splice, and where the audio begins in the file as it is
 * @throws FileError where its blocks are broken or too small for what is wanted
 */
export async function flacWith(
  source: ByteSource,
  texts: ReadonlyMap<string, string>,
  picture?: Picture | 'none',
): Promise<{ splice: Splice; audio: number }> {
  const blocks: Block[] = [];
  let at = 4;
  for (let last = false; !last;) {
    const head = await source.read(at, 4);
    if (head.length < 4) throw new FileError('its metadata blocks are cut off', at);
    last = (head[0] & 0x80) !== 0;
    const size = (head[1] << 16) | (head[2] << 8) | head[3];
    if (size > source.size - at - 4) throw new FileError('a metadata block is longer than the file', at);
    blocks.push({ type: head[0] & 0x7f, offset: at + 4, size });
    at += 4 + size;
  }
  const audio = at;
  const own = blocks.find((b) => b.type === COMMENTS);
  const old = own
    ? readBlock(await source.read(own.offset, own.size))
    : { vendor: encodeText('Cormorant'), comments: [] };
  if (!old) throw new FileError('its comments claim more bytes than there are', own!.offset);
  const content = withComments(old, texts);
  if (content.length > MOST) throw new FileError('its comments would be longer than a FLAC file holds', 4);
  const made = (type: number, bytes: Uint8Array) => ({ type, size: bytes.length, piece: { bytes } });
  const cover = picture && picture !== 'none' ? made(PICTURE, pictureBytes(picture)) : undefined;
  if (cover && cover.size > MOST) throw new FileError('its picture would be larger than a FLAC file holds', 4);
  const first = blocks.find((b) => b.type === PICTURE);
  const comments = made(COMMENTS, content);
  const order = blocks.flatMap((b): { type: number; size: number; piece: Piece }[] => {
    if (b === own) return [comments];
    if (b.type === PICTURE && picture === 'none') return [];
    if (b === first && cover) return [cover];
    return [{ type: b.type, size: b.size, piece: { from: b.offset, length: b.size } }];
  });
  // Comments come right behind STREAMINFO where there were none, and a picture behind them.
  if (!own) order.splice(1, 0, comments);
  if (cover && !first) order.splice(order.indexOf(comments) + 1, 0, cover);
  const grown = order.reduce((sum, b) => sum + 4 + b.size, 4) - audio;
  const room = order.findLast((b) => b.type === PADDING);
  const set = (block: (typeof order)[number], size: number) => {
    block.size = size;
    block.piece = { bytes: new Uint8Array(size) };
  };
  if (room && room.size >= grown && room.size - grown <= MOST) {
    if (grown !== 0) set(room, room.size - grown);
  } else if (grown < 0 && -grown >= 4)
    order.push({ type: PADDING, size: -grown - 4, piece: { bytes: new Uint8Array(-grown - 4) } });
  else if (room) set(room, ROOM);
  else order.push({ type: PADDING, size: ROOM, piece: { bytes: new Uint8Array(ROOM) } });
  const pieces = order.flatMap(({ type, size, piece }, i): Piece[] => [
    { bytes: Uint8Array.of(type | (i === order.length - 1 ? 0x80 : 0), size >> 16, (size >> 8) & 255, size & 255) },
    piece,
  ]);
  return {
    splice: {
      before: source.size,
      pieces: tidied([{ from: 0, length: 4 }, ...pieces, { from: audio, length: source.size - audio }]),
    },
    audio,
  };
}
