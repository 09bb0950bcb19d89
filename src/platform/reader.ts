import type { AudioFormat, ByteSource } from '@core/files';
import { codedEndings, FileError, readAudioFile, readFrames } from '@core/files';
import { openCoded } from './coded';
import { type SoundReader } from './sound-reader';

export type { SoundReader };

/**
 * Opens a sound for reading, with our own readers where they know the format and the browser's decoders elsewhere.
 * @param known its format, if it was read before; then the file's head is not read again
 * @throws FileError with the reason in words for the user
 */
export async function openSound(source: ByteSource, known?: AudioFormat): Promise<SoundReader> {
  if (known ? known.encoding === 'coded' : codedEndings.test(source.name) && source.size > 0) {
    const coded = await openCoded(source);
    if (coded) return coded;
    throw new FileError('this browser has no decoder for the audio, or the file is damaged', 0);
  }
  const file = known
    ? { format: known, labels: new Map(), cues: [], loops: [], warnings: [] }
    : await readAudioFile(source);
  return { file, read: (start, count) => readFrames(source, file.format, start, count), close: () => undefined };
}
