<script setup lang="ts">
import { curveAt, frameToSample, heightOf, movedPoint, sampleToFrame, timecodeAt, valueAtHeight, withPoint, type CurveOf, type Track } from '@core/scene';
import { placeOf, sampleAt, type Sight } from '@core/timeline';
import { RATE } from '@platform/index';
import { computed, nextTick, ref, useTemplateRef } from 'vue';
import { useCurves } from '../stores/curves';
import { useHands } from '../stores/hands';
import { useScene } from '../stores/scene';
import { useTransport } from '../stores/transport';

/** A value of a track that runs along the timeline, drawn over its lane: a press sets a point, a drag moves one, two presses take it away. */
const props = defineProps<{ track: Track; curve: CurveOf; sight: Sight }>();
const curves = useCurves();
const scene = useScene();
const hands = useHands();
const transport = useTransport();
const ground = useTemplateRef('ground');
/** Pixels that the curve keeps from the borders of the lane, and within which a point is taken hold of. */
const [EDGE, REACH] = [5, 8];

const points = computed(() => props.curve.points);
const yOf = (value: number) => EDGE + (1 - heightOf(props.curve.spec, value)) * (props.sight.height - 2 * EDGE);
const valueAt = (y: number) => {
  const { spec } = props.curve;
  const value = valueAtHeight(spec, 1 - (y - EDGE) / (props.sight.height - 2 * EDGE));
  const digits = spec.unit === 'dB' ? 10 : 100;
  return Math.round(value * digits) / digits;
};
const dots = computed(() => points.value.map((p, i) => ({ ...p, i, x: placeOf(props.sight, p.at), y: yOf(p.value) })));
/** Only what is in sight is drawn, and what leads into it. */
const near = computed(() => dots.value.filter((d, i) => (dots.value[i + 1]?.x ?? d.x) > -20 && (dots.value[i - 1]?.x ?? d.x) < props.sight.width + 20));
const path = computed(() => {
  const { width } = props.sight;
  const still = yOf(curveAt(points.value, Math.max(0, sampleAt(props.sight, 0)), props.curve.still));
  const end = yOf(curveAt(points.value, Math.max(0, sampleAt(props.sight, width)), props.curve.still));
  const inside = near.value.filter((d) => d.x > 0 && d.x < width).map((d) => `L${d.x} ${d.y}`);
  return `M0 ${still}${inside.join('')}L${width} ${end}`;
});
const told = (value: number) => {
  const { unit, most } = props.curve.spec;
  const digits = unit === 'dB' ? 1 : most <= 1 ? 2 : most <= 40 ? 1 : 0;
  return `${value.toFixed(digits).replace('-', '−')}${unit ? ` ${unit}` : ''}`;
};
const say = (p: { at: number; value: number }) =>
  `${props.curve.name} ${told(p.value)} at ${scene.current ? timecodeAt(scene.current, sampleToFrame(p.at, scene.rate, RATE)) : ''}`;
const here = computed(() => told(curveAt(points.value, transport.position, props.curve.still)));

const snapped = (sample: number, free: boolean) =>
  Math.max(0, Math.round(free || !hands.snapping ? sample : frameToSample(Math.round((sample * scene.rate.num) / (scene.rate.den * RATE)), scene.rate, RATE)));
const keep = (label: string, to: CurveOf['points']) => void curves.keep(`${label} of ${props.curve.name} on ${props.track.name}`, props.curve, to);

