<script setup lang="ts">
import type { ReelKind } from '@core/suggest';
import { Checkbox, Segmented } from 'ant-design-vue';
import { useDebounceFn } from '@vueuse/core';
import { watch } from 'vue';
import NumberBox from '../shared/controls/NumberBox.vue';
import { useSlices } from '../stores/slices';

/** How reels are cut, as a sentence; what it says is cut at once. */
const cut = useSlices();
const kinds: { value: ReelKind; label: string }[] = [
  { value: 'percussive', label: 'Percussive' },
  { value: 'mixed', label: 'Mixed' },
  { value: 'sustained', label: 'Sustained' },
];
const recut = useDebounceFn(() => void cut.recut(), 60);
watch(() => cut.settings, recut, { deep: true });
</script>

<template>
  <div class="tools sentence" role="group" aria-label="How reels are cut">
    <Segmented size="small" :value="cut.settings.kind" :options="kinds" aria-label="What the reels are made of" @change="(v) => cut.setKind(v as ReelKind)" />
    <span class="mute">Takes</span>
    <NumberBox
      class="box"
      :value="cut.settings.apart"
      :min="0"
      :max="600"
      :step="0.1"
      unit="s"
      :empty="-1"
      aria-label="Apart"
      placeholder="auto"
      @set="(v) => (cut.settings.apart = v < 0 ? undefined : v)"
    />
    <span class="mute">apart,</span>
    <NumberBox
      class="box"
      :value="cut.settings.shortest"
      :min="0.005"
      :max="60"
      :step="0.01"
      unit="s"
      aria-label="Shortest take"
      @set="(v) => (cut.settings.shortest = v)"
    />
    <span class="mute">long; silence is</span>
    <NumberBox
      class="box"
      :value="cut.settings.quiet"
      :min="10"
      :max="90"
      unit="dB"
      aria-label="Silence below the loudest"
      @set="(v) => (cut.settings.quiet = v)"
    />
    <span class="mute">down; keep</span>
    <NumberBox
      class="box"
      :value="cut.settings.before"
      :min="0"
      :max="5"
      :step="0.01"
      unit="s"
      aria-label="Kept before"
      @set="(v) => (cut.settings.before = v)"
    />
    <span class="mute">before,</span>
    <NumberBox
      class="box"
      :value="cut.settings.after"
      :min="0"
      :max="10"
      :step="0.05"
      unit="s"
      aria-label="Kept after"
      @set="(v) => (cut.settings.after = v)"
    />
    <span class="mute">after,</span>
    <Checkbox v-model:checked="cut.settings.tails">whole tails</Checkbox>
  </div>
</template>

<style scoped>
.sentence {
  flex-wrap: wrap;
  row-gap: 6px;
  padding: 0 16px 8px;
  white-space: nowrap;
}
.box {
  width: 84px;
}
</style>
