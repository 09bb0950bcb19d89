<script setup lang="ts">
import type { Sound } from '@core/library';
import { fadeGain, fullShape } from '@core/audio';
import { nameOf } from '@core/library';
import { CloseOutlined, DownloadOutlined, HeatMapOutlined, ProfileOutlined, RetweetOutlined } from '@ant-design/icons-vue';
import { Button, Tooltip } from 'ant-design-vue';
import { useElementSize } from '@vueuse/core';
import { computed, useTemplateRef, watchEffect } from 'vue';
import { useAudition } from '../../stores/audition';
import { useLibrary } from '../../stores/library';
import { usePrefs } from '../../stores/prefs';
import { useCommands, withKey } from '../controls/commands';
import { seconds } from '../controls/format';
import { drawContour, drawMarks, drawPitches, drawWave, heat, paperOf, spectrogramPicture } from './paint';
import RegionsButton from './RegionsButton.vue';
import ShapeButton from './ShapeButton.vue';
import { useEdges } from './useEdges';
import { useMarks } from './useMarks';
import { LEAST_REGION, RULER, useWaveDrag } from './useWaveDrag';
import { useWaveView, useWaveWheel } from './useWaveView';

const props = defineProps<{ sound: Sound }>();
const emit = defineEmits<{ tray: []; spot: []; layer: []; take: [] }>();

const audition = useAudition();
const library = useLibrary();
const prefs = usePrefs();
const canvas = useTemplateRef('canvas');
const box = useTemplateRef('box');
const { width, height } = useElementSize(box);

/** Steps of the ruler, seconds. */
const STEPS = [0.0001, 0.0002, 0.0005, 0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300, 600];
const looped = computed(() => prefs.playMode === 'looped');
const frames = computed(() => props.sound.format.frames);
const rate = computed(() => props.sound.format.rate);
const view = useWaveView(
  () => props.sound,
  width,
  () => prefs.spectral,
);
const { span, xOf } = view;
const keep = useMarks(() => props.sound);
const { onsets, snapped } = useEdges(() => props.sound);
const { region, anchor, down, edges } = useWaveDrag(box, () => props.sound, view, keep, snapped);
const time = (frame: number) => seconds(frame / rate.value);

/** A step of the ruler that leaves room for its numbers. */
const ticks = computed(() => {
  const { from, to } = span.value;
  const length = (to - from) / rate.value;
  const step = STEPS.find((s) => (s / length) * width.value > 70) ?? 1800;
  const first = Math.ceil(from / rate.value / step);
  return Array.from({ length: Math.max(0, Math.floor(to / rate.value / step) - first + 1) }, (_, i) => (first + i) * step);
});
const tick = (t: number) => (t < 60 ? Number(t.toFixed(5)) : seconds(t));

/** The fades of its shape, as lines over what they fade; lengths are those heard, so speed stretches them. */
function drawFades(paper: CanvasRenderingContext2D, high: number): void {
  const shape = audition.sound?.id === props.sound.id ? audition.shapeOf(audition.sound) : fullShape(props.sound.marks.shape);
  if (shape.fadeIn === 0 && shape.fadeOut === 0) return;
  const { start, end } = region.value ?? { start: 0, end: frames.value };
  const back = shape.direction === 'backward';
  const draw = (seconds: number, atStart: boolean) => {
    if (seconds <= 0) return;
    const span = Math.min(end - start, (seconds * rate.value * shape.speed) / shape.length);
    const [edge, sign] = atStart ? [xOf(start), 1] : [xOf(end), -1];
    const wide = xOf(span) - xOf(0);
    paper.beginPath();
    for (let x = 0; x <= wide; x++) paper.lineTo(edge + sign * x, high - fadeGain(shape.fade, x / wide) * (high - 4));
    paper.stroke();
  };
  paper.strokeStyle = prefs.palette.sky;
  paper.lineWidth = 1.5;
  draw(shape.fadeIn, !back);
  draw(shape.fadeOut, back || shape.direction === 'both ways');
}

