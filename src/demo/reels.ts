import type { DemoFile } from './plan';
import { planTake } from './plan';

/** *Own recordings*: long reels, many takes each, as they come from the recorder. */
const reels = [
  { name: 'REEL_01 boots on deck', family: 'boots', settings: { count: 60, pace: 1.05, sway: 0.2 }, seconds: 64 },
  { name: 'REEL_02 wave slaps', family: 'slap', settings: { count: 26, pace: 2.6, sway: 0.3 }, seconds: 70 },
  {
    name: 'REEL_03 chain links',
    family: 'pawl',
    settings: { count: 30, pace: 2, sway: 0.3, pitch: 1700, bounce: 0 },
    seconds: 62,
  },
  { name: 'REEL_04 oar locks', family: 'oarlock', settings: { count: 34, pace: 1.8, sway: 0.2 }, seconds: 64 },
  { name: 'REEL_05 gate swings', family: 'gate', settings: { count: 10, pace: 6.4 }, seconds: 66 },
  { name: 'REEL_06 foghorn calls', family: 'foghorn', settings: { count: 8, pace: 8.5, hold: 2.6 }, seconds: 72 },
] as const;

export function ownRecordings(): DemoFile[] {
  return reels.map(({ name, family, settings, seconds }): DemoFile => ({
    library: 'Own recordings',
    path: `2026-03 Heron Point/${name}.wav`,
    plan: {
      ...planTake(
        { family, takes: 1, seconds: [seconds, seconds], room: family === 'foghorn' ? 'shore' : 'deck' },
        name,
        0,
      ),
      settings,
    },
    format: 'wav',
    bits: 24,
    labels: { licence: 'Owned' },
  }));
}
