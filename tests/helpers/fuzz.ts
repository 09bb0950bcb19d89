import { FileError, memorySource, readAudioFile, quickHashOf, windowed, writeAiff, writeWav } from '@core/files';
import { type Random } from '@core/synth';
import { cpuClock } from './cpu';
import { sine } from './signals';

const ascii = (text: string) => Uint8Array.from(text, (c) => c.charCodeAt(0));
const joined = (...parts: Uint8Array[]) => Uint8Array.from(parts.flatMap((p) => [...p]));
const be = (n: number, width = 4) => Uint8Array.from({ length: width }, (_, i) => (n >>> (8 * (width - 1 - i))) & 255);
const le = (n: number) => be(n).reverse();
const syncsafe = (n: number) => Uint8Array.of((n >> 21) & 127, (n >> 14) & 127, (n >> 7) & 127, n & 127);

/** An ID3v2 tag of these frames. */
export function id3(frames: Record<string, Uint8Array>, version: 3 | 4 = 4): Uint8Array {
  const body = joined(
    ...Object.entries(frames).map(([id, content]) =>
      joined(ascii(id.slice(0, 4)), version === 4 ? syncsafe(content.length) : be(content.length), be(0, 2), content),
    ),
  );
  return joined(ascii('ID3'), Uint8Array.of(version, 0, 0), syncsafe(body.length), body);
}

/** A FLAC file's metadata; no audio follows. */
export function flacHead(comments: string[], frames = 4800): Uint8Array {
  const info = new Uint8Array(34);
  info.set([0x0b, 0xb8, 0x02, 0xf0, (frames / 2 ** 32) & 15], 10);
  info.set(be(frames), 14);
  const texts = comments.map((c) => new TextEncoder().encode(c));
  const comment = joined(le(4), ascii('test'), le(texts.length), ...texts.flatMap((t) => [le(t.length), t]));
  const picture = joined(
    be(3),
    be(9),
    ascii('image/png'),
    be(0),
    be(1),
    be(1),
    be(24),
    be(0),
    be(8),
    new Uint8Array(8).fill(7),
  );
  const block = (type: number, content: Uint8Array, last = false) =>
    joined(Uint8Array.of(type | (last ? 128 : 0)), be(content.length, 3), content);
  return joined(ascii('fLaC'), block(0, info), block(4, comment), block(6, picture, true), new Uint8Array(64));
}

/** Latin-1 text as an ID3 text frame's content. */
export const latin = (text: string) => joined(Uint8Array.of(0), ascii(text));

/** An XMP packet of these properties. */
export const xmp = (inner: string, attributes = '') =>
  `<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description ${attributes}>${inner}</rdf:Description></rdf:RDF></x:xmpmeta>`;

/** Sound files of every kind that our readers know, each with every label block, from which damaged ones are made. */
export function seeds(): Uint8Array[] {
  const planes = [sine(440, 8000, 300), sine(330, 8000, 300)];
  const tag = id3({
    TIT2: latin('Gate'),
    TXXX: latin('CatID\0DOORGate'),
    COMM: joined(Uint8Array.of(0), ascii('eng\0a comment')),
    APIC: joined(Uint8Array.of(0), ascii('image/png\0'), Uint8Array.of(3, 0), new Uint8Array(40)),
  });
  const wav = writeWav(
    planes,
    { rate: 8000, bits: 16 },
    {
      bext: { Description: 'Gate swings', Originator: 'Us', TimeReference: 5n, CodingHistory: 'A=PCM' },
      ixml: { PROJECT: 'Ferry', ASWG: { catId: 'DOORGate', fxName: 'Gate' }, USER: { KEYWORDS: 'gate, iron' } },
      info: { INAM: 'Gate', ICMT: 'iron' },
      cues: [{ frame: 20, length: 40, label: 'anchor' }],
      loops: [{ start: 0, end: 299 }],
      chunks: [
        {
          id: '_PMX',
          bytes: ascii(xmp('<dc:title><rdf:Alt><rdf:li>Gate</rdf:li></rdf:Alt></dc:title>', 'xmpDM:tempo="90"')),
        },
        { id: 'id3 ', bytes: tag },
      ],
    },
  );
  const aiff = writeAiff(planes, { rate: 8000, bits: 16 }, { NAME: 'Gate', ANNO: 'iron' }, [
    { frame: 20, length: 0, label: 'anchor' },
  ]);
  return [wav, aiff, flacHead(['TITLE=Gate', 'DESCRIPTION=iron']), joined(tag, flacHead(['TITLE=x']))];
}

