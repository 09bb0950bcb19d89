<script setup lang="ts">
import { lengthOf, nameOf } from '@core/library';
import { CaretRightFilled, PauseOutlined } from '@ant-design/icons-vue';
import { Button, Input } from 'ant-design-vue';
import { useEventListener } from '@vueuse/core';
import { computed, nextTick, ref, watch } from 'vue';
import { dragSounds } from '../shared/take/drag';
import { seconds, things } from '../shared/controls/format';
import ContourView from '../shared/list/ContourView.vue';
import { useChoose } from '../shared/list/useChoose';
import { useAudition } from '../stores/audition';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';

/** What stands in the small window: the query, five rows and the contour, all by the keyboard. */
const props = defineProps<{ own: Window }>();

const find = useFind();
find.show();
const library = useLibrary();
const audition = useAudition();
const { chooseAt, walk, hold } = useChoose();

const ROWS = 5;
const CONTOUR = { width: 150, height: 40 };
const PLUMB = 0.25;
const SECONDS = 3;
const field = ref<{ focus: () => void }>();
void nextTick(() => field.value?.focus());

const text = computed({ get: () => find.view.text, set: (value: string) => find.drift({ text: value, soundId: undefined }) });
/** The rows about the current one. */
const first = computed(() => Math.max(0, Math.min(find.index - 2, find.answer.ids.length - ROWS)));
const ids = computed(() => Array.from(find.answer.ids.subarray(first.value, first.value + ROWS)));
watch(
  ids,
  (shown) => {
    void library.need(shown);
    void library.needPeaks(shown);
  },
  { immediate: true },
);
const rows = computed(() => ids.value.map((id, i) => ({ id, index: first.value + i, sound: library.sounds.get(id) })));
const current = computed(() => find.view.soundId);
const place = computed(() => {
  const { sound, frame } = audition;
  return sound && sound.id === current.value ? seconds(frame / sound.format.rate) : '0.00';
});

function play(): void {
  if (find.index < 0) walk(1);
  else audition.toggle();
}

useEventListener(props.own, 'keydown', (event: KeyboardEvent) => {
  const writes = (event.target as Element).tagName === 'INPUT';
  const button = (event.target as Element).closest?.('button');
  const done = (act: () => void) => {
    event.preventDefault();
    act();
  };
  if (event.key === 'ArrowDown') done(() => walk(1));
  else if (event.key === 'ArrowUp') done(() => walk(-1));
  else if (event.key === 'PageDown') done(() => walk(ROWS));
  else if (event.key === 'PageUp') done(() => walk(-ROWS));
  else if (event.key === 'Enter' && event.ctrlKey) done(() => current.value !== undefined && hold([current.value]));
  else if (event.key === 'Enter' && !button) done(play);
  else if (event.key === ' ' && !writes && !button) done(play);
  else if (event.key === '/' && !writes) done(() => field.value?.focus());
  else if (event.key === 'Escape') done(() => (text.value && writes ? (text.value = '') : props.own.close()));
});

function drag(event: DragEvent, id: number): void {
  const { carried } = audition;
  dragSounds(event, [id], carried?.id === id ? carried : undefined);
}
</script>

<template>
  <div class="small">
    <div class="line">
      <Button shape="circle" type="primary" :aria-label="audition.playing ? 'Stop' : 'Play'" :disabled="ids.length === 0" @click="play">
        <template #icon><PauseOutlined v-if="audition.playing" /><CaretRightFilled v-else /></template>
      </Button>
      <Input ref="field" v-model:value="text" aria-label="Query" placeholder="Find sounds" autocomplete="off" />
      <span class="mono mute">{{ place }} s</span>
    </div>
    <div role="listbox" aria-label="Sounds" tabindex="0" class="rows" :aria-activedescendant="current !== undefined ? `small-${current}` : undefined">
      <div
        v-for="row in rows"
        :id="`small-${row.id}`"
        :key="row.id"
        role="option"
        class="row"
        :class="{ current: row.id === current }"
        :aria-selected="row.id === current"
        draggable="true"
        @click="chooseAt(row.index, true)"
        @dragstart="drag($event, row.id)"
      >
        <span class="cut" :title="row.sound && nameOf(row.sound)">{{ row.sound && nameOf(row.sound) }}</span>
        <ContourView :sound="row.sound" :lit="row.id === current" :plumb="PLUMB" :pixels-per-second="CONTOUR.width / SECONDS" :size="CONTOUR" />
        <span class="mono mute end">{{ row.sound && seconds(lengthOf(row.sound)) }}</span>
      </div>
      <p v-if="rows.length === 0" class="mute none">Nothing matches</p>
    </div>
    <div class="line foot mute">
      <span role="status">{{ things(find.answer.count, 'sound') }}</span>
      <span class="keys">↑ ↓ walk · Enter play · Ctrl Enter hold · Esc close</span>
    </div>
  </div>
</template>

<style scoped>
.small {
  display: flex;
  flex-direction: column;
  height: 100vh;
  background: var(--bed);
}
.line {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 8px 10px;
  white-space: nowrap;
}
.rows {
  flex: 1;
  min-height: 0;
  overflow: hidden;
  border-top: 1px solid var(--line);
}
.row {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 150px 52px;
  align-items: center;
  gap: 8px;
  height: 40px;
  padding: 0 10px;
  border-bottom: 1px solid var(--line);
  cursor: default;
}
.current {
  background: var(--raft);
  color: var(--bone);
  box-shadow: inset 3px 0 var(--amber);
}
.end {
  text-align: right;
  font-size: 13px;
}
.none {
  padding: 0 10px;
}
.foot {
  border-top: 1px solid var(--line);
  font-size: 12px;
}
.keys {
  margin-left: auto;
}
</style>
