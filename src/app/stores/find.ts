import { parseQuery, type BandStart, type Facet, type Histogram, type QueryFault } from '@core/search';
import { promiseTimeout, useDebounceFn } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, onMounted, onUnmounted, reactive, ref, shallowRef, watch } from 'vue';
import type { LocationQuery } from 'vue-router';
import { useRouter } from 'vue-router';
import { bandTitle, whyText } from '../shared/list/bands';
import { useLibrary } from './library';
import { usePrefs } from './prefs';
import {
  inOrderOf,
  listing,
  narrowingIn,
  narrows,
  queryOf,
  searchOf,
  viewOf,
  wide,
  type FindView,
  type Narrowing,
} from './view';

export { placeOf, queryOf, viewOf, type FindView, type Narrowing } from './view';
import { catalogue } from './workers';

/** What the list shows: the first rows come first, the others and what is counted a moment later. */
export interface Answer {
  ids: Uint32Array;
  /** How many results each row stands for. */
  takes: Uint32Array;
  /** Results in all, also while only the first rows are here. */
  count: number;
  facets: Record<string, Facet>;
  histograms: Record<string, Histogram>;
  faults: QueryFault[];
  /** Where rows begin that are listed for another reason than those before. */
  bands: BandStart[];
  total: number;
  took: number;
}

/** Milliseconds between the first rows and what is counted beside them. */
const BREATH = 40;
/** Rows whose likeness is explained: all that are listed then. */
const EXPLAINED = 200;

const none: Answer = {
  ids: new Uint32Array(0),
  takes: new Uint32Array(0),
  count: 0,
  facets: {},
  histograms: {},
  bands: [],
  faults: [],
  total: 0,
  took: 0,
};

