<script setup lang="ts">
import { computed, useTemplateRef, watch } from 'vue';
import { decibels } from '../controls/format';
import { useMix } from '../../stores/mix';
import { usePrefs } from '../../stores/prefs';

/** How loud a line of the mix is, and was at the most in the last three seconds. */
const props = defineProps<{ id: number; name: string }>();
const mix = useMix();
const prefs = usePrefs();
const canvas = useTemplateRef('canvas');
const [LOWEST, SEGMENTS] = [-60, 48];
const WIDTH = 288;

const level = computed(() => mix.levels.get(props.id));
const text = computed(() => decibels(level.value?.top ?? -Infinity));

function paint(): void {
  const paper = canvas.value?.getContext('2d');
  if (!paper) return;
  const { palette } = prefs;
  paper.clearRect(0, 0, WIDTH * 2, 40);
  const top = level.value?.top ?? -Infinity;
  const step = -LOWEST / SEGMENTS;
  for (let c = 0; c < 2; c++)
    for (let i = 0; i < SEGMENTS; i++) {
      const from = LOWEST + i * step;
      const lit = (level.value?.now[c] ?? LOWEST) > from + step / 2;
      const held = top > from && top <= from + step;
      const colour = from >= -1 ? palette.coral : from >= -12 ? palette.amber : palette.glass;
      paper.fillStyle = lit || held ? colour : palette.raft2;
      paper.fillRect(i * 12, c * 20, 8, 14);
    }
}
watch([level, () => prefs.palette, canvas], paint, { flush: 'post' });
</script>

<template>
  <canvas
    ref="canvas"
    :width="WIDTH * 2"
    height="36"
    role="meter"
    :aria-label="`Level of ${name}`"
    aria-valuemin="-60"
    aria-valuemax="0"
    :aria-valuenow="Math.max(-60, Math.min(0, Math.round(level?.top ?? -60)))"
    :aria-valuetext="text"
    :title="`Highest of the last three seconds: ${text}`"
  />
</template>

<style scoped>
canvas {
  width: 100%;
  max-width: 288px;
  height: 18px;
}
</style>
