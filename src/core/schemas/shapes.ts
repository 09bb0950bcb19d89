/** Shapes of what comes in from outside: server answers, pictures' event lists, project files. Compiled by `npm run generate`. */

/** A root that the server offers. */
export interface ServerRoot {
  id: string;
  name: string;
}

/** A file in a server root's listing. */
export interface ServerFile {
  path: string;
  size: number;
  modified: number;
}

/** A cue of a project file; times in seconds, the sound named by its root and path. */
export interface ProjectCue {
  track: string;
  root: string;
  path: string;
  /** Frame of the picture on which the anchor lands. */
  frame: number;
  gain?: number;
}

/** A project file: pulls, tray and scenes that name sounds by root and path. */
export interface ProjectFile {
  format: 'cormorant-project';
  version: 1;
  name: string;
  pulls: { name: string; sounds: { root: string; path: string }[] }[];
  tray: { root: string; path: string }[];
  scenes: {
    name: string;
    fps: string;
    start: string;
    picture?: { root: string; path: string; name: string; frames: number };
    tracks: { name: string; gain: number }[];
    cues: ProjectCue[];
    loop?: { start: number; end: number };
  }[];
}

/** A scene's picture events, by frame from its start. */
export interface PictureEvents {
  format: 'cormorant-picture-events';
  version: 1;
  title: string;
  fps: string;
  start: string;
  frames: number;
  width: number;
  height: number;
  events: { frame: number; name: string }[];
}

const text = { type: 'string', maxLength: 4096 } as const;
const count = { type: 'integer', minimum: 0 } as const;

function list(items: object): object {
  return { type: 'array', items, maxItems: 1_000_000 };
}

function closed(properties: Record<string, object>, optional: string[] = []): object {
  const required = Object.keys(properties).filter((key) => !optional.includes(key));
  return { type: 'object', properties, required, additionalProperties: false };
}

const place = closed({ root: text, path: text });
const cue = closed({ track: text, root: text, path: text, frame: count, gain: { type: 'number' } }, ['gain']);
const picture = closed({ root: text, path: text, name: text, frames: count });
const loop = closed({ start: count, end: count });
const scene = closed(
  {
    name: text,
    fps: text,
    start: text,
    picture,
    tracks: list(closed({ name: text, gain: { type: 'number' } })),
    cues: list(cue),
    loop,
  },
  ['picture', 'loop'],
);

/** JSON schemas by the name of the validator made from each. */
export const schemas = {
  serverRoots: list(closed({ id: text, name: text })),
  serverFiles: list(closed({ path: text, size: count, modified: { type: 'number' } })),
  projectFile: closed({
    format: { const: 'cormorant-project' },
    version: { const: 1 },
    name: text,
    pulls: list(closed({ name: text, sounds: list(place) })),
    tray: list(place),
    scenes: list(scene),
  }),
  pictureEvents: closed({
    format: { const: 'cormorant-picture-events' },
    version: { const: 1 },
    title: text,
    fps: text,
    start: text,
    frames: count,
    width: count,
    height: count,
    events: list(closed({ frame: count, name: text })),
  }),
  paths: { type: 'array', items: { type: 'string', minLength: 1, maxLength: 4096 }, maxItems: 256 },
  rootRequest: closed({ id: { type: 'string', pattern: '^[a-z0-9]{1,32}$' } }),
};