/** What a hand holds: which point, and how all were before. */
const held = ref<{ index: number; before: CurveOf['points'] }>();
function placeIn(event: PointerEvent): { x: number; y: number } {
  const box = ground.value!.getBoundingClientRect();
  return { x: event.clientX - box.left, y: event.clientY - box.top };
}
function down(event: PointerEvent): void {
  if (event.button !== 0 || props.track.locked || scene.isHeld()) return;
  event.stopPropagation();
  const { x, y } = placeIn(event);
  const found = dots.value.find((d) => Math.hypot(d.x - x, d.y - y) <= REACH);
  ground.value!.setPointerCapture(event.pointerId);
  const before = points.value;
  if (found) return void (held.value = { index: found.i, before });
  const point = { at: snapped(sampleAt(props.sight, x), event.shiftKey), value: valueAt(y) };
  const next = withPoint(before, point);
  curves.draft(props.curve, next);
  held.value = { index: next.findIndex((p) => p.at === point.at), before };
}
function move(event: PointerEvent): void {
  if (!held.value) return;
  event.stopPropagation();
  const { x, y } = placeIn(event);
  curves.draft(props.curve, movedPoint(points.value, held.value.index, { at: snapped(sampleAt(props.sight, x), event.shiftKey), value: valueAt(y) }));
}
function up(event: PointerEvent): void {
  if (!held.value) return;
  event.stopPropagation();
  const { before } = held.value;
  held.value = undefined;
  if (JSON.stringify(before) !== JSON.stringify(points.value)) keep(points.value.length > before.length ? 'Set a point' : 'Move a point', points.value);
}
function cancel(): void {
  if (held.value) curves.draft(props.curve, held.value.before);
  held.value = undefined;
}
function twice(event: MouseEvent): void {
  const box = ground.value!.getBoundingClientRect();
  const [x, y] = [event.clientX - box.left, event.clientY - box.top];
  const found = dots.value.find((d) => Math.hypot(d.x - x, d.y - y) <= REACH);
  if (found && !props.track.locked) remove(found.i);
}
const remove = (index: number) =>
  keep(
    'Remove a point',
    points.value.filter((_, i) => i !== index),
  );
async function key(event: KeyboardEvent, index: number): Promise<void> {
  const point = points.value[index];
  const { least, most, unit } = props.curve.spec;
  const step = unit === 'dB' ? 0.5 : (most - least) / 100;
  const frame = frameToSample(1, scene.rate, RATE);
  const to = {
    ArrowUp: { at: point.at, value: Math.min(most, point.value + step) },
    ArrowDown: { at: point.at, value: Math.max(least, point.value - step) },
    ArrowLeft: { at: point.at - frame, value: point.value },
    ArrowRight: { at: point.at + frame, value: point.value },
  }[event.key];
  const goes = event.key === 'Delete' || event.key === 'Backspace';
  if ((!to && !goes) || event.ctrlKey || event.altKey || event.shiftKey || props.track.locked || scene.isHeld()) return;
  event.preventDefault();
  event.stopPropagation();
  const label = `of ${props.curve.name} on ${props.track.name}`;
  if (goes)
    return curves.keep(
      `Remove a point ${label}`,
      props.curve,
      points.value.filter((_, i) => i !== index),
    );
  await curves.keep(`Move a point ${label}`, props.curve, movedPoint(points.value, index, to!));
  await nextTick();
  ground.value?.querySelector<SVGElement>(`[data-index="${index}"]`)?.focus();
}
</script>

<template>
  <div
    ref="ground"
    class="curve"
    role="group"
    :aria-label="`${curve.name} of ${track.name}`"
    @pointerdown="down"
    @pointermove="move"
    @pointerup="up"
    @pointercancel="cancel"
    @keydown.esc="held && (cancel(), $event.stopPropagation())"
    @dblclick.stop="twice"
  >
    <svg :width="sight.width" :height="sight.height">
      <path :d="path" />
      <circle
        v-for="dot in near"
        :key="dot.i"
        :cx="dot.x"
        :cy="dot.y"
        r="3.5"
        :data-index="dot.i"
        role="button"
        tabindex="0"
        :aria-label="say(dot)"
        :class="{ held: held?.index === dot.i }"
        @keydown="key($event, dot.i)"
      />
    </svg>
    <span class="name mono">{{ curve.name }} {{ held && points[held.index] ? told(points[held.index].value) : here }}</span>
  </div>
</template>

<style scoped>
.curve {
  position: absolute;
  z-index: 1;
  inset: 0;
  background: color-mix(in srgb, var(--bed) 55%, transparent);
  cursor: crosshair;
  overflow: clip;
}
svg {
  display: block;
}
path {
  fill: none;
  stroke: var(--bone);
  stroke-width: 1.5;
}
circle {
  fill: var(--bed);
  stroke: var(--bone);
  stroke-width: 1.5;
  cursor: move;
}
circle:focus-visible,
.held {
  fill: var(--amber);
  outline: none;
  stroke: var(--amber);
}
.name {
  position: absolute;
  right: 8px;
  bottom: 2px;
  font-size: 12px;
  color: var(--bone);
  pointer-events: none;
}
</style>
