<script setup lang="ts">
import { MenuFoldOutlined, MenuUnfoldOutlined } from '@ant-design/icons-vue';
import { useMediaQuery } from '@vueuse/core';
import { Button, Tooltip } from 'ant-design-vue';
import { computed, ref, watch } from 'vue';
import QueryLine from '../find/QueryLine.vue';
import AuditionBar from '../shared/listen/AuditionBar.vue';
import { useCommands, withKey } from '../shared/controls/commands';
import { things } from '../shared/controls/format';
import SideColumn from '../side/SideColumn.vue';
import { useWalk } from '../shared/list/useWalk';
import { useFind } from '../stores/find';
import { useLabels } from '../stores/labels';
import { usePrefs } from '../stores/prefs';
import ColumnChooser from './ColumnChooser.vue';
import LabelPanel from './LabelPanel.vue';
import LabelTable from './LabelTable.vue';

const find = useFind();
const prefs = usePrefs();
const labels = useLabels();
const { chooseAt, playThrough } = useWalk(() => [...labels.selected]);

/** Beside table and panel there is room for the lists on a wide screen alone; elsewhere they stand there when asked for. */
const wide = useMediaQuery('(min-width: 1500px)');
const unfolded = ref(false);
const side = computed(() => (wide.value ? prefs.side : unfolded.value));
const foldLists = 'Fold or unfold the lists';
function toggleSide(): void {
  if (wide.value) prefs.side = !prefs.side;
  else unfolded.value = !unfolded.value;
}

let origin = -1;
let extending = false;

/** Click selects one, Ctrl adds or takes away, Shift extends from where the selection began. */
function choose(id: number, event: MouseEvent): void {
  const { ids } = find.answer;
  const at = ids.indexOf(id);
  if (event.shiftKey && find.index >= 0) return extendTo(at);
  if (event.ctrlKey || event.metaKey) {
    const next = new Set(labels.selected);
    if (!next.delete(id)) next.add(id);
    labels.selected = next;
    extending = true;
    void chooseAt(at, false).finally(() => (extending = false));
    return;
  }
  origin = at;
  labels.selected = new Set([id]);
  void chooseAt(at, prefs.playOnMove);
}

/** Selects from where the selection began to a row. */
function extendTo(at: number): void {
  const { ids } = find.answer;
  const to = Math.max(0, Math.min(ids.length - 1, at));
  if (origin < 0) origin = Math.max(0, find.index);
  labels.selected = new Set(ids.slice(Math.min(origin, to), Math.max(origin, to) + 1));
  extending = true;
  void chooseAt(to, false).finally(() => (extending = false));
}

// Walking without Shift or Ctrl leaves one row selected: the current one.
watch(
  () => find.view.soundId,
  (id) => {
    if (extending || (id !== undefined && labels.selected.has(id))) return;
    origin = find.index;
    labels.selected = new Set(id === undefined ? [] : [id]);
  },
  { immediate: true },
);

useCommands('Labelling', [
  { label: foldLists, keys: ['Shift+s'], run: toggleSide, purpose: 'The view' },
  { label: 'Select all', keys: ['Ctrl+a'], run: () => (labels.selected = new Set(find.answer.ids)) },
  { label: 'Extend the selection down', keys: ['Shift+ArrowDown'], run: () => extendTo(find.index + 1) },
  { label: 'Extend the selection up', keys: ['Shift+ArrowUp'], run: () => extendTo(find.index - 1) },
  {
    label: 'Select only the current row',
    keys: ['Escape'],
    run: () => (labels.selected = new Set(find.view.soundId === undefined ? [] : [find.view.soundId])),
  },
]);
</script>

<template>
  <div class="stage">
    <div class="columns" :style="{ gridTemplateColumns: side ? '180px minmax(0, 1fr) 300px' : 'minmax(0, 1fr) 300px' }">
      <SideColumn v-if="side" />
      <section class="work" aria-label="Sounds">
        <QueryLine>
          <ColumnChooser />
          <Tooltip :title="withKey('The lists beside the table', foldLists)">
            <Button size="large" :aria-label="foldLists" :aria-expanded="side" @click="toggleSide">
              <template #icon><MenuFoldOutlined v-if="side" /><MenuUnfoldOutlined v-else /></template>
            </Button>
          </Tooltip>
        </QueryLine>
        <LabelTable @choose="choose" />
      </section>
      <LabelPanel :ids="[...labels.selected]" />
    </div>
    <AuditionBar :through="playThrough"
      ><span class="mute">{{ things(labels.selected.size, 'sound') }} selected</span></AuditionBar
    >
  </div>
</template>
