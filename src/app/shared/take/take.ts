import { fullShape, isPlain } from '@core/audio';
import { isField, sliceKeys, textsOf, type Sound, type TagNames } from '@core/library';
import { nameFaults, NamePattern, PatternFault } from '@core/naming';
import type { Taking } from '../../stores/prefs';
import type { Loadable, TakeHow, Taken } from '@platform/index';

/** The name of a file without folder and ending. */
const stemOf = (path: string) => path.slice(path.lastIndexOf('/') + 1).replace(/\.[^.]*$/, '');

/** What is wrong with a pattern for names, in words; empty when nothing is. @param sliced of slices, which know more than their reel */
export function patternFault(pattern: string, sliced = false): string {
  if (pattern === '') return '';
  try {
    const missing = new NamePattern(pattern).keys.find((k) => !isField(k) && !(sliced && k in sliceKeys));
    return missing ? `No field is called “${missing}”.` : '';
  } catch (error) {
    return error instanceof PatternFault ? `At character ${error.at + 1}: ${error.message}` : String(error);
  }
}
/** A pattern where it can be used; else that of the files' own names. */
export const usablePattern = (pattern: string): string => (patternFault(pattern) === '' ? pattern : '');

/** Makes names of sounds by a pattern; undefined for one that gives none that a file may have. */
function namer(pattern: string, tags: TagNames): (sound: Sound) => string | undefined {
  if (pattern === '') return () => undefined;
  const names = new NamePattern(pattern);
  return (sound) => {
    const texts = textsOf(sound, names.keys, tags);
    const name = names.compose((key) => texts[key]).trim();
    return name && nameFaults(`${name}.wav`).length === 0 ? name : undefined;
  };
}

/**
 * Sounds with where they lie and what their files are called: by the pattern, or by the name of their file; what was done to
 * each; and a number where two would be the same.
 * @param pattern empty for the names of their files
 * @throws PatternFault
 */
export function takenOf(
  sounds: readonly Sound[],
  loadable: (sound: Sound) => Loadable | undefined,
  how: TakeHow,
  tags: TagNames,
  pattern = '',
): Taken[] {
  const used = new Set<string>();
  const nameOf = namer(pattern, tags);
  const ending = how.flac ? 'flac' : 'wav';
  return sounds.flatMap((sound) => {
    const item = loadable(sound);
    if (!item) return [];
    const { region, shape } = sound.marks;
    const stem = [
      nameOf(sound) ?? stemOf(sound.path),
      how.region && region && 'excerpt',
      how.shaped && !isPlain(fullShape(shape)) && 'shaped',
    ]
      .filter(Boolean)
      .join(' ');
    let name = `${stem}.${ending}`;
    for (let n = 2; used.has(name.toLowerCase()); n++) name = `${stem} ${n}.${ending}`;
    used.add(name.toLowerCase());
    return {
      item: { sound: { ...item.sound }, root: { ...item.root } },
      sound: { fields: { ...sound.fields }, marks: { ...sound.marks } },
      name,
    };
  });
}

/** How files were taken last, as whoever takes them is told. @param taking a rate of 0 is that of each sound */
export function takeHow({ depth, rate, dither, region, shaped }: Taking): TakeHow {
  return {
    bits: parseInt(depth) as TakeHow['bits'],
    float: depth.endsWith('f'),
    flac: depth.endsWith('flac'),
    rate: rate || undefined,
    dither,
    region,
    shaped,
  };
}
