<script setup lang="ts">
import type { ValueRange } from '@core/scene';
import { Button } from 'ant-design-vue';
import NumberBox from '../shared/controls/NumberBox.vue';
import { useRanges } from '../stores/ranges';

/** What is left to chance, as sentences. */
const ranges = useRanges();
const UNITS: Record<string, string> = { pitch: 'semitones' };
const unitOf = (range: ValueRange) => (range.of === 'layer' && UNITS[range.key]) || ranges.specOf(range)?.unit || '';
const bounds = { least: 'from', most: 'to' } as const;
</script>

<template>
  <section v-if="ranges.all.length > 0" aria-label="Left to chance">
    <h2>Left to chance, with each stroke and each variation</h2>
    <div role="list" aria-label="What is left to chance">
      <div v-for="range in ranges.all" :key="`${range.of} ${range.id} ${range.key}`" class="row" role="listitem">
        <span class="cut" :class="{ gone: !ranges.specOf(range) }" :title="ranges.nameOf(range)">{{ ranges.nameOf(range) }}</span>
        <span class="tools">
          <label v-for="(word, side) in bounds" :key="side"
            >{{ word }}
            <NumberBox
              :value="Number(range[side].toPrecision(4))"
              :min="ranges.specOf(range)?.least ?? -1e6"
              :max="ranges.specOf(range)?.most ?? 1e6"
              :step="range.of === 'layer' ? 0.5 : 1"
              :aria-label="`${ranges.nameOf(range)}, ${word}`"
              class="number"
              @set="(v) => ranges.bound(range, { [side]: v })"
          /></label>
          <span class="mute">{{ unitOf(range) }}</span>
        </span>
        <Button size="small" @click="ranges.remove(range)">Leave it as it is</Button>
      </div>
    </div>
  </section>
</template>

<style scoped>
h2 {
  padding: 16px 20px 6px;
}
.row {
  display: grid;
  grid-template-columns: minmax(200px, 420px) auto auto;
  gap: 12px;
  align-items: center;
  justify-content: start;
  min-height: 40px;
  padding: 0 16px 0 20px;
  border-bottom: 1px solid var(--line);
}
.gone {
  text-decoration: line-through;
}
label {
  display: flex;
  gap: 6px;
  align-items: center;
}
.number {
  width: 84px;
}
</style>
