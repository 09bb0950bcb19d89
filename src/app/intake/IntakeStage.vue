<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { RouterLink, useRoute } from 'vue-router';
import { count } from '../shared/format';
import { useLibrary } from '../stores/library';
import { catalogue } from '../stores/workers';
import DuplicateList from './DuplicateList.vue';
import MissingList from './MissingList.vue';
import ProblemList from './ProblemList.vue';
import RootList from './RootList.vue';

const route = useRoute();
const library = useLibrary();
const missing = ref(0);
watch(
  () => library.revision,
  async () => (missing.value = (await catalogue.search({ text: 'state:missing' })).ids.length),
  { immediate: true },
);

const part = computed(() => String(route.params.part || ''));
const parts = computed(() => [
  { path: '', label: 'Folders', count: library.roots.length },
  { path: 'problems', label: 'Problems', count: library.problems.length, warn: true },
  { path: 'missing', label: 'Missing files', count: missing.value, warn: true },
  { path: 'duplicates', label: 'Duplicates', count: undefined },
]);
const views: Record<string, unknown> = { problems: ProblemList, missing: MissingList, duplicates: DuplicateList };
</script>

<template>
  <div class="intake">
    <nav aria-label="Parts of intake">
      <RouterLink v-for="p in parts" :key="p.path" :to="{ name: 'intake', params: { part: p.path } }" :aria-current="part === p.path ? 'page' : undefined">
        {{ p.label }}
        <span v-if="p.count !== undefined" class="mono" :class="{ warn: p.warn && p.count > 0 }">{{ count(p.count) }}</span>
      </RouterLink>
    </nav>
    <div class="part"><component :is="views[part] ?? RootList" /></div>
  </div>
</template>

<style scoped>
.intake {
  display: grid;
  grid-template-rows: 40px minmax(0, 1fr);
  height: 100%;
}
.part {
  min-height: 0;
}
nav {
  display: flex;
  gap: 22px;
  padding: 0 max(24px, calc((100% - 1040px) / 2));
  border-bottom: 1px solid var(--line);
}
a {
  display: flex;
  align-items: center;
  gap: 7px;
  border-bottom: 2px solid transparent;
  color: var(--mute);
  text-decoration: none;
}
a:hover {
  color: var(--text);
}
a[aria-current] {
  border-color: var(--glass);
  color: var(--bone);
  font-weight: 600;
}
.mono {
  font-size: 12px;
  font-weight: 400;
  color: var(--mute);
}
.warn {
  color: var(--coral);
}
</style>
