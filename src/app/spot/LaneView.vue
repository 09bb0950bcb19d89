<script setup lang="ts">
import { fadeGain } from '@core/audio';
import { type Cue, type Track } from '@core/scene';
import { boxesIn, type CueBox, type Sight } from '@core/timeline';
import { computed, shallowRef, useTemplateRef, watchEffect } from 'vue';
import { drawPlayed, paperOf } from '../shared/sound/paint';
import { useTransport } from '../stores/transport';
import { useHands } from '../stores/hands';
import { useLibrary } from '../stores/library';
import { usePrefs } from '../stores/prefs';
import CueButtons from './CueButtons.vue';
import { useDrawn } from './useSight';

/** One track's cues on one canvas, as far as they are in sight; for those who do not see it, buttons that say what lies there. */
const props = defineProps<{
  track: Track;
  cues: readonly Cue[];
  sight: Sight;
  /** Where lines stand behind the cues, pixels. */
  grid: (sight: Sight) => readonly number[];
  /** Lanes that are scrolled out of sight are not drawn: each canvas is a layer, and moves with every frame. */
  painted: boolean;
  /** While the view moves, buttons stay where they were: nobody reaches for them then. */
  moving: boolean;
  label: (cue: Cue) => string;
}>();
const hands = useHands();
const library = useLibrary();
const transport = useTransport();
const prefs = usePrefs();
const canvas = useTemplateRef('canvas');

/** More buttons than this would be in nobody's way of finding one: the widest have one. */
const BUTTONS = 200;
const TOP = 4;

const { drawn, style } = useDrawn(
  () => props.sight,
  () => props.moving,
);
const boxes = computed(() => boxesIn(props.cues, drawn.value));
/** Where buttons lie: as much of each as is in sight. */
const places = shallowRef<readonly { cue: Cue; left: number; width: number }[]>([]);
watchEffect(() => {
  if (props.moving) return;
  const all = boxes.value;
  const shown = all.length <= BUTTONS ? all : [...all].sort((a, b) => b.right - b.left - (a.right - a.left)).slice(0, BUTTONS);
  places.value = shown.map(({ cue, left: from, right }) => {
    const left = Math.max(0, from);
    return { cue, left, width: Math.max(6, Math.min(drawn.value.width, right) - left) };
  });
});

/** Why a cue's sound cannot be heard now. */
function absence(cue: Cue): string | undefined {
  const sound = library.sounds.get(cue.soundId);
  return sound && library.absence(sound);
}
/** Colours of a cue: its own, else those of its track. */
function tones(cue: Cue): { wave: string; ground: string } {
  const { palette } = prefs;
  const colour = cue.colour ?? props.track.colour;
  if (!colour) return { wave: palette.glass, ground: palette.glassDeep };
  // Two hexadecimal digits of opacity.
  return { wave: palette[colour], ground: `${palette[colour]}30` };
}

/** Pixels without which no name is written. */
const NAME = 46;

/** What of a box is in sight and free of those that are drawn after it: before the first of them, or behind one that lies on its beginning. */
function freeOf({ left, right }: CueBox, order: readonly CueBox[], after: number): { from: number; to: number } {
  let [from, to] = [Math.max(0, left), Math.min(drawn.value.width, right)];
  for (let i = after; i < order.length && to - from > NAME; i++) {
    const over = order[i];
    if (over.right <= from || over.left >= to) continue;
    if (over.left > from + 24) to = over.left;
    else from = over.right;
  }
  return { from, to };
}

const FONT = '12px "Atkinson Hyperlegible Next Variable", sans-serif';

function drawMark(paper: CanvasRenderingContext2D, { cue, left, right, anchor }: CueBox): void {
  const { palette } = prefs;
  const height = drawn.value.height - TOP - 3;
  const isSelected = hands.selected.has(cue.id);
  paper.globalAlpha = cue.mute ? 0.45 : 1;
  paper.fillStyle = palette.bed;
  paper.fillRect(left, TOP, right - left, height);
  paper.fillStyle = isSelected ? palette.amberDeep : tones(cue).ground;
  paper.fillRect(left, TOP, right - left, height);
  paper.fillStyle = absence(cue) ? palette.coral : isSelected ? palette.amber : tones(cue).wave;
  paper.fillRect(Math.round(anchor), TOP, 1, height);
  paper.globalAlpha = 1;
}

/** Narrower than this, a cue is drawn as a mark: nothing of it could be made out. */
const MARK = 8;

