import { memorySource } from '@core/files';
import { describeFile, openSound, openWhole } from '@platform/audio/reader';

/** What reading a file came to, in a browser. */
export interface Read {
  reason?: string;
  container: string;
  /** Frames that its labels tell of, and that decoding found. */
  said: number;
  frames: number;
  /** The first frame above a level. */
  onset: number;
  peak: number;
  /** Largest difference between all of it decoded and parts of it decoded from the middle. */
  apart: number;
  warnings: string[];
  /** Level of each tenth of it, to see where it is silent. */
  tenths: number[];
}

/** Reads a file in each way that the application does. @param level of the onset */
export async function read(bytes: Uint8Array, name: string, level: number): Promise<Partial<Read>> {
  try {
    const source = memorySource(bytes, name);
    const { format } = await describeFile(source);
    const whole = await openWhole(source, format);
    const { frames } = whole.format;
    const [all] = await whole.read(0, frames);
    let apart = 0;
    for (const share of [0.6, 0, 0.9, 0.45]) {
      const from = Math.floor(frames * share);
      const [part] = await (await openSound(source, whole.format)).read(from, 6000);
      for (let i = 0; i < part.length; i++) apart = Math.max(apart, Math.abs(part[i] - all[from + i]));
    }
    const loudest = (part: Float32Array) => part.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
    const tenth = Math.floor(frames / 10);
    return {
      container: format.container,
      said: format.frames,
      frames,
      onset: all.findIndex((x) => Math.abs(x) > level),
      peak: loudest(all),
      apart,
      warnings: [...(whole.warnings ?? [])],
      tenths: Array.from({ length: 10 }, (_, i) => loudest(all.subarray(i * tenth, (i + 1) * tenth))),
    };
  } catch (error) {
    return { reason: (error as Error).message };
  }
}
