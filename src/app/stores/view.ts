import { isField, type Folder } from '@core/library';
import { readLikeCode } from '@core/search';
import type { Search } from '@platform/index';
import type { LocationQuery } from 'vue-router';

/** What narrows a list. */
export interface Narrowing {
  text: string;
  /** Only what has the very words of the query. */
  exact?: boolean;
  /** Chosen values by field key. */
  facets: Record<string, string[]>;
  /** Values by field key that results must not have. */
  without: Record<string, string[]>;
  /** Chosen spans of numbers by field key: from, included, to, not included. */
  ranges: Record<string, [number, number]>;
  pullId?: number;
  intakeId?: number;
  /** Only sounds that are like this one, nearest first. */
  nearId?: number;
  /** Only sounds that are like a region, a file or a voice, nearest first. */
  like?: { name: string; code: string };
  /** Only what lies in a folder of a root. */
  under?: Folder;
  /** Only what was heard on a day, `2026-03-14`. */
  heardOn?: string;
  /** Only what was not heard for a scene. */
  unheardIn?: number;
  /** When one of these two was chosen: what is heard from then on leaves the list as it is. Milliseconds since 1970. */
  asOf?: number;
}

/** What is listed and how; the whole of it stands in the URL. */
export interface FindView extends Narrowing {
  sort?: { key: string; down: boolean };
  soundId?: number;
  /** Takes of one sound stand as one row. */
  fold?: boolean;
  /** Results that were kept to look inside of them, one inside of the other. */
  trail: Narrowing[];
}

/** A view that narrows nothing. */
export const wide = (): Narrowing => ({
  text: '',
  exact: undefined,
  facets: {},
  without: {},
  ranges: {},
  nearId: undefined,
  like: undefined,
  under: undefined,
  heardOn: undefined,
  unheardIn: undefined,
  asOf: undefined,
});

/** Whether a list is narrowed by more than where it begins. */
export const narrows = (n: Narrowing): boolean =>
  n.text.trim() !== '' ||
  [n.nearId, n.like, n.under, n.heardOn, n.unheardIn].some((v) => v !== undefined) ||
  Object.keys(n.ranges).length > 0 ||
  [...Object.values(n.facets), ...Object.values(n.without)].some((v) => v.length > 0);

type Query = Record<string, string | string[]>;
const STEPS = 20;

const number = (value: unknown) =>
  typeof value === 'string' && /^\d+(\.\d+)?$/.test(value) ? Number(value) : undefined;
const limit = (text: string, open: number) =>
  text === '' ? open : /^-?\d+(\.\d+)?(e[+-]?\d+)?$/.test(text) ? Number(text) : NaN;

function rangeOf(value: unknown): [number, number] | undefined {
  const parts = typeof value === 'string' ? value.split('..') : [];
  if (parts.length !== 2) return undefined;
  const [from, to] = [limit(parts[0], -Infinity), limit(parts[1], Infinity)];
  return Number.isNaN(from) || Number.isNaN(to) ? undefined : [from, to];
}
const rangeText = ([from, to]: readonly [number, number]) =>
  `${from === -Infinity ? '' : from}..${to === Infinity ? '' : to}`;

function likeOf(value: unknown): Narrowing['like'] {
  const [, code, name] = (typeof value === 'string' && /^(\S+) (.*)$/s.exec(value)) || [];
  return code !== undefined && readLikeCode(code) ? { code, name: name.slice(0, 200) } : undefined;
}

function underOf(value: unknown): Folder | undefined {
  const [, root, folder] = (typeof value === 'string' && /^(\d+)\/(.*)$/s.exec(value)) || [];
  return root === undefined ? undefined : { rootId: Number(root), folder };
}

function narrowingOf(query: LocationQuery): Narrowing {
  const made = wide();
  made.text = typeof query.q === 'string' ? query.q : '';
  made.exact = query.exact === '1' ? true : undefined;
  for (const [key, value] of Object.entries(query)) {
    const own = key.slice(2);
    const texts = [value].flat().filter((v) => v !== null);
    const range = rangeOf(value);
    // A link may name fields that there are not.
    if (!isField(own)) continue;
    if (key.startsWith('f.')) made.facets[own] = texts;
    else if (key.startsWith('x.')) made.without[own] = texts;
    else if (key.startsWith('r.') && range) made.ranges[own] = range;
  }
  made.pullId = number(query.pull);
  made.intakeId = number(query.intake);
  made.nearId = number(query.near);
  made.like = likeOf(query.like);
  made.under = underOf(query.under);
  made.heardOn = typeof query.heard === 'string' && /^\d{4}-\d{2}-\d{2}$/.test(query.heard) ? query.heard : undefined;
  made.unheardIn = number(query.unheard);
  made.asOf = number(query.asof);
  return made;
}

