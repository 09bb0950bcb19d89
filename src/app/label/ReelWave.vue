<script setup lang="ts">
import type { Peaks } from '@core/audio';
import { nameOf, type CutSlice, type Sound } from '@core/library';
import { useElementSize, useEventListener } from '@vueuse/core';
import { computed, ref, useTemplateRef, watch, watchEffect } from 'vue';
import { useAudition } from '../stores/audition';
import { usePrefs } from '../stores/prefs';
import { seconds } from '../shared/controls/format';
import { drawContour, drawWave, paperOf } from '../shared/sound/paint';
import { useWaveView, useWaveWheel } from '../shared/sound/useWaveView';

/** A reel, or what lies around one slice of it, with its slices: their edges and the anchor of the current one are dragged. */
const props = defineProps<{
  reel: Sound;
  peaks?: Peaks;
  slices: readonly CutSlice[];
  current: number;
  /** Shows the current slice and a little around it, not the whole reel. */
  close?: boolean;
  /** Shows so many seconds around the anchor, and lets that alone be dragged. */
  around?: number;
  /** What is begun by hand. */
  hand?: { start: number; end?: number };
  /** How far an edge can go. */
  within: (at: number, edge: 'start' | 'end', frame: number) => number;
}>();
const emit = defineEmits<{
  choose: [at: number];
  play: [frame: number];
  edge: [at: number, edge: 'start' | 'end', frame: number];
  anchor: [at: number, frame: number];
}>();

const audition = useAudition();
const prefs = usePrefs();
const canvas = useTemplateRef('canvas');
const box = useTemplateRef('box');
const { width, height } = useElementSize(box);
const view = useWaveView(
  () => props.reel,
  width,
  () => false,
);
const { span, xOf, frameAt } = view;
/** Pixels: how near the pointer must come, and how high flags are. */
const NEAR = 5;
const FLAG = 14;
/** Of a slice's length, shown on either side of it. */
const AROUND = 0.25;

const slice = computed<CutSlice | undefined>(() => props.slices[props.current]);
watch(
  [slice, () => props.close],
  ([now], before) => {
    if (!now) return;
    if (props.around !== undefined) {
      const by = props.around * props.reel.format.rate;
      const away = now.anchor < span.value.from + by * 0.05 || now.anchor > span.value.to - by * 0.05;
      if (!before || away) view.show(now.anchor - by * 0.4, by);
    } else if (props.close) {
      // While an edge is dragged or stepped, the view stands still as long as the slice is in it.
      const same = before && span.value.from < now.start && span.value.to > now.end && (span.value.to - span.value.from) / (now.end - now.start) < 4;
      const by = (now.end - now.start) * AROUND;
      if (!same) view.show(now.start - by, now.end - now.start + 2 * by);
    } else if (view.zoomed.value && (now.end > span.value.to || now.start < span.value.from))
      view.show(now.start - 0.3 * (span.value.to - span.value.from), span.value.to - span.value.from);
  },
  { immediate: true },
);

interface Drag {
  kind: 'start' | 'end' | 'anchor';
  at: number;
  frame: number;
}
const drag = ref<Drag>();
/** The slices as they would be. */
const shown = computed(() =>
  props.slices.map((s, i) => {
    const { kind, at, frame } = drag.value ?? {};
    return at === i && kind ? { ...s, [kind]: frame } : s;
  }),
);

function drawSlice(paper: CanvasRenderingContext2D, s: CutSlice, i: number, high: number): void {
  const { palette } = prefs;
  const [from, to] = [xOf(s.start), xOf(s.end)];
  if (to < 0 || from > width.value) return;
  const here = i === props.current;
  paper.fillStyle = here ? palette.amberDeep : palette.raft2;
  if (here) paper.globalAlpha = 0.55;
  paper.fillRect(from, 0, Math.max(1, to - from), high);
  paper.globalAlpha = 1;
  paper.fillStyle = here ? palette.amber : palette.faint;
  for (const x of [from, to]) paper.fillRect(x - 0.5, 0, here ? 2 : 1, high);
  paper.font = '12px "Atkinson Hyperlegible Mono Variable"';
  const text = s.spoken ? `“${s.said ?? '…'}”` : String(i + 1);
  paper.fillStyle = here ? palette.amber : palette.mute;
  if (to - from > paper.measureText(text).width + 8) paper.fillText(text, from + 4, height.value - 5);
}

