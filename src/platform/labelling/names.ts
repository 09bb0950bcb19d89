import { fieldOf, isField, textOf, valuesFrom, type Sound } from '@core/library';
import { baseName, composeUcsName, NamePattern, nameFaults, parseUcsName, UCS_PATTERN } from '@core/naming';
import { categoryOf } from '@core/suggest';
import { carryOut, eachSound, tables, tagNames, type Desk, type Plan, type Progress } from './desk';

/** A file name that fields make. */
export interface ComposedName {
  id: number;
  /** What the file is called, and would be called, with its ending. */
  from: string;
  to: string;
  /** Why it cannot be called so, or should not. */
  faults: string[];
  /** Whether another sound of its folder would have the same name. */
  shared?: boolean;
}

/** What a file name says by a pattern. */
export interface ParsedName {
  id: number;
  name: string;
  /** Texts by field; undefined when the name does not follow the pattern. */
  texts?: Record<string, string>;
}

const endingOf = (path: string) => /\.[^./]+$/.exec(path)?.[0] ?? '';
const fileOf = (path: string) => path.slice(path.lastIndexOf('/') + 1);

/** @throws PatternFault, or an error for a field that there is not */
function patternOf(source: string): NamePattern {
  const pattern = new NamePattern(source);
  const missing = pattern.keys.find((key) => !isField(key));
  if (missing) throw new Error(`No field is called “${missing}”.`);
  return pattern;
}

/** Composes names; those that two sounds of a folder would share, or that do not read back, are marked. */
export async function composeNames(
  desk: Desk,
  source: string,
  ids: readonly number[],
  progress: Progress,
): Promise<ComposedName[]> {
  await tables(desk);
  const pattern = patternOf(source);
  const tags = await tagNames(desk);
  const ucs = source === UCS_PATTERN;
  const made: ComposedName[] = [];
  const places = new Map<string, ComposedName[]>();
  const compose = (sound: Sound) => {
    const text = (key: string) => textOf(fieldOf(key), sound.fields[key], tags) || undefined;
    const base = ucs
      ? composeUcsName(Object.fromEntries(pattern.keys.map((k) => [k, text(k)])) as never)
      : pattern.compose(text);
    const to = base + endingOf(sound.path);
    const faults = nameFaults(to);
    const needed = ucs ? ['catId', 'fxName'].filter((k) => !text(k)) : [];
    for (const key of needed) faults.push(`${fieldOf(key).label} is missing`);
    const back = ucs
      ? (parseUcsName(to, (id) => categoryOf(id) !== undefined) as unknown as Record<string, string>)
      : pattern.parse(base);
    const other =
      needed.length > 0 ? undefined : pattern.keys.find((k) => (back?.[k] ?? '') !== (text(k) ?? '').trim());
    if (other) faults.push(`${fieldOf(other).label} would not be read back: it holds a border of the pattern`);
    const composed: ComposedName = { id: sound.id, from: fileOf(sound.path), to, faults };
    made.push(composed);
    const folder = sound.path.slice(0, sound.path.length - composed.from.length);
    const place = `${sound.rootId}/${folder}${to}`.toLowerCase();
    const list = places.get(place);
    if (list) list.push(composed);
    else places.set(place, [composed]);
  };
  await eachSound(desk, ids, compose, (share) => progress(share, 'Composing names'));
  for (const list of places.values())
    if (list.length > 1)
      for (const c of list) {
        c.shared = true;
        c.faults.push(`${list.length} sounds of this folder would have this name`);
      }
  return made;
}

/** Keeps composed names as planned names; files keep theirs until they are written. @returns how many changed */
export async function planNames(
  desk: Desk,
  source: string,
  ids: readonly number[],
  progress: Progress,
): Promise<number> {
  const good = (await composeNames(desk, source, ids, progress)).filter((c) => c.faults.length === 0);
  const names = new Map(good.map((c) => [c.id, c.to]));
  const plans: Plan[] = [];
  await eachSound(desk, [...names.keys()], (sound) => {
    plans.push({ sound, values: { values: { plannedName: names.get(sound.id) }, tagNames: {} } });
  });
  return carryOut(desk, plans, 'typed', { label: `Plan the names of ${plans.length} files` });
}

/** Reads names by a pattern. */
export async function parseNames(
  desk: Desk,
  source: string,
  ids: readonly number[],
  progress: Progress,
): Promise<ParsedName[]> {
  const pattern = patternOf(source);
  await tables(desk);
  const parsed: ParsedName[] = [];
  const read = (path: string) =>
    source === UCS_PATTERN
      ? (parseUcsName(path, (id) => categoryOf(id) !== undefined) as unknown as Record<string, string> | undefined)
      : pattern.parse(baseName(path));
  await eachSound(
    desk,
    ids,
    (s) => parsed.push({ id: s.id, name: fileOf(s.path), texts: read(s.path) }),
    (share) => progress(share, 'Reading names'),
  );
  return parsed;
}

/**
 * Puts what names say into fields, as one edit.
 * @param into by the pattern's field the field it goes to; those left out stay
 * @returns how many sounds changed
 */
export async function fillFromNames(
  desk: Desk,
  source: string,
  into: Readonly<Record<string, string>>,
  ids: readonly number[],
  progress: Progress,
): Promise<number> {
  const texts = new Map(
    (await parseNames(desk, source, ids, progress)).flatMap((p) => (p.texts ? [[p.id, p.texts] as const] : [])),
  );
  const plans: Plan[] = [];
  await eachSound(desk, [...texts.keys()], (sound) => {
    const own = Object.entries(texts.get(sound.id)!).flatMap(([key, text]) =>
      into[key] ? [[into[key], text] as const] : [],
    );
    const values = valuesFrom(Object.fromEntries(own));
    if (!('fault' in values)) plans.push({ sound, values });
  });
  return carryOut(desk, plans, 'name', { label: `Fill ${plans.length} sounds from their names`, by: 'file name' });
}
