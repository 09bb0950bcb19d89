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

/** What else sets in, turns or comes to rest in the picture, as it is drawn: nothing that a sound has to be placed on, and seen all the same. */
export const BESIDE = [
  // An arm goes up to the lantern and down again; the ferryman walks, and walks on.
  ...[22, 40, 62, 84, 120, 150, 178],
  // The rope's end meets the water.
  MOMENT.ropeOff + 10,
  // Hands on the crank.
  CLACKS[0] - 10,
  // The lamp on the far bank is full, fades, is out.
  ...[8, 50, 66].map((after) => MOMENT.horn + after),
  // Wings, up and down 2.3 times a second, until the heron is out of sight.
  ...Array.from({ length: 17 }, (_, beat) => MOMENT.heron + Math.round(((beat + 0.5) * FPS) / 4.6)),
  // The hull comes back from the tyres again and again.
  ...[1, 2, 3, 4].map((swing) => MOMENT.tyres + Math.round((swing * Math.PI * FPS) / 7)),
  // He goes ashore, and turns there; his arm goes up to the lantern, and is there.
  ...[826, 900, MOMENT.lanternOut - 26, MOMENT.lanternOut - 8],
];

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
