import type { CategoryWords } from './describe';
import type { Change, Patch } from './edits';
import { changeOf } from './edits';
import type { FieldValue } from './fields';
import { fieldOf } from './fields';
import type { Origin, Sound } from './sound';

/** The shared value of a field over several sounds, or that they differ. */
export type Shared = { same: true; value: FieldValue | undefined } | { same: false; count: number };

/** What a field says over all of the sounds; `count` tells how many different values there are. */
export function sharedValue(sounds: readonly Pick<Sound, 'fields'>[], key: string): Shared {
  const different = new Map(sounds.map((s) => [JSON.stringify(s.fields[key]), s.fields[key]]));
  if (different.size <= 1) return { same: true, value: [...different.values()][0] };
  return { same: false, count: different.size };
}

/** Whether a value says nothing: no text, no stars, no words. */
export function isEmpty(value: FieldValue | undefined): boolean {
  return value === undefined || value === '' || value === 0 || (Array.isArray(value) && value.length === 0);
}

/** Looks a CatID up; undefined for one that no list has. */
export type CategoryLookup = (catId: string) => CategoryWords | undefined;

/** How labels are put on a sound. */
export interface Labelling {
  /** Kept with each value; see `Sound.from`. */
  origin: Origin;
  category: CategoryLookup;
  /** Keeps the words of a category that is not the list's in VendorCategory, behind what stands there. */
  keepVendor?: boolean;
}

const wordsOf = (c: { category?: unknown; subCategory?: unknown } | undefined) =>
  [c?.category, c?.subCategory].filter(Boolean).join(' ');

/** The category that somebody else gave a sound; none where it is the list's, of the CatID that the sound has or is given. */
function vendorWords(
  { fields }: Pick<Sound, 'fields'>,
  next: CategoryWords | undefined,
  category: CategoryLookup,
): string {
  const was = wordsOf(fields);
  const listed = [next, category(String(fields.catId ?? ''))].some((c) => wordsOf(c) === was);
  return listed ? '' : was.replace(/[_-]+/g, ' ');
}

/**
 * The patch that puts values into the fields of a sound; an empty value takes the field away.
 * A CatID brings its Category and SubCategory along. Values that are there already keep their origin.
 */
export function labelPatch(
  sound: Pick<Sound, 'fields'>,
  values: Readonly<Record<string, FieldValue | undefined>>,
  { origin, category, keepVendor }: Labelling,
): Patch {
  const all: Record<string, FieldValue | undefined> = { ...values };
  if ('catId' in values) {
    const words = category(String(values.catId ?? ''));
    all.category = words?.category;
    all.subCategory = words?.subCategory;
    if (keepVendor && !('vendorCategory' in values)) {
      const kept = String(sound.fields.vendorCategory ?? '');
      const was = vendorWords(sound, words, category);
      if (was && !kept.includes(was)) all.vendorCategory = [kept, was].filter(Boolean).join(' ');
    }
  }
  const after: Patch = {};
  for (const [name, value] of Object.entries(all)) {
    const next = isEmpty(value) ? undefined : value;
    if (JSON.stringify(sound.fields[name]) === JSON.stringify(next)) continue;
    after[`fields.${name}`] = next;
    after[`from.${name}`] = next === undefined ? undefined : origin;
  }
  return after;
}

/**
 * The changes that put a typed value into a field of sounds.
 * @throws Error for a field that is not edited by hand
 */
export function labelChanges(
  sounds: readonly Sound[],
  key: string,
  value: FieldValue | undefined,
  category: CategoryLookup,
  keepVendor = false,
): Change[] {
  if (!fieldOf(key).edited) throw new Error(`the field “${key}” is not edited by hand`);
  const next = isEmpty(value) ? undefined : value;
  const others = sounds.filter((s) => JSON.stringify(s.fields[key]) !== JSON.stringify(next));
  return others.flatMap(
    (s) => changeOf('sounds', s, labelPatch(s, { [key]: value }, { origin: 'typed', category, keepVendor })) ?? [],
  );
}

/** Whether a value that the program proposes may take the place of what a sound has: never of what people decided. */
export function mayPropose(sound: Pick<Sound, 'fields' | 'from'>, key: string): boolean {
  const origin = sound.from[key];
  return sound.fields[key] === undefined || origin === 'name' || origin === 'folder' || origin === 'suggested';
}
