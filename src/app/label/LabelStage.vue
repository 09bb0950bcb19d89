<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { useRoute } from 'vue-router';
import QueryLine from '../find/QueryLine.vue';
import AuditionBar from '../shared/AuditionBar.vue';
import { useCommands } from '../shared/commands';
import { things } from '../shared/format';
import SideColumn from '../shared/SideColumn.vue';
import SoundList from '../shared/SoundList.vue';
import { useWalk } from '../shared/useWalk';
import { useFind } from '../stores/find';
import { usePrefs } from '../stores/prefs';
import LabelPanel from './LabelPanel.vue';

const route = useRoute();
const find = useFind();
const prefs = usePrefs();
const selected = ref<Set<number>>(new Set());
const { chooseAt } = useWalk(() => [...selected.value]);

watch(
  () => route.query,
  (query) => find.restore(query),
  { immediate: true },
);

/** Click selects one, Ctrl adds or takes away, Shift extends from the current row. */
function choose(id: number, event: MouseEvent): void {
  const { ids } = find.answer;
  const at = ids.indexOf(id);
  if (event.shiftKey && find.index >= 0) extendTo(at);
  else if (event.ctrlKey || event.metaKey) {
    const next = new Set(selected.value);
    if (!next.delete(id)) next.add(id);
    selected.value = next;
    void chooseAt(at, false);
  } else {
    origin = at;
    selected.value = new Set([id]);
    void chooseAt(at, prefs.playOnMove);
  }
}

let origin = -1;
/** Selects from where the selection began to a row. */
function extendTo(at: number): void {
  const { ids } = find.answer;
  const to = Math.max(0, Math.min(ids.length - 1, at));
  if (origin < 0) origin = Math.max(0, find.index);
  selected.value = new Set(ids.slice(Math.min(origin, to), Math.max(origin, to) + 1));
  extending = true;
  void chooseAt(to, false).finally(() => (extending = false));
}

let extending = false;
// Walking without Shift or Ctrl leaves one row selected: the current one.
watch(
  () => find.view.soundId,
  (id) => {
    if (extending || (id !== undefined && selected.value.has(id))) return;
    origin = find.index;
    selected.value = new Set(id === undefined ? [] : [id]);
  },
  { immediate: true },
);

useCommands([
  { label: 'Select all', keys: ['Ctrl+a'], run: () => (selected.value = new Set(find.answer.ids)) },
  { label: 'Extend the selection down', keys: ['Shift+ArrowDown'], run: () => extendTo(find.index + 1) },
  { label: 'Extend the selection up', keys: ['Shift+ArrowUp'], run: () => extendTo(find.index - 1) },
  {
    label: 'Select only the current row',
    keys: ['Escape'],
    run: () => (selected.value = new Set(find.view.soundId === undefined ? [] : [find.view.soundId])),
  },
]);
const ids = computed(() => [...selected.value]);
</script>

<template>
  <div class="stage">
    <div class="columns" :style="{ gridTemplateColumns: prefs.side ? '196px minmax(0, 1fr) 320px' : 'minmax(0, 1fr) 320px' }">
      <SideColumn v-if="prefs.side" />
      <section class="work" aria-label="Sounds">
        <QueryLine />
        <SoundList
          :ids="find.answer.ids"
          :current-id="find.view.soundId"
          :selected="selected"
          :sort="find.view.sort"
          label="Sounds to label"
          @choose="choose"
          @sort="find.sortBy"
        />
      </section>
      <LabelPanel :ids="ids" />
    </div>
    <AuditionBar
      ><span class="mute">{{ things(selected.size, 'sound') }} selected</span></AuditionBar
    >
  </div>
</template>
