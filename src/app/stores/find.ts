import type { SearchAnswer } from '@platform/index';
import { useDebounceFn } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, reactive, ref, shallowRef, watch } from 'vue';
import type { LocationQuery } from 'vue-router';
import { useRouter } from 'vue-router';
import { useLibrary } from './library';
import { catalogue } from './workers';

/** What is listed and how; the whole of it stands in the URL. */
export interface FindView {
  text: string;
  sort?: { key: string; down: boolean };
  facets: Record<string, string[]>;
  length?: [number, number];
  pullId?: number;
  intakeId?: number;
  soundId?: number;
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
  return query;
}

/** Where a stage is entered: Find and Label list the same sounds, so that walking between them keeps the view. */
export function placeOf(stage: string, view: FindView): { name: string; query: Record<string, string | string[]> } {
  return { name: stage, query: stage === 'find' || stage === 'label' ? queryOf(view) : {} };
}

const none: SearchAnswer = { ids: new Uint32Array(0), facets: {}, lengths: [], faults: [], total: 0, took: 0 };

/** The list of sounds that Find and Label show: its view, kept in the URL, and the answer to it. */
export const useFind = defineStore('find', () => {
  const library = useLibrary();
  const router = useRouter();
  const view = reactive<FindView>({ text: '', facets: {} });
  const answer = shallowRef<SearchAnswer>(none);
  const answered = ref(false);
  let latest = 0;

  async function search(): Promise<void> {
    if (!library.ready) return;
    const turn = ++latest;
    const { text, sort, facets, length, pullId, intakeId } = JSON.parse(JSON.stringify(view)) as FindView;
    const result = await catalogue.search({ text, sort, facets, length, pullId, intakeId });
    if (turn !== latest) return;
    answer.value = result;
    answered.value = true;
  }

  /** Takes over the view that a URL says. */
  function restore(query: LocationQuery): void {
    const next = viewOf(query);
    if (JSON.stringify(next) === JSON.stringify(viewOf(queryOf(view) as LocationQuery))) return;
    Object.assign(
      view,
      { sort: undefined, length: undefined, pullId: undefined, intakeId: undefined, soundId: undefined },
      next,
    );
  }

  /** Puts the view into the URL: a new place in the history, or in place of the current one while typing or walking. */
  function toUrl(push: boolean): void {
    const { name } = router.currentRoute.value;
    if (name !== 'find' && name !== 'label') return;
    void router[push ? 'push' : 'replace']({ name, query: queryOf(view) });
  }

  const quietly = useDebounceFn(() => toUrl(false), 250);

  /** Changes the view by a decision: back returns to what was before. */
  function go(change: Partial<FindView>): void {
    Object.assign(view, change);
    toUrl(true);
  }

  /** Changes the view in passing: typing, walking the rows. */
  function drift(change: Partial<FindView>): void {
    Object.assign(view, change);
    void quietly();
  }

  function toggleFacet(key: string, value: string): void {
    const chosen = view.facets[key] ?? [];
    const next = chosen.includes(value) ? chosen.filter((v) => v !== value) : [...chosen, value];
    go({ facets: { ...view.facets, [key]: next } });
  }

  /** Sorts by a field: first upward, then downward, then by relevance again. */
  function sortBy(key: string): void {
    const { sort } = view;
    go({ sort: sort?.key !== key ? { key, down: false } : sort.down ? undefined : { key, down: true } });
  }

  watch(
    () => [view.text, view.sort, view.facets, view.length, view.pullId, view.intakeId],
    () => void search(),
    { deep: true },
  );
  const later = useDebounceFn(() => search(), 60, { maxWait: 300 });
  watch(
    () => [library.ready, library.revision],
    () => void later(),
  );

  const index = computed(() => (view.soundId === undefined ? -1 : answer.value.ids.indexOf(view.soundId)));
  const narrowed = computed(
    () => view.text !== '' || view.length !== undefined || Object.values(view.facets).some((v) => v.length > 0),
  );

  return { view, answer, answered, index, narrowed, search, restore, go, drift, toggleFacet, sortBy };
});
