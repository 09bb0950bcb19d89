<script setup lang="ts">
import { Segmented } from 'ant-design-vue';
import { computed } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { useCommands } from '../shared/controls/commands';
import { useCommons } from '../stores/commons';
import { queryOf, useFind } from '../stores/find';

/** Looks in the library, or with the same query among open sounds that others share. */
const route = useRoute();
const router = useRouter();
const commons = useCommons();
const find = useFind();
const parts = computed(() => [
  { value: '', label: 'Library', title: 'Sounds of your library' },
  { value: 'commons', label: 'Commons', title: `Open sounds of ${commons.name}` },
]);
// The view, and not what the URL says: it may be a letter behind.
const go = (part: string) => router.push({ name: 'find', params: { part }, query: queryOf(find.view) });
useCommands('Finding', [
  {
    label: 'Look in the commons, or in the library',
    keys: ['Shift+f'],
    run: () => void go(route.params.part === 'commons' ? '' : 'commons'),
    enabled: () => commons.name !== '',
  },
]);
</script>

<template>
  <Segmented
    v-if="commons.name"
    size="small"
    class="where"
    :value="String(route.params.part ?? '')"
    :options="parts"
    aria-label="Where to look"
    @change="(part) => go(String(part))"
  />
</template>

<style scoped>
.where {
  flex: none;
  align-self: center;
}
</style>
