<script setup lang="ts">
import { effectOf, valuesFor } from '@core/effects';
import type { LineEffect } from '@core/scene';
import { RATE } from '@platform/index';
import { computed, ref } from 'vue';
import { useMix } from '../../stores/mix';

/**
 * How an effect colours what passes, over the spectrum, or what it makes of levels. Bands of an equaliser are held by their dots: frequency to
 * the side, gain upward, quality by the wheel; a double click makes a bell where there is none.
 */
const props = defineProps<{ effect: LineEffect; values: Readonly<Record<string, number>> }>();
const mix = useMix();
const entry = computed(() => effectOf(props.effect.kind)!);
const all = computed(() => valuesFor(entry.value, props.values));
const isLevel = computed(() => entry.value.settles !== undefined);

const [WIDE, HIGH] = [560, 132];
/** What is seen: Hz and dB of spectra; dB of levels. */
const [LOW, TOP] = [20, 20_000];
const RANGE = 24;
const LEVELS = -72;
const POINTS = 140;

const x = (freq: number) => (WIDE * Math.log(freq / LOW)) / Math.log(TOP / LOW);
const freqAt = (at: number) => LOW * (TOP / LOW) ** (at / WIDE);
const y = (dB: number) => (HIGH / 2) * (1 - Math.max(-RANGE, Math.min(RANGE, dB)) / RANGE);
const gainAt = (at: number) => RANGE * (1 - at / (HIGH / 2));
const along = (level: number) => WIDE * (1 - level / LEVELS);
const up = (level: number) => Math.max(0, Math.min(HIGH, (HIGH * level) / LEVELS));

const course = computed(() => {
  const { colours, settles } = entry.value;
  const steps = Array.from({ length: POINTS + 1 }, (_, i) => i / POINTS);
  return steps
    .map((share) => {
      const level = LEVELS * (1 - share);
      const [at, to] = colours ? [WIDE * share, y(colours(all.value, RATE, freqAt(WIDE * share)))] : [along(level), up(settles!(all.value, level))];
      return `${at.toFixed(1)},${to.toFixed(1)}`;
    })
    .join(' ');
});
const lines = computed(() =>
  isLevel.value
    ? [-60, -48, -36, -24, -12].map((level) => ({ key: level, x: along(level), y: up(level), label: `${level}` }))
    : [50, 100, 200, 500, 1000, 2000, 5000, 10_000].map((freq) => ({ key: freq, x: x(freq), y: 0, label: freq < 1000 ? `${freq}` : `${freq / 1000} k` })),
);

interface Dot {
  n: string;
  freq: number;
  gain: number;
  lifts: boolean;
  kind: string;
}
const specOf = (key: string) => entry.value.params.find((p) => p.key === key);
const dots = computed((): Dot[] => {
  if (props.effect.kind === 'filter') return [{ n: '', freq: all.value.freq, gain: 0, lifts: false, kind: 'filter' }];
  return ['1', '2', '3', '4', '5', '6', '7', '8'].flatMap((n) => {
    const spec = specOf(`kind${n}`);
    const kind = spec?.choices?.[all.value[`kind${n}`]] ?? 'off';
    if (kind === 'off') return [];
    const lifts = kind === 'bell' || kind.endsWith('shelf');
    return { n, freq: all.value[`freq${n}`], gain: lifts ? all.value[`gain${n}`] : 0, lifts, kind };
  });
});
const told = (dot: Dot) => `${dot.kind} at ${Math.round(dot.freq)} Hz${dot.lifts ? `, ${dot.gain.toFixed(1)} dB` : ''}`;

