/** Sound generators: struck and strained bodies, water, wind, creatures, motors, tones; each with seeded chance. */
export { render, families, type FamilyName, type Rendered, type SoundPlan } from './render';
export { Random, seedOf } from './random';
export { Biquad } from './filters';
export type { Settings } from './family';
export type { RoomName } from './room';
export { patches, patchNames, type Patch, type PatchName, type PatchValue } from './patches';
export * from './rolls';
