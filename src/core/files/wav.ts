import type { Chunk } from './chunks';
import { readChunk, walkChunks } from './chunks';
import type { AudioFile, AudioFormat, CuePoint } from './format';
import { formatFault } from './format';
import { readIxml, readXmp } from './xml';
import { readId3 } from './id3';
import type { ByteSource } from './source';
import { FileError, fourCC, viewOf } from './source';
import { decodeText } from './text';

/** `wFormatTag` of the fmt chunk, as registered in RFC 2361 and Microsoft's mmreg.h. */
export const WaveFormat = { PCM: 1, IEEE_FLOAT: 3, ALAW: 6, MULAW: 7, EXTENSIBLE: 0xfffe } as const;

const encodings: Record<number, AudioFormat['encoding']> = {
  [WaveFormat.PCM]: 'pcm',
  [WaveFormat.IEEE_FLOAT]: 'float',
  [WaveFormat.ALAW]: 'alaw',
  [WaveFormat.MULAW]: 'mulaw',
};

function readFmt(bytes: Uint8Array, at: number, container: AudioFormat['container']): AudioFormat {
  if (bytes.length < 16) throw new FileError(`the fmt chunk has ${bytes.length} bytes; 16 are the least`, at);
  const view = viewOf(bytes);
  const le = container !== 'RIFX';
  let tag = view.getUint16(0, le);
  if (tag === WaveFormat.EXTENSIBLE && bytes.length >= 26) tag = view.getUint16(24, le);
  const encoding = encodings[tag];
  if (!encoding) throw new FileError(`the audio is coded in WAVE format ${tag}, which is not supported`, at);
  const channels = view.getUint16(2, le);
  // Packed containers only: blockAlign tells the bytes per sample even where wBitsPerSample says 20 or 12.
  const blockAlign = view.getUint16(12, le);
  const bits = Math.ceil(view.getUint16(14, le) / 8) * 8;
  const format = {
    container,
    encoding,
    unsigned: encoding === 'pcm' && bits === 8,
    littleEndian: le,
    rate: view.getUint32(4, le),
    channels,
    bits,
    blockAlign: blockAlign || (channels * bits) / 8,
  };
  const fault = formatFault(format);
  if (fault) throw new FileError(`the fmt chunk ${fault}`, at);
  return { ...format, frames: 0, dataOffset: 0 };
}

/** The five values that version 2 of `bext` adds, hundredths of LU, LUFS and dBTP. */
const loudnessValues = [
  'LoudnessValue',
  'LoudnessRange',
  'MaxTruePeakLevel',
  'MaxMomentaryLoudness',
  'MaxShortTermLoudness',
];

/** EBU Tech 3285: the broadcast extension. */
function readBext(bytes: Uint8Array, labels: Map<string, string>): void {
  const field = (name: string, from: number, length: number) => {
    const text = decodeText(bytes.subarray(from, from + length));
    if (text) labels.set(`bext.${name}`, text);
  };
  field('Description', 0, 256);
  field('Originator', 256, 32);
  field('OriginatorReference', 288, 32);
  field('OriginationDate', 320, 10);
  field('OriginationTime', 330, 8);
  const view = viewOf(bytes);
  if (bytes.length >= 346) labels.set('bext.TimeReference', view.getBigUint64(338, true).toString());
  const version = bytes.length >= 348 ? view.getUint16(346, true) : 0;
  const umid = bytes.subarray(348, 412);
  if (version >= 1 && umid.length === 64 && umid.some((b) => b !== 0))
    labels.set('bext.UMID', Array.from(umid, (b) => b.toString(16).padStart(2, '0')).join(''));
  if (version >= 2 && bytes.length >= 422) {
    loudnessValues.forEach((name, i) => {
      const value = view.getInt16(412 + 2 * i, true);
      // 0x7fff stands for "not measured".
      if (value !== 0x7fff) labels.set(`bext.${name}`, (value / 100).toFixed(2));
    });
  }
  if (bytes.length > 602) field('CodingHistory', 602, bytes.length - 602);
}

