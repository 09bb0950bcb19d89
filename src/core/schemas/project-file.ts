import { closed, colours, count, list, text, type Colour } from './parts';

// Project files: pulls, scenes and builds that name sounds by root and path, such as the demo's.

/** A sound of a project file. */
export interface ProjectPlace {
  root: string;
  path: string;
}

/** A cue of a project file; times in seconds, the sound named by its root and path. */
export interface ProjectCue {
  track: string;
  root: string;
  path: string;
  /** Frame of the picture on which the anchor lands. */
  frame: number;
  gain?: number;
  /** From left, -1, to right, 1. */
  place?: number;
}

/** A track of a project file. */
export interface ProjectTrack {
  name: string;
  /** dB */
  gain: number;
  place?: number;
  colour?: Colour;
  group?: string;
  bus?: boolean;
  /** Name of the bus that it flows into. */
  into?: string;
  effects?: ProjectEffect[];
}

/** An effect of a project file. */
export interface ProjectEffect {
  kind: string;
  /** Off only where that is said. */
  on?: boolean;
  /** Name of the line that it sends to or listens to. */
  line?: string;
  values: Record<string, number>;
}

/** The main line of a project file. */
export interface ProjectMain {
  /** dB */
  gain: number;
  effects: ProjectEffect[];
}

/** A project file: pulls, tray and scenes that name sounds by root and path. */
export interface ProjectFile {
  format: 'cormorant-project';
  version: 1;
  name: string;
  pulls: { name: string; sounds: ProjectPlace[] }[];
  tray: ProjectPlace[];
  scenes: {
    name: string;
    fps: string;
    start: string;
    picture?: { root: string; path: string; name: string; frames: number };
    tracks: ProjectTrack[];
    cues: ProjectCue[];
    loop?: { start: number; end: number };
    main?: ProjectMain;
    markers?: { name: string; frame: number; colour?: Colour }[];
    /** States that were kept, the oldest first. Their tracks of a name that the scene has are those of the scene. */
    versions?: { name: string; tracks: ProjectTrack[]; cues: ProjectCue[]; main?: ProjectMain }[];
  }[];
  /** Sounds made of others. */
  builds?: ProjectBuild[];
}

/** A layer of a build; how long before or after the others its anchor lies, milliseconds. */
export interface ProjectLayer {
  name: string;
  root: string;
  path: string;
  offset?: number;
  /** dB */
  gain?: number;
  place?: number;
  /** As tape does: 2 is twice as fast and an octave higher. */
  speed?: number;
  backward?: boolean;
  /** It is played up to this second of it; to its end when absent. */
  until?: number;
  /** Seconds. */
  fadeIn?: number;
  fadeOut?: number;
  effects?: ProjectEffect[];
}

/** A mover of a build: of a layer's level or place, or of a value of one of its effects, counted from 0; each by the layer's name. */
export interface ProjectMover {
  kind: string;
  values: Record<string, number>;
  moves: {
    layer: string;
    effect?: number;
    key: string;
    from: number;
    to: number;
    bend: 'straight' | 'late' | 'early';
  }[];
}

/** A build of a project file. */
export interface ProjectBuild {
  name: string;
  layers: ProjectLayer[];
  main?: ProjectMain;
  movers?: ProjectMover[];
  /** The sound that was made of it. */
  kept?: ProjectPlace;
}

const place = closed({ root: text, path: text });
const side = { type: 'number', minimum: -1, maximum: 1 };
const cue = closed({ track: text, root: text, path: text, frame: count, gain: { type: 'number' }, place: side }, [
  'gain',
  'place',
]);
const effect = closed(
  {
    ...{ kind: text, on: { type: 'boolean' }, line: text },
    values: { type: 'object', maxProperties: 200, additionalProperties: { type: 'number' } },
  },
  ['on', 'line'],
);
const track = closed(
  {
    ...{ name: text, gain: { type: 'number' }, place: side, colour: { enum: colours }, group: text },
    ...{ bus: { type: 'boolean' }, into: text, effects: list(effect) },
  },
  ['place', 'colour', 'group', 'bus', 'into', 'effects'],
);
const projectMain = closed({ gain: { type: 'number' }, effects: list(effect) });
const marker = closed({ name: text, frame: count, colour: { enum: colours } }, ['colour']);
const picture = closed({ root: text, path: text, name: text, frames: count });
const loop = closed({ start: count, end: count });
const scene = closed(
  {
    name: text,
    fps: text,
    start: text,
    picture,
    tracks: list(track),
    cues: list(cue),
    loop,
    main: projectMain,
    markers: list(marker),
    versions: list(closed({ name: text, tracks: list(track), cues: list(cue), main: projectMain }, ['main'])),
  },
  ['picture', 'loop', 'main', 'markers', 'versions'],
);

const number = { type: 'number' } as const;
const layer = closed(
  {
    ...{ name: text, root: text, path: text, offset: number, gain: number, place: side, backward: { type: 'boolean' } },
    speed: { type: 'number', exclusiveMinimum: 0, maximum: 16 },
    until: { type: 'number', exclusiveMinimum: 0 },
    ...{ fadeIn: { type: 'number', minimum: 0 }, fadeOut: { type: 'number', minimum: 0 }, effects: list(effect) },
  },
  ['offset', 'gain', 'place', 'speed', 'backward', 'until', 'fadeIn', 'fadeOut', 'effects'],
);
const move = closed(
  {
    ...{ layer: text, effect: count, key: text, from: number, to: number },
    bend: { enum: ['straight', 'late', 'early'] },
  },
  ['effect'],
);
const mover = closed({
  ...{ kind: text, moves: list(move) },
  values: { type: 'object', maxProperties: 200, additionalProperties: number },
});
const build = closed({ name: text, layers: list(layer), main: projectMain, movers: list(mover), kept: place }, [
  'main',
  'movers',
  'kept',
]);

export const projects = {
  projectFile: closed(
    {
      format: { const: 'cormorant-project' },
      version: { const: 1 },
      name: text,
      pulls: list(closed({ name: text, sounds: list(place) })),
      tray: list(place),
      scenes: list(scene),
      builds: list(build),
    },
    ['builds'],
  ),
};
