<script setup lang="ts">
import { anchorOf } from '@core/build';
import { fadeGain } from '@core/audio';
import { spanOf, type Cue, type Scene } from '@core/scene';
import { RATE } from '@platform/index';
import { useElementSize } from '@vueuse/core';
import { useTemplateRef, watchEffect } from 'vue';
import { drawPlayed, paperOf } from '../shared/sound/paint';
import { useLibrary } from '../stores/library';
import { usePrefs } from '../stores/prefs';
import LayerPlayhead from './LayerPlayhead.vue';

/** What a layer plays, as it is heard, on the line of all anchors. */
const props = defineProps<{
  build: Scene;
  cue: Cue;
  /** Whether it is meant, or is heard at all. */
  lit: boolean;
  silent: boolean;
  /** Where the line is, as a share of the width; and how wide a second is. */
  plumb: number;
  pixelsPerSecond: number;
}>();
const library = useLibrary();
const prefs = usePrefs();
const canvas = useTemplateRef('canvas');
const box = useTemplateRef('box');
const { width, height } = useElementSize(box);

watchEffect(() => {
  if (!canvas.value || width.value === 0) return;
  const paper = paperOf(canvas.value, width.value, height.value);
  const { cue, build, pixelsPerSecond, plumb } = props;
  const { palette } = prefs;
  const x0 = Math.round(width.value * plumb);
  const xOf = (sample: number) => x0 + ((sample - anchorOf(build)) / RATE) * pixelsPerSecond;
  const span = spanOf(cue, RATE);
  const [left, right] = [xOf(span.start), xOf(span.end)];
  const peaks = library.peaks.get(cue.soundId);
  paper.globalAlpha = props.silent ? 0.4 : 1;
  if (peaks) {
    paper.fillStyle = props.lit ? palette.bone : palette.glass;
    const columns = { from: Math.max(0, left), to: Math.min(width.value, right) };
    const played = { start: cue.start, end: cue.end, direction: cue.shape?.direction };
    drawPlayed(paper, peaks, played, { left, right }, columns, { top: 3, height: height.value - 6 });
  }
  paper.globalAlpha = 1;
  paper.strokeStyle = palette.sky;
  for (const [seconds, edge, sign] of [
    [cue.fadeIn, left, 1],
    [cue.fadeOut, right, -1],
  ] as const) {
    const wide = Math.min(right - left, seconds * pixelsPerSecond);
    if (wide < 2) continue;
    paper.beginPath();
    for (let x = 0; x <= wide; x++) paper.lineTo(edge + sign * x, height.value - 3 - fadeGain(cue.shape?.fade ?? 'straight', x / wide) * (height.value - 6));
    paper.stroke();
  }
  paper.fillStyle = palette.amber;
  paper.fillRect(x0, 0, 1, height.value);
});
</script>

<template>
  <div ref="box" class="contour">
    <canvas ref="canvas" aria-hidden="true" /><LayerPlayhead :build="build" :from="Math.round(width * plumb)" :pixels-per-second="pixelsPerSecond" />
  </div>
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
