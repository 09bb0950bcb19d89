<script setup lang="ts">
import { frameToSample, sampleToFrame, timecodeAt, type Cue } from '@core/scene';
import type { Sight } from '@core/timeline';
import { RATE } from '@platform/index';
import { useElementSize } from '@vueuse/core';
import { computed, ref, useTemplateRef, watch } from 'vue';
import { useCommands } from '../shared/controls/commands';
import { useAudition } from '../stores/audition';
import { useLibrary } from '../stores/library';
import { useScene } from '../stores/scene';
import FilmStrip from './FilmStrip.vue';
import LaneView from './LaneView.vue';
import TrackHeads from './TrackHeads.vue';
import MarkerRow from './MarkerRow.vue';
import { useDrag } from './useDrag';
import { useDrop } from './useDrop';

const scene = useScene();
const audition = useAudition();
const library = useLibrary();
const lane = useTemplateRef('lane');
const { width } = useElementSize(lane);
const HEAD = 150;
const TRACK = 44;

/** Pixels a second, and the sample at the left border. */
const zoom = ref(110);
const from = ref(0);
const perSample = computed(() => zoom.value / RATE);
const xOf = (sample: number) => (sample - from.value) * perSample.value;
const span = computed(() => width.value / perSample.value);

/** The playhead stays in sight: running it turns the page, stepping it is brought to the middle. */
watch(
  () => [audition.scenePosition, width.value] as const,
  ([at]) => {
    if (width.value === 0) return;
    const x = xOf(at);
    if (x < 0 || x > width.value - 20) from.value = Math.max(0, at - span.value * (audition.scenePlaying ? 0.05 : 0.44));
  },
  { immediate: true },
);
watch(
  () => [scene.heard, library.revision] as const,
  ([heard]) => void library.needPeaks(heard.map((c) => c.soundId)),
  { immediate: true },
);

const ticks = computed(() => {
  const s = scene.current;
  if (!s || width.value === 0) return [];
  const r = scene.rate;
  const step = [1, 2, 5, 10, 30, 60, 300].find((n) => n * zoom.value > 92) ?? 600;
  const first = Math.floor(from.value / RATE / step) * step;
  return Array.from({ length: Math.ceil(width.value / zoom.value / step) + 2 }, (_, i) => {
    const frame = (first + i * step) * r.nominal;
    return { x: xOf(frameToSample(frame, r, RATE)), label: timecodeAt(s, frame) };
  }).filter((t) => t.x > -100);
});

/** Cues by track. A list in which nothing changed is the same one as before, and its lane is not drawn again. */
const byTrack = computed((before?: Map<number, Cue[]>) => {
  const map = new Map<number, Cue[]>();
  for (const cue of scene.heard) {
    const list = map.get(cue.trackId);
    if (list) list.push(cue);
    else map.set(cue.trackId, [cue]);
  }
  for (const [track, list] of map) {
    const old = before?.get(track);
    if (old?.length === list.length && old.every((c, i) => c === list[i])) map.set(track, old);
  }
  return map;
});
const none: Cue[] = [];
const label = (cue: Cue) =>
  `${cue.name}, anchor at ${scene.current ? timecodeAt(scene.current, sampleToFrame(cue.at, scene.rate, RATE)) : ''}${cue.mute ? ', muted' : ''}`;

const sight = computed<Sight>(() => ({ from: from.value, scale: perSample.value, width: width.value, height: TRACK - 1, rate: RATE }));
const seekTo = (x: number) => scene.seekFrame(sampleToFrame(from.value + x / perSample.value, scene.rate, RATE));
function seek(event: MouseEvent): void {
  seekTo(event.clientX - (event.currentTarget as HTMLElement).getBoundingClientRect().left);
}
const drag = useDrag(sight, TRACK, seekTo);
const drop = useDrop(sight, TRACK);
const told = computed(() => drag.told.value ?? drop.told.value);

function wheel(event: WheelEvent): void {
  event.preventDefault();
  if (event.ctrlKey) {
    const x = event.clientX - lane.value!.getBoundingClientRect().left;
    const at = from.value + x / perSample.value;
    zoom.value = Math.max(4, Math.min(4000, zoom.value * Math.exp(-event.deltaY / 300)));
    from.value = Math.max(0, at - x / perSample.value);
  } else from.value = Math.max(0, from.value + (event.deltaX + event.deltaY) / perSample.value);
}

function zoomBy(factor: number): void {
  zoom.value = Math.max(4, Math.min(4000, zoom.value * factor));
  from.value = Math.max(0, audition.scenePosition - span.value * 0.44);
}

