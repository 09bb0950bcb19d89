import type { Shape } from '@core/audio';
import type { Artwork, AudioFormat } from '@core/files';
import type { FieldValue } from './fields';

/**
 * Where a value came from: a block of the file, its name, a measurement, a suggestion that was accepted, somebody's hand, or
 * a recipe, stamp or sheet that somebody put on it, a site that it was fetched from, a
 * publisher on the exchange, or somebody of the team.
 */
export type Origin =
  | `file ${string}`
  | 'name'
  | 'folder'
  | 'measured'
  | 'suggested'
  | 'typed'
  | `recipe ${string}`
  | `stamp ${string}`
  | `sheet ${string}`
  | `site ${string}`
  | `exchange ${string}`
  | `team ${string}`;

/** A part of a sound or of a file. Frames; the end is not part of it. */
export interface Span {
  start: number;
  end: number;
}

/** A part of a sound that is kept under a name. */
export interface NamedRegion extends Span {
  name: string;
}

/** An instant or region of a sound; all in sample frames of its own rate. */
export interface Marks {
  /** The frame that lands on the picture event. */
  anchor: number;
  /** Where playing starts and stops; the whole sound when absent. */
  region?: Span;
  /** Others that are kept, by where they begin. */
  regions?: NamedRegion[];
  /** The loop that its file tells of. */
  loop?: Span;
  /** What is done to it when it is heard or taken away; nothing when absent. */
  shape?: Shape;
}

/** One item of the library, as the store keeps it. */
export interface Sound {
  id: number;
  rootId: number;
  /** Below the root, with `/` between folders. */
  path: string;
  /** Bytes. */
  size: number;
  /** Milliseconds since 1970. */
  modified: number;
  /** The intake that brought it. */
  intakeId: number;
  format: AudioFormat;
  /** Which part of its file it is; all of it when absent. `format` is that of the part. */
  excerpt?: Span;
  fields: Record<string, FieldValue>;
  /** Origin of each field that has a value. */
  from: Record<string, Origin>;
  marks: Marks;
  /** What was odd about the file. */
  warnings: string[];
  /** Hash of the file's head and tail, by which it is recognised where it moves. */
  quickHash?: string;
  /** Hash of the audio alone, once it was measured. */
  hash?: string;
  artwork?: Artwork;
  /** Kept out of every list: hidden for now, or taken out for good. The file on disk stays as it is. */
  hidden?: 'aside' | 'retired';
  /** Of one that was made of others here. */
  built?: Built;
  /** Of one that was made from nothing here. */
  made?: Made;
  /** What a publisher said of it, when it was looked up last. */
  told?: Told;
  /** A picture that its publisher tells of it, where its file has none of its own. */
  picture?: PictureRef;
  /** Of one that lies in a library of the team. */
  team?: Teamed;
}

/** A picture by its content. */
export interface PictureRef {
  sha256: string;
  mime: 'image/png' | 'image/jpeg';
  /** Bytes. */
  size: number;
}

/** What a team’s server knows of a sound. */
export interface Teamed {
  /** There. */
  id: number;
  /** SHA-256 of its file. */
  file: string;
  /** Labels as the server had them last: what differs here was changed here. Tags by their names. */
  was: Readonly<Record<string, FieldValue>>;
  /** Labels that others changed while they were changed here, until somebody chooses. */
  conflicts?: readonly string[];
}

/** What a publisher said of a sound. */
export interface Told {
  publisher: string;
  /** By what the publisher knows it; see `ExactHash`. */
  hash: string;
  /** Of the publisher then. */
  revision: number;
  /** By field, as texts. */
  labels: Readonly<Record<string, string>>;
  artwork?: PictureRef;
}

/** The recipe of a sound that was synthesised: see `Roll` of `core/synth`. */
export interface Made {
  family: string;
  seed: number;
  values: Readonly<Record<string, number>>;
}

/** What a sound was made of. */
export interface Built {
  /** Ids of the sounds in it. */
  of: readonly number[];
  /** The build that it comes from, and the version that is as it was then. */
  build?: number;
  version?: number;
}

/** A free word put on sounds; sounds know it by its id, so a rename keeps them. */
export interface Tag {
  id: number;
  name: string;
}

/** A kept list of sounds. The tray is the one with id 1. */
export interface Pull {
  id: number;
  name: string;
  soundIds: number[];
  /** Milliseconds since 1970. */
  created: number;
  /** The folder of lists in which it stands, `/` between folders; at the top when absent. */
  shelf?: string;
  /** A folder of a root: the list is whatever lies in it now, and `soundIds` is empty. */
  live?: Folder;
  /** What is noted on its members, by the sound's id. */
  notes?: Record<number, string>;
  /** Of one that is shared with a team: the list there, and what it was when it was known last. */
  team?: { list: number; was: SharedList };
}

/** A list of a team, as it is shared. */
export interface SharedList {
  name: string;
  members: readonly { library: number; sound: number; note: string }[];
}

/** A folder of a root. */
export interface Folder {
  rootId: number;
  /** Below the root, with `/` between folders; empty for the root itself. */
  folder: string;
}

/** A search that is kept under a name. */
export interface SavedSearch {
  id: number;
  name: string;
  /** The view as it stands in a URL. */
  view: string;
  /** Milliseconds since 1970. */
  created: number;
}

/** Words that somebody declared to mean the same. */
export interface Alike {
  id: number;
  /** Folded, each a single word. */
  words: string[];
}

/** The id of the pull that is the tray. */
export const TRAY = 1;

/** Seconds of a sound that play: its region or all of it. */
export function lengthOf(sound: Pick<Sound, 'format'>): number {
  return sound.format.frames / sound.format.rate;
}

/** The name to show. */
export function nameOf(sound: Pick<Sound, 'fields'>): string {
  return (sound.fields.fxName as string | undefined) ?? (sound.fields.file as string);
}
