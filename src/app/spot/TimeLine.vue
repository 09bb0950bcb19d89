<script setup lang="ts">
import { frameToSample, sampleToFrame, timecodeAt, type Cue } from '@core/scene';
import { placeOf, type Sight } from '@core/timeline';
import { RATE } from '@platform/index';
import { useElementSize, useScroll } from '@vueuse/core';
import { computed, ref, useTemplateRef, watch } from 'vue';
import { useCommands } from '../shared/controls/commands';
import { useTransport } from '../stores/transport';
import { useCurves } from '../stores/curves';
import { useLibrary } from '../stores/library';
import { useScene } from '../stores/scene';
import CurveLane from './CurveLane.vue';
import EventRow from './EventRow.vue';
import FilmStrip from './FilmStrip.vue';
import LaneView from './LaneView.vue';
import TrackHeads from './TrackHeads.vue';
import MarkerRow from './MarkerRow.vue';
import { useDrag } from './useDrag';
import { useDrop } from './useDrop';
import { useSight } from './useSight';

const scene = useScene();
const transport = useTransport();
const library = useLibrary();
const curves = useCurves();
const lane = useTemplateRef('lane');
const { width } = useElementSize(lane);
const HEAD = 150;
const TRACK = 44;
/** Pixels of the ruler and the picture above the lanes. */
const ABOVE = 72;
/** In a scene of more cues than this, lanes that are scrolled out of sight have no buttons either. */
const LARGE = 500;

/** Pixels a second, and the sample at the left border. */
const zoom = ref(110);
const from = ref(0);
const perSample = computed(() => zoom.value / RATE);
const xOf = (sample: number) => (sample - from.value) * perSample.value;
const span = computed(() => width.value / perSample.value);

/** The playhead stays in sight: running it turns the page, stepping it is brought to the middle. */
watch(
  () => [transport.position, width.value] as const,
  ([at]) => {
    if (width.value === 0) return;
    const x = xOf(at);
    if (x < 0 || x > width.value - 20) from.value = Math.max(0, at - span.value * (transport.playing ? 0.05 : 0.44));
  },
  { immediate: true },
);
watch(
  () => [scene.seen, library.revision] as const,
  ([heard]) => void library.needPeaks(heard.map((c) => c.soundId)),
  { immediate: true },
);

