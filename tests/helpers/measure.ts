import { FactsCollector, type Measurement } from '@core/audio';
import { memorySource, readAudioFile, readFrames, type AudioFile } from '@core/files';
import { bytesOf } from './programs';

/** Measures planes, in blocks of any lengths. */
export async function measure(
  planes: Float32Array[],
  rate = 48000,
  blocks: readonly number[] = [1 << 16],
  loop = false,
): Promise<Measurement> {
  const collector = await FactsCollector.start(planes[0].length, rate, planes.length);
  for (let at = 0, n = 0; at < planes[0].length; n++) {
    const until = Math.min(planes[0].length, at + blocks[n % blocks.length]);
    // The collector may mend numbers in place; the test's own signal stays as it is.
    collector.push(planes.map((p) => p.slice(at, until)));
    at = until;
  }
  return collector.done(loop);
}

/** Reads and measures an uncompressed file. */
export async function measureFile(path: string): Promise<Measurement & { file: AudioFile }> {
  const source = memorySource(bytesOf(path), path);
  const file = await readAudioFile(source);
  const { frames, rate } = file.format;
  return { ...(await measure(await readFrames(source, file.format, 0, frames), rate)), file };
}
