import { nameOf, type Sound } from '@core/library';
import { checkedFile, recordFault, validators } from '@core/schemas';
import { sceneParts, soundsIn, type SceneRows } from './carried';
import type { Cue, PictureRef } from './scene';

// Scenes as one file, with or without the audio and the pictures that they play: an archive with this beside `media`.

/** Scenes with all that they are made of, and what has to be known of their sounds; the audio itself may lie beside it. Ids are those of whoever wrote it. */
export interface SceneFile {
  format: 'cormorant-scenes';
  version: 1;
  /** When it was written, ISO 8601. */
  made: string;
  scenes: SceneRows[];
  roots: { id: number; name: string }[];
  sounds: SceneSound[];
  /** Pulls that pads play. */
  pulls: { id: number; name: string; soundIds: number[] }[];
  pictures: ScenePicture[];
}

/** A sound of a scene file. */
export interface SceneSound {
  sound: Sound;
  /** Names of its tags. */
  tags: string[];
  /** Where its file lies below `media` in the archive; not in it when absent. */
  media?: string;
}

/** A picture of a scene file. */
export interface ScenePicture {
  rootId: number;
  path: string;
  /** Bytes; 0 where nobody knows. */
  size: number;
  media?: string;
}

/** The name of the text in such an archive, and the folder of what else lies in it. */
export const SCENES = { text: 'scenes.json', media: 'media/', ending: '.cormorant' } as const;

/** Characters of that text at most. */
export const SCENES_MOST = 64e6;

/** What scenes name beside themselves, to be written with them. */
export interface SceneGoods {
  sounds: readonly Sound[];
  /** Names of roots and tags by id. */
  roots: ReadonlyMap<number, string>;
  tags: ReadonlyMap<number, string>;
  pulls: SceneFile['pulls'];
  /** Bytes of pictures, by {@link pictureKey}. */
  pictures: ReadonlyMap<string, number>;
}

/** What tells the picture of a scene from others. */
export const pictureKey = ({ rootId, path }: Pick<PictureRef, 'rootId' | 'path'>): string => `${rootId}/${path}`;

/** A step of a path as every file system takes it. */
const step = (name: string) =>
  [...name]
    .map((c) => (c < ' ' || '<>:"\\|?*/'.includes(c) ? '_' : c))
    .join('')
    .replace(/[. ]+$/, '')
    .slice(0, 200) || '_';

/** Paths in the archive for files of roots: each file once, and no two that differ in case only. */
function mediaNames(roots: SceneGoods['roots']): (rootId: number, path: string) => string {
  const given = new Map<string, string>();
  const taken = new Set<string>();
  return (rootId, path) => {
    const key = pictureKey({ rootId, path });
    const known = given.get(key);
    if (known !== undefined) return known;
    const steps = [roots.get(rootId) ?? '', ...path.split('/')].map(step);
    const last = steps.at(-1)!;
    const ending = /\.[^.]{1,8}$/.exec(last)?.[0] ?? '';
    for (let n = 1; ; n++) {
      const own = n === 1 ? last : `${last.slice(0, last.length - ending.length)} ${n}${ending}`;
      const name = [...steps.slice(0, -1), own].join('/');
      if (taken.has(name.toLowerCase())) continue;
      taken.add(name.toLowerCase());
      given.set(key, name);
      return name;
    }
  };
}

/**
 * What is written of scenes.
 * @param media what of their files lies in the archive, too
 * @param made when it is written
 */
export function sceneFileOf(
  scenes: readonly SceneRows[],
  { sounds, roots, tags, pulls, pictures }: SceneGoods,
  media: { sounds: boolean; pictures: boolean },
  made: Date,
): SceneFile {
  const nameIn = mediaNames(roots);
  const shown = new Map(scenes.flatMap(({ scene: { picture: p } }) => (p ? [[pictureKey(p), p] as const] : [])));
  const used = new Set([...sounds.map((s) => s.rootId), ...[...shown.values()].map((p) => p.rootId)]);
  return {
    format: 'cormorant-scenes',
    version: 1,
    made: made.toISOString(),
    scenes: [...scenes],
    roots: [...used].map((id) => ({ id, name: roots.get(id) ?? '' })),
    sounds: sounds.map((sound) => {
      const { tags: own, ...fields } = sound.fields;
      return {
        sound: { ...sound, fields },
        tags: ((own as readonly number[] | undefined) ?? []).flatMap((id) => tags.get(id) ?? []),
        ...(media.sounds ? { media: nameIn(sound.rootId, sound.path) } : {}),
      };
    }),
    pulls,
    pictures: [...shown].map(([key, { rootId, path }]) => ({
      ...{ rootId, path, size: pictures.get(key) ?? 0 },
      ...(media.pictures ? { media: nameIn(rootId, path) } : {}),
    })),
  };
}

