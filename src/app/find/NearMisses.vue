<script setup lang="ts">
import { parseQuery, withoutClause } from '@core/search';
import { Button } from 'ant-design-vue';
import { computed, shallowRef, watch } from 'vue';
import { count } from '../shared/controls/format';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { searchOf, wide, type FindView } from '../stores/view';
import { catalogue } from '../stores/workers';

/** Where nothing matches: what would be found if one thing that is asked for were given up. */
interface Way {
  label: string;
  change: Partial<FindView>;
  count: number;
}

const find = useFind();
const library = useLibrary();
/** Clauses that are tried; more are rarely typed, and each is a search. */
const MOST = 8;

const ways = computed<Omit<Way, 'count'>[]>(() => {
  const { text, facets, without, ranges } = find.view;
  const { clauses, faults } = parseQuery(`${text} `);
  const chosen = [facets, without, ranges].some((each) => Object.keys(each).length > 0);
  const made: Omit<Way, 'count'>[] = [];
  if (faults.length === 0 && clauses.length > 1)
    for (const clause of clauses.slice(0, MOST)) {
      const given = text.slice(clause.at, clause.at + clause.length);
      made.push({ label: `Without “${given}”`, change: { text: withoutClause(text, clause) } });
    }
  const { facets: none, without: left, ranges: spans } = wide();
  if (chosen) made.push({ label: 'Without what is chosen in the facets', change: { facets: none, without: left, ranges: spans } });
  if (find.view.trail.length > 0) made.push({ label: 'In the whole library', change: { trail: [] } });
  return made;
});
const open = shallowRef<Way[]>([]);
let newest = 0;
watch(
  [ways, () => library.revision],
  async () => {
    const own = ++newest;
    const found: Way[] = [];
    for (const way of ways.value) {
      const view = { ...find.view, ...way.change };
      const search = { ...searchOf(view), reach: 'meant' as const, inside: view.trail.map(searchOf) };
      found.push({ ...way, count: (await catalogue.ids(search)).length });
      if (own !== newest) return;
    }
    open.value = found.filter((w) => w.count > 0);
  },
  { immediate: true },
);
</script>

<template>
  <div v-if="open.length > 0" class="ways" role="group" aria-label="What would be found">
    <Button v-for="way in open" :key="way.label" size="small" @click="find.go(way.change)"
      >{{ way.label }} <span class="mono mute number">{{ count(way.count) }}</span></Button
    >
  </div>
</template>

<style scoped>
.ways {
  display: flex;
  flex-wrap: wrap;
  justify-content: center;
  gap: 8px;
  max-width: 640px;
}
.number {
  margin-left: 6px;
}
</style>
