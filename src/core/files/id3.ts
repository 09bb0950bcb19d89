import type { Artwork } from './format';
import type { ByteSource } from './source';
import { fourCC, viewOf } from './source';
import { decodeText } from './text';

/** Text frames longer than this are cut: they are lyrics or worse, not labels. */
const LONGEST_TEXT = 32 << 10;
const LONGEST_TAG = 64 << 20;

/** Frame ids of ID3v2.2 and what they became in 2.3. */
const renamed: Record<string, string> = {
  TT1: 'TIT1',
  TT2: 'TIT2',
  TT3: 'TIT3',
  TP1: 'TPE1',
  TP2: 'TPE2',
  TAL: 'TALB',
  TCO: 'TCON',
  TCM: 'TCOM',
  TCR: 'TCOP',
  TYE: 'TYER',
  TDA: 'TDAT',
  TRK: 'TRCK',
  TBP: 'TBPM',
  TKE: 'TKEY',
  TEN: 'TENC',
  TPB: 'TPUB',
  TXX: 'TXXX',
  COM: 'COMM',
  PIC: 'APIC',
};

const syncsafe = (b: Uint8Array, at: number) => (b[at] << 21) | (b[at + 1] << 14) | (b[at + 2] << 7) | b[at + 3];

/** Takes out the zero bytes that "unsynchronisation" put behind each 0xFF. */
function resynchronised(bytes: Uint8Array): Uint8Array {
  const out = new Uint8Array(bytes.length);
  let n = 0;
  for (let i = 0; i < bytes.length; i++) {
    out[n++] = bytes[i];
    if (bytes[i] === 0xff && bytes[i + 1] === 0) i++;
  }
  return out.subarray(0, n);
}

function utf16(bytes: Uint8Array, littleEndian: boolean): string {
  const view = viewOf(bytes);
  const units: number[] = [];
  for (let i = 0; i + 1 < bytes.length; i += 2) units.push(view.getUint16(i, littleEndian));
  let text = '';
  for (let i = 0; i < units.length; i += 4096) text += String.fromCharCode(...units.slice(i, i + 4096));
  return text;
}

/** The NUL-separated texts of a frame's content behind its encoding byte. */
function texts(encoding: number, bytes: Uint8Array): string[] {
  if (encoding === 1 || encoding === 2) {
    const [a, b] = bytes;
    const marked = (a === 0xff && b === 0xfe) || (a === 0xfe && b === 0xff);
    // Each of several texts may bring its own byte order mark.
    return utf16(marked ? bytes.subarray(2) : bytes, marked ? a === 0xff : encoding === 1)
      .split('\0')
      .map((t) => t.replace(/^[\ufeff\ufffe]/, '').trim());
  }
  const parts: string[] = [];
  for (let from = 0; from <= bytes.length;) {
    const end = bytes.indexOf(0, from);
    parts.push(decodeText(bytes.subarray(from, end < 0 ? bytes.length : end)));
    if (end < 0) break;
    from = end + 1;
  }
  return parts;
}

/** Length of a terminated string in an encoding, the terminator included; the whole when it has none. */
function terminated(encoding: number, bytes: Uint8Array, from: number): number {
  if (encoding === 1 || encoding === 2) {
    for (let i = from; i + 1 < bytes.length; i += 2) if (bytes[i] === 0 && bytes[i + 1] === 0) return i + 2 - from;
    return bytes.length - from;
  }
  const end = bytes.indexOf(0, from);
  return (end < 0 ? bytes.length : end + 1) - from;
}

interface Frame {
  id: string;
  offset: number;
  size: number;
}

class Tag {
  constructor(
    private readonly source: ByteSource,
    private readonly labels: Map<string, string>,
    private readonly artwork: (art: Artwork) => void,
  ) {}

  private put(key: string, text: string): void {
    if (text && !this.labels.has(key)) this.labels.set(key, text);
  }

  async read({ id, offset, size }: Frame): Promise<void> {
    if (id === 'APIC') return this.picture(offset, size, false);
    if (id === 'PIC') return this.picture(offset, size, true);
    const name = renamed[id] ?? id;
    if (!/^(T[A-Z0-9]{3}|COMM)$/.test(name) || size < 2) return;
    const bytes = await this.source.read(offset, Math.min(size, LONGEST_TEXT));
    const encoding = bytes[0];
    if (name === 'COMM') {
      const about = terminated(encoding, bytes, 4);
      const [description] = texts(encoding, bytes.subarray(4, 4 + about));
      const [text = ''] = texts(encoding, bytes.subarray(4 + about));
      return this.put(description ? `ID3.COMM.${description}` : 'ID3.COMM', text);
    }
    const [first = '', ...rest] = texts(encoding, bytes.subarray(1));
    if (name === 'TXXX') return this.put(`ID3.TXXX.${first}`, rest.filter(Boolean).join('; '));
    this.put(`ID3.${name}`, [first, ...rest].filter(Boolean).join('; '));
  }

