<script setup lang="ts">
import { CloseOutlined } from '@ant-design/icons-vue';
import { fieldOf, fields, isNumeric, nameOf, shownNumber } from '@core/library';
import { useElementSize } from '@vueuse/core';
import { Button, Tooltip } from 'ant-design-vue';
import { computed, ref, shallowRef, useTemplateRef, watch, watchEffect } from 'vue';
import { withKey } from '../shared/controls/commands';
import { count } from '../shared/controls/format';
import { paperOf } from '../shared/sound/paint';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { usePrefs } from '../stores/prefs';
import { searchOf } from '../stores/view';
import { catalogue } from '../stores/workers';
import FieldSelect from '../shared/controls/FieldSelect.vue';

/** The results on two measured axes: drag to narrow, point to see, click or walk by arrows to hear. */
const emit = defineEmits<{ choose: [id: number]; close: [] }>();

const find = useFind();
const library = useLibrary();
const prefs = usePrefs();
const box = useTemplateRef('box');
const canvas = useTemplateRef('canvas');
const { width, height } = useElementSize(box);

interface Points {
  ids: Uint32Array;
  x: Float64Array;
  y: Float64Array;
}
const points = shallowRef<Points>({ ids: new Uint32Array(0), x: new Float64Array(0), y: new Float64Array(0) });
/** Results without one of the numbers: they have no place here. */
const without = ref(0);

const axes = fields.filter((f) => isNumeric(f) && f.type !== 'date').map((f) => ({ value: f.key, label: f.unit ? `${f.label} (${f.unit})` : f.label }));
const MARGIN = { left: 54, right: 12, top: 10, bottom: 26 };

/** Frequencies, lengths and counts are heard by their ratios. */
const ratios = new Set(['Hz', 's', 'BPM']);
interface Axis {
  low: number;
  high: number;
  log: boolean;
}
function axisOf(key: string, values: Float64Array): Axis {
  let [low, high, least] = [Infinity, -Infinity, Infinity];
  for (const v of values) {
    if (v < low) low = v;
    if (v > high) high = v;
    if (v > 0 && v < least) least = v;
  }
  if (low > high) return { low: 0, high: 1, log: false };
  const log = ratios.has(fieldOf(key).unit ?? '') && least > 0 && high / least > 8;
  if (log) low = Math.max(low, least);
  if (low === high) return { low: low - 0.5, high: high + 0.5, log: false };
  // What lies at the edge is to be seen and brushed whole.
  const room = log ? (high / low) ** 0.03 : (high - low) * 0.03;
  return log ? { low: low / room, high: high * room, log } : { low: low - room, high: high + room, log };
}
const axisX = computed(() => axisOf(prefs.plotAxes[0], points.value.x));
const axisY = computed(() => axisOf(prefs.plotAxes[1], points.value.y));

const share = (value: number, { low, high, log }: Axis) => (log ? Math.log(Math.max(value, low) / low) / Math.log(high / low) : (value - low) / (high - low));
const valueAt = (part: number, { low, high, log }: Axis) => (log ? low * (high / low) ** part : low + part * (high - low));
const xOf = (value: number) => MARGIN.left + share(value, axisX.value) * (width.value - MARGIN.left - MARGIN.right);
const yOf = (value: number) => height.value - MARGIN.bottom - share(value, axisY.value) * (height.value - MARGIN.top - MARGIN.bottom);
const valueX = (x: number) => valueAt((x - MARGIN.left) / (width.value - MARGIN.left - MARGIN.right), axisX.value);
const valueY = (y: number) => valueAt((height.value - MARGIN.bottom - y) / (height.value - MARGIN.top - MARGIN.bottom), axisY.value);

function ticksOf({ low, high, log }: Axis): number[] {
  const most = 6;
  if (log) {
    const made: number[] = [];
    for (let decade = 10 ** Math.floor(Math.log10(low)); decade <= high; decade *= 10)
      for (const m of [1, 2, 5]) if (decade * m >= low && decade * m <= high) made.push(decade * m);
    return made.length > 10 ? made.filter((v) => /^1/.test(String(v / 10 ** Math.floor(Math.log10(v) + 1e-9)))) : made;
  }
  const rough = (high - low) / most;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map((m) => m * power).find((s) => s >= rough)!;
  const first = Math.ceil(low / step);
  return Array.from({ length: Math.floor(high / step) - first + 1 }, (_, i) => (first + i) * step);
}

