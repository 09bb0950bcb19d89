<script setup lang="ts">
import { useTemplateRef, watch } from 'vue';
import { useRowWindow } from './useRowWindow';

/** A list of any length of which only what is on screen exists. Its rows come from the slot, its head from `head`. */
const props = withDefaults(
  defineProps<{
    count: number;
    rowHeight?: number;
    label: string;
    /** Pixels; wider than the window scrolls sideways. */
    width?: number;
    current?: number;
    /** Pixels by which the current row opens, for the slot `open`. */
    opens?: number;
  }>(),
  { rowHeight: 32, width: undefined, current: undefined, opens: 0 },
);
const emit = defineEmits<{ show: [rows: number[]] }>();
defineSlots<{ default(p: { index: number }): unknown; head?(): unknown; open?(p: { index: number }): unknown }>();

const scroller = useTemplateRef('scroller');
const HEAD = 28;
const isOpen = (index: number) => props.opens > 0 && index === props.current;
const { rows, total, reveal } = useRowWindow(
  scroller,
  () => ({
    count: props.count,
    height: props.rowHeight,
    opened: props.opens > 0 && props.current !== undefined && props.current < props.count ? { index: props.current, extra: props.opens } : undefined,
  }),
  HEAD,
);
watch(
  rows,
  () =>
    emit(
      'show',
      rows.value.map((r) => r.index),
    ),
  { immediate: true },
);
watch(
  () => props.current,
  (index) => index !== undefined && reveal(index),
  { flush: 'post' },
);
defineExpose({ element: scroller });
</script>

<template>
  <div ref="scroller" class="scroll" role="grid" tabindex="0" :aria-label="label" :aria-rowcount="count + 1">
    <div class="head" role="rowgroup" :style="{ width: width ? `${width}px` : '100%', minWidth: '100%' }"><slot name="head" /></div>
    <div class="body" role="rowgroup" :style="{ height: `${total}px`, width: width ? `${width}px` : '100%', minWidth: '100%' }">
      <div v-for="row in rows" :key="row.key" class="item" role="presentation" :style="{ transform: `translateY(${row.top}px)` }">
        <div role="presentation" :style="{ height: `${rowHeight}px` }"><slot :index="row.index" /></div>
        <div v-if="isOpen(row.index)" role="row" class="opened" :style="{ height: `${opens}px` }">
          <div role="gridcell"><slot name="open" :index="row.index" /></div>
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.scroll {
  height: 100%;
  overflow: auto;
  contain: strict;
}
.scroll:focus-visible {
  outline: none;
}
.head {
  position: sticky;
  top: 0;
  z-index: 3;
  background: var(--bed);
}
.body {
  position: relative;
}
.opened {
  border-bottom: 1px solid var(--line);
}
.item {
  position: absolute;
  left: 0;
  right: 0;
}
</style>
