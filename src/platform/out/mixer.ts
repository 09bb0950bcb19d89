import { CHUNK, Material } from '@core/engine';
import type { Cue, Scene } from '@core/scene';
import { mixdown } from '@core/scene';
import type { Loadable } from '../audio/loader';
import { openSound } from '../audio/reader';
import { openFile } from '../files/roots';

/** A finished mix on its way back to the window. */
export interface MixAnswer {
  wav: Uint8Array;
  clipped: number;
  peak: number;
  /** Sounds that could not be read, with the reason. */
  missing: { name: string; reason: string }[];
}

/** Renders mixes, in a worker. */
export class Mixer {
  /** Loads every sound of a scene whole and mixes it. @param progress 0..1 */
  async mix(scene: Scene, cues: Cue[], items: Loadable[], progress: (share: number) => void): Promise<MixAnswer> {
    const materials = new Map<number, Material>();
    const missing: MixAnswer['missing'] = [];
    for (const [n, { sound, root }] of items.entries()) {
      try {
        const reader = await openSound(await openFile(root, sound.path, sound.size), sound.format);
        const material = new Material(sound.format.rate, sound.format.frames, sound.format.channels);
        for (let c = 0; c * CHUNK < sound.format.frames; c++) material.put(c, await reader.read(c * CHUNK, CHUNK));
        materials.set(sound.id, material);
      } catch (error) {
        missing.push({ name: sound.path, reason: (error as Error).message });
      }
      progress(((n + 1) / items.length) * 0.5);
    }
    return { ...mixdown(scene, cues, materials, new Date(), (share) => progress(0.5 + share / 2)), missing };
  }
}
