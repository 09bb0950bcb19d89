import type { FieldValue, Sound } from '@core/library';
import { closed, count, flag } from './parts';
import { format } from './records';

/** What somebody may do with a library or a list of a team, each more than the one before. */
export const teamRights = ['hear', 'fetch', 'fetch many', 'add', 'administer'] as const;
export type TeamRight = (typeof teamRights)[number];

/** A sound of a team’s library, as it is told: with all that was worked out of its audio once. */
export interface TeamSound {
  /** Below the library, in the manner of folders. */
  path: string;
  /** SHA-256 of its file, and its length. */
  file: string;
  size: number;
  format: Sound['format'];
  fields: Record<string, FieldValue>;
  /** Frame; -1 where none is known. */
  anchor: number;
  /** See `contourCode`, `likeCode` and `ExactHash`; empty where that was not worked out. */
  contour: string;
  like: string;
  hash: string;
}

/** The same as the library has it. */
export interface TeamRow extends TeamSound {
  id: number;
  /** Of the library, when it was changed last; who did that, and when: milliseconds since 1970. */
  revision: number;
  by: string;
  at: number;
}

/** A library as one sees it. */
export interface TeamLibrary {
  id: number;
  name: string;
  right: TeamRight;
  revision: number;
  sounds: number;
  /** Bytes of files. */
  used: number;
  allowed: number;
}

/** What was measured of a file beside the fields of its sound: numbers as base64, see `measuredText`. */
export interface TeamMeasured {
  /** Of what measures. */
  version: number;
  /** A contour: frames, frames of each span, lowest and highest of each. */
  frames: number;
  span: number;
  pairs: string;
  onsets: string;
  loudness: string;
  spectrum: string;
  course: string;
  words: string;
  under: string;
}

/** Who somebody is on a team’s server. */
export interface TeamMe {
  name: string;
  /** May invite, and make libraries. */
  owner: boolean;
}

/** What somebody may do with something. */
export interface TeamMember {
  name: string;
  right: TeamRight;
}

/** What a team’s server says of itself. */
export interface TeamService {
  service: 'team';
  version: 1;
  name: string;
}

/** What changed in a library. */
export interface TeamChanges {
  revision: number;
  /** Whether there is more; then it is asked for from `revision` on. */
  more: boolean;
  changed: TeamRow[];
  gone: number[];
}

/** An edit of one sound: values of fields as they were where it was made, and as they are to be. */
export interface TeamEdit {
  id: number;
  was: Record<string, FieldValue>;
  is: Record<string, FieldValue>;
}

/** A field that somebody else changed meanwhile. */
export interface TeamConflict {
  id: number;
  key: string;
  was?: FieldValue;
  theirs?: FieldValue;
  mine?: FieldValue;
}

/** A list that is shared. */
export interface TeamList {
  id: number;
  name: string;
  right: TeamRight;
  revision: number;
  members: { library: number; sound: number; note: string }[];
}

/** What a list is to become. */
export interface TeamListEdit {
  name?: string;
  add?: { library: number; sound: number }[];
  remove?: { library: number; sound: number }[];
  notes?: { library: number; sound: number; was: string; is: string }[];
}

/** A note on a member of a list that somebody else changed meanwhile. */
export interface TeamNoteConflict {
  library: number;
  sound: number;
  theirs: string;
  mine: string;
}

/** What a grant is of. */
export interface TeamGrant {
  of: 'library' | 'list';
  id: number;
  right: TeamRight;
}

/** Something that was done, and by whom. */
export interface TeamDeed {
  revision: number;
  by: string;
  at: number;
  what: string;
}