/** @param free where nothing is drawn over it, pixels: its name stands there */
function drawCue(paper: CanvasRenderingContext2D, box: CueBox, free: { from: number; to: number }): void {
  if (box.right - box.left < MARK) return drawMark(paper, box);
  const { cue, left, right } = box;
  const { palette } = prefs;
  const width = right - left;
  const height = drawn.value.height - TOP - 3;
  const isSelected = hands.selected.has(cue.id);
  const missing = absence(cue) !== undefined;
  const late = transport.late.has(cue.id);
  paper.globalAlpha = cue.mute ? 0.45 : 1;
  paper.beginPath();
  paper.roundRect(left + 0.5, TOP + 0.5, Math.max(3, width - 1), height, 4);
  if (!missing) {
    const tone = tones(cue);
    // Colours are see-through: what lies below is not to be read through them.
    paper.fillStyle = palette.bed;
    paper.fill();
    paper.fillStyle = isSelected ? palette.amberDeep : tone.ground;
    paper.fill();
  }
  paper.save();
  paper.clip();
  const peaks = library.peaks.get(cue.soundId);
  const [from, to] = [Math.max(0, left), Math.min(drawn.value.width, right)];
  if (peaks && to > from) {
    paper.fillStyle = isSelected ? palette.bone : tones(cue).wave;
    const played = { start: cue.start, end: cue.end, direction: cue.shape?.direction };
    drawPlayed(paper, peaks, played, { left, right }, { from, to }, { top: TOP + 2, height: height - 4 });
  }
  // What a fade takes away is dimmed.
  for (const side of ['fadeIn', 'fadeOut'] as const) {
    const edge = side === 'fadeIn' ? left : right;
    const length = Math.abs(box[side] - edge);
    if (length < 2) continue;
    const sign = side === 'fadeIn' ? 1 : -1;
    paper.beginPath();
    paper.moveTo(edge, TOP);
    for (let x = 0; x <= length; x += Math.max(1, length / 40)) {
      const gain = fadeGain(cue.shape?.fade ?? 'straight', x / length);
      paper.lineTo(edge + sign * x, TOP + height * (1 - gain));
    }
    paper.lineTo(edge + sign * length, TOP);
    paper.closePath();
    paper.fillStyle = palette.bed;
    paper.globalAlpha = 0.7;
    paper.fill();
    paper.globalAlpha = cue.mute ? 0.45 : 1;
  }
  const textAt = free.from + (free.from > 0 ? 6 : 4);
  if (free.to - free.from > NAME) {
    paper.beginPath();
    paper.rect(textAt - 2, TOP, free.to - textAt, height);
    paper.clip();
    paper.font = FONT;
    paper.fillStyle = palette.text;
    paper.strokeStyle = palette.bed;
    paper.lineWidth = 3;
    paper.lineJoin = 'round';
    const what = missing ? `${absence(cue)}: ${cue.name}` : late ? `Loading: ${cue.name}` : cue.name;
    const text = `${cue.locked ? 'locked · ' : ''}${what}`;
    const at = [textAt, TOP + height - 5] as const;
    // A rim keeps it legible on the waveform; a blurred shadow costs as much as all the rest.
    paper.strokeText(text, ...at);
    paper.fillText(text, ...at);
    paper.lineWidth = 1;
  }
  paper.restore();
  paper.globalAlpha = 1;
  if (isSelected && width > 20 && !missing) {
    paper.fillStyle = palette.amber;
    paper.fillRect(left + 2, Math.round(box.gain), width - 4, 1);
    // Where the corners are held.
    for (const x of [Math.max(box.fadeIn, left + 5), Math.min(box.fadeOut, right - 5)]) {
      paper.beginPath();
      paper.arc(x, TOP + 4, 3, 0, Math.PI * 2);
      paper.fill();
    }
  }
  paper.beginPath();
  paper.roundRect(left + 0.5, TOP + 0.5, Math.max(3, width - 1), height, 4);
  paper.setLineDash(missing || late || cue.mute ? [4, 3] : []);
  paper.strokeStyle = missing ? palette.coral : isSelected ? palette.amber : palette.line;
  paper.stroke();
  paper.setLineDash([]);
  const x = Math.round(box.anchor);
  if (x >= left - 1 && x <= right + 1) {
    paper.fillStyle = palette.amber;
    paper.fillRect(x, TOP, 1, height);
    paper.beginPath();
    paper.moveTo(x - 4, TOP);
    paper.lineTo(x + 5, TOP);
    paper.lineTo(x + 0.5, TOP + 6);
    paper.fill();
  }
}

watchEffect(() => {
  if (!canvas.value || drawn.value.width === 0) return;
  const paper = paperOf(canvas.value, drawn.value.width, drawn.value.height);
  paper.fillStyle = prefs.palette.line;
  for (const x of props.grid(drawn.value)) paper.fillRect(Math.round(x), 0, 1, drawn.value.height);
  const selected = boxes.value.filter((b) => hands.selected.has(b.cue.id));
  const order = [...boxes.value.filter((b) => !hands.selected.has(b.cue.id)), ...selected];
  order.forEach((box, i) => drawCue(paper, box, freeOf(box, order, i + 1)));
});
</script>

<template>
  <div class="lane" role="group" data-space="scene" :aria-label="`Cues on ${track.name}`">
    <div class="within" :class="{ shifted: painted }" :style="style">
      <canvas v-if="painted" ref="canvas" aria-hidden="true" :style="{ width: `${drawn.width}px`, height: `${drawn.height}px` }" />
      <CueButtons :places="places" :label="label" />
    </div>
  </div>
</template>

<style scoped>
.lane {
  position: relative;
  height: 100%;
  overflow: clip;
  contain: layout paint style;
}
/* Buttons lie as high as the lane. */
.within {
  height: 100%;
  transform-origin: 0 0;
}
canvas {
  position: absolute;
  top: 0;
  left: 0;
}
</style>