/** RIFF LIST: `INFO` texts into labels, `adtl` labels and lengths into the cue points' tables. */
function readList(bytes: Uint8Array, le: boolean, labels: Map<string, string>, notes: CueNotes): void {
  const kind = fourCC(bytes);
  const view = viewOf(bytes);
  for (let at = 4; at + 8 <= bytes.length;) {
    const id = fourCC(bytes, at);
    const size = Math.min(view.getUint32(at + 4, le), bytes.length - at - 8);
    const content = bytes.subarray(at + 8, at + 8 + size);
    if (kind === 'INFO') {
      const text = decodeText(content);
      if (text && !labels.has(`INFO.${id}`)) labels.set(`INFO.${id}`, text);
    } else if (kind === 'adtl' && size >= 4) {
      const cue = view.getUint32(at + 8, le);
      if (id === 'labl') notes.names.set(cue, decodeText(content.subarray(4)));
      if (id === 'ltxt' && size >= 8) notes.lengths.set(cue, view.getUint32(at + 12, le));
    }
    at += 8 + size + (size % 2);
  }
}

interface CueNotes {
  names: Map<number, string>;
  lengths: Map<number, number>;
}

function readCues(bytes: Uint8Array, le: boolean): { id: number; frame: number }[] {
  const view = viewOf(bytes);
  if (bytes.length < 4) return [];
  const count = Math.min(view.getUint32(0, le), Math.floor((bytes.length - 4) / 24));
  return Array.from({ length: count }, (_, i) => ({
    id: view.getUint32(4 + i * 24, le),
    frame: view.getUint32(4 + i * 24 + 20, le),
  }));
}

function readSmpl(bytes: Uint8Array, le: boolean, labels: Map<string, string>): { start: number; end: number }[] {
  if (bytes.length < 36) return [];
  const view = viewOf(bytes);
  const note = view.getUint32(12, le);
  if (note < 128) labels.set('smpl.MIDIUnityNote', String(note));
  const count = Math.min(view.getUint32(28, le), Math.floor((bytes.length - 36) / 24));
  return Array.from({ length: count }, (_, i) => ({
    start: view.getUint32(36 + i * 24 + 8, le),
    end: view.getUint32(36 + i * 24 + 12, le),
  }));
}

/** `inst`: the note at which the sound plays unchanged, and the keys and velocities it is meant for. */
function readInst(bytes: Uint8Array, labels: Map<string, string>): void {
  if (bytes.length < 7) return;
  const view = viewOf(bytes);
  const names = ['UnshiftedNote', 'FineTune', 'Gain', 'LowNote', 'HighNote', 'LowVelocity', 'HighVelocity'];
  names.forEach((name, i) => labels.set(`inst.${name}`, String(view.getInt8(i))));
}

const containers: Record<string, AudioFormat['container']> = { RIFF: 'WAV', RIFX: 'RIFX', RF64: 'RF64', BW64: 'RF64' };

/** `ds64` of EBU Tech 3306 / ITU-R BS.2088: 64-bit sizes for chunks whose own field says 0xFFFFFFFF. */
async function longSizes(source: ByteSource): Promise<(id: string) => number | undefined> {
  const bytes = await source.read(12, 36);
  if (bytes.length < 28 || fourCC(bytes) !== 'ds64') return () => undefined;
  const dataSize = Number(viewOf(bytes).getBigUint64(16, true));
  return (id) => (id === 'data' && dataSize > 0 ? dataSize : undefined);
}

/** Bytes in which chunks are looked for behind one whose size is wrong. */
const SEARCHED = 4 << 20;

/**
 * Finds `fmt ` and `data` that the size of a chunk before them hides: it claims what is theirs. They are told by their ids and by sizes
 * that make sense.
 */
async function hiddenChunks(
  source: ByteSource,
  chunks: readonly Chunk[],
  le: boolean,
  warnings: string[],
): Promise<Chunk[]> {
  const bytes = await source.read(12, Math.min(SEARCHED, source.size - 12));
  const view = viewOf(bytes);
  const found: Chunk[] = [];
  let fmt = chunks.some((c) => c.id === 'fmt ') ? 0 : -1;
  for (let at = 0; at + 8 <= bytes.length && found.every((c) => c.id !== 'data'); at++) {
    // Most bytes begin neither.
    if (bytes[at] !== 0x66 && bytes[at] !== 0x64) continue;
    const id = fourCC(bytes, at);
    if (id !== 'fmt ' && id !== 'data') continue;
    const offset = 12 + at + 8;
    const size = view.getUint32(at + 4, le);
    const left = source.size - offset;
    if (id === 'fmt ' && fmt < 0 && size >= 16 && size <= 64 && encodings[view.getUint16(at + 8, le)]) {
      fmt = at;
      found.push({ id, offset, size });
    } else if (id === 'fmt ' && encodings[view.getUint16(Math.min(at + 8, bytes.length - 2), le)])
      fmt = Math.max(fmt, 0);
    else if (id === 'data' && fmt >= 0 && size > 0) found.push({ id, offset, size: Math.min(size, left) });
  }
  const liar = chunks.find((c) => found.some((f) => f.offset > c.offset && f.offset < c.offset + c.size));
  if (found.length > 0)
    warnings.push(`the size of the ${liar?.id.trim() ?? 'first'} chunk is wrong; the audio was found behind it`);
  return found;
}

