<script setup lang="ts">
import type { Peaks } from '@core/audio';
import { useElementSize } from '@vueuse/core';
import { computed, useTemplateRef, watchEffect } from 'vue';
import { drawContour, paperOf } from './paint';

const props = defineProps<{
  peaks: Peaks | undefined;
  /** Hz */
  rate: number;
  /** The frame that hangs on the plumb line. */
  anchor: number;
  /** Where the plumb line is, as a share of the width. */
  plumb: number;
  pixelsPerSecond: number;
  colour: string;
  plumbColour: string;
  /** CSS pixels, where whoever shows many of them knows; measured when absent. */
  size?: { width: number; height: number };
}>();

const canvas = useTemplateRef('canvas');
const box = useTemplateRef('box');
// Measuring makes the page lay itself out, once for each row of a list that scrolls.
const measured = useElementSize(() => (props.size ? undefined : box.value));
const width = computed(() => props.size?.width ?? measured.width.value);
const height = computed(() => props.size?.height ?? measured.height.value);

watchEffect(() => {
  if (!canvas.value || width.value === 0) return;
  const paper = paperOf(canvas.value, width.value, height.value);
  const x0 = Math.round(width.value * props.plumb);
  if (props.peaks) {
    paper.fillStyle = props.colour;
    const perPixel = props.rate / props.pixelsPerSecond;
    drawContour(paper, props.peaks, { from: 0, to: width.value }, (x) => props.anchor + (x - x0) * perPixel, {
      top: 4,
      height: height.value - 8,
    });
  }
  paper.fillStyle = props.plumbColour;
  paper.fillRect(x0, 0, 1, height.value);
});
</script>

<template>
  <div ref="box" class="contour"><canvas ref="canvas" aria-hidden="true" /></div>
</template>

<style scoped>
.contour {
  position: relative;
  height: 100%;
  min-width: 0;
  overflow: hidden;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
</style>
