import { useDebounceFn } from '@vueuse/core';
import { shallowRef, watch } from 'vue';
import type { Search } from '@platform/index';
import { useLibrary } from '../stores/library';
import { catalogue } from '../stores/workers';

/** How much some searches find, by id; counted anew, a little later, whenever anything changes. */
export function useCounts(searches: () => { id: number; search: Search }[]) {
  const library = useLibrary();
  const counts = shallowRef<ReadonlyMap<number, number>>(new Map());
  const countAll = useDebounceFn(async () => {
    const next = new Map<number, number>();
    for (const { id, search } of searches()) next.set(id, (await catalogue.ids(search)).length);
    counts.value = next;
  }, 600);
  watch([searches, () => library.revision], () => void countAll(), { immediate: true });
  return counts;
}
