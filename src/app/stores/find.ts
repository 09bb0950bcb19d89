import type { SearchAnswer } from '@platform/index';
import { useDebounceFn } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, reactive, ref, shallowRef, watch } from 'vue';
import type { LocationQuery } from 'vue-router';
import { useRouter } from 'vue-router';
import { useLibrary } from './library';
import { queryOf, viewOf, type FindView } from './view';

export { placeOf, queryOf, viewOf, type FindView } from './view';
import { catalogue } from './workers';

const none: SearchAnswer = {
  ids: new Uint32Array(0),
  takes: new Uint32Array(0),
  facets: {},
  lengths: [],
  faults: [],
  total: 0,
  took: 0,
};

/** The list of sounds that Find and Label show: its view, kept in the URL, and the answer to it. */
export const useFind = defineStore('find', () => {
  const library = useLibrary();
  const router = useRouter();
  const view = reactive<FindView>({ text: '', facets: {} });
  const answer = shallowRef<SearchAnswer>(none);
  const answered = ref(false);
  /** Stems whose takes are shown though the list is folded. */
  const openedStems = ref<string[]>([]);
  let latest = 0;

  async function search(): Promise<void> {
    if (!library.ready) return;
    const turn = ++latest;
    const { text, sort, facets, length, pullId, intakeId, fold } = JSON.parse(JSON.stringify(view)) as FindView;
    const folded = fold ? { opened: [...openedStems.value] } : undefined;
    const result = await catalogue.search({ text, sort, facets, length, pullId, intakeId, fold: folded });
    if (turn !== latest) return;
    answer.value = result;
    answered.value = true;
  }

  /** Takes over the view that a URL says. */
  function restore(query: LocationQuery): void {
    if (ahead) {
      ahead = false;
      return;
    }
    const next = viewOf(query);
    if (JSON.stringify(next) === JSON.stringify(viewOf(queryOf(view) as LocationQuery))) return;
    Object.assign(
      view,
      {
        sort: undefined,
        length: undefined,
        pullId: undefined,
        intakeId: undefined,
        soundId: undefined,
        fold: undefined,
      },
      next,
    );
  }

  // While another stage is being loaded, the current place is still this one; writing it again would call that off.
  let leaving = false;
  /** The view is ahead of the URL: a stage that is reached meanwhile takes it over, not what its URL said when one set out. */
  let changed = false;
  let ahead = false;
  router.beforeEach((to) => {
    leaving = to.name !== router.currentRoute.value.name;
  });
  router.afterEach((to, from) => {
    leaving = false;
    if (!changed || to.name === from.name) return;
    ahead = to.name === 'find' || to.name === 'label';
    toUrl(false);
  });

  /** Puts the view into the URL: a new place in the history, or in place of the current one while typing or walking. */
  function toUrl(push: boolean): void {
    const { name } = router.currentRoute.value;
    if (leaving || (name !== 'find' && name !== 'label')) return;
    changed = false;
    const { params } = router.currentRoute.value;
    void router[push ? 'push' : 'replace']({ name, params, query: queryOf(view) });
  }

  const quietly = useDebounceFn(() => toUrl(false), 250);

  /** Changes the view by a decision: back returns to what was before. */
  function go(change: Partial<FindView>): void {
    Object.assign(view, change);
    changed = true;
    toUrl(true);
  }

  /** Changes the view in passing: typing, walking the rows. */
  function drift(change: Partial<FindView>): void {
    Object.assign(view, change);
    changed = true;
    void quietly();
  }

  function toggleFacet(key: string, value: string): void {
    const chosen = view.facets[key] ?? [];
    const next = chosen.includes(value) ? chosen.filter((v) => v !== value) : [...chosen, value];
    go({ facets: { ...view.facets, [key]: next } });
  }

  /** Shows the takes behind a folded row, or puts them back behind it. */
  function unfold(stem: string, open: boolean): void {
    const others = openedStems.value.filter((s) => s !== stem);
    openedStems.value = open ? [...others, stem] : others;
  }

  /** Sorts by a field: first upward, then downward, then by relevance again. */
  function sortBy(key: string): void {
    const { sort } = view;
    go({ sort: sort?.key !== key ? { key, down: false } : sort.down ? undefined : { key, down: true } });
  }

  watch(
    () => [view.text, view.sort, view.facets, view.length, view.pullId, view.intakeId, view.fold, openedStems.value],
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

  return {
    view,
    answer,
    answered,
    index,
    narrowed,
    search,
    restore,
    go,
    drift,
    toggleFacet,
    sortBy,
    openedStems,
    unfold,
  };
});
