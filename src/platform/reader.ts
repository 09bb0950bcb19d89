import type { AudioFile, AudioFormat, ByteSource } from '@core/files';
import { codedEndings, readAudioFile, readFrames } from '@core/files';
import { describeCoded, openCoded } from './coded';
import { type SoundReader } from './sound-reader';

export type { SoundReader };

/**
 * What a file says of itself, read without its audio: with our own readers where they know the format, and a demuxer elsewhere.
 * @throws FileError with the reason in words for the user
 */
export function describeFile(source: ByteSource): Promise<AudioFile> {
  return codedEndings.test(source.name) && source.size > 0 ? describeCoded(source) : readAudioFile(source);
}

/**
 * Opens a sound for reading, with our own decoders where they know the format and the browser's elsewhere.
 * @param format as it was read before
 * @throws FileError with the reason in words for the user
 */
export async function openSound(source: ByteSource, format: AudioFormat): Promise<SoundReader> {
  if (format.encoding === 'coded') return openCoded(source);
  return { format, read: (start, count) => readFrames(source, format, start, count) };
}
