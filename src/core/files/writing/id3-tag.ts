import type { ByteSource } from '../source';
import { FileError, fourCC, joined, viewOf } from '../source';
import { decodeText, encodeFixed, encodeText } from '../text';
import { COVER, type Picture } from './wanted';

/** Room that is left behind the frames of a tag that is written anew, so that the next change fits. */
const PADDING = 2048;

/** An ID3v2 frame as it lies. */
interface Frame {
  id: string;
  flags: number;
  content: Uint8Array;
}

/** A whole ID3v2 tag. */
export interface Id3Tag {
  version: 3 | 4;
  frames: Frame[];
  /** Bytes that it takes, its head included. */
  size: number;
}

const syncsafe = (b: Uint8Array, at: number) => (b[at] << 21) | (b[at + 1] << 14) | (b[at + 2] << 7) | b[at + 3];
const asSyncsafe = (n: number) => Uint8Array.of((n >> 21) & 127, (n >> 14) & 127, (n >> 7) & 127, n & 127);
const plain32 = (n: number) => Uint8Array.of(n >>> 24, (n >> 16) & 255, (n >> 8) & 255, n & 255);

/**
 * Reads a whole tag, to be written again.
 * @throws FileError for one that cannot be kept byte for byte: of version 2.2, unsynchronised, or with lengths that are wrong
 */
export async function readTag(source: ByteSource, offset: number, most: number): Promise<Id3Tag | undefined> {
  const head = await source.read(offset, 10);
  if (head.length < 10 || decodeText(head.subarray(0, 3)) !== 'ID3') return undefined;
  const [version, flags] = [head[3], head[5]];
  const size = 10 + syncsafe(head, 6);
  const refuse = (why: string) => new FileError(`its ID3 tag ${why}, so it is left as it is`, offset);
  if (version !== 3 && version !== 4) throw refuse(`is of version 2.${version}`);
  if (flags !== 0) throw refuse('is unsynchronised, or has a head or foot of its own');
  if (size > most || size > 64 << 20) throw refuse(`claims ${size} bytes`);
  const bytes = await source.read(offset, size);
  const frames: Frame[] = [];
  for (let at = 10; at + 10 <= size && bytes[at] !== 0;) {
    const id = fourCC(bytes, at);
    const length = version === 4 ? syncsafe(bytes, at + 4) : viewOf(bytes).getUint32(at + 4);
    if (!/^[A-Z0-9]{4}$/.test(id) || length > size - at - 10) throw refuse('has a frame whose length is wrong');
    frames.push({ id, flags: (bytes[at + 8] << 8) | bytes[at + 9], content: bytes.slice(at + 10, at + 10 + length) });
    at += 10 + length;
  }
  return { version, frames, size };
}

/** Text with its encoding byte: UTF-8 where the version has it, else Latin-1 for ASCII and UTF-16 for more. */
function encoded(version: 3 | 4, parts: readonly string[]): Uint8Array {
  if (version === 4) return joined([Uint8Array.of(3), encodeText(parts.join('\0'))]);
  if (parts.every((p) => /^[\x00-\x7f]*$/.test(p))) return joined([Uint8Array.of(0), encodeText(parts.join('\0'))]);
  const utf16 = (text: string) =>
    Uint8Array.from([
      0xff,
      0xfe,
      ...[...Array(text.length).keys()].flatMap((i) => [text.charCodeAt(i) & 255, text.charCodeAt(i) >> 8]),
    ]);
  return joined([
    Uint8Array.of(1),
    ...parts.flatMap((p, i) => (i === 0 ? [utf16(p)] : [Uint8Array.of(0, 0), utf16(p)])),
  ]);
}

/** The description of a TXXX or COMM frame, as far as it tells frames apart. */
function described({ id, content }: Frame): string {
  const from = id === 'COMM' ? 4 : 1;
  const wide = content[0] === 1 || content[0] === 2;
  let end = from;
  while (end < content.length && !(content[end] === 0 && (!wide || content[end + 1] === 0))) end += wide ? 2 : 1;
  const bytes = content.subarray(from, end);
  if (!wide) return decodeText(bytes);
  const marked = (bytes[0] === 0xff && bytes[1] === 0xfe) || (bytes[0] === 0xfe && bytes[1] === 0xff);
  const big = marked ? bytes[0] === 0xfe : content[0] === 2;
  let text = '';
  for (let i = marked ? 2 : 0; i + 1 < bytes.length; i += 2)
    text += String.fromCharCode(big ? (bytes[i] << 8) | bytes[i + 1] : (bytes[i + 1] << 8) | bytes[i]);
  return text;
}

function frameFor(version: 3 | 4, key: string, text: string): Frame {
  const [id, about] = key.includes('.') ? [key.slice(0, 4), key.slice(5)] : [key, ''];
  if (id === 'COMM') {
    const [encoding, ...rest] = encoded(version, [about, text]);
    return { id, flags: 0, content: joined([Uint8Array.of(encoding), encodeText('eng'), Uint8Array.from(rest)]) };
  }
  return { id, flags: 0, content: encoded(version, id === 'TXXX' ? [about, text] : [text]) };
}

/** The APIC frame of a picture: its description is empty. */
const pictureFrame = ({ mime, bytes }: Picture): Frame => ({
  id: 'APIC',
  flags: 0,
  content: joined([Uint8Array.of(0), encodeText(mime), Uint8Array.of(0, COVER, 0), bytes]),
});

/** Frames with a picture in place of the first, or without any. */
function withPicture(frames: readonly Frame[], picture: Picture | 'none'): Frame[] {
  if (picture === 'none') return frames.filter((f) => f.id !== 'APIC');
  const own = frames.findIndex((f) => f.id === 'APIC');
  return own < 0 ? [...frames, pictureFrame(picture)] : frames.with(own, pictureFrame(picture));
}

/**
 * A tag's bytes with texts put into it, by keys such as `TIT2`, `TXXX.CatID`, `COMM`; empty ones take a frame away. All other frames are kept
 * byte for byte, in order. It takes as many bytes as before where that is enough.
 * @param old none for a new tag, of version 2.4
 * @param picture as `Wanted.picture`
 */
export function withTexts(
  old: Id3Tag | undefined,
  texts: ReadonlyMap<string, string>,
  picture?: Picture | 'none',
): Uint8Array {
  const version = old?.version ?? 4;
  const left = new Map(texts);
  const keyOf = (f: Frame) => {
    const about = f.id === 'TXXX' || f.id === 'COMM' ? described(f) : '';
    return about ? `${f.id}.${about}` : f.id;
  };
  const kept = (old?.frames ?? []).flatMap((frame): Frame[] => {
    const key = keyOf(frame);
    const text = texts.get(key);
    if (text === undefined) return [frame];
    return left.delete(key) && text !== '' ? [frameFor(version, key, text)] : [];
  });
  const fresh = [...left].filter(([, text]) => text !== '').map(([key, text]) => frameFor(version, key, text));
  const all = [...kept, ...fresh];
  const frames = (picture ? withPicture(all, picture) : all).map(({ id, flags, content }) =>
    joined([
      encodeFixed(id, 4),
      version === 4 ? asSyncsafe(content.length) : plain32(content.length),
      Uint8Array.of(flags >> 8, flags & 255),
      content,
    ]),
  );
  const needed = 10 + frames.reduce((sum, f) => sum + f.length, 0);
  const size = old && needed <= old.size ? old.size : needed + PADDING;
  const bytes = new Uint8Array(size);
  bytes.set(joined([encodeText('ID3'), Uint8Array.of(version, 0, 0), asSyncsafe(size - 10), ...frames]));
  return bytes;
}