let newest = 0;
watch(
  () => [find.answer.ids, prefs.plotAxes] as const,
  async ([, [x, y]]) => {
    const own = ++newest;
    const table = await catalogue.tableOf({ ...searchOf(find.view), inside: find.view.trail.map(searchOf) }, [x, y]);
    if (own !== newest || !table) return;
    const [xs, ys] = [x, y].map((key) => (table.columns[key] as { numbers: Float64Array }).numbers);
    const good = [...table.ids.keys()].filter((i) => !Number.isNaN(xs[i]) && !Number.isNaN(ys[i]));
    without.value = table.ids.length - good.length;
    points.value = { ids: Uint32Array.from(good, (i) => table.ids[i]), x: Float64Array.from(good, (i) => xs[i]), y: Float64Array.from(good, (i) => ys[i]) };
  },
  { immediate: true },
);

const pointed = ref(-1);
const pointedSound = computed(() => (pointed.value < 0 ? undefined : library.sounds.get(points.value.ids[pointed.value])));
watch(pointed, (i) => i >= 0 && void library.need([points.value.ids[i]]));
watch(points, () => (pointed.value = -1));
const brush = ref<{ x0: number; y0: number; x1: number; y1: number }>();

/** From so many points on, single ones say less than how thick they lie. */
const MANY = 4000;
watchEffect(() => {
  if (!canvas.value || width.value < 100) return;
  const paper = paperOf(canvas.value, width.value, height.value);
  const { ids, x, y } = points.value;
  const { palette } = prefs;
  paper.font = '12px "Atkinson Hyperlegible Mono Variable"';
  paper.fillStyle = palette.mute;
  paper.strokeStyle = palette.line;
  paper.lineWidth = 1;
  paper.textAlign = 'center';
  for (const t of ticksOf(axisX.value)) {
    paper.fillRect(xOf(t), height.value - MARGIN.bottom, 1, 4);
    paper.fillText(shortNumber(t), xOf(t), height.value - 8);
  }
  paper.textAlign = 'right';
  for (const t of ticksOf(axisY.value)) {
    paper.fillRect(MARGIN.left - 4, yOf(t), 4, 1);
    paper.fillText(shortNumber(t), MARGIN.left - 8, yOf(t) + 4);
  }
  paper.strokeRect(MARGIN.left - 0.5, MARGIN.top - 0.5, width.value - MARGIN.left - MARGIN.right + 1, height.value - MARGIN.top - MARGIN.bottom + 1);
  paper.fillStyle = palette.glass;
  const many = ids.length > MANY;
  paper.globalAlpha = many ? Math.max(0.06, Math.min(0.6, 8000 / ids.length)) : 0.7;
  const size = many ? 2 : 5;
  for (let i = 0; i < ids.length; i++) paper.fillRect(xOf(x[i]) - size / 2, yOf(y[i]) - size / 2, size, size);
  paper.globalAlpha = 1;
  mark(paper, ids.indexOf(find.view.soundId ?? -1), palette.amber, 5);
  mark(paper, pointed.value, palette.bone, 6);
  if (brush.value) {
    const { x0, y0, x1, y1 } = brush.value;
    paper.fillStyle = palette.amberDeep;
    paper.globalAlpha = 0.4;
    paper.fillRect(Math.min(x0, x1), Math.min(y0, y1), Math.abs(x1 - x0), Math.abs(y1 - y0));
    paper.globalAlpha = 1;
  }
});
function mark(paper: CanvasRenderingContext2D, i: number, colour: string, radius: number): void {
  if (i < 0) return;
  const { x, y } = points.value;
  paper.strokeStyle = colour;
  paper.lineWidth = 2;
  paper.beginPath();
  paper.arc(xOf(x[i]), yOf(y[i]), radius, 0, 2 * Math.PI);
  paper.stroke();
}
const shortNumber = (v: number) => (Math.abs(v) >= 1000 ? `${Number((v / 1000).toPrecision(3))}k` : String(Number(v.toPrecision(3))));

