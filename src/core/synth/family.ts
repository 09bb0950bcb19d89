import type { Random } from './random';

/** What a generator is given: its chance, its clock and how long to sound. */
export interface Take {
  random: Random;
  /** Sample rate, Hz. */
  rate: number;
  /** Length of the result. */
  seconds: number;
}

/** A dry sound: one channel to be put into a room, or two that bring their own space. */
export interface Sketch {
  dry: Float32Array[];
  /** Where each audible event begins, in seconds: ground truth for whoever looks for onsets. */
  events: number[];
  /** The instant that an editor would line up, in seconds, where it is not the first event: the top of a swell. */
  anchor?: number;
}

/** Settings of a family; each has a sensible value of its own when absent. */
export type Settings = Readonly<Record<string, number>>;

/** A way of making one kind of sound; every take differs as real takes do. */
export type Family = (take: Take, settings: Settings) => Sketch;

/** An empty channel for a take. */
export function silence(take: Take): Float32Array {
  return new Float32Array(Math.round(take.seconds * take.rate));
}

/** 0 before `from`, 1 after `to`, a smooth curve between. */
export function smooth(x: number, from: number, to: number): number {
  const t = Math.max(0, Math.min(1, (x - from) / (to - from)));
  return t * t * (3 - 2 * t);
}
