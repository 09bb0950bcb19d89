import { CONVOLUTION_MOST } from '@core/effects';
import { passOf } from '../path';
import { clipSpan, stepOf, type GraphPlan } from './plan';

/** Frames of a material beside what is played that reading between frames looks at. */
const BESIDE = 1024;

/** A part of a material. Frames. */
export interface MaterialSpan {
  material: number;
  start: number;
  end: number;
}

/**
 * What a span of the timeline needs of materials, those first that are needed first; a material is named once for each of its clips, and for each
 * effect that is made of it, which needs all of it that it uses wherever one is.
 * @param rate Hz of the timeline; @param from and `to` its samples
 */
export function needsOf({ lines, clips }: GraphPlan, rate: number, from: number, to: number): MaterialSpan[] {
  const found: (MaterialSpan & { at: number })[] = [];
  for (const { inserts } of lines.values())
    for (const { sound } of inserts)
      // It comes in whole units: a second more than is used is more than the last of them.
      if (sound)
        found.push({ at: -Infinity, material: sound.material, start: 0, end: (CONVOLUTION_MOST + 1) * sound.rate });
  for (const { clip } of clips.values()) {
    const { start, end } = clipSpan(clip, rate);
    if (end <= from || start >= to) continue;
    const step = stepOf(clip, rate);
    const { direction } = clip.shape;
    const { region } = clip;
    const pass = passOf({ ...region, direction, loop: false });
    const first = Math.floor(Math.max(0, (from - start) * step));
    const last = Math.ceil(Math.min(pass, (to - start) * step));
    const [low, high] =
      direction === 'forward'
        ? [region.start + first, region.start + last]
        : direction === 'backward'
          ? [region.end - last, region.end - first]
          : [region.start, region.end];
    found.push({ at: start, material: clip.material, start: Math.max(0, low - BESIDE), end: high + BESIDE });
  }
  return found.sort((a, b) => a.at - b.at).map(({ material, start, end }) => ({ material, start, end }));
}