const held = (key: string, value: number) => {
  const spec = specOf(key);
  return spec ? Math.max(spec.least, Math.min(spec.most, value)) : value;
};
function set(dot: Dot, freq: number, gain: number): void {
  const key = `freq${dot.n}`;
  mix.turn(props.effect, key, held(key, Number(freq.toPrecision(3))));
  if (dot.lifts) mix.turn(props.effect, `gain${dot.n}`, held(`gain${dot.n}`, Math.round(gain * 10) / 10));
}
const field = ref<SVGSVGElement>();
/** Where a pointer is, in the measures of the field. */
function pointAt(event: MouseEvent): { x: number; y: number } {
  const box = field.value!.getBoundingClientRect();
  return { x: ((event.clientX - box.left) / box.width) * WIDE, y: ((event.clientY - box.top) / box.height) * HIGH };
}
const pulled = ref<string>();
function grab(event: PointerEvent, dot: Dot): void {
  (event.currentTarget as Element).setPointerCapture(event.pointerId);
  pulled.value = dot.n;
}
function pull(event: PointerEvent, dot: Dot): void {
  if (pulled.value !== dot.n) return;
  const at = pointAt(event);
  set(dot, freqAt(Math.max(0, Math.min(WIDE, at.x))), gainAt(at.y));
}
function wheel(event: WheelEvent, dot: Dot): void {
  const key = `q${dot.n}`;
  if (specOf(key)) mix.turn(props.effect, key, held(key, Number((all.value[key] * 2 ** (-Math.sign(event.deltaY) / 4)).toFixed(2))));
}
/** A semitone to the side, half a decibel up or down. */
function key(event: KeyboardEvent, dot: Dot): void {
  const [aside, above] = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key] ?? [0, 0];
  if (aside === 0 && above === 0) return;
  event.preventDefault();
  event.stopPropagation();
  set(dot, dot.freq * 2 ** (aside / 12), dot.gain + above / 2);
}
function make(event: MouseEvent): void {
  const free = entry.value.params.find((p) => /^kind\d/.test(p.key) && all.value[p.key] === 0);
  if (!free?.choices || props.effect.kind !== 'equaliser') return;
  const n = free.key.slice(4);
  mix.turn(props.effect, free.key, free.choices.indexOf('bell'));
  const at = pointAt(event);
  set({ n, freq: 0, gain: 0, lifts: true, kind: 'bell' }, freqAt(at.x), gainAt(at.y));
}
const name = computed(() => {
  if (isLevel.value) return `Levels: ${[-48, -24, -12].map((l) => `${l} dB comes out at ${entry.value.settles!(all.value, l).toFixed(1)}`).join(', ')}`;
  return `Colouring: ${[100, 1000, 10_000].map((f) => `${entry.value.colours!(all.value, RATE, f).toFixed(1)} dB at ${f} Hz`).join(', ')}`;
});
</script>

<template>
  <div class="field">
    <svg ref="field" :viewBox="`0 0 ${WIDE} ${HIGH}`" preserveAspectRatio="none" role="img" :aria-label="name" @dblclick="make">
      <template v-for="line in lines" :key="line.key">
        <line class="grid" :x1="line.x" :x2="line.x" y1="0" :y2="HIGH" />
        <line v-if="isLevel" class="grid" x1="0" :x2="WIDE" :y1="line.y" :y2="line.y" />
      </template>
      <line v-if="!isLevel" class="zero" x1="0" :x2="WIDE" :y1="HIGH / 2" :y2="HIGH / 2" />
      <line v-else class="zero" x1="0" :x2="WIDE" :y1="HIGH" y2="0" />
      <polyline class="course" :class="{ off: !effect.on }" :points="course" />
    </svg>
    <span v-for="line in lines" :key="line.key" class="label mono" :style="{ left: `${(line.x / WIDE) * 100}%` }">{{ line.label }}</span>
    <template v-if="!isLevel">
      <button
        v-for="dot in dots"
        :key="dot.n"
        class="dot mono"
        :aria-label="`${dot.n ? `Band ${dot.n}` : 'Filter'}: ${told(dot)}; arrows move it`"
        :title="`${told(dot)}; drag it, wheel for its quality`"
        :style="{ left: `${(x(dot.freq) / WIDE) * 100}%`, top: `${(y(dot.gain) / HIGH) * 100}%` }"
        @pointerdown="grab($event, dot)"
        @pointermove="pull($event, dot)"
        @pointerup="pulled = undefined"
        @lostpointercapture="pulled = undefined"
        @wheel.prevent="wheel($event, dot)"
        @keydown="key($event, dot)"
      >
        {{ dot.n }}
      </button>
    </template>
  </div>
</template>

<style scoped>
.field {
  user-select: none;
  position: relative;
  max-width: 720px;
  height: 132px;
  margin: 2px 12px 12px 0;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--deep);
}
svg {
  display: block;
  width: 100%;
  height: 100%;
}
.grid {
  stroke: var(--line);
  stroke-width: 1;
  vector-effect: non-scaling-stroke;
}
.zero {
  stroke: var(--mute);
  stroke-width: 1;
  stroke-dasharray: 2 4;
  vector-effect: non-scaling-stroke;
}
.course {
  fill: none;
  stroke: var(--glass);
  stroke-width: 2;
  vector-effect: non-scaling-stroke;
}
.off {
  stroke: var(--mute);
}
.label {
  position: absolute;
  bottom: -15px;
  color: var(--mute);
  font-size: 10px;
  transform: translateX(-50%);
  pointer-events: none;
}
.dot {
  position: absolute;
  width: 20px;
  height: 20px;
  padding: 0;
  border: 1.5px solid var(--glass);
  border-radius: 50%;
  background: var(--raft2);
  color: var(--bone);
  font-size: 11px;
  line-height: 1;
  cursor: grab;
  touch-action: none;
  transform: translate(-50%, -50%);
}
.dot:active {
  cursor: grabbing;
}
</style>
