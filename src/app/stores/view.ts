import type { LocationQuery } from 'vue-router';

/** What is listed and how; the whole of it stands in the URL. */
export interface FindView {
  text: string;
  sort?: { key: string; down: boolean };
  facets: Record<string, string[]>;
  length?: [number, number];
  pullId?: number;
  intakeId?: number;
  soundId?: number;
  /** Takes of one sound stand as one row. */
  fold?: boolean;
}

const number = (value: unknown) =>
  typeof value === 'string' && /^\d+(\.\d+)?$/.test(value) ? Number(value) : undefined;

/** Reads a view out of a URL's query part; anything odd in it is left out. */
export function viewOf(query: LocationQuery): FindView {
  const facets: FindView['facets'] = {};
  for (const [key, value] of Object.entries(query)) {
    if (key.startsWith('f.')) facets[key.slice(2)] = [value].flat().filter((v) => v !== null);
  }
  const sort = typeof query.sort === 'string' && query.sort ? query.sort : undefined;
  const [from, to] = typeof query.length === 'string' ? query.length.split('-').map(number) : [];
  return {
    text: typeof query.q === 'string' ? query.q : '',
    sort: sort ? { key: sort.replace(/^-/, ''), down: sort.startsWith('-') } : undefined,
    facets,
    length: from !== undefined && to !== undefined ? [from, to] : undefined,
    pullId: number(query.pull),
    intakeId: number(query.intake),
    soundId: number(query.sound),
    fold: query.fold === '1' ? true : undefined,
  };
}

/** The URL's query part for a view; the inverse of {@link viewOf}. */
export function queryOf(view: FindView): Record<string, string | string[]> {
  const query: Record<string, string | string[]> = {};
  if (view.text) query.q = view.text;
  if (view.sort) query.sort = (view.sort.down ? '-' : '') + view.sort.key;
  for (const [key, values] of Object.entries(view.facets)) if (values.length > 0) query[`f.${key}`] = values;
  if (view.length) query.length = view.length.join('-');
  if (view.pullId !== undefined) query.pull = String(view.pullId);
  if (view.intakeId !== undefined) query.intake = String(view.intakeId);
  if (view.soundId !== undefined) query.sound = String(view.soundId);
  if (view.fold) query.fold = '1';
  return query;
}

/** Where a stage is entered: Find and Label list the same sounds, so that walking between them keeps the view. */
export function placeOf(stage: string, view: FindView): { name: string; query: Record<string, string | string[]> } {
  return { name: stage, query: stage === 'find' || stage === 'label' ? queryOf(view) : {} };
}
