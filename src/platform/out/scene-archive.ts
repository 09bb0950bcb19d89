import { SCENES } from '@core/scene';
import { downloadZip } from 'client-zip';
import type { RootRecord } from '../store/store';
import { copyOf } from './projects';

/** A file that goes into the archive of a scene. */
export interface ToArchive {
  root: RootRecord;
  path: string;
  size: number;
  /** Where it lies in the archive, below `media`. */
  media: string;
}

/** Scenes in one archive. */
export interface ScenesAnswer {
  zip: Blob;
  files: number;
  /** What could not be read, with the reason; it is not in the archive. */
  missing: { name: string; reason: string }[];
}

/**
 * Packs scenes with the files that go with them; each lies in the archive as it is.
 * @param text of the scenes; of what could not be read, all the same
 */
export async function scenesArchive(
  text: string,
  files: readonly ToArchive[],
  progress: (share: number) => void,
): Promise<ScenesAnswer> {
  const lastModified = new Date();
  const missing: ScenesAnswer['missing'] = [];
  const packed: { name: string; input: Blob; lastModified: Date }[] = [];
  const all = files.reduce((sum, { size }) => sum + size, 0);
  let done = 0;
  for (const { root, path, size, media } of files) {
    try {
      const input = await copyOf(root, path, size);
      if (input.size !== size) throw new Error('its file is not as long any more as when it was taken in');
      packed.push({ name: SCENES.media + media, input, lastModified });
    } catch (error) {
      missing.push({ name: path, reason: (error as Error).message });
    }
    progress((done += size) / Math.max(1, all));
  }
  const zip = await downloadZip([{ name: SCENES.text, input: text, lastModified }, ...packed]).blob();
  return { zip, files: packed.length, missing };
}
