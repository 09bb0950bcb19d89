import type { FieldValue } from '@core/library';
import { teamRights, type TeamConflict, type TeamRight } from '@core/schemas';

/** What people of a team may do, and how what two of them wrote comes together. */

/** Whether a right is enough for something; none is never. */
export const allows = (right: TeamRight | undefined, needed: TeamRight): boolean =>
  right !== undefined && teamRights.indexOf(right) >= teamRights.indexOf(needed);

/** The greater one of two rights. */
export const greaterOf = (a: TeamRight | undefined, b: TeamRight | undefined): TeamRight | undefined =>
  a !== undefined && (b === undefined || allows(a, b)) ? a : b;

type Values = Readonly<Record<string, FieldValue>>;
const isSame = (a: FieldValue | undefined, b: FieldValue | undefined): boolean =>
  JSON.stringify(a) === JSON.stringify(b);
const isList = (value: FieldValue | undefined): value is readonly string[] & FieldValue => Array.isArray(value);

/** A list with what was added to it, and without what was taken out, wherever others changed it. */
function mergedList(was: readonly unknown[], now: readonly unknown[], mine: readonly unknown[]): unknown[] {
  const gone = new Set(was.filter((x) => !mine.includes(x)));
  const kept = now.filter((x) => !gone.has(x));
  return [...kept, ...mine.filter((x) => !was.includes(x) && !kept.includes(x))];
}

/** The words of a category, which go with its CatID. */
export const categoryWords: readonly string[] = ['category', 'subCategory'];

/**
 * Brings an edit of values together with what others made of them since: lists by their members, all else value by value. A value that
 * both changed, and not to the same, stays as the others have it and is told. The words of a category go with its CatID.
 * @param was as they were where the edit was made, of the values that it changes; @param mine as it makes them: what is not there is emptied
 */
export function merged(
  id: number,
  was: Values,
  now: Values,
  mine: Values,
): { values: Record<string, FieldValue>; conflicts: TeamConflict[] } {
  const values: Record<string, FieldValue> = { ...now };
  const conflicts: TeamConflict[] = [];
  const put = (key: string, value: FieldValue | undefined): void => {
    if (value === undefined) delete values[key];
    else values[key] = value;
  };
  const keys = new Set([...Object.keys(was), ...Object.keys(mine)]);
  const isGroup = keys.has('catId');
  for (const key of keys) {
    if (isGroup && categoryWords.includes(key)) continue;
    const [before, theirs, own] = [was[key], now[key], mine[key]] as (FieldValue | undefined)[];
    if (isSame(before, own) || isSame(theirs, own)) continue;
    if (isSame(before, theirs)) {
      put(key, own);
      if (key === 'catId') for (const word of categoryWords) if (word in was || word in mine) put(word, mine[word]);
    } else if ([before ?? [], theirs ?? [], own ?? []].every((v) => isList(v))) {
      const list = mergedList((before ?? []) as string[], (theirs ?? []) as string[], (own ?? []) as string[]);
      put(key, list.length === 0 ? undefined : (list as FieldValue));
    } else {
      conflicts.push({
        ...{ id, key },
        ...(before === undefined ? {} : { was: before }),
        ...(theirs === undefined ? {} : { theirs }),
        ...(own === undefined ? {} : { mine: own }),
      });
    }
  }
  return { values, conflicts };
}
