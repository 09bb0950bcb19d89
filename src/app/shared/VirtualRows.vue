<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual';
import { computed, useTemplateRef, watch } from 'vue';

/** A list of any length of which only what is on screen exists. Its rows come from the slot, its head from `head`. */
const props = withDefaults(
  defineProps<{
    count: number;
    rowHeight?: number;
    label: string;
    /** Pixels; wider than the window scrolls sideways. */
    width?: number;
    current?: number;
  }>(),
  { rowHeight: 32, width: undefined, current: undefined },
);
const emit = defineEmits<{ show: [rows: number[]] }>();
defineSlots<{ default(p: { index: number }): unknown; head?(): unknown }>();

const scroller = useTemplateRef('scroller');
const HEAD = 28;
const virtual = useVirtualizer(
  computed(() => ({
    count: props.count,
    getScrollElement: () => scroller.value,
    estimateSize: () => props.rowHeight,
    overscan: 8,
  })),
);
const items = computed(() => virtual.value.getVirtualItems());
watch(
  [items, () => props.count],
  () =>
    emit(
      'show',
      items.value.map((i) => i.index).filter((i) => i < props.count),
    ),
  { immediate: true },
);
watch(
  () => props.current,
  (index) => {
    const view = scroller.value;
    if (index === undefined || index < 0 || !view) return;
    const top = index * props.rowHeight;
    if (top < view.scrollTop) view.scrollTop = top;
    else if (top + props.rowHeight + HEAD > view.scrollTop + view.clientHeight) view.scrollTop = top + props.rowHeight + HEAD - view.clientHeight;
  },
  { flush: 'post' },
);
defineExpose({ element: scroller });
</script>

<template>
  <div ref="scroller" class="scroll" role="grid" tabindex="0" :aria-label="label" :aria-rowcount="count + 1">
    <div class="head" role="rowgroup" :style="{ width: width ? `${width}px` : '100%', minWidth: '100%' }"><slot name="head" /></div>
    <div class="body" role="rowgroup" :style="{ height: `${virtual.getTotalSize()}px`, width: width ? `${width}px` : '100%', minWidth: '100%' }">
      <div
        v-for="item in items"
        :key="item.index"
        class="item"
        role="presentation"
        :style="{ transform: `translateY(${item.start}px)`, height: `${rowHeight}px` }"
      >
        <slot :index="item.index" />
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
.item {
  position: absolute;
  left: 0;
  right: 0;
}
</style>
