<script setup lang="ts">
import { DeleteOutlined, PlusOutlined } from '@ant-design/icons-vue';
import type { SavedSearch } from '@core/library';
import { useDebounceFn } from '@vueuse/core';
import { Button, Input, Tooltip } from 'ant-design-vue';
import { nextTick, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import { count } from '../shared/format';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { queryOf, queryOfText, searchOf, textOfQuery, viewOf } from '../stores/view';
import { catalogue } from '../stores/workers';

const find = useFind();
const library = useLibrary();
const router = useRouter();
const naming = ref(false);
const name = ref('');
const field = ref<{ focus: () => void }>();
const counts = ref(new Map<number, number>());

/** What is kept of a view: not where one was in it. */
const kept = () => textOfQuery(queryOf({ ...find.view, soundId: undefined }));
const here = (s: SavedSearch) => s.view === kept();

async function startNaming(): Promise<void> {
  name.value = find.view.text.trim();
  naming.value = true;
  await nextTick();
  field.value?.focus();
}
async function keep(): Promise<void> {
  const text = name.value.trim();
  if (!naming.value) return;
  naming.value = false;
  if (!text) return;
  const [id] = await catalogue.newIds('searches', 1);
  const saved: SavedSearch = { id, name: text, view: kept(), created: Date.now() };
  await library.edit(`Keep the search ${text}`, [{ table: 'searches', id, after: { ...saved } }]);
}
const show = (s: SavedSearch) => void router.push({ name: 'find', query: queryOfText(s.view) });

const countAll = useDebounceFn(async () => {
  const next = new Map<number, number>();
  for (const { id, view } of library.searches) {
    const v = viewOf(queryOfText(view));
    next.set(id, (await catalogue.ids({ ...searchOf(v), inside: v.trail.map(searchOf) })).length);
  }
  counts.value = next;
}, 600);
watch(
  () => [library.searches, library.revision],
  () => void countAll(),
  { immediate: true },
);
</script>

<template>
  <div class="heading">
    <h2>Searches</h2>
    <Tooltip title="Keep this search under a name"
      ><Button type="text" size="small" :disabled="!find.narrowed" aria-label="Keep this search" @click="startNaming"
        ><template #icon><PlusOutlined /></template></Button
    ></Tooltip>
  </div>
  <Input
    v-if="naming"
    ref="field"
    v-model:value="name"
    size="small"
    placeholder="Name of the search"
    aria-label="Name of the search"
    @press-enter="keep"
    @blur="keep"
    @keydown.esc="naming = false"
  />
  <div v-for="s in library.searches" :key="s.id" class="line">
    <button class="line-button" :class="{ here: here(s) }" @click="show(s)">
      <span class="cut" :title="s.name">{{ s.name }}</span>
      <span class="count">{{ counts.has(s.id) ? count(counts.get(s.id)!) : '' }}</span>
    </button>
    <Tooltip title="Delete this search into the bin"
      ><Button class="remove" type="text" size="small" :aria-label="`Delete the search ${s.name}`" @click="library.discard('searches', s)"
        ><template #icon><DeleteOutlined /></template></Button
    ></Tooltip>
  </div>
</template>

<style scoped>
h2 {
  padding: 0 8px;
  margin: 4px 0 6px;
}
.heading {
  display: flex;
  align-items: end;
  justify-content: space-between;
  margin-top: 10px;
}
.line {
  display: flex;
  align-items: center;
}
.here {
  background: var(--raft2);
}
.remove {
  opacity: 0;
}
.line:hover .remove,
.remove:focus-visible {
  opacity: 1;
}
</style>