const name = { type: 'string', minLength: 1, maxLength: 200 };
const long = { type: 'string', maxLength: 100_000 };
const sum = { type: 'string', pattern: '^[0-9a-f]{64}$' };
const id = { type: 'integer', minimum: 1, maximum: 2e9 };
/** Of folders and a name: no way up, no empty part, nothing that a file system would not take. */
const path = {
  type: 'string',
  maxLength: 1000,
  pattern: '^(?!\\.)(?!.*/\\.)(?!.*//)[^/\\\\\\u0000-\\u001f][^\\\\\\u0000-\\u001f]*(?<!/)$',
};
const value = {
  anyOf: [long, { type: 'number' }, { type: 'array', maxItems: 1000, items: { type: 'string', maxLength: 1000 } }],
};
const values = { type: 'object', maxProperties: 200, propertyNames: { maxLength: 100 }, additionalProperties: value };
const code = { type: 'string', maxLength: 20_000, pattern: '^[0-9a-f]*$' };
const like = { type: 'string', maxLength: 1000 };
const sound = {
  ...{ path, file: sum, size: count, format, fields: values },
  anchor: { type: 'integer', minimum: -1, maximum: Number.MAX_SAFE_INTEGER },
  ...{ contour: code, like, hash: { type: 'string', maxLength: 64 } },
};
const right = { enum: teamRights };
const revision = count;
const when = { type: 'number' };
const ids = { type: 'array', maxItems: 10_000, items: id };
const place = { library: id, sound: id };
const places = { type: 'array', maxItems: 10_000, items: closed(place) };
const note = { type: 'string', maxLength: 10_000 };
const grant = closed({ of: { enum: ['library', 'list'] }, id, right });
const password = { type: 'string', minLength: 10, maxLength: 200 };
const token = { type: 'string', minLength: 20, maxLength: 100, pattern: '^[A-Za-z0-9_-]+$' };
const library = closed({ id, name, right, revision, sounds: count, used: count, allowed: count });
const numbers = { type: 'string', maxLength: 20_000_000, pattern: '^[A-Za-z0-9+/]*={0,2}$' };
const measured = closed({
  ...{ version: count, frames: count, span: { type: 'integer', minimum: 1, maximum: 1e9 }, pairs: numbers },
  ...{ onsets: numbers, loudness: numbers, spectrum: numbers, course: numbers, words: numbers, under: numbers },
});
const row = closed({ id, revision, by: name, at: when, ...sound });

const listOfTeam = closed({
  ...{ id, name, right, revision },
  members: { type: 'array', maxItems: 100_000, items: closed({ ...place, note }) },
});

/** Schemas of what goes to and from a team’s server. */
export const teams = {
  teamJoin: closed({ invitation: token, name, password }),
  teamEnter: closed({ name, password: { type: 'string', maxLength: 200 } }),
  teamPassword: closed({ old: { type: 'string', maxLength: 200 }, fresh: password }),
  teamInvite: closed({ grants: { type: 'array', maxItems: 100, items: grant }, owner: flag }),
  teamGrant: closed({ person: name, right: { anyOf: [right, { type: 'null' }] } }),
  teamNew: closed({ name }),
  teamAdd: closed({ sounds: { type: 'array', minItems: 1, maxItems: 2000, items: closed(sound) } }),
  teamEdits: closed({
    edits: { type: 'array', minItems: 1, maxItems: 5000, items: closed({ id, was: values, is: values }) },
  }),
  teamMeasure: closed({
    facts: { type: 'array', minItems: 1, maxItems: 200, items: closed({ file: sum, measured }) },
  }),
  teamAskMeasured: closed({ sounds: { ...ids, minItems: 1, maxItems: 200 } }),
  teamAskMembers: closed({ library: id, sounds: { ...ids, minItems: 1, maxItems: 200 } }),
  teamMeasured: closed({
    measured: { type: 'array', maxItems: 200, items: closed({ id, measured }) },
  }),
  teamAbout: closed({ service: { const: 'team' }, version: count, name }),
  teamMe: closed({ name, owner: flag }),
  teamMembers: { type: 'array', maxItems: 100_000, items: closed({ name, right }) },
  teamInvitation: closed({ invitation: token }),
  teamAt: closed({ at: count }),
  teamAdded: closed({ ids: { type: 'array', maxItems: 2000, items: id }, revision }),
  teamEdited: closed({
    revision,
    conflicts: {
      type: 'array',
      maxItems: 1_000_000,
      items: closed({ id, key: name, was: value, theirs: value, mine: value }, ['was', 'theirs', 'mine']),
    },
    gone: ids,
  }),
  teamDeeds: { type: 'array', maxItems: 1000, items: closed({ revision, by: name, at: when, what: long }) },
  teamRemove: closed({ sounds: { ...ids, minItems: 1 } }),
  teamFile: closed({ sha256: sum, size: { type: 'integer', minimum: 1, maximum: Number.MAX_SAFE_INTEGER } }),
  teamListEdit: closed(
    {
      name,
      add: places,
      remove: places,
      notes: { type: 'array', maxItems: 1000, items: closed({ ...place, was: note, is: note }) },
    },
    ['name', 'add', 'remove', 'notes'],
  ),
  teamLibrary: library,
  teamLibraries: { type: 'array', maxItems: 10_000, items: library },
  teamChanges: closed({ revision, more: flag, changed: { type: 'array', maxItems: 10_000, items: row }, gone: ids }),
  teamLists: { type: 'array', maxItems: 10_000, items: listOfTeam },
  teamList: listOfTeam,
  teamListed: closed({
    list: listOfTeam,
    conflicts: { type: 'array', maxItems: 1000, items: closed({ ...place, theirs: note, mine: note }) },
  }),
  teamListSounds: { type: 'array', maxItems: 100_000, items: closed({ library: id, row }) },
};
