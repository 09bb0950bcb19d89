import type { AudioFile, AudioFormat, ByteSource } from '@core/files';
import {
  FileError,
  fileKind,
  isOggFlac,
  memorySource,
  noSound,
  readAudioFile,
  readFrames,
  scanOgg,
  unwrappedFlac,
} from '@core/files';
import { describeCoded, openCoded } from './coded';
import { streamCoded } from './coded-stream';
import { type SoundReader } from './sound-reader';

export type { SoundReader };

/**
 * What a file says of itself, read without its audio: with our own readers where they know the format, and a demuxer elsewhere. What
 * it is is told by its content, whatever it is called.
 * @throws FileError with the reason in words for the user
 */
export async function describeFile(source: ByteSource): Promise<AudioFile> {
  if (source.size === 0) throw new FileError('the file is empty', 0);
  const head = await source.read(0, 40);
  if (isOggFlac(head)) return describeCoded(await plain(source));
  const kind = fileKind(head);
  if (kind === 'wave' || kind === 'aiff') return readAudioFile(source);
  if (kind === undefined) throw await noSound(source);
  return describeCoded(source);
}

/** A source that the demuxer knows: FLAC in Ogg, which it does not, as a FLAC file. */
async function plain(source: ByteSource): Promise<ByteSource> {
  if (!isOggFlac(await source.read(0, 40))) return source;
  const bytes = await source.read(0, source.size);
  return memorySource(unwrappedFlac(bytes, scanOgg(bytes)), source.name);
}

/** The part of a decoded file that a format tells of. */
const partOf = (reader: SoundReader, format: AudioFormat): SoundReader => ({
  format,
  warnings: reader.warnings,
  read: (start, count) => reader.read((format.skip ?? 0) + start, Math.max(0, Math.min(count, format.frames - start))),
});

const ownReader = (source: ByteSource, format: AudioFormat): SoundReader => ({
  format,
  read: (start, count) => readFrames(source, format, start, count),
});

/**
 * Opens a sound for reading anywhere in it, with our own decoders where they know the format and the browser's elsewhere.
 * @param format as it was read or measured before
 * @throws FileError with the reason in words for the user
 */
export async function openSound(source: ByteSource, format: AudioFormat): Promise<SoundReader> {
  if (format.encoding !== 'coded') return ownReader(source, format);
  const own = await plain(source);
  return format.whole ? partOf(await openCoded(own), format) : streamCoded(own, format);
}

/** The same for reading all of it: the format that it tells has the exact number of frames, also of a compressed sound. */
export async function openWhole(source: ByteSource, format: AudioFormat): Promise<SoundReader> {
  // A part of a coded file has as many frames as it was cut to.
  if (format.encoding === 'coded')
    return format.skip === undefined ? openCoded(await plain(source)) : openSound(source, format);
  return ownReader(source, format);
}
