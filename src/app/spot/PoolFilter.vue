<script setup lang="ts">
import { Button, Checkbox, Slider } from 'ant-design-vue';
import { computed } from 'vue';
import PopPanel from '../shared/controls/PopPanel.vue';
import { useTrials } from '../stores/trials';

/** What may stand in, by how hard it hits and how long it lasts. */
const trials = useTrials();
const LONGEST = 30;

const force = computed(() => trials.filter.force);
const length = computed(() => trials.filter.length);
const narrowed = computed(() => Number(force.value !== undefined) + Number(length.value !== undefined));

function setForce(range: [number, number] | undefined): void {
  trials.filter = { ...trials.filter, force: range && { least: range[0], most: range[1] } };
}
/** At its right end, longer ones are in as well. */
function setLength(range: [number, number] | undefined): void {
  trials.filter = { ...trials.filter, length: range && { least: range[0], most: range[1] >= LONGEST ? Infinity : range[1] } };
}
</script>

<template>
  <PopPanel placement="top">
    <template #panel>
      <div class="filter">
        <Checkbox :checked="force !== undefined" @change="setForce(force ? undefined : [0, 100])">Force</Checkbox>
        <Slider
          range
          :disabled="!force"
          :value="[force?.least ?? 0, force?.most ?? 100]"
          :min="0"
          :max="100"
          :marks="{ 0: 'soft', 100: 'hard' }"
          :aria-label-group-for-handles="['Least force', 'Most force']"
          @change="(v) => setForce(v as [number, number])"
        />
        <Checkbox :checked="length !== undefined" @change="setLength(length ? undefined : [0, LONGEST])">Length</Checkbox>
        <Slider
          range
          :disabled="!length"
          :value="[length?.least ?? 0, Math.min(LONGEST, length?.most ?? LONGEST)]"
          :min="0"
          :max="LONGEST"
          :step="0.1"
          :marks="{ 0: '0 s', [LONGEST]: 'any' }"
          :aria-label-group-for-handles="['Least seconds', 'Most seconds']"
          @change="(v) => setLength(v as [number, number])"
        />
      </div>
    </template>
    <Button size="small">{{ narrowed > 0 ? `Filter: ${narrowed}` : 'Filter …' }}</Button>
  </PopPanel>
</template>

<style scoped>
.filter {
  display: grid;
  grid-template-columns: auto 220px;
  gap: 14px 18px;
  align-items: center;
}
</style>