/** The list of sounds that Find and Label show: its view, kept in the URL, and the answer to it. */
export const useFind = defineStore('find', () => {
  const library = useLibrary();
  const router = useRouter();
  const prefs = usePrefs();
  const view = reactive<FindView>({ ...wide(), trail: [] });
  const answer = shallowRef<Answer>(none);
  const answered = ref(false);
  /** Whether the answer to what was asked last is still on its way. */
  const busy = ref(false);
  /** Results of each step of the trail, as they were counted last. */
  const trailCounts = ref<number[]>([]);
  /** In what each listed sound differs from the one that it is like, in words. */
  const differences = shallowRef(new Map<number, string>());
  /** Groups whose takes are shown though the list is folded. */
  const openedGroups = ref<string[]>([]);
  let latest = 0;
  /** Counts what was asked, and says whose rows are listed. */
  let question = 0;
  let listed = -1;

  function narrowing(): Narrowing {
    return narrowingIn(view);
  }

  /**
   * Answers the view.
   * @param steady - rows that are still found stay where they stand, whatever an edit did to their rank: nothing jumps while one labels
   */
  async function search(steady = false): Promise<void> {
    if (!library.ready) return;
    const searchId = ++latest;
    const asks = question;
    busy.value = true;
    const steps = view.trail.map(searchOf);
    const asked = {
      ...searchOf(view),
      inside: steps,
      sort: view.sort && { ...view.sort },
      fold: view.fold ? { opened: [...openedGroups.value] } : undefined,
    };
    const first = await catalogue.first(asked);
    if (searchId !== latest || !first) return;
    const { ids, count, bands, faults, total, took } = first;
    const said = { faults, total, took };
    if (!steady) answer.value = { ...answer.value, ...said, ids, count, bands, takes: new Uint32Array(0) };
    answered.value = true;
    listed = asks;
    // The next letter is often on its way already: what is counted waits for it, rows do not.
    await promiseTimeout(BREATH);
    if (searchId !== latest) return;
    const used = [...Object.keys(view.facets), ...Object.keys(view.without)];
    const counted = {
      facetKeys: [...new Set(['library', ...prefs.facetKeys, ...used])],
      histogramKeys: [...new Set([...prefs.histogramKeys, ...Object.keys(view.ranges)])],
    };
    const rest = await catalogue.rest(first.searchId, counted);
    if (searchId !== latest) return;
    busy.value = false;
    if (rest) {
      const rows = steady ? inOrderOf(answer.value.ids, rest) : rest;
      // Where the first rows were all there are, nobody who lists them need begin again.
      const before = answer.value.ids;
      const same = rows.ids.length === before.length && rows.ids.every((id, i) => id === before[i]);
      answer.value = {
        ...answer.value,
        ...said,
        ...rest,
        ...rows,
        ids: same ? before : rows.ids,
        // Rows that stay where they stand may belong elsewhere by now.
        bands: steady && rows.ids.some((id, i) => id !== rest.ids[i]) ? [] : rest.bands,
        count: rest.ids.length,
      };
    }
    await Promise.all([countTrail(steps, searchId), explain(searchId)]);
  }

  /** Says in what the listed sounds differ from the one that they are like. */
  async function explain(searchId: number): Promise<void> {
    const ids = [...answer.value.ids.subarray(0, EXPLAINED)];
    const of = view.nearId ?? view.like?.code;
    const words = of === undefined ? [] : await catalogue.differences(of, ids);
    if (searchId === latest) differences.value = new Map(ids.map((id, i) => [id, words[i]?.join(', ') ?? '']));
  }

  /** Why sounds are among the results, in words, by id; forgotten with every question. */
  const reasons = shallowRef(new Map<number, string>());
  async function askWhy(id: number): Promise<string> {
    const known = reasons.value.get(id);
    if (known !== undefined || view.text.trim() === '') return known ?? '';
    const asks = question;
    const asked = { ...searchOf(view), inside: view.trail.map(searchOf) };
    const text = whyText(await catalogue.why(asked, id));
    if (asks === question) reasons.value = new Map([...reasons.value, [id, text]]);
    return text;
  }

  /** The bands as headings of the list. */
  const headings = computed(() => {
    const { query } = parseQuery(view.text);
    const several = query.kind === 'and' || query.kind === 'or';
    return answer.value.bands.map((band) => ({ at: band.at, count: band.count, text: bandTitle(band, several) }));
  });

  async function countTrail(steps: ReturnType<typeof searchOf>[], searchId: number): Promise<void> {
    const counts: number[] = [];
    for (let i = 0; i < steps.length; i++) {
      counts.push((await catalogue.ids({ ...steps[i], inside: steps.slice(0, i) })).length);
      if (searchId !== latest) return;
    }
    trailCounts.value = counts;
  }

  /** Takes over the view that a URL says. */
  function restore(query: LocationQuery): void {
    if (ahead) {
      ahead = false;
      return;
    }
    const next = viewOf(query);
    if (JSON.stringify(next) !== JSON.stringify(viewOf(queryOf(view) as LocationQuery))) Object.assign(view, next);
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
    ahead = listing(to.name);
    toUrl(false);
  });

  /** Puts the view into the URL: a new place in the history, or in place of the current one while typing or walking. */
  function toUrl(push: boolean): void {
    const { name } = router.currentRoute.value;
    if (leaving || !listing(name)) return;
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

  /** Chooses a value of a field, or no more; `without` leaves out what has it. */
  function toggleFacet(key: string, value: string, without = false): void {
    const [own, other] = without ? (['without', 'facets'] as const) : (['facets', 'without'] as const);
    const chosen = view[own][key] ?? [];
    const next = chosen.includes(value) ? chosen.filter((v) => v !== value) : [...chosen, value];
    const rest = (view[other][key] ?? []).filter((v) => v !== value);
    go({ [own]: { ...view[own], [key]: next }, [other]: { ...view[other], [key]: rest } });
  }

  /** Chooses a span of a number; none when absent. */
  function chooseRange(key: string, range?: [number, number]): void {
    const ranges = { ...view.ranges };
    delete ranges[key];
    go({ ranges: range ? { ...ranges, [key]: range } : ranges });
  }

  /** Takes away all that narrows the list, but not where it begins. */
  function widen(): void {
    go({ ...wide(), trail: [] });
  }

  /** Begins somewhere else: a list, a day, a likeness; nothing that narrowed before narrows that. */
  function begin(change: Partial<FindView>): void {
    const nowhere = { pullId: undefined, intakeId: undefined, sort: undefined, soundId: undefined, trail: [] };
    go({ ...wide(), ...nowhere, ...change });
  }

  /** Keeps the results, and looks inside of them from now on. */
  function narrow(): void {
    const step = narrowing();
    go({ ...wide(), pullId: step.pullId, intakeId: step.intakeId, trail: [...view.trail, step] });
  }

  /** Steps back out to a step of the trail: what was inside of it is given up. */
  function stepOut(to = view.trail.length - 1): void {
    const step = view.trail[to];
    if (step) go({ ...step, trail: view.trail.slice(0, to) });
  }

  /** Shows the takes behind a folded row, or puts them back behind it. */
  function unfold(group: string, open: boolean): void {
    const others = openedGroups.value.filter((g) => g !== group);
    openedGroups.value = open ? [...others, group] : others;
  }

  /** Sorts by a field: first upward, then downward, then by relevance again. */
  function sortBy(key: string): void {
    const { sort } = view;
    go({ sort: sort?.key !== key ? { key, down: false } : sort.down ? undefined : { key, down: true } });
  }

  // By what it says, not by what was read for it: walking along the rows asks nothing new.
  const asking = () =>
    JSON.stringify([
      narrowing(),
      view.sort,
      view.trail,
      view.fold,
      openedGroups.value,
      prefs.facetKeys,
      prefs.histogramKeys,
    ]);
  watch(asking, () => {
    question++;
    reasons.value = new Map();
    void search();
  });
  // Rows of another question have no places to keep, and a list that is put in order by hand has its own. Elsewhere nothing
  // moves under whoever walks along the rows: what is heard or labelled ranks otherwise at the next question.
  const walking = () =>
    (router.currentRoute.value.name === 'label' || view.soundId !== undefined) &&
    listed === question &&
    view.pullId === undefined;
  /** How many views show the list now: while none does, sounds that come in ask for nothing. */
  let views = 0;
  let stale = false;
  const later = useDebounceFn(
    async () => {
      if (views > 0) await search(walking());
      else stale = true;
    },
    60,
    { maxWait: 300 },
  );

  /** Keeps the list up to date for as long as whoever calls this in its setup is shown. */
  function show(): void {
    onMounted(() => {
      views++;
      if (stale) void search(walking());
      stale = false;
    });
    onUnmounted(() => views--);
  }

  watch(
    () => [library.ready, library.revision],
    () => void later(),
  );

  const index = computed(() => (view.soundId === undefined ? -1 : answer.value.ids.indexOf(view.soundId)));
  const narrowed = computed(() => narrows(view) || view.trail.length > 0);

  return {
    view,
    show,
    answer,
    answered,
    index,
    narrowed,
    search,
    restore,
    go,
    drift,
    toggleFacet,
    chooseRange,
    begin,
    widen,
    narrow,
    stepOut,
    busy,
    trailCounts,
    differences,
    reasons,
    askWhy,
    headings,
    sortBy,
    openedGroups,
    unfold,
  };
});
