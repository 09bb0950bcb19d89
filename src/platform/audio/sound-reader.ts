import type { AudioFormat } from '@core/files';

/** An opened sound: its format, exact by now, and its samples. */
export interface SoundReader {
  format: AudioFormat;
  /** Decodes frames `start` to `start + count`, clipped to the sound; one array per channel. */
  read(start: number, count: number): Promise<Float32Array[]>;
  /** What was odd about the audio, as far as it was read, in words for the user. */
  readonly warnings?: readonly string[];
}
