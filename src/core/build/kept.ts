import type { AudioFormat } from '@core/files';
import { takeIn, type FieldValue, type Origin, type Sound } from '@core/library';
import type { SceneState } from '@core/scene';
import { layersOf } from './layers';

/** A sound in a build, and how loud it is there. */
export interface Parent {
  sound: Sound;
  /** dB */
  gain: number;
}

/**
 * The sounds that may be heard in a build, the loudest first, each as loud as its loudest layer.
 * @param isOne only those that are heard where nobody strikes; @param others that may be heard as well, as soft as can be
 */
export function soundsIn(
  { tracks, cues }: Pick<SceneState, 'tracks' | 'cues'>,
  soundOf: (id: number) => Sound | undefined,
  { isOne = false, others = [] }: { isOne?: boolean; others?: Iterable<number> } = {},
): Parent[] {
  const loud = new Map<number, number>();
  for (const { track, cues: own } of layersOf(tracks, cues)) {
    if (track.mute) continue;
    for (const { soundId, gain } of isOne ? own.slice(0, 1) : own)
      loud.set(soundId, Math.max(loud.get(soundId) ?? -Infinity, track.gain + gain));
  }
  const ids = [...loud].sort((a, b) => b[1] - a[1]);
  for (const id of others) if (!loud.has(id)) ids.push([id, -Infinity]);
  return ids.flatMap(([id, gain]) => {
    const sound = soundOf(id);
    return sound ? [{ sound, gain }] : [];
  });
}

type Fields = Record<string, FieldValue>;

/** The value that most of the parents have, by how loud they are; undefined where none has any. */
function strongest(parents: readonly Parent[], key: string): FieldValue | undefined {
  const weights = new Map<FieldValue, number>();
  for (const { sound, gain } of parents) {
    const value = sound.fields[key];
    if (value !== undefined) weights.set(value, (weights.get(value) ?? 0) + 10 ** (gain / 20));
  }
  return [...weights].sort((a, b) => b[1] - a[1])[0]?.[0];
}

const listed = (names: readonly string[]) =>
  names.length < 2 ? names.join('') : `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`;

/** The name of a sound as it stands in its labels. */
const called = ({ fields }: Sound) => (fields.fxName ?? fields.file) as string;

/**
 * Labels for what is made of sounds: its category is that which is heard most, its keywords are all of theirs, its description says what is in it.
 * A licence is only given where all have the same one; credits go by the parents whatever stands here.
 */
export function labelsFrom(name: string, parents: readonly Parent[]): Labels {
  const fields: Fields = { fxName: name };
  const catId = strongest(parents, 'catId');
  const leading = parents.find((p) => p.sound.fields.catId === catId)?.sound.fields;
  if (catId !== undefined && leading)
    for (const key of ['catId', 'category', 'subCategory']) if (leading[key] !== undefined) fields[key] = leading[key];
  const words = (key: string) => [
    ...new Set(parents.flatMap((p) => (p.sound.fields[key] as string[] | undefined) ?? [])),
  ];
  for (const key of ['keywords', 'material']) if (words(key).length > 0) fields[key] = words(key);
  const names = [...new Set(parents.map((p) => called(p.sound)))];
  if (names.length > 0) fields.description = `Built from ${listed(names)}`;
  const licences = new Set(parents.map((p) => p.sound.fields.licence));
  const [licence] = licences;
  if (licences.size === 1 && licence !== undefined) fields.licence = licence;
  return suggested(fields);
}

/** Labels of which only the name was typed. */
export function suggested(fields: Fields): Labels {
  const from = Object.fromEntries(
    Object.keys(fields).map((key): [string, Origin] => [key, key === 'fxName' ? 'typed' : 'suggested']),
  );
  return { fields, from };
}

/** Labels, and where each came from. */
export interface Labels {
  fields: Fields;
  from: Record<string, Origin>;
}

/** What a sound that was made here is as a file, and where. */
export interface MadeFile {
  rootId: number;
  rootName: string;
  path: string;
  size: number;
  format: AudioFormat;
  /** Frame of the file that its anchor is. */
  anchor: number;
  /** Milliseconds since 1970. */
  now: number;
}

/** The record of a sound that was made here without its id: as a file that was just taken in. @param by what it was made by */
export function soundMade(
  { fields, from }: Labels,
  { rootId, rootName, path, size, format, anchor, now }: MadeFile,
  by: Pick<Sound, 'built' | 'made'>,
): Omit<Sound, 'id'> {
  const slash = path.lastIndexOf('/');
  const { group } = takeIn(rootId, path);
  const measured: Fields = {
    ...{ length: format.frames / format.rate, channels: format.channels, rate: format.rate, bits: format.bits },
    ...{ format: format.container, added: now },
  };
  const origins = (keys: object, origin: Origin) => Object.fromEntries(Object.keys(keys).map((k) => [k, origin]));
  const named: Fields = { file: path.slice(slash + 1), takeGroup: group };
  const placed: Fields = { library: rootName, ...(slash > 0 ? { folder: path.slice(0, slash) } : {}) };
  return {
    ...{ rootId, path, size, modified: now, intakeId: 0, format },
    fields: { ...fields, ...measured, ...named, ...placed },
    from: {
      ...from,
      ...origins(measured, 'measured'),
      ...origins(named, 'name'),
      ...origins(placed, 'folder'),
      anchor: 'typed',
    },
    marks: { anchor },
    warnings: [],
    ...by,
  };
}