const picture = computed(() => {
  const { deep, glassDeep, glass, amber, bone } = prefs.palette;
  return view.spectrum.value && spectrogramPicture(view.spectrum.value, heat([deep, glassDeep, glass, amber, bone]));
});

/** The waveform as closely as it is known; its contour until then. */
function drawSound(paper: CanvasRenderingContext2D, high: number, colours: { colour: string; inner: string }): void {
  const at = { top: 4, height: high - 4 };
  const wave = view.wave.value;
  if (wave && wave.from === span.value.from && wave.to === span.value.to)
    return drawWave(paper, wave, xOf, at, { ...colours, split: prefs.splitChannels, clipped: prefs.palette.coral });
  const peaks = library.peaks.get(props.sound.id);
  if (!peaks) return;
  paper.fillStyle = colours.colour;
  const per = (span.value.to - span.value.from) / width.value;
  drawContour(paper, peaks, { from: 0, to: width.value }, (x) => span.value.from + x * per, at);
}

watchEffect(() => {
  if (!canvas.value || width.value === 0) return;
  const paper = paperOf(canvas.value, width.value, height.value);
  const high = height.value - RULER;
  const { palette } = prefs;
  if (prefs.spectral && picture.value) {
    const { from, to } = view.spectrum.value!;
    paper.drawImage(picture.value, xOf(from), 4, xOf(to) - xOf(from), high - 4);
  } else drawSound(paper, high, { colour: palette.glass, inner: palette.bone });
  if (region.value) {
    const [from, to] = [xOf(region.value.start), xOf(region.value.end)];
    paper.save();
    paper.beginPath();
    paper.rect(from, 0, to - from, high);
    paper.clip();
    paper.fillStyle = palette.amberDeep;
    paper.globalAlpha = prefs.spectral ? 0.35 : 0.75;
    paper.fillRect(from, 0, to - from, high);
    paper.globalAlpha = 0.72;
    if (!prefs.spectral) drawSound(paper, high, { colour: palette.bone, inner: palette.amber });
    paper.restore();
  }
  if (prefs.spectral && picture.value) drawPitches(paper, { high, top: 4, wide: width.value }, rate.value, palette);
  drawMarks(paper, { high, xOf, onsets: onsets.value, loop: props.sound.marks.loop, regions: props.sound.marks.regions }, palette);
  paper.fillStyle = prefs.palette.amber;
  if (region.value) for (const edge of [region.value.start, region.value.end]) paper.fillRect(xOf(edge) - 1, 0, 2, high);
  drawFades(paper, high);
  const ax = xOf(anchor.value);
  paper.fillRect(ax - 0.5, 0, 1, high);
  paper.beginPath();
  paper.moveTo(ax - 6, 0);
  paper.lineTo(ax + 6, 0);
  paper.lineTo(ax, 8);
  paper.fill();
  paper.fillStyle = prefs.palette.bone;
  if (audition.sound?.id === props.sound.id && (audition.playing || audition.frame > 0)) paper.fillRect(xOf(audition.frame) - 0.5, 0, 1.5, high);
  paper.fillStyle = prefs.palette.mute;
  paper.font = '12px "Atkinson Hyperlegible Mono Variable"';
  for (const t of ticks.value) paper.fillText(`${tick(t)} s`, xOf(t * rate.value) + 3, height.value - 4);
});

/** Where in and out are set: what is heard now, or where the last play stopped. */
const here = () => Math.round(Math.min(frames.value, audition.frame));

function setEdge(edge: 'start' | 'end'): void {
  const old = props.sound.marks.region ?? { start: 0, end: frames.value };
  const next = { ...old, [edge]: here() };
  if (next.end - next.start < LEAST_REGION) Object.assign(next, edge === 'start' ? { end: frames.value } : { start: 0 });
  void edges(next).then((drawn) => keep('Region', { 'marks.region': drawn }));
}
/** Seconds by which one scrubs along by key. */
const SCRUBBED = 0.05;
const scrub = (by: number) => audition.scrub(Math.max(0, Math.min(frames.value - 1, here() + Math.round(by * SCRUBBED * rate.value))));

