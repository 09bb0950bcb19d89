<script setup lang="ts">
import { saidOfRoll } from '@core/build';
import type { Roll } from '@core/synth';
import { Checkbox } from 'ant-design-vue';
import { computed } from 'vue';
import ContourView from '../shared/list/ContourView.vue';
import { useMaking } from '../stores/making';

/** One roll: what it is called by what is heard of it, and its contour on the line of all anchors. */
const props = defineProps<{ roll: Roll; index: number; plumb: number; pixelsPerSecond: number }>();
const making = useMaking();
const made = computed(() => making.madeAs(props.roll));
const isChosen = computed(() => making.index === props.index);
const isMarked = computed(() => making.marked.has(props.index));
const isTurned = computed(() => making.list?.turned.has(props.index));
const name = computed(() => made.value?.name ?? making.patch.name);
</script>

<template>
  <div class="roll" role="listitem" :aria-current="isChosen" :class="{ chosen: isChosen }" :aria-label="`${index + 1}, ${name}`" @click="making.choose(index)">
    <Checkbox :checked="isMarked" :aria-label="`Mark ${index + 1}`" @click.stop @change="making.mark(index)" />
    <span class="mono mute end">{{ index + 1 }}</span>
    <span class="two">
      <button class="cut name">{{ name }}<span v-if="isTurned" class="mute small"> turned by hand</span></button>
      <span class="cut mute small" :title="saidOfRoll(roll, 12)">{{ saidOfRoll(roll, 2) }}</span>
    </span>
    <span class="line">
      <ContourView v-if="made" :sound="made.sound" :lit="isChosen" :plumb="plumb" :pixels-per-second="pixelsPerSecond" />
      <span v-else class="mute small waits">is being made …</span>
    </span>
    <span class="mono end">{{ roll.values.length.toFixed(2) }} s</span>
  </div>
</template>

<style scoped>
.roll {
  display: grid;
  grid-template-columns: 16px 22px minmax(150px, 1fr) minmax(200px, 1.5fr) 62px;
  gap: 10px;
  align-items: center;
  height: 42px;
  padding: 0 16px;
  border-bottom: 1px solid var(--line);
  cursor: default;
}
.chosen {
  background: var(--raft);
  box-shadow: inset 3px 0 0 var(--sky);
}
.name {
  padding: 0;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  font-weight: 600;
  text-align: left;
}
.end {
  text-align: right;
  font-size: 12px;
}
.line {
  height: 40px;
  min-width: 0;
}
.waits {
  display: grid;
  height: 100%;
  place-content: center;
}
</style>
