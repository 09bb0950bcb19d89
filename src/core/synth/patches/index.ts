import { bodies } from './bodies';
import { courses } from './courses';
import type { Patch } from './patch';
import { signals } from './signals';

/** The families of sounds that are made from nothing, in the order in which they are offered. */
export const patches = {
  ...{ blip: signals.blip, chime: bodies.chime, zap: signals.zap, riser: courses.riser, faller: courses.faller },
  ...{ drone: courses.drone, whoosh: courses.whoosh, impact: bodies.impact, engine: bodies.engine },
  ...{ alarm: signals.alarm, bubbles: bodies.bubbles, glitch: signals.glitch, gust: courses.gust },
  creature: bodies.creature,
} satisfies Record<string, Patch>;

export type PatchName = keyof typeof patches;
export const patchNames = Object.keys(patches) as PatchName[];
export type { Patch, PatchValue } from './patch';
