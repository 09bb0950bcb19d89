import type { CategoryWords } from './describe';
import type { Change, Patch } from './edits';
import { changeOf } from './edits';
import type { FieldValue } from './fields';
import { fieldOf } from './fields';
import type { Sound } from './sound';

/** The shared value of a field over several sounds, or that they differ. */
export type Shared = { same: true; value: FieldValue | undefined } | { same: false; count: number };

/** What a field says over all of the sounds; `count` tells how many different values there are. */
export function sharedValue(sounds: readonly Pick<Sound, 'fields'>[], key: string): Shared {
  const different = new Map(sounds.map((s) => [JSON.stringify(s.fields[key]), s.fields[key]]));
  if (different.size <= 1) return { same: true, value: [...different.values()][0] };
  return { same: false, count: different.size };
}

function empty(value: FieldValue | undefined): boolean {
  return value === undefined || value === '' || value === 0 || (Array.isArray(value) && value.length === 0);
}

/**
 * The changes that put a typed value into a field of sounds; an empty value takes the field away.
 * A CatID brings its Category and SubCategory along.
 * @throws Error for a field that is not edited by hand
 */
export function labelChanges(
  sounds: readonly Sound[],
  key: string,
  value: FieldValue | undefined,
  category: (catId: string) => CategoryWords | undefined,
): Change[] {
  if (!fieldOf(key).edited) throw new Error(`the field “${key}” is not edited by hand`);
  const typed: Record<string, FieldValue | undefined> = { [key]: value };
  if (key === 'catId') {
    const words = category(String(value ?? ''));
    typed.category = words?.category;
    typed.subCategory = words?.subCategory;
  }
  const after: Patch = {};
  for (const [name, v] of Object.entries(typed)) {
    after[`fields.${name}`] = empty(v) ? undefined : v;
    after[`from.${name}`] = empty(v) ? undefined : 'typed';
  }
  return sounds
    .filter((s) => JSON.stringify(s.fields[key]) !== JSON.stringify(after[`fields.${key}`]))
    .flatMap((s) => changeOf('sounds', s, after) ?? []);
}