/** One millisecond: finer than the ear places a hit, coarse enough to arrive. */
const nudge = (by: number) =>
  void keep('Anchor', {
    'marks.anchor': Math.max(0, Math.min(frames.value, anchor.value + Math.round(by * rate.value))),
  });

useWaveWheel(box, view, width);
/** Zooming by keys keeps what is heard, or the anchor, where it stands. */
const centre = () => {
  const x = xOf(audition.sound?.id === props.sound.id && audition.frame > 0 ? audition.frame : anchor.value);
  return x >= 0 && x <= width.value ? x : width.value / 2;
};

useCommands('The waveform', [
  { label: 'Zoom into the waveform', keys: ['+', '='], run: () => view.zoom(2, centre()) },
  { label: 'Zoom out of the waveform', keys: ['-'], run: () => view.zoom(0.5, centre()) },
  { label: 'See the whole waveform', keys: ['0'], run: view.whole },
  { label: 'Along the waveform to the left', keys: ['Ctrl+ArrowLeft'], run: () => view.pan(-0.25) },
  { label: 'Along the waveform to the right', keys: ['Ctrl+ArrowRight'], run: () => view.pan(0.25) },
  { label: 'Waveform or spectrogram', keys: ['y'], run: () => (prefs.spectral = !prefs.spectral) },
  { label: 'Channels apart or together', keys: ['u'], run: () => (prefs.splitChannels = !prefs.splitChannels) },
  { label: 'Set in', keys: ['i'], run: () => setEdge('start') },
  { label: 'Set out', keys: ['o'], run: () => setEdge('end') },
  {
    label: 'Clear the region',
    keys: ['Escape'],
    run: () => void keep('Region', { 'marks.region': undefined }),
    enabled: () => props.sound.marks.region !== undefined,
  },
  { label: 'Set the anchor where it sounds', keys: ['a'], run: () => void keep('Anchor', { 'marks.anchor': here() }) },
  { label: 'Anchor earlier by 1 ms', keys: ['Alt+ArrowLeft'], run: () => nudge(-0.001) },
  { label: 'Anchor later by 1 ms', keys: ['Alt+ArrowRight'], run: () => nudge(0.001) },
  { label: 'Scrub on', purpose: 'Listening', keys: ['Shift+ArrowRight'], run: () => scrub(1) },
  { label: 'Scrub back', purpose: 'Listening', keys: ['Shift+ArrowLeft'], run: () => scrub(-1) },
  { label: 'Loop', purpose: 'Listening', keys: ['r'], run: audition.toggleLoop },
  { label: 'Save as a file', purpose: 'Using a sound', keys: ['d'], run: () => emit('take') },
  { label: 'Hold in tray', purpose: 'Using a sound', keys: ['t'], run: () => emit('tray') },
  { label: 'Spot at playhead', purpose: 'Using a sound', keys: ['Enter'], run: () => emit('spot') },
  { label: 'Add as a layer of the build', purpose: 'Using a sound', keys: ['j'], run: () => emit('layer') },
]);
</script>

