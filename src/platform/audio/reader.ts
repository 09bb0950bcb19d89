import type { AudioFile, AudioFormat, ByteSource } from '@core/files';
import { codedEndings, readAudioFile, readFrames } from '@core/files';
import { describeCoded, openCoded } from './coded';
import { streamCoded } from './coded-stream';
import { type SoundReader } from './sound-reader';

export type { SoundReader };

/**
 * What a file says of itself, read without its audio: with our own readers where they know the format, and a demuxer elsewhere.
 * @throws FileError with the reason in words for the user
 */
export function describeFile(source: ByteSource): Promise<AudioFile> {
  return codedEndings.test(source.name) && source.size > 0 ? describeCoded(source) : readAudioFile(source);
}

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
  return format.encoding === 'coded' ? streamCoded(source, format) : ownReader(source, format);
}

/** The same for reading all of it: the format that it tells has the exact number of frames, also of a compressed sound. */
export async function openWhole(source: ByteSource, format: AudioFormat): Promise<SoundReader> {
  // A part of a coded file has as many frames as it was cut to.
  if (format.encoding === 'coded') return format.skip === undefined ? openCoded(source) : streamCoded(source, format);
  return ownReader(source, format);
}
