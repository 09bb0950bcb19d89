<script setup lang="ts">
import { useRafFn } from '@vueuse/core';
import { computed, ref, useTemplateRef, watch } from 'vue';
import { useOutput } from '../../stores/output';
import { usePrefs } from '../../stores/prefs';
import { decibels } from '../controls/format';

const output = useOutput();
const prefs = usePrefs();
const canvas = useTemplateRef('canvas');
const LOWEST = -60;
const SEGMENTS = 34;
/** The bars fall by this many dB a second, so that a short hit can be read. */
const FALL = 24;

const shown = [LOWEST, LOWEST];
const held = ref(-Infinity);
let heldAt = 0;

const { pause, resume } = useRafFn(({ delta, timestamp }) => {
  const target = canvas.value;
  const paper = target?.getContext('2d');
  if (!target || !paper) return;
  const fall = (delta / 1000) * FALL;
  output.levels.forEach((level, c) => (shown[c] = Math.max(level, shown[c] - fall, LOWEST)));
  const now = Math.max(...output.levels);
  if (now > held.value || timestamp - heldAt > 1500) {
    held.value = now;
    heldAt = timestamp;
  }
  paper.clearRect(0, 0, target.width, target.height);
  for (let c = 0; c < 2; c++) {
    for (let i = 0; i < SEGMENTS; i++) {
      const level = LOWEST + ((i + 1) / SEGMENTS) * -LOWEST;
      const lit = shown[c] >= level - -LOWEST / SEGMENTS / 2;
      const colour = level > -1 ? prefs.palette.coral : level > -12 ? prefs.palette.amber : prefs.palette.glass;
      paper.fillStyle = lit ? colour : prefs.palette.raft2;
      paper.fillRect(i * 10, c * 16, 7, 12);
    }
  }
  // In silence it stands still, and costs nothing.
  if (held.value === -Infinity && shown.every((level) => level <= LOWEST)) pause();
});
watch([() => output.levels, () => prefs.palette], resume);

const text = computed(() => decibels(held.value));
</script>

<template>
  <div
    class="meter"
    role="meter"
    aria-label="Output level"
    :aria-valuenow="Math.max(-60, Math.round(held))"
    aria-valuemin="-60"
    aria-valuemax="0"
    :aria-valuetext="text"
  >
    <canvas ref="canvas" width="340" height="28" />
    <span class="mono">{{ text }}</span>
  </div>
</template>

<style scoped>
.meter {
  display: flex;
  align-items: center;
  gap: 16px;
}
canvas {
  width: 170px;
  height: 14px;
}
span {
  width: 66px;
  font-size: 12.5px;
  text-align: right;
  color: var(--mute);
}
</style>
