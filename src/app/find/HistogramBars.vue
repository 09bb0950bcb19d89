<script setup lang="ts">
import type { Histogram } from '@core/search';
import { fieldOf, shownNumber } from '@core/library';
import { Button } from 'ant-design-vue';
import { computed, ref } from 'vue';
import { count, seconds } from '../shared/controls/format';

const props = defineProps<{ fieldKey: string; histogram: Histogram; range?: readonly [number, number] }>();
const emit = defineEmits<{ choose: [range?: [number, number]] }>();

const field = computed(() => fieldOf(props.fieldKey));
/** The bar where a drag began and where it is. */
const drag = ref<[number, number]>();
/** The bar that keys are at. */
const at = ref(0);

const bars = computed(() => {
  const { edges, counts } = props.histogram;
  const top = Math.max(1, ...counts);
  const [a, b] = props.range ?? [-Infinity, Infinity];
  return counts.map((n, i) => ({
    n,
    from: edges[i],
    to: edges[i + 1],
    height: n === 0 ? 0 : 6 + (n / top) * 94,
    on: drag.value ? i >= Math.min(...drag.value) && i <= Math.max(...drag.value) : edges[i] >= a && edges[i + 1] <= b,
  }));
});

function shown(value: number): string {
  if (field.value.type === 'date') return new Date(value).toLocaleDateString();
  return field.value.unit === 's' ? `${seconds(value)} s` : shownNumber(field.value, value);
}
function spanText(from: number, to: number): string {
  if (to === Infinity) return `over ${shown(from)}`;
  return from === -Infinity ? `under ${shown(to)}` : `${shown(from)} to ${shown(to)}`;
}
const rangeText = computed(() => (props.range ? spanText(props.range[0], props.range[1]) : ''));

/** Chooses from one bar to another; the same choice again takes it away. */
function choose(a: number, b: number): void {
  const range: [number, number] = [bars.value[Math.min(a, b)].from, bars.value[Math.max(a, b)].to];
  const same = props.range?.[0] === range[0] && props.range[1] === range[1];
  emit('choose', same ? undefined : range);
}

function begin(event: PointerEvent, bar: number): void {
  if (event.button !== 0) return;
  drag.value = [bar, bar];
  at.value = bar;
  addEventListener(
    'pointerup',
    () => {
      if (drag.value) choose(...drag.value);
      drag.value = undefined;
    },
    { once: true },
  );
}
const over = (bar: number) => drag.value && (drag.value = [drag.value[0], bar]);

/** Arrows walk the bars, Enter chooses one, Shift Enter goes on to it from where the range begins. */
function key(event: KeyboardEvent): void {
  const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
  if (by) at.value = Math.max(0, Math.min(bars.value.length - 1, at.value + by));
  else if (event.key === 'Enter' || event.key === ' ') {
    const first = bars.value.findIndex((b) => b.from === props.range?.[0]);
    choose(event.shiftKey && first >= 0 ? first : at.value, at.value);
  } else return;
  event.preventDefault();
  event.stopPropagation();
  (event.currentTarget as HTMLElement).querySelectorAll<HTMLElement>('.bin')[at.value].focus();
}
</script>

<template>
  <section :aria-label="field.label">
    <h2>
      {{ field.label }}
      <Button v-if="range" type="link" size="small" :aria-label="`Any ${field.label.toLowerCase()} instead of ${rangeText}`" @click="emit('choose')">{{
        rangeText
      }}</Button>
      <span v-else class="mono range">any</span>
    </h2>
    <p v-if="histogram.counts.every((n) => n === 0)" class="mute none">Nothing here</p>
    <div v-else class="bars" role="group" :aria-label="`${field.label}, counted by spans`" @keydown="key">
      <button
        v-for="(bar, i) in bars"
        :key="i"
        class="bin"
        :class="{ off: !bar.on }"
        :tabindex="i === at ? 0 : -1"
        :aria-label="`${spanText(bar.from, bar.to)}, ${count(bar.n)}`"
        :aria-pressed="range !== undefined && bar.on"
        :title="`${spanText(bar.from, bar.to)}: ${count(bar.n)}`"
        @pointerdown.prevent="begin($event, i)"
        @pointerenter="over(i)"
      >
        <span :style="{ height: `${bar.height}%` }" />
      </button>
    </div>
  </section>
</template>

<style scoped>
.range {
  font-weight: 400;
}
.bars {
  display: flex;
  align-items: stretch;
  gap: 1px;
  height: 56px;
  touch-action: none;
}
.bin {
  display: flex;
  flex: 1;
  align-items: end;
  padding: 0;
  border: 0;
  background: none;
  cursor: pointer;
}
.bin span {
  width: 100%;
  background: var(--glass);
  opacity: 0.75;
}
.bin:hover span {
  opacity: 1;
}
.off span {
  background: var(--faint);
  opacity: 0.45;
}
</style>
