<script setup lang="ts">
import { fadeGain } from '@core/audio';
import { type Cue, type Track } from '@core/scene';
import { boxesIn, type CueBox, type Sight } from '@core/timeline';
import { useElementVisibility } from '@vueuse/core';
import { computed, useTemplateRef, watchEffect } from 'vue';
import { drawContour, paperOf } from '../shared/sound/paint';
import { useAudition } from '../stores/audition';
import { useHands } from '../stores/hands';
import { useLibrary } from '../stores/library';
import { usePrefs } from '../stores/prefs';
import { useScene } from '../stores/scene';

/** One track's cues on one canvas, as far as they are in sight; for those who do not see it, buttons that say what lies there. */
const props = defineProps<{ track: Track; cues: readonly Cue[]; sight: Sight; label: (cue: Cue) => string }>();
const scene = useScene();
const hands = useHands();
const library = useLibrary();
const audition = useAudition();
const prefs = usePrefs();
const canvas = useTemplateRef('canvas');
/** Lanes that are scrolled out of sight are not drawn, and in a large scene have no buttons either. */
const lane = useTemplateRef('lane');
const inView = useElementVisibility(lane);
const LARGE = 500;

/** More buttons than this would be in nobody's way of finding one: the widest have one. */
const BUTTONS = 200;
const TOP = 4;

const shown = computed(() => inView.value || scene.cues.length <= LARGE);
const boxes = computed(() => (shown.value ? boxesIn(props.cues, props.sight) : []));
const buttons = computed(() =>
  boxes.value.length <= BUTTONS
    ? boxes.value
    : [...boxes.value].sort((a, b) => b.right - b.left - (a.right - a.left)).slice(0, BUTTONS),
);

/** Where a button lies: as much of it as is in sight. */
function inSight({ left, right }: CueBox): { left: string; width: string } {
  const [from, to] = [Math.max(0, left), Math.min(props.sight.width, right)];
  return { left: `${from}px`, width: `${Math.max(6, to - from)}px` };
}

/** Why a cue's sound cannot be heard now. */
function absence(cue: Cue): string | undefined {
  const sound = library.sounds.get(cue.soundId);
  return sound && library.absence(sound);
}
function say(cue: Cue): string {
  const why = absence(cue)?.toLowerCase();
  return [props.label(cue), cue.locked ? 'locked' : '', why ?? '', !why && audition.late.has(cue.id) ? 'still loading' : ''].filter(Boolean).join(', ');
}

/** Colours of a cue: its own, else those of its track. */
function tones(cue: Cue): { wave: string; ground: string } {
  const { palette } = prefs;
  const colour = cue.colour ?? props.track.colour;
  if (!colour) return { wave: palette.glass, ground: palette.glassDeep };
  // Two hexadecimal digits of opacity.
  return { wave: palette[colour], ground: `${palette[colour]}30` };
}

const FONT = '12px "Atkinson Hyperlegible Next Variable", sans-serif';

function drawCue(paper: CanvasRenderingContext2D, box: CueBox): void {
  const { cue, left, right } = box;
  const { palette } = prefs;
  const width = right - left;
  const height = props.sight.height - TOP - 3;
  const isSelected = hands.selected.has(cue.id);
  const missing = absence(cue) !== undefined;
  const late = audition.late.has(cue.id);
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
  const [from, to] = [Math.max(0, left), Math.min(props.sight.width, right)];
  if (peaks && to > from) {
    paper.fillStyle = isSelected ? palette.bone : tones(cue).wave;
    const back = cue.shape?.direction === 'backward';
    const per = (cue.end - cue.start) / width;
    const frameAt = (x: number) => (back ? cue.end - (x + 1 - left) * per : cue.start + (x - left) * per);
    drawContour(paper, peaks, { from, to }, back ? (x) => Math.min(frameAt(x), frameAt(x - 1)) : frameAt, { top: TOP + 2, height: height - 4 });
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
  if (width > 60) {
    paper.font = FONT;
    paper.fillStyle = palette.text;
    paper.shadowColor = palette.deep;
    paper.shadowBlur = 3;
    const what = missing ? `${absence(cue)}: ${cue.name}` : late ? `Loading: ${cue.name}` : cue.name;
    paper.fillText(`${cue.locked ? 'locked · ' : ''}${what}`, Math.max(4, left + 6), TOP + height - 5);
    paper.shadowBlur = 0;
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
  if (!inView.value || !canvas.value || props.sight.width === 0) return;
  const paper = paperOf(canvas.value, props.sight.width, props.sight.height);
  const selected = boxes.value.filter((b) => hands.selected.has(b.cue.id));
  for (const box of boxes.value) if (!hands.selected.has(box.cue.id)) drawCue(paper, box);
  for (const box of selected) drawCue(paper, box);
});
</script>

<template>
  <div ref="lane" class="lane" role="group" data-space="scene" :aria-label="`Cues on ${track.name}`">
    <canvas ref="canvas" aria-hidden="true" :style="{ width: `${sight.width}px`, height: `${sight.height}px` }" />
    <button
      v-for="box in buttons"
      :key="box.cue.id"
      :aria-pressed="hands.selected.has(box.cue.id)"
      :aria-label="say(box.cue)"
      :title="absence(box.cue) ? `${box.cue.name}: its file is ${absence(box.cue)!.toLowerCase()}` : box.cue.name"
      :style="inSight(box)"
      @keydown.enter.stop.prevent="scene.select(box.cue.id)"
      @click="$event.detail === 0 && scene.select(box.cue.id)"
    />
  </div>
</template>

<style scoped>
.lane {
  position: relative;
  overflow: hidden;
  border-bottom: 1px solid var(--line);
}
canvas {
  position: absolute;
  top: 0;
  left: 0;
}
button {
  position: absolute;
  top: 4px;
  bottom: 3px;
  padding: 0;
  border: 0;
  border-radius: 4px;
  background: none;
  cursor: inherit;
  touch-action: none;
}
</style>