const extremes = [0, 1, 2, 3, 7, 0x7f, 0x80, 0xff, 0x7fffffff, 0x80000000, 0xfffffffe, 0xffffffff];

/** One damaged file: bytes turned, cut, spliced from another, sizes set to extremes, parts repeated. */
export function damaged(files: readonly Uint8Array[], random: Random): Uint8Array {
  let bytes = random.pick(files as Uint8Array[]).slice();
  const at = () => Math.floor(random.next() * bytes.length);
  for (let n = 1 + Math.floor(random.next() * 4); n > 0 && bytes.length > 8; n--) {
    switch (Math.floor(random.next() * 7)) {
      case 0:
        bytes[at()] = Math.floor(random.next() * 256);
        break;
      case 1:
        bytes = bytes.slice(0, at());
        break;
      case 2: {
        const other = random.pick(files as Uint8Array[]);
        const from = Math.floor(random.next() * other.length);
        bytes = joined(bytes.slice(0, at()), other.slice(from, from + 200), bytes.slice(at()));
        break;
      }
      case 3: {
        // On a place where a size may stand: four bytes behind four letters.
        const place = bytes.findIndex(
          (_, i) => i >= at() && /^[A-Za-z0-9 _]{4}$/.test(String.fromCharCode(...bytes.subarray(i, i + 4))),
        );
        const value = random.pick(extremes);
        if (place >= 0 && place + 8 <= bytes.length) bytes.set(random.next() < 0.7 ? le(value) : be(value), place + 4);
        break;
      }
      case 4: {
        const from = at();
        bytes = joined(bytes.slice(0, from), bytes.slice(from, from + 64), bytes.slice(from));
        break;
      }
      case 5:
        bytes.fill(random.pick([0, 255, 32]), at(), at() + Math.floor(random.next() * 64));
        break;
      default: {
        const from = at();
        bytes = joined(bytes.slice(0, from), bytes.slice(from + Math.floor(random.next() * 64)));
      }
    }
  }
  return bytes;
}

/** What came of reading a damaged file. */
export interface Outcome {
  kind: 'read' | 'refused';
  ms: number;
  /** Bytes asked of the source, in all. */
  asked: number;
}

/** Reads a damaged file. @throws Error when a reader fails in any other way than by a FileError that names a place */
export async function survive(bytes: Uint8Array): Promise<Outcome> {
  let asked = 0;
  const source = memorySource(bytes, 'damaged.wav');
  const counted = {
    ...source,
    read: (o: number, n: number) => ((asked += Math.min(n, Math.max(0, bytes.length - o))), source.read(o, n)),
  };
  const taken = cpuClock();
  const near = windowed(counted);
  try {
    const file = await readAudioFile(near);
    const { frames, blockAlign, dataOffset, rate, channels } = file.format;
    if (!Number.isSafeInteger(frames) || frames < 0 || !(rate > 0) || channels < 1)
      throw new Error(`an impossible format was read: ${JSON.stringify(file.format)}`);
    if (blockAlign > 0 && dataOffset + frames * blockAlign > bytes.length)
      throw new Error('audio was read beyond the end of the file');
    if (file.artwork && file.artwork.offset + file.artwork.length > bytes.length)
      throw new Error('a picture was found beyond the end of the file');
    await quickHashOf(near);
    return { kind: 'read', ms: taken(), asked };
  } catch (error) {
    if (!(error instanceof FileError)) throw error;
    if (!/\(at byte \d+\)$/.test(error.message) || error.offset > bytes.length)
      throw new Error(`no place is named: ${error.message}`, { cause: error });
    return { kind: 'refused', ms: taken(), asked };
  }
}
