import { EnergyCollector, PeakCollector, spanFor } from '@core/audio';
import type { AudioFormat } from '@core/files';
import type { FoundFile, Sound } from '@core/library';
import { describe } from '@core/library';
import { categoryOf, suggestAnchor } from '@core/suggest';
import { openSound } from './reader';
import { openFile, RootUnavailable } from './roots';
import type { PeaksRecord, RootRecord } from './store';

/** A file's record, or why it has none. */
export type ReadResult = { sound: Omit<Sound, 'id'> } | { path: string; reason: string };

/** What was measured of a sound. */
export interface Measured extends PeaksRecord {
  anchor: number;
}

/** Frames read at once while measuring: big enough for speed, small enough for memory. */
const SPAN = 1 << 17;

/** Reads files for the catalogue, in a worker. */
export class IntakeReader {
  /** Reads the labels of some files. One that cannot be read gives its reason; the rest goes on. */
  async read(root: RootRecord, found: FoundFile[]): Promise<ReadResult[]> {
    const results: ReadResult[] = [];
    for (const file of found) {
      try {
        const reader = await openSound(await openFile(root, file.path, file.size));
        const category = (catId: string) => categoryOf(catId);
        results.push({ sound: describe(reader.file, file, category) });
        reader.close();
      } catch (error) {
        if (error instanceof RootUnavailable) throw error;
        results.push({ path: file.path, reason: (error as Error).message });
      }
    }
    return results;
  }

  /** Measures the contour of a sound and suggests its anchor. */
  async measure(root: RootRecord, id: number, path: string, size: number, format: AudioFormat): Promise<Measured> {
    const reader = await openSound(await openFile(root, path, size), format);
    const { frames, rate } = reader.file.format;
    const span = spanFor(frames, rate);
    const peaks = new PeakCollector(frames, span);
    const energy = new EnergyCollector(rate);
    for (let at = 0; at < frames; at += SPAN) {
      const planes = await reader.read(at, SPAN);
      if (planes[0].length === 0) break;
      peaks.push(planes);
      energy.push(planes);
    }
    reader.close();
    return { id, ...peaks.done(), anchor: suggestAnchor(energy, rate) };
  }
}
