<script setup lang="ts">
import type { Peaks } from '@core/audio';
import type { Sound } from '@core/library';
import { useElementSize } from '@vueuse/core';
import { computed, useTemplateRef, watchEffect } from 'vue';
import { useLibrary } from '../../stores/library';
import { usePrefs } from '../../stores/prefs';
import { drawContour, paperOf } from '../sound/paint';

/** The contour of a sound, hung on a line by its anchor. */
const props = defineProps<{
  /** Nothing is drawn of a sound that is not known yet. */
  sound?: Sound;
  /** Whether it is the one that is meant, or sounds. */
  lit?: boolean;
  /** Where the line is, as a share of the width; there is none when absent, and the sound begins at the left. */
  plumb?: number;
  pixelsPerSecond: number;
  /** A part of a reel instead, with the reel's own contour. Frames of the reel. */
  part?: { peaks: Peaks; rate: number; start: number; end: number; anchor: number };
  /** CSS pixels, where whoever shows many of them knows; measured when absent. */
  size?: { width: number; height: number };
}>();

const library = useLibrary();
const prefs = usePrefs();
const canvas = useTemplateRef('canvas');
const box = useTemplateRef('box');
// Measuring makes the page lay itself out, once for each row of a list that scrolls.
const measured = useElementSize(() => (props.size ? undefined : box.value));
const width = computed(() => props.size?.width ?? measured.width.value);
const height = computed(() => props.size?.height ?? measured.height.value);

watchEffect(() => {
  if (!canvas.value || width.value === 0) return;
  const paper = paperOf(canvas.value, width.value, height.value);
  const { sound, lit, plumb = 0 } = props;
  const { bone, glass, amber } = prefs.palette;
  const x0 = Math.round(width.value * plumb);
  const peaks = props.part?.peaks ?? (sound && library.peaks.get(sound.id));
  if (peaks) {
    paper.fillStyle = lit ? bone : glass;
    const { rate, start, end, anchor } = props.part ?? { rate: sound!.format.rate, start: 0, end: peaks.frames, anchor: sound!.marks.anchor };
    const perPixel = rate / props.pixelsPerSecond;
    const hung = props.plumb === undefined ? start : Math.max(start, anchor);
    const columns = { from: Math.max(0, x0 + (start - hung) / perPixel), to: Math.min(width.value, x0 + (end - hung) / perPixel) };
    drawContour(paper, peaks, columns, (x) => hung + (x - x0) * perPixel, { top: 4, height: height.value - 8 });
  }
  if (props.plumb === undefined) return;
  paper.fillStyle = amber;
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