/** The point nearest to a place, within reach. */
function nearestTo(px: number, py: number, reach: number, good: (i: number) => boolean = () => true): number {
  const { ids, x, y } = points.value;
  let [best, least] = [-1, reach * reach];
  for (let i = 0; i < ids.length; i++) {
    if (!good(i)) continue;
    const d = (xOf(x[i]) - px) ** 2 + (yOf(y[i]) - py) ** 2;
    if (d < least) [best, least] = [i, d];
  }
  return best;
}
const place = (event: PointerEvent) => {
  const frame = canvas.value!.getBoundingClientRect();
  return { x: event.clientX - frame.left, y: event.clientY - frame.top };
};
function move(event: PointerEvent): void {
  const { x, y } = place(event);
  if (brush.value) brush.value = { ...brush.value, x1: x, y1: y };
  else pointed.value = nearestTo(x, y, 14);
}
function down(event: PointerEvent): void {
  if (event.button !== 0) return;
  const { x, y } = place(event);
  brush.value = { x0: x, y0: y, x1: x, y1: y };
  canvas.value?.setPointerCapture(event.pointerId);
}
function up(): void {
  const b = brush.value;
  brush.value = undefined;
  if (!b) return;
  if (Math.abs(b.x1 - b.x0) < 5 || Math.abs(b.y1 - b.y0) < 5) {
    const i = nearestTo(b.x1, b.y1, 14);
    if (i >= 0) emit('choose', points.value.ids[i]);
    return;
  }
  const span = (a: number, c: number): [number, number] => [Math.min(a, c), Math.max(a, c)];
  const [kx, ky] = prefs.plotAxes;
  find.go({ ranges: { ...find.view.ranges, [kx]: span(valueX(b.x0), valueX(b.x1)), [ky]: span(valueY(b.y0), valueY(b.y1)) } });
}

/** Goes to the nearest point in a direction, and plays it. */
const ways: Record<string, [number, number]> = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
function walk(event: KeyboardEvent): void {
  const way = ways[event.key];
  const { ids, x, y } = points.value;
  if (!way || ids.length === 0) return;
  event.preventDefault();
  event.stopPropagation();
  const from = ids.indexOf(find.view.soundId ?? -1);
  const [px, py] = from < 0 ? [width.value / 2, height.value / 2] : [xOf(x[from]), yOf(y[from])];
  const ahead = (i: number) => {
    const [dx, dy] = [xOf(x[i]) - px, yOf(y[i]) - py];
    const along = dx * way[0] + dy * way[1];
    return i !== from && along > 0.5 && along >= Math.abs(dx * way[1] + dy * way[0]) * 0.7;
  };
  const next = nearestTo(px, py, Infinity, from < 0 ? undefined : ahead);
  if (next >= 0) emit('choose', ids[next]);
}
const said = computed(() => {
  const i = pointed.value;
  if (!pointedSound.value) return '';
  const [x, y] = prefs.plotAxes;
  return `${nameOf(pointedSound.value)}, ${shownNumber(fieldOf(x), points.value.x[i])}, ${shownNumber(fieldOf(y), points.value.y[i])}`;
});
const inUse = computed(() => prefs.plotAxes.filter((key) => find.view.ranges[key]));
function clear(): void {
  const ranges = { ...find.view.ranges };
  for (const key of prefs.plotAxes) delete ranges[key];
  find.go({ ranges });
}
</script>

<template>
  <section class="plot" aria-label="Plot of the results">
    <div class="head">
      <FieldSelect
        class="axis"
        :options="axes"
        :value="prefs.plotAxes[1]"
        aria-label="Upward"
        @update:value="prefs.plotAxes = [prefs.plotAxes[0], String($event)]"
      />
      <span class="mute">over</span>
      <FieldSelect
        class="axis"
        :options="axes"
        :value="prefs.plotAxes[0]"
        aria-label="To the right"
        @update:value="prefs.plotAxes = [String($event), prefs.plotAxes[1]]"
      />
      <span class="mono mute small">{{ count(points.ids.length) }}{{ without > 0 ? `, ${count(without)} without these` : '' }}</span>
      <Button v-if="inUse.length > 0" size="small" type="link" @click="clear">Whole range</Button>
      <span class="cut said"
        ><bdi>{{ said }}</bdi></span
      >
      <Tooltip :title="withKey('Close the plot', 'Plot of the results')"
        ><Button size="small" type="text" aria-label="Close the plot" @click="emit('close')"
          ><template #icon><CloseOutlined /></template></Button
      ></Tooltip>
    </div>
    <div
      ref="box"
      class="box"
      tabindex="0"
      role="application"
      aria-label="Each result as a point; the arrow keys go to the next point that way and play it, dragging narrows the list"
      @keydown="walk"
    >
      <canvas ref="canvas" @pointermove="move" @pointerdown="down" @pointerup="up" @pointerleave="pointed = -1" />
    </div>
  </section>
</template>

<style scoped>
.plot {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  height: 260px;
  margin: 0 12px 8px;
  border: 1px solid var(--line);
  border-radius: 8px;
}
.head {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 6px 8px;
}
.axis {
  width: 170px;
}
.small {
  font-size: 12px;
}
.said {
  flex: 1;
  text-align: right;
  font-size: 12.5px;
}
.box {
  position: relative;
  min-height: 0;
  touch-action: none;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  cursor: crosshair;
}
</style>
