import { readChunk, walkChunks } from './chunks';
import type { AudioFile, AudioFormat, CuePoint } from './format';
import { formatFault } from './format';
import { readId3 } from './id3';
import type { ByteSource } from './source';
import { FileError, fourCC, viewOf } from './source';
import { decodeText } from './text';

/** The 80-bit IEEE 754 extended number in which AIFF keeps its sample rate. */
export function readExtended(view: DataView, at: number): number {
  const exponent = view.getUint16(at) & 0x7fff;
  const mantissa = view.getUint32(at + 2) * 2 ** 32 + view.getUint32(at + 6);
  const value = mantissa * 2 ** (exponent - 16383 - 63);
  return view.getUint8(at) & 0x80 ? -value : value;
}

/** Compression types of AIFF-C that are uncompressed in all but name, or G.711. */
const codings: Record<string, Partial<AudioFormat>> = {
  NONE: {},
  twos: {},
  in24: { bits: 24 },
  in32: { bits: 32 },
  sowt: { littleEndian: true },
  'raw ': { unsigned: true },
  fl32: { encoding: 'float', bits: 32 },
  FL32: { encoding: 'float', bits: 32 },
  fl64: { encoding: 'float', bits: 64 },
  FL64: { encoding: 'float', bits: 64 },
  alaw: { encoding: 'alaw', bits: 8 },
  ALAW: { encoding: 'alaw', bits: 8 },
  ulaw: { encoding: 'mulaw', bits: 8 },
  ULAW: { encoding: 'mulaw', bits: 8 },
};

function readComm(bytes: Uint8Array, at: number, compressed: boolean): { format: AudioFormat; frames: number } {
  const least = compressed ? 22 : 18;
  if (bytes.length < least) throw new FileError(`the COMM chunk has ${bytes.length} bytes; ${least} are the least`, at);
  const view = viewOf(bytes);
  const type = compressed ? fourCC(bytes, 18) : 'NONE';
  const coding = codings[type];
  if (!coding) throw new FileError(`the audio is coded as AIFF-C type “${type}”, which is not supported`, at);
  const channels = view.getInt16(0);
  const bits = coding.bits ?? Math.ceil(view.getInt16(6) / 8) * 8;
  const format: AudioFormat = {
    container: compressed ? 'AIFF-C' : 'AIFF',
    encoding: 'pcm',
    unsigned: false,
    littleEndian: false,
    rate: Math.round(readExtended(view, 8)),
    channels,
    frames: 0,
    dataOffset: 0,
    ...coding,
    bits,
    blockAlign: (channels * bits) / 8,
  };
  const fault = formatFault(format);
  if (fault) throw new FileError(`the COMM chunk ${fault}`, at);
  return { format, frames: view.getUint32(2) };
}

/** MARK: id, position and a Pascal string each. */
function readMarks(bytes: Uint8Array): CuePoint[] {
  const view = viewOf(bytes);
  const marks: CuePoint[] = [];
  let at = 2;
  while (at + 7 <= bytes.length) {
    const length = view.getUint8(at + 6);
    marks.push({
      frame: view.getUint32(at + 2),
      length: 0,
      label: decodeText(bytes.subarray(at + 7, at + 7 + length)),
    });
    at += 7 + length + ((length + 1) % 2);
  }
  return marks;
}

/** COMT: time stamp, marker, length and text each; the texts joined. */
function readComments(bytes: Uint8Array): string {
  const view = viewOf(bytes);
  const texts: string[] = [];
  for (let at = 2; at + 8 <= bytes.length;) {
    const length = view.getUint16(at + 6);
    texts.push(decodeText(bytes.subarray(at + 8, at + 8 + length)));
    at += 8 + length + (length % 2);
  }
  return texts.join('\n');
}

/** True when the first 12 bytes begin an AIFF or AIFF-C file. */
export function isAiff(head: Uint8Array): boolean {
  return head.length >= 12 && fourCC(head) === 'FORM' && /^AIF[FC]$/.test(fourCC(head, 8));
}

/**
 * Reads the format and labels of an AIFF or AIFF-C file (Apple, 1989 and 1991) without reading its audio.
 * @throws FileError when no audio can be found
 */
export async function readAiff(source: ByteSource): Promise<AudioFile> {
  const head = await source.read(0, 12);
  if (!isAiff(head)) throw new FileError('not an AIFF file: it does not begin with FORM … AIFF', 0);
  const warnings: string[] = [];
  const chunks = await walkChunks(source, 12, false, warnings);
  const comm = chunks.find((c) => c.id === 'COMM');
  if (!comm) throw new FileError('the COMM chunk, which says how the audio is coded, is missing', source.size);
  const { format, frames } = readComm(await readChunk(source, comm), comm.offset, fourCC(head, 8) === 'AIFC');
  const sound = chunks.find((c) => c.id === 'SSND');
  if (!sound || sound.size < 8) throw new FileError('the file ends before its audio (no SSND chunk)', source.size);
  const skip = viewOf(await source.read(sound.offset, 8)).getUint32(0);
  format.dataOffset = sound.offset + 8 + skip;
  format.frames = Math.min(frames, Math.max(0, Math.floor((sound.size - 8 - skip) / format.blockAlign)));
  if (format.frames === 0) throw new FileError('the file has no audio in it (its SSND chunk is empty)', sound.offset);
  if (format.frames < frames) warnings.push(`the audio is cut off: ${format.frames} of ${frames} frames are there`);

  const labels = new Map<string, string>();
  const file: AudioFile = { format, labels, cues: [], loops: [], warnings };
  for (const chunk of chunks) {
    try {
      await readInto(chunk);
    } catch (error) {
      warnings.push(`the ${chunk.id.trim()} chunk could not be read: ${(error as Error).message}`);
    }
  }
  return file;

  async function readInto(chunk: (typeof chunks)[number]): Promise<void> {
    if (/^(NAME|AUTH|ANNO|\(c\) )$/.test(chunk.id)) {
      const key = `AIFF.${chunk.id.trim()}`;
      const text = decodeText(await readChunk(source, chunk));
      const before = labels.get(key);
      if (text) labels.set(key, before ? `${before}\n${text}` : text);
    } else if (chunk.id === 'COMT') labels.set('AIFF.COMT', readComments(await readChunk(source, chunk)));
    else if (chunk.id === 'MARK')
      file.cues = readMarks(await readChunk(source, chunk)).filter((c) => c.frame <= format.frames);
    else if (chunk.id === 'ID3 ')
      await readId3(source, chunk.offset, chunk.size, labels, warnings, (art) => (file.artwork ??= art));
  }
}
