<script setup lang="ts">
import { Input, Select } from 'ant-design-vue';
import { computed, watch } from 'vue';
import { useLibrary } from '../stores/library';
import { useSlices } from '../stores/slices';

/** Where files that are made of parts of reels go: a folder of a root. */
const cut = useSlices();
const library = useLibrary();
const roots = computed(() => library.folders.map((r) => ({ value: r.id, label: r.name })));
watch(
  roots,
  (now) => {
    if (now.length > 0 && !now.some((r) => r.value === cut.target.rootId)) cut.target.rootId = now[0].value;
  },
  { immediate: true },
);
</script>

<template>
  <Select v-model:value="cut.target.rootId" size="small" :options="roots" aria-label="Library folder" :dropdown-match-select-width="false" />
  <span class="mute">/</span>
  <Input v-model:value="cut.target.folder" size="small" class="folder" aria-label="Folder below it" />
</template>

<style scoped>
.folder {
  width: 130px;
}
</style>
