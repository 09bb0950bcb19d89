import { fullShape, isPlain } from '@core/audio';
import type { Sound } from '@core/library';
import type { Loadable, TakeHow, Taken } from '@platform/index';

/** What is chosen in the dialog. */
export interface Taking {
  /** Bits, with an f behind for floating point. */
  depth: string;
  /** Hz; 0 for that of each sound. */
  rate: number;
  dither: boolean;
  region: boolean;
  shaped: boolean;
}

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
    const { region, shape } = sound.marks;
    const stem = [stemOf(sound.path), how.region && region && 'excerpt', how.shaped && !isPlain(fullShape(shape)) && 'shaped']
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

/** How files were taken last, as whoever takes them is told. @param taking a rate of 0 is that of each sound */
export function takeHow({ depth, rate, dither, region, shaped }: Taking): TakeHow {
  return {
    bits: parseInt(depth) as TakeHow['bits'],
    float: depth.endsWith('f'),
    rate: rate || undefined,
    dither,
    region,
    shaped,
  };
}
