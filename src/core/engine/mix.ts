import type { Material } from './material';
import { channelGains, fromDb } from '@core/audio';
import { addMaterial, BLOCK, type Envelope } from './voice';

const curve = new Float64Array(BLOCK);

/** A cue as the engine needs it: which audio, and where its anchor lands. */
export interface MixCue {
  /** Key of its material. */
  material: number;
  /** Sample of the timeline on which the anchor lands. */
  at: number;
  /** Frames of the sound: the anchor, and what plays of it. */
  anchor: number;
  start: number;
  end: number;
  /** dB, the track's gain included. */
  gain: number;
  /** -1 to 1 */
  pan: number;
  /** Seconds. */
  fadeIn: number;
  fadeOut: number;
}

/** Everything that sounds in a scene; muted cues and tracks are left out beforehand. */
export interface Mix {
  cues: MixCue[];
}

/** Where a cue begins and ends on the timeline, in samples (fractional when rates differ). */
export function cueSpan(
  cue: Omit<MixCue, 'material'>,
  materialRate: number,
  rate: number,
): { start: number; end: number } {
  const ratio = rate / materialRate;
  return { start: cue.at - (cue.anchor - cue.start) * ratio, end: cue.at + (cue.end - cue.anchor) * ratio };
}

/**
 * Adds a span of a mix to a stereo block. Any position can be asked for at any time, in any order: what is heard after a
 * jump is to the sample what a mixdown writes.
 * @returns how many cues had to stay silent because their audio has not arrived
 */
export function renderMix(
  mix: Mix,
  materials: ReadonlyMap<number, Material>,
  rate: number,
  position: number,
  out: Float32Array[],
  count: number,
): number {
  let missing = 0;
  for (const cue of mix.cues) {
    const material = materials.get(cue.material);
    if (!material) {
      missing++;
      continue;
    }
    const { start, end } = cueSpan(cue, material.rate, rate);
    const from = Math.max(position, Math.ceil(start));
    const to = Math.min(position + count, Math.ceil(end));
    if (from >= to) continue;
    const step = material.rate / rate;
    const level = fromDb(cue.gain);
    const gains = Array.from({ length: material.channels }, (_, c) => channelGains(c, material.channels, cue.pan));
    const fadeIn = cue.fadeIn * rate;
    const fadeOut = cue.fadeOut * rate;
    for (let at = from; at < to; at += BLOCK) {
      const part = Math.min(BLOCK, to - at);
      let envelope: Envelope = level;
      if (at - start < fadeIn || end - at - part < fadeOut) {
        envelope = curve;
        for (let i = 0, t = at; i < part; i++, t++) {
          curve[i] = level;
          if (t - start < fadeIn) curve[i] *= (t - start) / fadeIn;
          if (end - t < fadeOut) curve[i] *= (end - t) / fadeOut;
        }
      }
      const source = cue.anchor + (at - cue.at) * step;
      if (!addMaterial(material, source, step, gains, envelope, out, at - position, part)) missing++;
    }
  }
  return missing;
}