/**
 * Reads the text of a scene file and checks it whole: shapes, and that no two rows of a table have one id.
 * @param what the file, for the message
 * @throws Error that says where it is wrong
 */
export function readSceneFile(text: string, what: string): SceneFile {
  const head = /"version"\s*:\s*(\d+)/.exec(text.slice(0, 400));
  if (head && Number(head[1]) > 1)
    throw new Error(
      `${what} was written by a newer Cormorant (version ${head[1]} of the format). Bring this one up to date, then open it again.`,
    );
  const file = checkedFile<SceneFile>(text, validators.sceneFile, what);
  const once = (ids: readonly number[], table: string) => {
    if (new Set(ids).size < ids.length) throw new Error(`${what} is damaged: two of its ${table} have the same id.`);
  };
  const ids = (rows: readonly { id: number }[]) => rows.map((r) => r.id);
  once(ids(file.scenes.map((s) => s.scene)), 'scenes');
  once(ids(file.sounds.map((s) => s.sound)), 'sounds');
  once(ids(file.pulls), 'pulls');
  once(ids(file.roots), 'folders');
  for (const rows of file.scenes) {
    for (const part of sceneParts) once(ids(rows[part]), part);
    for (const v of rows.versions) for (const part of ['tracks', 'cues', 'markers'] as const) once(ids(v[part]), part);
  }
  for (const { sound } of file.sounds) {
    const fault = recordFault('sounds', sound);
    if (fault) throw new Error(`${what} is damaged: the sound ${nameOf(sound)} ${fault.message}.`);
  }
  return file;
}

/** Sounds that scenes name and the file says nothing about: their cues cannot be kept. */
export function unknownIn(file: SceneFile): number {
  const known = new Set(file.sounds.map((s) => s.sound.id));
  const lost = (rows: SceneRows) => rows.cues.filter((c: Cue) => !known.has(c.soundId)).length;
  return file.scenes.reduce((sum, rows) => sum + lost(rows), 0);
}

/**
 * Whether a sound that lies where the file says is that very sound: by its audio where both were measured, else by its length, rate and channels.
 */
export function isSameSound(here: Pick<Sound, 'hash' | 'format'>, there: Pick<Sound, 'hash' | 'format'>): boolean {
  if (here.hash && there.hash) return here.hash === there.hash;
  return (['frames', 'rate', 'channels'] as const).every((key) => here.format[key] === there.format[key]);
}

/** Ids of all sounds that the file's scenes and pulls name. */
export const soundsOfFile = (scenes: readonly SceneRows[], pulls: SceneFile['pulls']): Set<number> =>
  new Set([...scenes.flatMap((rows) => [...soundsIn(rows)]), ...pulls.flatMap((p) => p.soundIds)]);

/**
 * A sound of a scene file as one of this library's.
 * @param at where its file lies now; where it would lie when absent
 * @param others ids of the file's sounds here: what it was built of is among them
 */
export function soundIn(
  sound: Sound,
  own: Pick<Sound, 'id' | 'rootId' | 'intakeId'> & { tags: readonly number[] },
  at?: Pick<Sound, 'path' | 'size' | 'modified'>,
  others: ReadonlyMap<number, number> = new Map(),
): Sound {
  const { tags, ...ids } = own;
  const { built, ...rest } = sound;
  const parents = (built?.of ?? []).flatMap((id) => others.get(id) ?? []);
  const { takeGroup, state: _state, ...fields } = sound.fields;
  const next: Sound = { ...rest, ...at, ...ids, fields, ...(parents.length > 0 ? { built: { of: parents } } : {}) };
  // Takes are together within a root.
  if (typeof takeGroup === 'string')
    fields.takeGroup = takeGroup.replace(new RegExp(`^${sound.rootId}/`), `${ids.rootId}/`);
  if (tags.length > 0) fields.tags = [...tags];
  if (next.path !== sound.path) {
    const cut = next.path.lastIndexOf('/');
    fields.file = next.path.slice(cut + 1);
    if (cut > 0) fields.folder = next.path.slice(0, cut);
    else delete fields.folder;
  }
  return next;
}