/** Cues by track. A list in which nothing changed is the same one as before, and its lane is not drawn again. */
const byTrack = computed((before?: Map<number, Cue[]>) => {
  const map = new Map<number, Cue[]>();
  for (const cue of scene.seen) {
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
const none: never[] = [];

/** The lanes that are in sight, and one more on either side. */
const whole = useTemplateRef('whole');
const { height: tall } = useElementSize(whole);
const { y: scrolled } = useScroll(whole);
const lanes = computed(() => {
  const first = Math.floor((scrolled.value - ABOVE) / TRACK) - 1;
  return { first, last: first + Math.ceil(tall.value / TRACK) + 2 };
});
const painted = (lane: number) => lane >= lanes.value.first && lane <= lanes.value.last;
/** So many tracks are there at once, and so many beside those in sight, to be reached by key; a large scene opens as fast as a small one. */
const [AT_ONCE, BESIDE] = [10, 3];
/** Tracks that are there: what was made once stays. */
const near = computed((before?: ReadonlySet<number>) => {
  const { first, last } = lanes.value;
  const isNear = (i: number) => i < AT_ONCE || (i >= first - BESIDE && i <= last + BESIDE);
  const made = scene.tracks.flatMap(({ id }, i) => (isNear(i) || before?.has(id) ? id : []));
  return before?.size === made.length && made.every((id) => before.has(id)) ? before : new Set(made);
});
const asleep = (lane: number) => !painted(lane) && scene.cues.length > LARGE;
/** What a lane that is asleep is handed: always the same, so that it stays as it is while others move. */
const nowhere: Sight = { from: 0, scale: 1, width: 0, height: TRACK - 1, rate: RATE };
const label = (cue: Cue) =>
  `${cue.name}, anchor at ${scene.current ? timecodeAt(scene.current, sampleToFrame(cue.at, scene.rate, RATE)) : ''}${cue.mute ? ', muted' : ''}`;

const sight = computed<Sight>(() => ({ from: from.value, scale: perSample.value, width: width.value, height: TRACK - 1, rate: RATE }));
const { drawn, moving, shift } = useSight(sight);
const shifted = computed(() => ({ transform: `translateX(${shift.value}px)` }));
/** Where a sample lies in what is drawn, which is shifted as the view moves. */
const drawnAt = (sample: number) => placeOf(drawn.value, sample);

/** Frames that the ruler tells, and behind which lines stand. The same function as long as the scene counts the same. */
const countedIn = computed(() => {
  const { rate } = scene;
  return (seen: Sight): { frame: number; x: number }[] => {
    const wide = seen.scale * RATE;
    const step = [1, 2, 5, 10, 30, 60, 300].find((n) => n * wide > 92) ?? 600;
    const first = Math.floor(seen.from / RATE / step) * step;
    return Array.from({ length: Math.ceil(seen.width / wide / step) + 2 }, (_, i) => {
      const frame = (first + i * step) * rate.nominal;
      return { frame, x: placeOf(seen, frameToSample(frame, rate, RATE)) };
    });
  };
});
const ticks = computed(() => {
  const s = scene.current;
  if (!s || drawn.value.width === 0) return [];
  return countedIn.value(drawn.value).flatMap(({ frame, x }) => (x > -100 ? [{ x, label: timecodeAt(s, frame) }] : []));
});
const grid = computed(() => {
  const all = countedIn.value;
  return (seen: Sight) => (seen.width === 0 ? [] : all(seen).map((t) => t.x));
});

const seekTo = (x: number) => scene.seekFrame(sampleToFrame(from.value + x / perSample.value, scene.rate, RATE));
function seek(event: MouseEvent): void {
  seekTo(event.clientX - (event.currentTarget as HTMLElement).getBoundingClientRect().left);
}
const drag = useDrag(sight, TRACK, seekTo);
const drop = useDrop(sight, TRACK);
const bubble = computed(() => drag.told.value ?? drop.told.value);

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
  from.value = Math.max(0, transport.position - span.value * 0.44);
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
  <section ref="whole" class="timeline" aria-label="Timeline" @wheel="wheel" @keydown.esc="drag.cancel() && $event.stopPropagation()">
    <TrackHeads :near="near" />
    <div ref="lane" class="lanes">
      <div class="ruler" @click="seek">
        <div class="shifted" :style="shifted">
          <span v-for="t in ticks" :key="t.label" class="tick mono" :style="{ left: `${t.x}px` }">{{ t.label }}</span>
        </div>
      </div>
      <div class="film" @click="seek">
        <FilmStrip class="shifted" :style="shifted" :from="drawn.from" :pixels-per-sample="drawn.scale" :width="drawn.width" />
      </div>
      <div
        class="ground"
        :style="{ cursor: drag.cursor.value }"
        @pointerdown="drag.down"
        @pointermove="drag.move"
        @pointerup="drag.up"
        @pointercancel="drag.cancel"
        @wheel="laneWheel"
        @dragenter="drop.enter"
        @dragover="drop.over"
        @dragleave="drop.leave"
        @drop="drop.drop"
      >
        <div v-for="(track, i) in scene.tracks" :key="track.id" class="track">
          <LaneView
            v-if="near.has(track.id)"
            :track="track"
            :cues="asleep(i) ? none : (byTrack.get(track.id) ?? none)"
            :sight="asleep(i) ? nowhere : sight"
            :grid="grid"
            :painted="painted(i)"
            :moving="moving"
            :label="label"
          />
          <CurveLane v-if="curves.shownOn(track)" :track="track" :curve="curves.shownOn(track)!" :sight="sight" />
        </div>
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
          v-if="bubble"
          class="told mono"
          role="status"
          :style="{ left: `${Math.min(bubble.x + 12, width - 190)}px`, top: `${Math.max(0, bubble.y - 26)}px` }"
        >
          {{ bubble.text }}
        </div>
      </div>
      <div v-for="line in curves.beside" :key="`line ${line.id}`" class="track beside">
        <CurveLane :track="line" :curve="curves.shownOn(line)!" :sight="sight" />
      </div>
      <div class="over shifted" :style="shifted">
        <div
          v-if="scene.current?.loop"
          class="loop"
          :style="{
            left: `${drawnAt(scene.current.loop.start)}px`,
            width: `${(scene.current.loop.end - scene.current.loop.start) * perSample}px`,
          }"
        />
        <EventRow class="events" :sight="drawn" />
        <MarkerRow :sight="drawn" />
        <div class="playhead" :style="{ transform: `translateX(${drawnAt(transport.position)}px)` }" />
      </div>
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
  overflow: clip;
}
.film {
  height: 52px;
  padding: 2px 0;
  border-bottom: 1px solid var(--line);
  overflow: clip;
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
  overflow: clip;
}
/* What is drawn lies still while the view moves over it: only this shift changes. */
.lanes :deep(.shifted) {
  position: relative;
  will-change: transform;
}
.lanes > .over {
  position: absolute;
  z-index: 2;
  inset: 0;
  pointer-events: none;
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
/* Its marks lie on the lower edge of the film. */
.events {
  position: absolute;
  top: 30px;
  left: 0;
  pointer-events: auto;
}
.loop {
  position: absolute;
  top: 20px;
  bottom: 0;
  background: var(--amber);
  opacity: 0.13;
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