/** True when the first 12 bytes begin a file of the WAVE family. */
export function isWav(head: Uint8Array): boolean {
  return head.length >= 12 && fourCC(head) in containers && fourCC(head, 8) === 'WAVE';
}

/**
 * Reads the format and labels of a WAV, BWF, RF64, BW64 or RIFX file without reading its audio.
 * @throws FileError when no audio can be found; odd but readable things become warnings
 */
export async function readWav(source: ByteSource): Promise<AudioFile> {
  const head = await source.read(0, 12);
  if (!isWav(head)) throw new FileError('not a WAV file: it does not begin with RIFF … WAVE', 0);
  const container = containers[fourCC(head)];
  const le = container !== 'RIFX';
  const warnings: string[] = [];
  const sizes = container === 'RF64' ? await longSizes(source) : undefined;
  const chunks = await walkChunks(source, 12, le, warnings, sizes);
  const find = (id: string) => chunks.find((c) => c.id === id);

  const hidden = find('fmt ') && find('data') ? [] : await hiddenChunks(source, chunks, le, warnings);
  const fmt = find('fmt ') ?? hidden.find((c) => c.id === 'fmt ');
  if (!fmt) throw new FileError('the fmt chunk, which says how the audio is coded, is missing', source.size);
  const format = readFmt(await source.read(fmt.offset, Math.min(fmt.size, 64)), fmt.offset, container);
  const data = find('data') ?? hidden.find((c) => c.id === 'data');
  if (!data) throw new FileError('the file ends before its audio (no data chunk)', source.size);
  format.dataOffset = data.offset;
  format.frames = Math.floor(data.size / format.blockAlign);
  if (format.frames === 0) throw new FileError('the file has no audio in it (its data chunk is empty)', data.offset);

  const labels = new Map<string, string>();
  const notes: CueNotes = { names: new Map(), lengths: new Map() };
  let points: { id: number; frame: number }[] = [];
  const file: AudioFile = { format, labels, cues: [], loops: [], warnings };
  const readers: Record<string, (bytes: Uint8Array) => void> = {
    bext: (b) => readBext(b, labels),
    iXML: (b) => {
      const warning = readIxml(decodeText(b), labels);
      if (warning) warnings.push(warning);
    },
    LIST: (b) => readList(b, le, labels, notes),
    'cue ': (b) => void (points = readCues(b, le)),
    smpl: (b) => void (file.loops = readSmpl(b, le, labels)),
    inst: (b) => readInst(b, labels),
    _PMX: (b) => {
      const warning = readXmp(decodeText(b), labels);
      if (warning) warnings.push(warning);
    },
  };
  for (const chunk of chunks) {
    if (/^id3 $/i.test(chunk.id))
      await readId3(source, chunk.offset, chunk.size, labels, warnings, (art) => (file.artwork ??= art));
    else await readInto(source, chunk, readers[chunk.id], warnings);
  }
  file.cues = points
    .filter((p) => p.frame <= format.frames)
    .map((p): CuePoint => ({
      frame: p.frame,
      length: notes.lengths.get(p.id) ?? 0,
      label: notes.names.get(p.id) ?? '',
    }));
  return file;
}

/** One broken label block must not cost the others. */
async function readInto(
  source: ByteSource,
  chunk: Chunk,
  reader: ((bytes: Uint8Array) => void) | undefined,
  warnings: string[],
): Promise<void> {
  if (!reader || chunk.size === 0) return;
  try {
    reader(await readChunk(source, chunk));
  } catch (error) {
    warnings.push(`the ${chunk.id.trim()} chunk could not be read: ${(error as Error).message}`);
  }
}