/** Over the corner of a selected cue the wheel changes the form of its fade. */
function laneWheel(event: WheelEvent): void {
  if (event.ctrlKey || !drag.turned(event)) return;
  event.preventDefault();
  event.stopPropagation();
}

useCommands('The view', [
  { label: 'Zoom in', keys: ['+', '='], run: () => zoomBy(1.5) },
  { label: 'Zoom out', keys: ['-'], run: () => zoomBy(1 / 1.5) },
]);
</script>

<template>
  <section class="timeline" aria-label="Timeline" @wheel="wheel" @keydown.esc="drag.cancel() && $event.stopPropagation()">
    <TrackHeads />
    <div ref="lane" class="lanes">
      <div class="ruler" @click="seek">
        <span v-for="t in ticks" :key="t.label" class="tick mono" :style="{ left: `${t.x}px` }">{{ t.label }}</span>
      </div>
      <div class="film" @click="seek">
        <FilmStrip :from="from" :pixels-per-sample="perSample" :width="width" :height="34" />
      </div>
      <div
        class="ground"
        :style="{ cursor: drag.cursor.value }"
        @pointerdown="drag.down"
        @pointermove="drag.move"
        @pointerup="drag.up"
        @pointercancel="drag.cancel"
        @wheel="laneWheel"
        @dragover="drop.over"
        @dragleave.self="drop.leave"
        @drop="drop.drop"
      >
        <LaneView
          v-for="track in scene.tracks"
          :key="track.id"
          class="track"
          :track="track"
          :cues="byTrack.get(track.id) ?? none"
          :sight="sight"
          :label="label"
        />
        <div
          v-if="drag.box.value"
          class="box"
          :style="{
            left: `${drag.box.value.left}px`,
            top: `${drag.box.value.top}px`,
            width: `${drag.box.value.width}px`,
            height: `${drag.box.value.height}px`,
          }"
        />
        <div
          v-if="told"
          class="told mono"
          role="status"
          :style="{ left: `${Math.min(told.x + 12, width - 190)}px`, top: `${Math.max(0, told.y - 26)}px` }"
        >
          {{ told.text }}
        </div>
      </div>
      <div v-for="t in ticks" :key="`g${t.label}`" class="grid" :style="{ left: `${t.x}px` }" />
      <div
        v-if="scene.current?.loop"
        class="loop"
        :style="{
          left: `${xOf(scene.current.loop.start)}px`,
          width: `${(scene.current.loop.end - scene.current.loop.start) * perSample}px`,
        }"
      />
      <MarkerRow :sight="sight" />
      <div class="playhead" :style="{ transform: `translateX(${xOf(audition.scenePosition)}px)` }" />
    </div>
  </section>
</template>

<style scoped>
.timeline {
  display: grid;
  grid-template-columns: v-bind('`${HEAD}px`') minmax(0, 1fr);
  overflow-y: auto;
  border-top: 1px solid var(--line);
}
.ruler {
  position: relative;
  height: 20px;
  overflow: hidden;
}
.film {
  height: 40px;
  padding: 2px 0;
  border-bottom: 1px solid var(--line);
  overflow: hidden;
}
.tick {
  position: absolute;
  top: 2px;
  padding-left: 4px;
  font-size: 12px;
  color: var(--mute);
}
.track {
  position: relative;
  height: 44px;
  border-bottom: 1px solid var(--line);
}
.lanes {
  position: relative;
  overflow: hidden;
}
.ground {
  position: relative;
  touch-action: none;
  user-select: none;
}
.box {
  position: absolute;
  border: 1px solid var(--sky);
  background: color-mix(in srgb, var(--sky) 14%, transparent);
  pointer-events: none;
}
.told {
  position: absolute;
  z-index: 4;
  padding: 1px 7px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raft2);
  color: var(--bone);
  font-size: 12px;
  white-space: nowrap;
  pointer-events: none;
}
.grid {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 1px;
  background: var(--line);
  opacity: 0.6;
  pointer-events: none;
}
.loop {
  position: absolute;
  top: 20px;
  bottom: 0;
  background: var(--amber);
  opacity: 0.13;
  pointer-events: none;
}
.playhead {
  position: absolute;
  z-index: 3;
  top: 0;
  bottom: 0;
  left: 0;
  width: 1.5px;
  background: var(--bone);
  pointer-events: none;
}
.playhead::before {
  content: '';
  position: absolute;
  left: -5px;
  border: 6px solid transparent;
  border-top: 8px solid var(--bone);
}
</style>