  /** Notes where a picture lies; it is read when it is to be shown. */
  private async picture(offset: number, size: number, old: boolean): Promise<void> {
    const head = await this.source.read(offset, Math.min(size, 512));
    if (head.length < 4) return;
    const mimeEnd = old ? 4 : head.indexOf(0, 1);
    if (mimeEnd < 1) return;
    const mime = old ? `image/${decodeText(head.subarray(1, 4)).toLowerCase()}` : decodeText(head.subarray(1, mimeEnd));
    const about = mimeEnd + (old ? 1 : 2);
    const start = about + terminated(head[0], head, about);
    if (start < size) this.artwork({ mime: mime.replace('jpg', 'jpeg'), offset: offset + start, length: size - start });
  }
}

/**
 * Reads an ID3v2 tag (2.2 to 2.4) that lies in a source: texts as `ID3.TIT2`, `ID3.TXXX.<name>`, `ID3.COMM`; of pictures
 * only where they lie. Reads frame heads and texts alone, however large the rest is.
 * @param size bytes that the tag may take at the most
 * @returns the bytes that the tag takes, 0 when there is none; warnings are added for what could not be read
 */
export async function readId3(
  whole: ByteSource,
  offset: number,
  size: number,
  labels: Map<string, string>,
  warnings: string[],
  artwork: (art: Artwork) => void,
): Promise<number> {
  const head = await whole.read(offset, Math.min(10, size));
  if (head.length < 10 || String.fromCharCode(...head.subarray(0, 3)) !== 'ID3') return 0;
  const [major, flags] = [head[3], head[5]];
  const claimed = 10 + syncsafe(head, 6);
  const end = Math.min(claimed, size, whole.size - offset);
  if (major < 2 || major > 4) {
    warnings.push(`the ID3 tag is of version 2.${major}, which is not known`);
    return claimed;
  }
  if (end < claimed) warnings.push(`the ID3 tag claims ${claimed} bytes; ${end} are there`);
  if (end > LONGEST_TAG) {
    warnings.push(`the ID3 tag claims ${claimed} bytes; it was left out`);
    return claimed;
  }
  let source = whole;
  let at = offset + 10;
  let until = offset + end;
  let moved = false;
  if (flags & 0x80 && major < 4) {
    const bytes = resynchronised(await whole.read(at, until - at));
    source = { name: whole.name, size: bytes.length, read: (o, n) => Promise.resolve(bytes.subarray(o, o + n)) };
    at = 0;
    until = bytes.length;
    moved = true;
  }
  if (flags & 0x40 && major > 2) {
    const extended = await source.read(at, 4);
    if (extended.length === 4)
      at += major === 4 ? Math.max(4, syncsafe(extended, 0)) : 4 + viewOf(extended).getUint32(0);
  }
  // A picture in a tag whose bytes had to be rearranged lies nowhere in the file as it is.
  const tag = new Tag(source, labels, moved ? () => undefined : artwork);
  const wide = major === 2 ? 6 : 10;
  for (let count = 0; at + wide < until && count < 2000; count++) {
    const bytes = await source.read(at, wide);
    const id = major === 2 ? fourCC(bytes).slice(0, 3) : fourCC(bytes);
    if (bytes.length < wide || !/^[A-Z0-9]{3,4}$/.test(id)) break;
    let length = major === 2 ? (bytes[3] << 16) | (bytes[4] << 8) | bytes[5] : viewOf(bytes).getUint32(4);
    if (major === 4) length = await sizeIn24(source, at, until, bytes);
    if (length > until - at - wide) {
      warnings.push(`the ID3 frame ${id} claims ${length} bytes; ${until - at - wide} are there`);
      break;
    }
    await tag.read({ id, offset: at + wide, size: length });
    at += wide + length;
  }
  return claimed;
}

/** Sizes of ID3v2.4 frames are syncsafe, yet some writers go on as in 2.3: the one behind which a frame follows is right. */
async function sizeIn24(source: ByteSource, at: number, until: number, head: Uint8Array): Promise<number> {
  const safe = syncsafe(head, 4);
  const plain = viewOf(head).getUint32(4);
  if (safe === plain || plain > until - at - 10) return safe;
  const next = await source.read(at + 10 + safe, 4);
  if (at + 10 + safe >= until || next[0] === 0 || /^[A-Z0-9]{4}$/.test(fourCC(next))) return safe;
  const other = await source.read(at + 10 + plain, 4);
  return at + 10 + plain >= until || other[0] === 0 || /^[A-Z0-9]{4}$/.test(fourCC(other)) ? plain : safe;
}