function partsOf(n: Narrowing): Query {
  const query: Query = {};
  if (n.text) query.q = n.text;
  if (n.exact) query.exact = '1';
  for (const [key, values] of Object.entries(n.facets)) if (values.length > 0) query[`f.${key}`] = values;
  for (const [key, values] of Object.entries(n.without)) if (values.length > 0) query[`x.${key}`] = values;
  for (const [key, range] of Object.entries(n.ranges)) query[`r.${key}`] = rangeText(range);
  if (n.pullId !== undefined) query.pull = String(n.pullId);
  if (n.intakeId !== undefined) query.intake = String(n.intakeId);
  if (n.nearId !== undefined) query.near = String(n.nearId);
  if (n.like) query.like = `${n.like.code} ${n.like.name}`;
  if (n.under) query.under = `${n.under.rootId}/${n.under.folder}`;
  if (n.heardOn !== undefined) query.heard = n.heardOn;
  if (n.unheardIn !== undefined) query.unheard = String(n.unheardIn);
  if (n.asOf !== undefined) query.asof = String(n.asOf);
  return query;
}

/** A query part of a URL as text. */
export function textOfQuery(query: Query): string {
  return new URLSearchParams(Object.entries(query).flatMap(([k, v]) => [v].flat().map((x) => [k, x]))).toString();
}

/** The inverse of {@link textOfQuery}. */
export function queryOfText(text: string): LocationQuery {
  const params = new URLSearchParams(text);
  const query: LocationQuery = {};
  for (const key of new Set(params.keys())) {
    const values = params.getAll(key);
    query[key] = values.length > 1 ? values : values[0];
  }
  return query;
}

/** Reads a view out of a URL's query part; anything odd in it is left out. */
export function viewOf(query: LocationQuery): FindView {
  const sort = typeof query.sort === 'string' && query.sort ? query.sort : undefined;
  const steps = [query.step].flat().filter((s) => typeof s === 'string');
  return {
    ...narrowingOf(query),
    sort: sort ? { key: sort.replace(/^-/, ''), down: sort.startsWith('-') } : undefined,
    soundId: number(query.sound),
    fold: query.fold === '1' ? true : undefined,
    trail: steps.slice(0, STEPS).map((s) => narrowingOf(queryOfText(s))),
  };
}

/** The URL's query part for a view; the inverse of {@link viewOf}. */
export function queryOf(view: FindView): Query {
  const query = partsOf(view);
  if (view.sort) query.sort = (view.sort.down ? '-' : '') + view.sort.key;
  if (view.soundId !== undefined) query.sound = String(view.soundId);
  if (view.fold) query.fold = '1';
  if (view.trail.length > 0) query.step = view.trail.map((n) => textOfQuery(partsOf(n)));
  return query;
}

/** Whether a stage lists what the query finds: Find, Label, and Deliver, which publishes it. */
export const listing = (stage: unknown): stage is string =>
  stage === 'find' || stage === 'label' || stage === 'deliver';

/** Where a stage is entered: those that list sounds list the same, so that walking between them keeps the view. */
export function placeOf(stage: string, view: FindView): { name: string; query: Query } {
  return { name: stage, query: listing(stage) ? queryOf(view) : {} };
}

/** What narrows a view, without what it shows of it. */
export function narrowingIn(view: Narrowing & Partial<FindView>): Narrowing {
  const { sort: _sort, soundId: _sound, fold: _fold, trail: _trail, ...rest } = view;
  return rest;
}

/** A narrowing as the index is asked for it; plain data, free of the interface's proxies. */
export function searchOf(n: Narrowing): Search {
  const { like, exact, ...rest } = JSON.parse(JSON.stringify(narrowingIn(n))) as Narrowing;
  // JSON knows no infinity.
  const ranges = Object.fromEntries(Object.entries(n.ranges).map(([key, [from, to]]) => [key, [from, to] as const]));
  return { ...rest, ranges, like: like?.code, reach: exact ? 'words' : undefined };
}

/** A search for all that a view lists but for its own query, for what may be typed there. */
export function searchAround(view: FindView): Search {
  return { ...searchOf({ ...wide(), pullId: view.pullId }), inside: view.trail.map(searchOf) };
}

/**
 * Rows in the order in which they are listed already; those that are new come last.
 * @param listed - ids on screen, in order
 * @param found - the ids that are to be listed, with how many results each stands for
 */
export function inOrderOf(
  listed: Uint32Array,
  found: { ids: Uint32Array; takes: Uint32Array },
): { ids: Uint32Array; takes: Uint32Array } {
  const { ids, takes } = found;
  const largest = ids.reduce((most, id) => Math.max(most, id), 0);
  // Where each id stands among the found; typed arrays, as a list may hold a million.
  const at = new Int32Array(largest + 1).fill(-1);
  ids.forEach((id, i) => (at[id] = i));
  const order = new Uint32Array(ids.length);
  let placed = 0;
  for (const id of listed) {
    if (id > largest || at[id] < 0) continue;
    order[placed++] = at[id];
    at[id] = -1;
  }
  ids.forEach((id, i) => at[id] >= 0 && (order[placed++] = i));
  return { ids: order.map((i) => ids[i]), takes: takes.length > 0 ? order.map((i) => takes[i]) : takes };
}
