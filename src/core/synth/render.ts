import { airs } from './airs';
import type { Family, Settings } from './family';
import { Random } from './random';
import type { RoomName } from './room';
import { place, rooms } from './room';
import { solids } from './solids';
import { waters } from './waters';

/** Every kind of sound that can be made. */
export const families = { ...solids, ...waters, ...airs };

export type FamilyName = keyof typeof families;

/** A sound to be made. */
export interface SoundPlan {
  family: FamilyName;
  settings?: Settings;
  seed: number;
  /** Hz */
  rate: number;
  seconds: number;
  /** 1 mono, 2 stereo, 4 quad (left, right, left back, right back). */
  channels: 1 | 2 | 4;
  room?: RoomName;
  /** -1 left to 1 right. */
  pan?: number;
  /** Sample peak of the result; above 1 it clips, as a recording that was too loud. */
  peak?: number;
}

/** A made sound and where its events lie. */
export interface Rendered {
  planes: Float32Array[];
  /** Seconds from the start of each audible event. */
  events: number[];
  /** Seconds: what an editor would line up. */
  anchor: number;
}

function mixdown(planes: Float32Array[]): Float32Array {
  return planes[0].map((x, i) => (x + planes[1][i]) * 0.7);
}

/** Makes a sound. The same plan gives the same samples. */
export function render(plan: SoundPlan): Rendered {
  const random = new Random(plan.seed);
  const { rate, seconds } = plan;
  const sketch = (families[plan.family] as Family)({ random, rate, seconds }, plan.settings ?? {});
  let planes = sketch.dry;
  if (planes.length === 1) planes = place(planes[0], rooms[plan.room ?? 'deck'], plan.pan ?? 0, rate, random);
  if (plan.channels === 1) planes = [mixdown(planes)];
  if (plan.channels === 4) {
    const delay = Math.round(0.011 * rate);
    planes = [...planes, ...planes.map((p) => p.map((_, i) => (i < delay ? 0 : p[i - delay] * 0.55)))];
  }
  let top = 1e-9;
  for (const plane of planes) for (let i = 0; i < plane.length; i++) top = Math.max(top, Math.abs(plane[i]));
  const gain = (plan.peak ?? 0.8) / top;
  for (const plane of planes)
    for (let i = 0; i < plane.length; i++) plane[i] = Math.max(-1, Math.min(1, plane[i] * gain));
  return { planes, events: sketch.events, anchor: sketch.anchor ?? sketch.events[0] ?? 0 };
}
