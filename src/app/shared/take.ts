import { isPlain, plainShape } from '@core/audio';
import type { Sound } from '@core/library';
import type { Loadable, TakeHow, Taken } from '@platform/index';

/** The name of a file without folder and ending. */
const stemOf = (path: string) => path.slice(path.lastIndexOf('/') + 1).replace(/\.[^.]*$/, '');

/** Sounds with where they lie and what their files are called: the name of each, what was done to it, and a number where two would be the same. */
export function takenOf(
  sounds: readonly Sound[],
  loadable: (sound: Sound) => Loadable | undefined,
  how: TakeHow,
): Taken[] {
  const used = new Set<string>();
  return sounds.flatMap((sound) => {
    const item = loadable(sound);
    if (!item) return [];
    const { region, shape = plainShape } = sound.marks;
    const stem = [stemOf(sound.path), how.region && region && 'excerpt', how.shaped && !isPlain(shape) && 'shaped']
      .filter(Boolean)
      .join(' ');
    let name = `${stem}.wav`;
    for (let n = 2; used.has(name.toLowerCase()); n++) name = `${stem} ${n}.wav`;
    used.add(name.toLowerCase());
    return {
      item: { sound: { ...item.sound }, root: { ...item.root } },
      sound: { fields: { ...sound.fields }, marks: { ...sound.marks } },
      name,
    };
  });
}
