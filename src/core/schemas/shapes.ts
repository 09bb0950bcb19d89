import { backedUp } from '@core/library';
import { closed, count, flag, list, path, steps, text } from './parts';
import { ownFiles } from './own-files';
import { projects } from './project-file';
import { recordSchemas } from './records';
import { exchange } from './exchange';
import { hosts } from './host';
import { teams } from './team';
import { services } from './services';

/** Shapes of what comes in from outside: server answers, pictures' event lists, project files. Compiled by `npm run generate`. */

/** A root that the server offers. */
export interface ServerRoot {
  id: string;
  name: string;
  /** Its folder on the machine of the server. */
  place?: string;
  /** Whether files may be written there. */
  writes?: boolean;
}

/** A file in a server root's listing. */
export interface ServerFile {
  path: string;
  size: number;
  modified: number;
}

/** A part of a server root's listing: files, and what is no file to read. */
export interface ServerList {
  files: ServerFile[];
  problems: { path: string; reason: string; folder?: boolean }[];
}

/** Keys that somebody gave to commands, by what these are called, as a file. */
export interface KeyFile {
  format: 'cormorant-keys';
  version: 1;
  keys: Record<string, string[]>;
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

/** An object that has these properties, and may have others. @param optional those that may be absent */
const open = (properties: Record<string, object>, optional: string[] = []) => ({
  type: 'object',
  properties,
  required: Object.keys(properties).filter((key) => !optional.includes(key)),
});
/** What other programs write as nothing where it is not known. */
const maybe = (schema: object) => ({ anyOf: [{ type: 'null' }, schema] });
const instant = open({
  value: { type: 'number', minimum: -1e15, maximum: 1e15 },
  rate: { type: 'number', exclusiveMinimum: 0, maximum: 1e7 },
});

const otioRange = open({ start_time: instant, duration: instant });
const otioMedia = open({ target_url: maybe(path), available_range: maybe(otioRange) }, [
  'target_url',
  'available_range',
]);
const otioItemShape = {
  OTIO_SCHEMA: { type: 'string', pattern: '^[A-Za-z]+\\.\\d+$', maxLength: 100 },
  name: maybe(text),
  kind: maybe(text),
  enabled: flag,
  source_range: maybe(otioRange),
  children: list({ $ref: 'otioItem' }),
  markers: maybe(list(open({ name: maybe(text), color: maybe(text), marked_range: otioRange }, ['name', 'color']))),
  effects: maybe(list(open({ OTIO_SCHEMA: text }))),
  in_offset: instant,
  out_offset: instant,
  media_reference: maybe(otioMedia),
  media_references: maybe({ type: 'object', additionalProperties: otioMedia }),
  active_media_reference_key: text,
};

/** A file of recipes, for sharing. */
export interface RecipeFile {
  format: 'cormorant-recipes';
  version: 1;
  recipes: { name: string; steps: unknown[] }[];
}

/** A file of stamps, for sharing; tags by their names. */
export interface StampFile {
  format: 'cormorant-stamps';
  version: 1;
  stamps: { name: string; values: Record<string, string> }[];
}

/** A time of an OpenTimelineIO timeline. */
export interface OtioTime {
  value: number;
  rate: number;
}
interface OtioRange {
  start_time: OtioTime;
  duration: OtioTime;
}
interface OtioMedia {
  target_url?: string | null;
  available_range?: OtioRange | null;
}

/** Whatever stands in an OpenTimelineIO timeline: tracks, stacks, clips, gaps, transitions. */
export interface OtioItem {
  OTIO_SCHEMA: string;
  name?: string | null;
  kind?: string | null;
  enabled?: boolean;
  source_range?: OtioRange | null;
  children?: OtioItem[];
  markers?: { name?: string | null; color?: string | null; marked_range: OtioRange }[] | null;
  effects?: { OTIO_SCHEMA: string }[] | null;
  in_offset?: OtioTime;
  out_offset?: OtioTime;
  media_reference?: OtioMedia | null;
  media_references?: Record<string, OtioMedia> | null;
  active_media_reference_key?: string;
  metadata?: unknown;
}
export interface OtioTimeline {
  name?: string | null;
  global_start_time?: OtioTime | null;
  tracks: OtioItem;
}

/** A backup that our own server keeps for a page. */
export interface ServedBackup {
  /** The library's own identity. */
  library: string;
  /** Milliseconds since 1970. */
  at: number;
  /** Edits that the library had seen. */
  revision: number;
  bytes: number;
}

/** What a write expects to find: it is refused where the file is another one by now. */
export interface ExpectedFile {
  size: number;
  /** Milliseconds since 1970. */
  modified: number;
  /** See `quickHashOf`. */
  hash: string;
}

/** How our own server is asked to write a file of a root: bytes of it as it is, and new ones in base64. */
export interface WriteRequest extends ExpectedFile {
  path: string;
  pieces: ({ from: number; length: number } | { base64: string })[];
  /** Where the audio lies, before and after: it must come out the same. */
  audio: { before: number; after: number; length: number };
}

/** How our own server is asked to give a file of a root another name. */
export interface RenameRequest extends ExpectedFile {
  path: string;
  /** The file's new name, in the folder where it lies. */
  name: string;
}

/** How our own server is asked to remove a file that was made by it. */
export interface RemoveRequest extends ExpectedFile {
  path: string;
}

/** How our own server is asked to make a file, whose bytes come along. */
export interface MakeRequest {
  path: string;
  size: number;
  /** What it takes the place of; without it nothing may be there. */
  instead?: ExpectedFile;
}

const expectedFile = {
  path: { ...path, minLength: 1 },
  size: count,
  modified: { type: 'number' },
  hash: { type: 'string', pattern: '^[0-9a-f]{16}$' },
};

const asExpected = closed({ size: count, modified: { type: 'number' }, hash: expectedFile.hash });

/** JSON schemas by the name of the validator made from each. */
export const schemas = {
  serverRoots: list(closed({ id: text, name: text, place: path, writes: flag }, ['place', 'writes'])),
  serverList: closed({
    files: list(closed({ path, size: count, modified: { type: 'number' } })),
    problems: list(closed({ path, reason: text, folder: flag }, ['folder'])),
  }),
  ...services,
  ...hosts,
  ...teams,
  ...exchange,
  ...ownFiles,
  ...projects,
  /** Of an OpenTimelineIO timeline what is read; it may say more, in later versions, too. */
  timeline: open(
    {
      OTIO_SCHEMA: { type: 'string', pattern: '^Timeline\\.' },
      name: maybe(text),
      global_start_time: maybe(instant),
      tracks: { $ref: 'otioItem' },
    },
    ['name', 'global_start_time'],
  ),
  keyFile: closed({
    format: { const: 'cormorant-keys' },
    version: { const: 1 },
    keys: {
      type: 'object',
      maxProperties: 1000,
      additionalProperties: { type: 'array', maxItems: 8, items: { type: 'string', minLength: 1, maxLength: 40 } },
    },
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
  paths: { type: 'array', items: { type: 'string', minLength: 1, maxLength: 65_536 }, maxItems: 256 },
  openRequest: { type: 'array', items: { type: 'string', maxLength: 65_536 }, minItems: 1, maxItems: 1 },
  writeRequest: closed({
    ...expectedFile,
    pieces: {
      type: 'array',
      maxItems: 4096,
      items: {
        oneOf: [
          closed({ from: count, length: count }),
          closed({ base64: { type: 'string', maxLength: 32 << 20, pattern: '^[A-Za-z0-9+/]*={0,2}$' } }),
        ],
      },
    },
    audio: closed({ before: count, after: count, length: count }),
  }),
  renameRequest: closed({ ...expectedFile, name: { type: 'string', minLength: 1, maxLength: 255 } }),
  removeRequest: closed(expectedFile),
  makeRequest: closed({ path: expectedFile.path, size: count, instead: asExpected }, ['instead']),
  writtenFile: asExpected,
  rootRequest: closed({ id: { type: 'string', pattern: '^[a-z0-9]{1,32}$' } }),
  recipeFile: closed({
    format: { const: 'cormorant-recipes' },
    version: { const: 1 },
    recipes: { type: 'array', maxItems: 1000, items: closed({ name: text, steps: { $ref: 'steps' } }) },
  }),
  stampFile: closed({
    format: { const: 'cormorant-stamps' },
    version: { const: 1 },
    stamps: {
      type: 'array',
      maxItems: 1000,
      items: closed({
        name: text,
        values: { type: 'object', additionalProperties: { type: 'string', maxLength: 100_000 }, maxProperties: 100 },
      }),
    },
  }),
  servedBackups: list(
    closed({
      library: { type: 'string', pattern: '^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$' },
      at: { type: 'integer', minimum: 0, maximum: 8.64e15 },
      revision: { type: 'integer', minimum: 0, maximum: Number.MAX_SAFE_INTEGER },
      bytes: count,
    }),
  ),
  backupHead: closed({
    format: { const: 'cormorant-backup' },
    version: { enum: [1, 2, 3, 4, 5] },
    made: { type: 'number' },
    counts: { type: 'object', additionalProperties: count },
  }),
  backupLine: {
    oneOf: [
      closed({ table: { enum: backedUp }, record: { type: 'object' } }),
      closed({ table: { enum: backedUp }, gone: count }),
    ],
  },
  backupEnd: closed({ end: { const: true }, lines: count, checksum: { type: 'string', pattern: '^[0-9a-f]{16}$' } }),
  steps,
  otioItem: open(
    otioItemShape,
    Object.keys(otioItemShape).filter((key) => key !== 'OTIO_SCHEMA'),
  ),
  ...recordSchemas,
};
