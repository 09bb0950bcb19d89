import {
  changeOf,
  fieldOf,
  isEmpty,
  isField,
  languageOf,
  takeIn,
  type Change,
  type Field,
  type FieldValue,
  type Origin,
  type Patch,
  type Sound,
  type TagNames,
} from '@core/library';
import type { TeamEdit, TeamRow, TeamSound } from '@core/schemas';
import { categoryWords, merged } from './team';

/** Sounds of a team's library as they stand here, and what of them goes there. */

/** What is only of this catalogue: where a file lies, what was done with it here. */
const here = new Set(['plannedName', 'heard', 'added', 'state', 'file', 'folder', 'takeGroup']);

type Values = Readonly<Record<string, FieldValue>>;

/** Whether a value is a label that people of a team change together; the rest is measured, or told by the file. */
export const isTeamLabel = (key: string): boolean =>
  key === 'anchor' ||
  key === 'category' ||
  key === 'subCategory' ||
  (isField(key) && fieldOf(languageOf(key).base).edited && !here.has(key));

/** Whether a field can hold what was told for it. */
function holds({ type }: Field, value: FieldValue): boolean {
  if (type === 'list' || type === 'tags')
    return Array.isArray(value) && value.every((v) => typeof v === 'string' && v.trim() !== '');
  if (type === 'stars') return Number.isInteger(value) && (value as number) > 0 && (value as number) <= 5;
  if (type === 'number' || type === 'date') return Number.isFinite(value);
  return typeof value === 'string';
}

/** Tags once each, whatever their case. */
function once(names: readonly string[]): string[] {
  const seen = new Set<string>();
  return names.filter((n) => !seen.has(n.trim().toLocaleLowerCase()) && seen.add(n.trim().toLocaleLowerCase()));
}

/** Of what was told, the values that this catalogue knows and its fields can hold. */
function known({ fields, anchor }: Pick<TeamSound, 'fields' | 'anchor'>): Record<string, FieldValue> {
  const values: Record<string, FieldValue> = anchor < 0 ? {} : { anchor };
  for (const [key, value] of Object.entries(fields))
    if (isField(key) && !here.has(key) && !isEmpty(value) && holds(fieldOf(key), value))
      values[key] = key === 'tags' ? once(value as string[]) : value;
  return values;
}
const labelsOf = (values: Values): Record<string, FieldValue> =>
  Object.fromEntries(Object.entries(values).filter(([key]) => isTeamLabel(key)));

const folded = (names: unknown): string => JSON.stringify((names as string[]).map((n) => n.trim().toLocaleLowerCase()));

/**
 * A sound's values as they are told: tags by their names, written as the team writes them.
 * @param was labels as the team had them: a name of last resort, made of that of the file, is none then
 */
function told(sound: Sound, tags: TagNames, was?: Values): Record<string, FieldValue> {
  const values: Record<string, FieldValue> = {};
  for (const [key, value] of Object.entries(sound.fields)) {
    if (here.has(key) || !isField(key)) continue;
    if (was && was[key] === undefined && sound.from[key] === 'name') continue;
    if (key !== 'tags') {
      values[key] = value;
      continue;
    }
    const names = (value as readonly number[]).flatMap((id) => tags.get(id) ?? []);
    if (names.length === 0) continue;
    const same = Array.isArray(was?.tags) && folded(was.tags) === folded(names);
    values.tags = same ? was.tags : names;
  }
  if (sound.marks.anchor >= 0) values.anchor = sound.marks.anchor;
  return values;
}

/** A sound of this catalogue as it is added to a team's library. @param path below the library */
export function teamSoundOf(
  sound: Sound,
  path: string,
  file: { sha256: string; size: number },
  more: Pick<TeamSound, 'contour' | 'like'>,
  tags: TagNames,
): TeamSound {
  const { anchor = -1, ...fields } = told(sound, tags);
  return {
    ...{ path, file: file.sha256, size: file.size, format: sound.format, fields },
    ...{ anchor: anchor as number, hash: sound.hash ?? '', ...more },
  };
}

/** Ids of tags by their names, in any case. */
export type TagIds = (name: string) => number | undefined;

/** Names of tags that are told of sounds. */
export const tagsTold = (rows: readonly TeamRow[]): Set<string> =>
  new Set(rows.flatMap((row) => (known(row).tags as string[] | undefined) ?? []));

function valueHere(key: string, value: FieldValue | undefined, tagId: TagIds): FieldValue | undefined {
  if (key !== 'tags' || value === undefined) return value;
  const ids = (value as readonly string[]).flatMap((name) => tagId(name) ?? []);
  return ids.length > 0 ? [...new Set(ids)] : undefined;
}

const originOf = (key: string, by: string): Origin => (isTeamLabel(key) ? `team ${by}` : 'measured');