<template>
  <div class="open" @dblclick.stop>
    <div
      ref="box"
      class="wave"
      role="img"
      :aria-label="`Waveform of ${nameOf(sound)}, anchor at ${(anchor / rate).toFixed(3)} seconds${view.zoomed.value ? `, seen from ${time(span.from)} to ${time(span.to)} seconds` : ''}${region ? `, region ${time(region.start)} to ${time(region.end)} seconds` : ''}`"
      @pointerdown="down"
    >
      <canvas ref="canvas" />
    </div>
    <Button
      v-if="view.zoomed.value"
      class="whole"
      size="small"
      :title="withKey('See all of it; the wheel, + and − zoom', 'See the whole waveform')"
      @click="view.whole()"
      >Whole</Button
    >
    <div class="tools">
      <Tooltip :title="withKey('Set the anchor where it sounds; nudge with Alt and the arrows; or drag its flag', 'Set the anchor where it sounds')">
        <Button size="small" class="anchor" @click="keep('Anchor', { 'marks.anchor': here() })">
          Anchor <span class="mono">{{ (anchor / rate).toFixed(3) }} s</span>
        </Button>
      </Tooltip>
      <Tooltip :title="withKey('Set in here', 'Set in')"><Button size="small" @click="setEdge('start')">In</Button></Tooltip>
      <Tooltip :title="withKey('Set out here', 'Set out')"><Button size="small" @click="setEdge('end')">Out</Button></Tooltip>
      <Button
        v-if="region"
        size="small"
        class="region"
        :title="withKey('Clear the region', 'Clear the region')"
        @click="keep('Region', { 'marks.region': undefined })"
      >
        <span class="unseen">Region </span><span class="mono">{{ time(region.start) }} – {{ time(region.end) }}</span> <CloseOutlined /><span class="unseen"
          >, clear</span
        >
      </Button>
      <Tooltip :title="withKey('Play round and round', 'Loop')"
        ><Button size="small" aria-label="Loop" :aria-pressed="looped" :class="{ on: looped }" @click="audition.toggleLoop()"
          ><template #icon><RetweetOutlined /></template></Button
      ></Tooltip>
      <Tooltip :title="withKey('Waveform or spectrogram', 'Waveform or spectrogram')"
        ><Button size="small" aria-label="Spectrum" :aria-pressed="prefs.spectral" :class="{ on: prefs.spectral }" @click="prefs.spectral = !prefs.spectral"
          ><template #icon><HeatMapOutlined /></template></Button
      ></Tooltip>
      <RegionsButton :sound="sound" />
      <ShapeButton :sound="sound" />
      <slot />
      <span class="push" />
      <Tooltip :title="withKey('Facts, plots, and where every label came from', 'Details of the sound')"
        ><Button size="small" aria-label="Details" :aria-pressed="prefs.details" :class="{ on: prefs.details }" @click="prefs.details = !prefs.details"
          ><template #icon><ProfileOutlined /></template></Button
      ></Tooltip>
      <Tooltip :title="withKey('Save it, or its region, as a file; or drag its row out of the window', 'Save as a file')"
        ><Button size="small" aria-label="Take away" @click="emit('take')"
          ><template #icon><DownloadOutlined /></template></Button
      ></Tooltip>
      <Tooltip :title="withKey('Keep it at hand', 'Hold in tray')"><Button size="small" aria-label="Hold in tray" @click="emit('tray')">Hold</Button></Tooltip>
      <Tooltip :title="withKey('Its anchor joins those of the build’s layers', 'Add as a layer of the build')"
        ><Button size="small" aria-label="Add as a layer" @click="emit('layer')">Layer</Button></Tooltip
      >
      <Tooltip :title="withKey('Its anchor lands on the playhead of the scene', 'Spot at playhead')">
        <Button size="small" type="primary" aria-label="Spot at playhead" @click="emit('spot')">Spot</Button>
      </Tooltip>
    </div>
  </div>
</template>

<style scoped>
/* Over the corner of the waveform: room is short beside the other buttons. */
.whole {
  position: absolute;
  top: 8px;
  right: 18px;
}
.open {
  position: relative;
  padding: 2px 12px 8px 34px;
}
.wave {
  position: relative;
  height: 118px;
  cursor: text;
  touch-action: none;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.tools {
  display: flex;
  overflow: hidden;
  gap: 8px;
  margin-top: 6px;
}
/* The control library wraps a button's text and drops the space before what follows it. */
.anchor .mono {
  margin-left: 6px;
}
.region .mono {
  margin-right: 6px;
}
.push {
  margin-left: auto;
}
.anchor {
  border-color: var(--amber);
  background: var(--amberDeep);
  color: color-mix(in srgb, var(--amber) 65%, var(--text));
}
.on {
  border-color: var(--glass);
  color: var(--glass);
}
</style>