watchEffect(() => {
  if (!canvas.value || width.value === 0) return;
  const paper = paperOf(canvas.value, width.value, height.value);
  const { palette } = prefs;
  const high = height.value - 18;
  if (props.around === undefined) shown.value.forEach((s, i) => drawSlice(paper, s, i, high));
  const at = { top: 4, height: high - 8 };
  const wave = view.wave.value;
  const per = (span.value.to - span.value.from) / width.value;
  if (wave && wave.from === span.value.from && wave.to === span.value.to)
    drawWave(paper, wave, xOf, at, { split: false, colour: palette.glass, inner: palette.bone, clipped: palette.coral });
  else if (props.peaks) {
    paper.fillStyle = palette.glass;
    drawContour(paper, props.peaks, { from: 0, to: width.value }, (x) => span.value.from + x * per, at);
  }
  const now = shown.value[props.current];
  if (now) {
    const x = xOf(now.anchor);
    paper.fillStyle = palette.amber;
    paper.fillRect(x - 0.5, 0, 1, high);
    paper.beginPath();
    paper.moveTo(x - 5, 0);
    paper.lineTo(x + 5, 0);
    paper.lineTo(x, 8);
    paper.fill();
  }
  if (props.hand) {
    paper.fillStyle = palette.sky;
    const end = props.hand.end ?? audition.frame;
    paper.globalAlpha = 0.3;
    paper.fillRect(xOf(props.hand.start), 0, Math.max(2, xOf(end) - xOf(props.hand.start)), high);
    paper.globalAlpha = 1;
    paper.fillRect(xOf(props.hand.start), 0, 2, high);
  }
  if (audition.sound?.id === props.reel.id && (audition.playing || audition.frame > 0)) {
    paper.fillStyle = palette.bone;
    paper.fillRect(xOf(audition.frame) - 0.5, 0, 1.5, high);
  }
});

const localX = (event: MouseEvent) => event.clientX - box.value!.getBoundingClientRect().left;
function grabbed(event: PointerEvent): Drag | undefined {
  const x = localX(event);
  const near = (frame: number) => Math.abs(x - xOf(frame)) < NEAR;
  const now = slice.value;
  if (now && near(now.anchor) && event.clientY - box.value!.getBoundingClientRect().top < FLAG) return { kind: 'anchor', at: props.current, frame: now.anchor };
  if (props.around !== undefined) return undefined;
  // The current slice's edges come first where two lie together.
  for (const at of [props.current, ...props.slices.keys()]) {
    const s = props.slices[at];
    if (s && near(s.start)) return { kind: 'start', at, frame: s.start };
    if (s && near(s.end)) return { kind: 'end', at, frame: s.end };
  }
  return undefined;
}
let downX = 0;
function down(event: PointerEvent): void {
  if (event.button !== 0) return;
  downX = localX(event);
  drag.value = grabbed(event);
  (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
}
useEventListener(box, 'pointermove', (event) => {
  const { kind, at } = drag.value ?? {};
  if (kind === undefined || at === undefined) return;
  const frame = frameAt(localX(event));
  const s = props.slices[at];
  drag.value = { kind, at, frame: kind === 'anchor' ? Math.max(s.start, Math.min(s.end - 1, frame)) : props.within(at, kind, frame) };
});
useEventListener(box, ['pointerup', 'pointercancel'], (event) => {
  const done = drag.value;
  const x = localX(event as PointerEvent);
  drag.value = undefined;
  if (event.type === 'pointercancel') return;
  if (done && Math.abs(x - downX) > 2) {
    if (done.kind === 'anchor') emit('anchor', done.at, done.frame);
    else emit('edge', done.at, done.kind, done.frame);
    return;
  }
  const frame = frameAt(x);
  const at = props.slices.findIndex((s) => frame >= s.start && frame < s.end);
  if (at >= 0 && at !== props.current) emit('choose', at);
  else emit('play', frame);
});
useWaveWheel(box, view, width);
const label = computed(() => {
  const { rate } = props.reel.format;
  const s = slice.value;
  const where = s ? `, current from ${seconds(s.start / rate)} to ${seconds(s.end / rate)} seconds` : '';
  if (props.around !== undefined) return `Around the anchor at ${((s?.anchor ?? 0) / rate).toFixed(4)} seconds`;
  return props.close ? `Slice${where}` : `Waveform of ${nameOf(props.reel)}, ${props.slices.length} slices${where}`;
});
</script>

<template>
  <div ref="box" class="wave" role="img" :aria-label="label" @pointerdown="down"><canvas ref="canvas" /></div>
</template>

<style scoped>
.wave {
  position: relative;
  height: 100%;
  min-height: 60px;
  cursor: text;
  touch-action: none;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
</style>