/** A sound that this catalogue did not know yet. */
export function soundFrom(
  row: TeamRow,
  at: { id: number; rootId: number; intakeId: number; now: number },
  tagId: TagIds,
): Sound {
  const values = known(row);
  const fields: Record<string, FieldValue> = {};
  const from: Record<string, Origin> = {};
  const put = (key: string, value: FieldValue | undefined, origin: Origin): void => {
    if (value === undefined) return;
    fields[key] = value;
    from[key] = origin;
  };
  for (const [key, value] of Object.entries(values))
    if (key !== 'anchor') put(key, valueHere(key, value, tagId), originOf(key, row.by));
  const slash = row.path.lastIndexOf('/');
  put('file', row.path.slice(slash + 1), 'name');
  put('folder', slash < 0 ? undefined : row.path.slice(0, slash), 'folder');
  put('takeGroup', takeIn(at.rootId, row.path, values.fxName as string | undefined).group, 'name');
  put('added', at.now, 'measured');
  put('length', row.format.frames / row.format.rate, 'measured');
  if (fields.fxName === undefined) put('fxName', row.path.slice(slash + 1).replace(/\.\w+$/, ''), 'name');
  return {
    ...{ id: at.id, rootId: at.rootId, path: row.path, size: row.size, modified: row.at, intakeId: at.intakeId },
    ...{ format: row.format, fields, from, warnings: [] },
    marks: { anchor: Math.min(row.anchor, Math.max(0, row.format.frames - 1)) },
    ...(row.hash ? { hash: row.hash } : {}),
    team: { id: row.id, file: row.file, was: labelsOf(values) },
  };
}

/** Keys that wait for a choice: the words of a category with its CatID. */
const openKeys = (keys: readonly string[]): string[] =>
  keys.flatMap((key) => (key === 'catId' ? [key, ...categoryWords] : [key]));

const isSame = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/**
 * Brings a sound together with what the team's server says of it now. Of a label that was changed here and there, and not to the same, this one
 * stays and the conflict is noted, until somebody chooses.
 * @returns undefined where nothing changes
 */
export function caughtUp(sound: Sound, row: TeamRow, tags: TagNames, tagId: TagIds): Change | undefined {
  const before = sound.team!;
  const all = known(row);
  const theirs = labelsOf(all);
  const mine = labelsOf(told(sound, tags, before.was));
  const { values, conflicts } = merged(row.id, before.was, theirs, mine);
  const differ = (key: string) => !isSame(theirs[key], mine[key]);
  const open = [...new Set([...(before.conflicts ?? []), ...conflicts.map((c) => c.key)])].filter(differ);
  const after: Patch = {};
  const put = (key: string, value: FieldValue | undefined): void => {
    const now = valueHere(key, value, tagId);
    if (isSame(now, sound.fields[key])) return;
    after[`fields.${key}`] = now;
    after[`from.${key}`] = now === undefined ? undefined : originOf(key, row.by);
  };
  const left = openKeys(open);
  for (const key of new Set([...Object.keys(theirs), ...Object.keys(mine)])) {
    if (left.includes(key) || isSame(values[key], mine[key])) continue;
    if (key === 'anchor') after['marks.anchor'] = values.anchor ?? -1;
    else put(key, values[key]);
  }
  for (const [key, value] of Object.entries(all)) if (!isTeamLabel(key) && value !== sound.fields[key]) put(key, value);
  if (sound.fields.state === 'Missing') Object.assign(after, { 'fields.state': undefined, 'from.state': undefined });
  const team = {
    ...{ id: row.id, file: row.file, was: theirs },
    ...(open.length > 0 ? { conflicts: open } : {}),
  };
  if (!isSame(team, before)) after.team = team;
  return changeOf('sounds', sound, after);
}

/** What was changed here and is not there yet, but for conflicts; undefined where nothing was. */
export function pendingOf(sound: Sound, tags: TagNames): TeamEdit | undefined {
  const { team } = sound;
  if (!team) return undefined;
  const mine = labelsOf(told(sound, tags, team.was));
  const open = openKeys(team.conflicts ?? []);
  const keys = [...new Set([...Object.keys(mine), ...Object.keys(team.was)])].filter(
    (key) => !isSame(mine[key], team.was[key]) && !open.includes(key),
  );
  if (keys.length === 0) return undefined;
  const picked = (values: Values) =>
    Object.fromEntries(keys.flatMap((key) => (values[key] === undefined ? [] : [[key, values[key]]])));
  return { id: team.id, was: picked(team.was), is: picked(mine) };
}

/** A label that others changed while it was changed here. */
export interface TeamChoice {
  key: string;
  mine?: FieldValue;
  theirs?: FieldValue;
}

/** The conflicts of a sound, as both have them. */
export function choicesOf(sound: Sound, tags: TagNames): TeamChoice[] {
  const { team } = sound;
  if (!team?.conflicts) return [];
  const mine = told(sound, tags, team.was);
  return team.conflicts.map((key) => ({
    key,
    ...(mine[key] === undefined ? {} : { mine: mine[key] }),
    ...(team.was[key] === undefined ? {} : { theirs: team.was[key] }),
  }));
}

/** What choosing makes of a sound: mine goes to the team next, theirs is taken over. @param keys those that are chosen */
export function chosen(
  sound: Sound,
  keys: readonly string[],
  which: 'mine' | 'theirs',
  tagId: TagIds,
): Change | undefined {
  const { team } = sound;
  const open = team?.conflicts?.filter((key) => keys.includes(key)) ?? [];
  if (!team || open.length === 0) return undefined;
  const { conflicts = [], ...rest } = team;
  const left = conflicts.filter((key) => !open.includes(key));
  const after: Patch = { team: { ...rest, ...(left.length > 0 ? { conflicts: left } : {}) } };
  if (which === 'theirs')
    for (const key of openKeys(open)) {
      const value = valueHere(key, team.was[key], tagId);
      if (key === 'anchor') after['marks.anchor'] = value ?? -1;
      else {
        after[`fields.${key}`] = value;
        after[`from.${key}`] = value === undefined ? undefined : 'typed';
      }
    }
  return changeOf('sounds', sound, after);
}
