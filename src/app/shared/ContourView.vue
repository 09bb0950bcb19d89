<script setup lang="ts">
import type { Peaks } from '@core/audio';
import { useElementSize } from '@vueuse/core';
import { useTemplateRef, watchEffect } from 'vue';
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
}>();

const canvas = useTemplateRef('canvas');
const box = useTemplateRef('box');
const { width, height } = useElementSize(box);

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
