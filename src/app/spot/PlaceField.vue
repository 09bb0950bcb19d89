<script setup lang="ts">
import { spanOf, type Cue } from '@core/scene';
import { GAINS } from '@core/timeline';
import { RATE } from '@platform/index';
import { useLocalStorage } from '@vueuse/core';
import { Button } from 'ant-design-vue';
import { computed, ref } from 'vue';
import { signed } from '../shared/controls/format';
import NumberBox from '../shared/controls/NumberBox.vue';
import { useTransport } from '../stores/transport';
import { useHands } from '../stores/hands';
import { useScene } from '../stores/scene';

/** Where the selected cues stand: left to right, and near to far by their level. What a hand does here is heard while it does it. */
const scene = useScene();
const hands = useHands();
const transport = useTransport();
/** How many dB lie between near and far. */
const depth = useLocalStorage('place-depth', 24);
const [WIDTH, HEIGHT] = [220, 130];
const field = ref<HTMLElement>();
const held = ref(false);

const now = computed(() => scene.heard.find((c) => c.id === scene.cueId));
const gainOf = computed(() => now.value?.gain ?? 0);
const placeOf = computed(() => now.value?.place ?? 0);
const x = computed(() => ((placeOf.value + 1) / 2) * WIDTH);
const y = computed(() => Math.max(0, Math.min(1, 1 + gainOf.value / depth.value)) * HEIGHT);

const inBounds = (value: number, least: number, most: number) => Math.max(least, Math.min(most, value));
/** Cues as they are when the shown one stands there; the others keep their distance to it. */
function standing(place: number, gain: number): Cue[] {
  const own = scene.cue;
  if (!own) return [];
  const [byPlace, byGain] = [place - (own.place ?? 0), gain - own.gain];
  return hands.free.map((c) => ({
    ...c,
    place: Math.round(inBounds((c.place ?? 0) + byPlace, -1, 1) * 100) / 100 || undefined,
    gain: Math.round(inBounds(c.gain + byGain, GAINS.least, GAINS.most) * 10) / 10,
  }));
}
function draft(event: PointerEvent): void {
  const box = field.value!.getBoundingClientRect();
  const place = inBounds(((event.clientX - box.left) / WIDTH) * 2 - 1, -1, 1);
  const gain = (inBounds((event.clientY - box.top) / HEIGHT, 0, 1) - 1) * depth.value;
  // The middle is easily met.
  const cues = standing(Math.abs(place) < 0.04 ? 0 : place, gain);
  scene.draft = new Map(cues.map((c) => [c.id, c]));
}
function down(event: PointerEvent): void {
  field.value?.setPointerCapture(event.pointerId);
  held.value = true;
  draft(event);
}
async function up(): Promise<void> {
  if (!held.value) return;
  held.value = false;
  const cues = [...scene.draft.values()];
  if (cues.length > 0) await scene.keepCues(`Place ${hands.nameOf(cues)}`, cues);
  scene.draft = new Map();
}
function cancel(): void {
  held.value = false;
  scene.draft = new Map();
}
const steps: Record<string, [number, number]> = { ArrowLeft: [-0.05, 0], ArrowRight: [0.05, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
function key(event: KeyboardEvent): void {
  const step = steps[event.key];
  if (!step || !scene.cue) return;
  event.preventDefault();
  event.stopPropagation();
  const [place, gain] = step;
  void hands.change('Place', (c) => ({
    ...c,
    place: Math.round(inBounds((c.place ?? 0) + place, -1, 1) * 100) / 100 || undefined,
    gain: inBounds(c.gain + gain, GAINS.least, GAINS.most),
  }));
}

/** The next cue is selected and heard with what goes before it. */
function next(direction: 1 | -1): void {
  const own = scene.cue;
  const sorted = [...scene.cues].sort((a, b) => direction * (a.at - b.at || a.id - b.id));
  const to = sorted[sorted.findIndex((c) => c.id === own?.id) + 1];
  if (!to) return;
  void hands.select([to.id]);
  scene.use();
  transport.run(true, Math.max(0, Math.floor(spanOf(to, RATE).start) - RATE));
}
const side = computed(() => {
  if (placeOf.value === 0) return 'middle';
  return `${Math.round(Math.abs(placeOf.value) * 100)} % ${placeOf.value < 0 ? 'left' : 'right'}`;
});
</script>

<template>
  <div class="place">
    <div
      ref="field"
      class="field"
      tabindex="0"
      role="application"
      aria-label="Level and place: arrows move the cue left, right, far and near"
      :style="{ width: `${WIDTH}px`, height: `${HEIGHT}px` }"
      @pointerdown="down"
      @pointermove="held && draft($event)"
      @pointerup="up"
      @pointercancel="cancel"
      @keydown="key"
    >
      <span class="word far">far</span><span class="word near">near</span><span class="word left">left</span><span class="word right">right</span>
      <span class="middle" />
      <span class="dot" :style="{ left: `${x}px`, top: `${y}px` }" />
    </div>
    <span class="mono" aria-label="Level and place of the cue">{{ signed(gainOf, 1) }} dB, {{ side }}</span>
    <label
      >Far is
      <NumberBox :value="-depth" :min="-60" :max="-3" :step="1" aria-label="Level at the far end, dB" class="number" @set="(v) => (depth = -v)" /> dB</label
    >
    <div class="tools">
      <Button size="small" @click="next(-1)">Cue before</Button>
      <Button size="small" @click="next(1)">Next cue</Button>
    </div>
  </div>
</template>

<style scoped>
.place {
  display: grid;
  gap: 8px;
}
.field {
  position: relative;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: linear-gradient(var(--deep), var(--raft2));
  touch-action: none;
  cursor: crosshair;
}
.word {
  position: absolute;
  font-size: 11px;
  color: var(--mute);
  pointer-events: none;
}
.far {
  top: 2px;
  left: 50%;
  translate: -50%;
}
.near {
  bottom: 2px;
  left: 50%;
  translate: -50%;
}
.left {
  top: 50%;
  left: 4px;
}
.right {
  top: 50%;
  right: 4px;
}
.middle {
  position: absolute;
  top: 20px;
  bottom: 20px;
  left: 50%;
  border-left: 1px dashed var(--line);
}
.dot {
  position: absolute;
  width: 12px;
  height: 12px;
  margin: -6px 0 0 -6px;
  border-radius: 50%;
  background: var(--amber);
  pointer-events: none;
}
label {
  display: flex;
  align-items: center;
  gap: 6px;
}
.number {
  width: 70px;
}
</style>
