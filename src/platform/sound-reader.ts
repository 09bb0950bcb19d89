import type { AudioFile } from '@core/files';

/** An opened sound: what it says of itself, and its samples. */
export interface SoundReader {
  file: AudioFile;
  /** Decodes frames `start` to `start + count`, clipped to the sound; one array per channel. */
  read(start: number, count: number): Promise<Float32Array[]>;
  close(): void;
}
