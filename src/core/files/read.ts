import { xxhash64 } from 'hash-wasm';
import { isAiff, readAiff } from './aiff';
import { isFlac, readFlac } from './flac';
import { otherKind } from './kinds';
import type { AudioFile } from './format';
import type { ByteSource } from './source';
import { FileError, viewOf, windowed } from './source';
import { isWav, readWav } from './wav';

const own = ['wav', 'wave', 'bwf', 'rf64', 'aif', 'aiff', 'aifc'];
const coded = ['flac', 'ogg', 'oga', 'opus', 'mp3', 'm4a'];
const endingIn = (endings: readonly string[]) => new RegExp(`\\.(${endings.join('|')})$`, 'i');

/** Endings of the names of audio files, as a choice of files takes them: `.wav`, `.flac` … */
export const audioFiles: readonly string[] = [...own, ...coded].map((ending) => `.${ending}`);

/** Endings of the names of videos, as a choice of files takes them. */
export const videoFiles: readonly string[] = ['.webm', '.mp4', '.m4v', '.mov', '.mkv'];
/** File name endings that may be those of a picture for a scene. */
export const videoEndings = endingIn(videoFiles.map((ending) => ending.slice(1)));

/** File name endings that intake looks at. */
export const audioEndings = endingIn([...own, ...coded]);

/**
 * Reads the format and labels of an audio file that our own readers know, told apart by its content and not by its name:
 * the WAV and AIFF families and FLAC. The frames of a FLAC file may be 0: not every encoder writes them.
 * @throws FileError with the reason in words for the user
 */
export async function readAudioFile(source: ByteSource): Promise<AudioFile> {
  if (source.size === 0) throw new FileError('the file is empty', 0);
  const near = windowed(source);
  const head = await near.read(0, 12);
  if (isWav(head)) return readWav(near);
  if (isAiff(head)) return readAiff(near);
  if (isFlac(head)) return readFlac(near);
  throw await noSound(near);
}

/** Says of a file that is no sound what it is. */
export async function noSound(source: ByteSource): Promise<FileError> {
  return new FileError(`this is no sound file: it holds ${otherKind(await source.read(0, 64))}`, 0);
}

const EDGE = 2048;

/**
 * A hash of a file's first and last 2 KiB and its size, by which it is recognised where it moves, for four kilobytes of
 * reading. XXH64, 16 hexadecimal digits.
 */
export async function quickHashOf(source: ByteSource): Promise<string> {
  const head = await source.read(0, Math.min(EDGE, source.size));
  const tail = await source.read(Math.max(0, source.size - EDGE), Math.min(EDGE, source.size));
  const both = new Uint8Array(head.length + tail.length + 8);
  both.set(head);
  both.set(tail, head.length);
  viewOf(both).setFloat64(head.length + tail.length, source.size);
  return xxhash64(both);
}
