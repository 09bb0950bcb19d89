import type { CategoryWords } from './describe';
import type { Change, Patch } from './edits';
import { changeOf } from './edits';
import type { FieldValue } from './field';
import { fieldOf } from './fields';
import type { Sound } from './sound';

/** Saved field values to put on other sounds. */
export interface Stamp {
  id: number;
  name: string;
  /** By field key. Lists and tags are added to what a sound has; everything else takes its place. */
  values: Record<string, FieldValue>;
  /** The digit that applies it together with Ctrl and Alt. */
  key?: number;
  /** Sounds of these roots get it as they are taken in. */
  rootIds?: number[];
}

/** The values that a stamp may take from a sound: what people may edit and the sound has. */
export function stampable(sound: Pick<Sound, 'fields'>): string[] {
  return Object.keys(sound.fields).filter((key) => fieldOf(key).edited);
}

/** The fields after a stamp, with their origins. */
export function stamped(
  sound: Pick<Sound, 'fields'>,
  stamp: Pick<Stamp, 'name' | 'values'>,
  category: (catId: string) => CategoryWords | undefined,
): Patch {
  const after: Patch = {};
  const put = (key: string, value: FieldValue) => {
    if (JSON.stringify(sound.fields[key]) === JSON.stringify(value)) return;
    after[`fields.${key}`] = value;
    after[`from.${key}`] = `stamp ${stamp.name}`;
  };
  for (const [key, value] of Object.entries(stamp.values)) {
    const had = sound.fields[key];
    if (Array.isArray(value)) put(key, [...new Set([...((had as unknown[]) ?? []), ...value])] as FieldValue);
    else put(key, value);
    const words = key === 'catId' ? category(String(value)) : undefined;
    if (words) {
      put('category', words.category);
      put('subCategory', words.subCategory);
    }
  }
  return after;
}

/** The changes that put a stamp on sounds. */
export function stampChanges(
  sounds: readonly Sound[],
  stamp: Stamp,
  category: (catId: string) => CategoryWords | undefined,
): Change[] {
  return sounds.flatMap((s) => changeOf('sounds', s, stamped(s, stamp, category)) ?? []);
}
