import { PeakCollector, type Peaks } from '@core/audio';
import { anchorIn, findSlices, ReelCollector, type Slice, type SliceSettings } from '@core/suggest';
import type { Loadable } from './loader';
import { openSound } from './reader';
import { openFile } from '../files/roots';

/** Frames that are read at once, over all channels. */
const READ = 1 << 20;
/** Seconds of a column of a reel's contour: fine enough to see where a take begins. */
const COLUMN = 0.005;
/** Milliseconds between two looks at what is known of a reel by now, at least. */
const LOOK = 700;
/** A look goes through all that is known: of a long reel it takes its time, and there are so many times fewer. */
const SPARED = 10;

/** Reads reels, and cuts those that it read, in a worker of its own. */
export class Slicer {
  private readonly reels = new Map<number, ReelCollector>();
  private cancelled = false;

  /** Ends reading the reel in hand. */
  cancel(): void {
    this.cancelled = true;
  }

  /**
   * Reads a reel.
   * @param found told how much was read, 0 to 1, and the slices by then
   * @returns its contour; undefined when it was cancelled
   * @throws Error with the reason in words for the user
   */
  async measure(
    item: Loadable,
    settings: SliceSettings,
    found: (share: number, slices: Slice[]) => void,
  ): Promise<Peaks | undefined> {
    this.cancelled = false;
    const { sound, root } = item;
    const reader = await openSound(await openFile(root, sound.path, sound.size), sound.format);
    const { rate, channels } = reader.format;
    const { frames } = sound.format;
    const reel = new ReelCollector(rate);
    const peaks = new PeakCollector(frames, Math.max(1, Math.round(rate * COLUMN)));
    const block = Math.max(4096, Math.floor(READ / channels));
    let look = performance.now() + LOOK;
    // While one block is looked at, the next one is read.
    let coming = reader.read(0, Math.min(block, frames));
    for (let at = 0; at < frames; at += block) {
      const planes = await coming;
      const next = at + block;
      if (next < frames) coming = reader.read(next, Math.min(block, frames - next));
      coming.catch(() => undefined);
      if (this.cancelled) return undefined;
      if (planes[0].length === 0) break;
      reel.push(planes);
      peaks.push(planes);
      const now = performance.now();
      if (now < look) continue;
      found(Math.min(1, next / frames), findSlices(reel, settings));
      const took = performance.now() - now;
      look = now + took + Math.max(LOOK, SPARED * took);
    }
    reel.finish();
    this.reels.set(sound.id, reel);
    return peaks.done();
  }

  /** Cuts a reel that was read. @returns undefined for another one */
  cut(id: number, settings: SliceSettings): Slice[] | undefined {
    const reel = this.reels.get(id);
    return reel && findSlices(reel, settings);
  }

  /** Where the anchor of a part of a reel would be; its start for a reel that was not read. */
  anchor(id: number, part: { start: number; end: number }): number {
    const reel = this.reels.get(id);
    return reel ? anchorIn(reel, part) : part.start;
  }

  /** Lets go of reels that nobody looks at any more. */
  keepOnly(ids: readonly number[]): void {
    for (const id of this.reels.keys()) if (!ids.includes(id)) this.reels.delete(id);
  }
}
