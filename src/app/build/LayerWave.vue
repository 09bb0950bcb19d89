<script setup lang="ts">
import { withPart } from '@core/build';
import type { Sound } from '@core/library';
import type { Cue } from '@core/scene';
import { useElementSize } from '@vueuse/core';
import { computed, ref, useTemplateRef, watchEffect } from 'vue';
import NumberBox from '../shared/controls/NumberBox.vue';
import { drawContour, drawWave, paperOf } from '../shared/sound/paint';
import { useWaveView } from '../shared/sound/useWaveView';
import { useLibrary } from '../stores/library';
import { usePrefs } from '../stores/prefs';
import { useScene } from '../stores/scene';

/** All of a layer's sound, with the part that is played and the frame that lies on the line: both are dragged, or typed below. */
const props = defineProps<{ sound: Sound; cue: Cue }>();
const library = useLibrary();
const prefs = usePrefs();
const scene = useScene();
const canvas = useTemplateRef('canvas');
const box = useTemplateRef('box');
const { width, height } = useElementSize(box);
const view = useWaveView(
  () => props.sound,
  width,
  () => false,
);
const frames = computed(() => props.sound.format.frames);
const rate = computed(() => props.sound.format.rate);
const inSeconds = (frame: number) => Math.round((frame / rate.value) * 1000) / 1000;

watchEffect(() => {
  if (!canvas.value || width.value === 0) return;
  const paper = paperOf(canvas.value, width.value, height.value);
  const { palette } = prefs;
  const { start, end, anchor } = props.cue;
  const { xOf, wave } = view;
  const at = { top: 4, height: height.value - 8 };
  const draw = (colour: string, inner: string) => {
    if (wave.value && wave.value.to === frames.value) return drawWave(paper, wave.value, xOf, at, { colour, inner, split: false, clipped: palette.coral });
    const peaks = library.peaks.get(props.sound.id);
    if (!peaks) return;
    paper.fillStyle = colour;
    drawContour(paper, peaks, { from: 0, to: width.value }, (x) => (x / width.value) * frames.value, at);
  };
  paper.globalAlpha = 0.35;
  draw(palette.glass, palette.glass);
  paper.globalAlpha = 1;
  paper.save();
  paper.beginPath();
  paper.rect(xOf(start), 0, xOf(end) - xOf(start), height.value);
  paper.clip();
  paper.clearRect(0, 0, width.value, height.value);
  draw(palette.glass, palette.bone);
  paper.restore();
  paper.fillStyle = palette.sky;
  for (const frame of [start, end]) paper.fillRect(Math.min(width.value - 1, Math.round(xOf(frame))), 0, 1, height.value);
  paper.fillStyle = palette.amber;
  const x = Math.round(xOf(anchor));
  paper.fillRect(x, 0, 1, height.value);
  paper.fillRect(x, 0, 9, 9);
});

type Handle = 'start' | 'end' | 'anchor';
/** Pixels within which a hand meets a line. */
const NEAR = 8;
const held = ref<Handle>();
const xIn = (event: PointerEvent) => event.clientX - box.value!.getBoundingClientRect().left;
function nearest(event: PointerEvent): Handle | undefined {
  const x = xIn(event);
  const { start, end, anchor } = props.cue;
  // The flag of the anchor is at the top; the edges are met everywhere else.
  const isFlag = event.clientY - box.value!.getBoundingClientRect().top < 14;
  const near = (frame: number) => Math.abs(x - view.xOf(frame)) < NEAR;
  if (isFlag && near(anchor)) return 'anchor';
  const [toStart, toEnd] = [Math.abs(x - view.xOf(start)), Math.abs(x - view.xOf(end))];
  if (Math.min(toStart, toEnd) < NEAR) return toStart <= toEnd && start < end ? 'start' : 'end';
  return near(anchor) ? 'anchor' : undefined;
}
function moved(which: Handle, frame: number): Cue {
  const { cue } = props;
  if (which === 'anchor') return { ...cue, anchor: Math.max(0, Math.min(frames.value - 1, Math.round(frame))) };
  const part = which === 'start' ? { start: Math.min(frame, cue.end - 1), end: cue.end } : { start: cue.start, end: Math.max(frame, cue.start + 1) };
  return withPart(cue, part, frames.value);
}
const labels: Record<Handle, string> = { start: 'Begin of', end: 'End of', anchor: 'Anchor of' };
async function keep(which: Handle, cue: Cue): Promise<void> {
  await scene.keepCues(`${labels[which]} ${cue.name}`, [cue]);
  scene.draft = new Map();
}
function down(event: PointerEvent): void {
  held.value = nearest(event);
  if (held.value) box.value!.setPointerCapture(event.pointerId);
}
function move(event: PointerEvent): void {
  if (!held.value) return;
  scene.draft = new Map([[props.cue.id, moved(held.value, view.frameAt(xIn(event)))]]);
}
async function up(): Promise<void> {
  const [which, drafted] = [held.value, scene.draft.get(props.cue.id)];
  held.value = undefined;
  if (which && drafted) await keep(which, drafted);
}
function cancel(): void {
  held.value = undefined;
  scene.draft = new Map();
}
</script>

<template>
  <div class="wave">
    <div
      ref="box"
      class="box"
      :class="{ held }"
      title="Drag the edges of the part that is played, or the flag of the anchor"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
      @pointercancel="cancel"
    >
      <canvas ref="canvas" aria-hidden="true" />
    </div>
    <div class="tools">
      <label
        >From
        <NumberBox
          :value="inSeconds(cue.start)"
          :min="0"
          :max="inSeconds(frames)"
          :step="0.01"
          unit="s"
          aria-label="Plays from, s"
          class="number"
          @set="(s) => keep('start', moved('start', s * rate))"
      /></label>
      <label
        >to
        <NumberBox
          :value="inSeconds(cue.end)"
          :min="0"
          :max="inSeconds(frames)"
          :step="0.01"
          unit="s"
          aria-label="Plays to, s"
          class="number"
          @set="(s) => keep('end', moved('end', s * rate))"
      /></label>
      <label
        >Anchor at
        <NumberBox
          :value="inSeconds(cue.anchor)"
          :min="0"
          :max="inSeconds(frames)"
          :step="0.01"
          unit="s"
          aria-label="Anchor, s"
          class="number"
          @set="(s) => keep('anchor', moved('anchor', s * rate))"
      /></label>
    </div>
  </div>
</template>

<style scoped>
.wave {
  display: grid;
  gap: 6px;
  min-width: 0;
}
.box {
  position: relative;
  height: 88px;
  overflow: hidden;
  touch-action: none;
  cursor: ew-resize;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
label {
  display: flex;
  gap: 6px;
  align-items: center;
}
.number {
  width: 120px;
}
</style>
