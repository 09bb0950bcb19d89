import { computed, ref, watch } from 'vue';
import { useRoute } from 'vue-router';
import { count } from '../shared/controls/format';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { usePulls } from '../stores/pulls';

/** Which sounds are handed over: what the query lists, or one of the pulls. */
export function useSource() {
  const find = useFind();
  const library = useLibrary();
  const pulls = usePulls();
  const route = useRoute();
  find.show();
  watch(
    () => route.query,
    (query) => find.restore(query),
    { immediate: true },
  );
  const option = (value: number, label: string) => ({ value, label, title: label });
  /** 0 for the query, or else the id of a pull. */
  const source = ref(0);
  const sources = computed(() => [
    option(0, `What the query lists (${count(find.answer.ids.length)})`),
    ...library.pulls.map((p) => option(p.id, `${p.name}${p.live ? '' : ` (${count(p.soundIds.length)})`}`)),
  ]);
  const pull = computed(() => library.pulls.find((p) => p.id === source.value));
  const ids = async (): Promise<number[]> =>
    pull.value ? [...(await pulls.idsOf(pull.value))] : Array.from(find.answer.ids);
  return { find, source, sources, pull, ids };
}
