import { CHUNK, Material, type MaterialSpan } from '@core/engine';
import { lengthOfScene, Mixdown, planOf, type Cue, type Scene, type Track } from '@core/scene';
import { materialId, type Loadable } from '../audio/loader';
import { openSound, type SoundReader } from '../audio/reader';
import { loadablePlan } from '../audio/scene-items';
import { stretched, StretchedIds } from '../audio/stretch';
import { openFile } from '../files/roots';

/** A finished mix on its way back to the window. */
export interface MixAnswer {
  wav: Blob;
  clipped: number;
  peak: number;
  /** Sounds that could not be read, with the reason. */
  missing: { name: string; reason: string }[];
}

/** A sound of a mix, of which as much is held as the window needs. */
class Fed {
  readonly material: Material;
  private readonly chunks = new Set<number>();

  constructor(private readonly reader: SoundReader) {
    const { rate, frames, channels } = reader.format;
    this.material = new Material(rate, frames, channels);
  }

  /** Holds some spans, and lets go of all else. @throws Error in words for the user */
  async hold(spans: readonly MaterialSpan[]): Promise<void> {
    const last = Math.ceil(this.material.frames / CHUNK);
    const wanted = new Set<number>();
    for (const { start, end } of spans)
      for (let c = Math.floor(Math.max(0, start) / CHUNK); c * CHUNK < end && c < last; c++) wanted.add(c);
    const free = [...this.chunks].filter((c) => !wanted.has(c));
    this.material.drop(free);
    for (const c of free) this.chunks.delete(c);
    for (const c of [...wanted].sort((a, b) => a - b)) {
      if (this.chunks.has(c)) continue;
      this.material.put(c, await this.reader.read(c * CHUNK, CHUNK));
      this.chunks.add(c);
    }
  }
}

/** Renders mixes, in a worker. */
export class Mixer {
  /**
   * Mixes a scene, window by window; of its sounds no more is held than a window needs.
   * @param progress 0..1
   * @throws RangeError where it is longer than a WAV file may be
   */
  async mix(
    scene: Scene,
    tracks: Track[],
    cues: Cue[],
    sounds: Loadable[],
    progress: (share: number) => void,
    date = new Date(),
  ): Promise<MixAnswer> {
    const { plan, items } = loadablePlan(planOf(tracks, cues), sounds, new StretchedIds());
    const materials = new Map<number, Material>();
    const fed = new Map<number, Fed>();
    const missing = new Map<number, MixAnswer['missing'][number]>();
    const mixdown = new Mixdown(scene, plan, lengthOfScene(scene, cues), materials);
    const { head, tail } = mixdown.around(date);
    const parts: BlobPart[] = [head as Uint8Array<ArrayBuffer>];
    for (;;) {
      const needs = mixdown.needs;
      for (const [key, own] of fed) await own.hold(needs.filter((n) => n.material === key));
      for (const key of new Set(needs.map((n) => n.material))) {
        const item = items.get(key);
        if (!item || missing.has(key) || fed.has(key)) continue;
        try {
          const made = await this.open(item);
          await made.hold(needs.filter((n) => n.material === key));
          fed.set(materialId(item), made);
          materials.set(key, made.material);
        } catch (error) {
          missing.set(key, { name: item.sound.path, reason: (error as Error).message });
        }
      }
      const part = mixdown.next();
      if (!part) break;
      // A blob of its own may go to the disk; the parts of one that is not made yet stay in memory.
      parts.push(new Blob([part as Uint8Array<ArrayBuffer>]));
      progress(mixdown.share);
    }
    parts.push(tail as Uint8Array<ArrayBuffer>);
    const { clipped, peak } = mixdown;
    return { wav: new Blob(parts, { type: 'audio/wav' }), clipped, peak, missing: [...missing.values()] };
  }

  private async open({ root, sound, stretched: how }: Loadable): Promise<Fed> {
    const reader = await openSound(await openFile(root, sound.path, sound.size), sound.format);
    return new Fed(stretched(reader, how?.stretch));
  }
}
