/** Frames a second of the picture. */
export const FPS = 24;
/** Length in frames: 40 seconds. */
export const FRAMES = 960;
export const WIDTH = 1280;
export const HEIGHT = 720;

/** Frames on which a boot meets the deck: ten steps from 00:08 to 00:12. */
export const STEPS = Array.from({ length: 10 }, (_, i) => 192 + Math.round((i * 96) / 9));
/** Frames on which the pawl falls into the next tooth: one clack each 17 frames from 00:13 on. */
export const CLACKS = Array.from({ length: 10 }, (_, i) => 312 + i * 17);

/** Single moments of the story, by frame. */
export const MOMENT = {
  lanternLit: 48,
  ropeOff: 144,
  horn: 528,
  heron: 624,
  tyres: 792,
  gate: 864,
  lanternOut: 936,
} as const;

/** First frames of the four shots. */
export const SHOTS = [0, 180, 500, 730] as const;

/** Everything that happens in the picture, for placing sounds and for checking where they land. */
export const pictureEvents = {
  format: 'cormorant-picture-events' as const,
  version: 1 as const,
  title: 'Last Ferry to Heron Point',
  fps: '24',
  start: '01:00:00:00',
  frames: FRAMES,
  width: WIDTH,
  height: HEIGHT,
  events: [
    { frame: MOMENT.lanternLit, name: 'lantern is lit' },
    { frame: MOMENT.ropeOff, name: 'rope is cast off' },
    ...STEPS.map((frame, i) => ({ frame, name: `step ${i + 1}` })),
    ...CLACKS.map((frame, i) => ({ frame, name: `pawl clack ${i + 1}` })),
    { frame: MOMENT.horn, name: 'horn answers' },
    { frame: MOMENT.heron, name: 'heron takes off' },
    { frame: MOMENT.tyres, name: 'hull meets the tyres' },
    { frame: MOMENT.gate, name: 'gate swings' },
    { frame: MOMENT.lanternOut, name: 'lantern goes out' },
  ],
};
