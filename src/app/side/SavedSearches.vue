<script setup lang="ts">
import { additionOf } from '@core/library';
import type { SavedSearch } from '@core/library';
import { computed } from 'vue';
import { useRouter } from 'vue-router';
import NamedList from './NamedList.vue';
import { useCounts } from './useCounts';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { queryOf, queryOfText, searchOf, textOfQuery, viewOf } from '../stores/view';
import { catalogue } from '../stores/workers';

const find = useFind();
const library = useLibrary();
const router = useRouter();
const counts = useCounts(() =>
  library.searches.map(({ id, view }) => {
    const v = viewOf(queryOfText(view));
    return { id, search: { ...searchOf(v), inside: v.trail.map(searchOf) } };
  }),
);

/** What is kept of a view: not where one was in it. */
const kept = () => textOfQuery(queryOf({ ...find.view, soundId: undefined }));
const items = computed(() => library.searches.map((s) => ({ id: s.id, name: s.name, count: counts.value.get(s.id), here: s.view === kept() })));
const byId = (id: number) => library.searches.find((s) => s.id === id)!;

async function keep(name: string): Promise<void> {
  const [id] = await catalogue.newIds('searches', 1);
  const saved: SavedSearch = { id, name, view: kept(), created: Date.now() };
  await library.edit(`Keep the search ${name}`, [additionOf('searches', saved)]);
}
</script>

<template>
  <NamedList
    title="Searches"
    noun="search"
    make="Keep this search"
    :cannot-make="!find.narrowed"
    :offered="find.view.text.trim()"
    remove-hint="Remove this search into the bin"
    :items="items"
    @make="keep"
    @show="(id) => router.push({ name: 'find', query: queryOfText(byId(id).view) })"
    @remove="(id) => library.discard('searches', byId(id))"
  />
</template>
