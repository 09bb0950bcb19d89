import { isAiff, readAiff } from './aiff';
import type { AudioFile } from './format';
import type { ByteSource } from './source';
import { FileError, windowed } from './source';
import { isWav, readWav } from './wav';

/** File name endings that intake looks at. */
export const audioEndings = /\.(wav|wave|bwf|rf64|aif|aiff|aifc|flac|ogg|oga|opus|mp3|m4a)$/i;

/** Endings that our own readers do not decode; a platform's decoder has to. */
export const codedEndings = /\.(flac|ogg|oga|opus|mp3|m4a)$/i;

/**
 * Reads the format and labels of an uncompressed audio file, told apart by its content and not by its name.
 * @throws FileError with the reason in words for the user
 */
export async function readAudioFile(source: ByteSource): Promise<AudioFile> {
  if (source.size === 0) throw new FileError('the file is empty', 0);
  const near = windowed(source);
  const head = await near.read(0, 12);
  if (isWav(head)) return readWav(near);
  if (isAiff(head)) return readAiff(near);
  throw new FileError('not a sound file: its first bytes are neither those of a WAV nor of an AIFF file', 0);
}
