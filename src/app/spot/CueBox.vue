<script setup lang="ts">
import type { Cue } from '@core/scene';
import { spanOf } from '@core/scene';
import { RATE } from '@platform/index';
import { computed, useTemplateRef, watchEffect } from 'vue';
import { drawContour, paperOf } from '../shared/sound/paint';
import { useLibrary } from '../stores/library';
import { usePrefs } from '../stores/prefs';

const props = defineProps<{
  cue: Cue;
  from: number;
  pixelsPerSample: number;
  height: number;
  selected: boolean;
  label: string;
}>();
const emit = defineEmits<{ select: []; moved: [samples: number] }>();
const library = useLibrary();
const prefs = usePrefs();
const canvas = useTemplateRef('canvas');

/** Why its sound cannot be heard now. */
const absence = computed(() => {
  const sound = library.sounds.get(props.cue.soundId);
  return sound && library.absence(sound);
});

const span = computed(() => spanOf(props.cue, RATE));
const left = computed(() => (span.value.start - props.from) * props.pixelsPerSample);
const width = computed(() => Math.max(6, (span.value.end - span.value.start) * props.pixelsPerSample));
const anchorX = computed(() => (props.cue.at - span.value.start) * props.pixelsPerSample);

watchEffect(() => {
  if (!canvas.value) return;
  const paper = paperOf(canvas.value, Math.min(4000, width.value), props.height);
  const peaks = library.peaks.get(props.cue.soundId);
  if (peaks) {
    paper.fillStyle = props.selected ? prefs.palette.bone : prefs.palette.glass;
    paper.globalAlpha = props.cue.mute ? 0.3 : 0.9;
    const per = (props.cue.end - props.cue.start) / width.value;
    drawContour(paper, peaks, { from: 0, to: Math.min(4000, width.value) }, (x) => props.cue.start + x * per, {
      top: 3,
      height: props.height - 6,
    });
  }
  paper.globalAlpha = 1;
  paper.fillStyle = prefs.palette.amber;
  const x = Math.round(anchorX.value);
  paper.fillRect(x, 0, 1, props.height);
  paper.beginPath();
  paper.moveTo(x - 4, 0);
  paper.lineTo(x + 5, 0);
  paper.lineTo(x + 0.5, 6);
  paper.fill();
});

let downX = 0;
let held = false;
function down(event: PointerEvent): void {
  if (event.button !== 0) return;
  emit('select');
  downX = event.clientX;
  held = true;
  (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
}
function up(event: PointerEvent): void {
  if (!held) return;
  held = false;
  const by = event.clientX - downX;
  if (Math.abs(by) > 3) emit('moved', by / props.pixelsPerSample);
}
</script>

<template>
  <button
    class="cue"
    :class="{ selected, muted: cue.mute, absent: absence }"
    :aria-pressed="selected"
    :aria-label="absence ? `${label}, ${absence.toLowerCase()}` : label"
    :title="absence ? `${cue.name}: its file is ${absence.toLowerCase()}` : cue.name"
    :style="{ left: `${left}px`, width: `${width}px`, height: `${height}px` }"
    @pointerdown="down"
    @pointerup="up"
    @keydown.enter.stop.prevent="emit('select')"
  >
    <canvas ref="canvas" aria-hidden="true" :style="{ width: `${Math.min(4000, width)}px`, height: `${height}px` }" />
    <span v-if="width > 70" class="cut"
      ><template v-if="absence">{{ absence }}: </template>{{ cue.name }}</span
    >
  </button>
</template>

<style scoped>
.cue {
  position: absolute;
  top: 3px;
  padding: 0;
  overflow: hidden;
  border: 1px solid var(--line);
  border-radius: 5px;
  background: color-mix(in srgb, var(--glassDeep) 55%, transparent);
  text-align: left;
  cursor: grab;
  touch-action: none;
}
.absent {
  border: 1px dashed var(--coral);
  background: transparent;
}
.selected {
  border-color: var(--amber);
  background: color-mix(in srgb, var(--amberDeep) 70%, transparent);
  z-index: 2;
}
.muted {
  opacity: 0.6;
  border-style: dashed;
}
canvas {
  position: absolute;
  top: -1px;
  left: -1px;
}
span {
  position: absolute;
  left: 5px;
  right: 4px;
  bottom: 0;
  font-size: 12px;
  line-height: 15px;
  text-shadow:
    0 0 4px var(--deep),
    0 0 4px var(--deep);
}
</style>
