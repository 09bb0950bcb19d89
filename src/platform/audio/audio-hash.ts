import { ExactHash } from '@core/audio';
import { windowed, type AudioFormat, type ByteSource } from '@core/files';
import { describeFile, openWhole } from './reader';

/** Frames read at once. */
const SPAN = 1 << 17;

/**
 * Hash of the audio alone: of a file that was renamed and relabelled it is the same.
 * @param may says by its format whether it is worth the reading
 * @returns undefined where it is not
 * @throws Error where the file cannot be read
 */
export async function audioHashOf(
  file: ByteSource,
  may: (format: AudioFormat) => boolean = () => true,
): Promise<string | undefined> {
  const source = windowed(file);
  const { format } = await describeFile(source);
  if (!may(format)) return undefined;
  const reader = await openWhole(source, format);
  const hash = await ExactHash.start(reader.format.rate, reader.format.channels);
  for (let at = 0; at < reader.format.frames; at += SPAN) hash.push(await reader.read(at, SPAN));
  return hash.done();
}
