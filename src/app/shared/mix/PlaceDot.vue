<script setup lang="ts">
import { ref } from 'vue';

/** Where a line stands, from left to right; its height tells how loud it is set, near below and far above. */
const props = defineProps<{ place: number; gain: number; name: string }>();
const emit = defineEmits<{ set: [place: number] }>();
const [WIDTH, HEIGHT] = [64, 32];
/** dB from near to far. */
const DEPTH = 24;
const box = ref<HTMLElement>();
const held = ref(false);

const rounded = (place: number) => Math.round(Math.max(-1, Math.min(1, Math.abs(place) < 0.06 ? 0 : place)) * 100) / 100;
function draw(event: PointerEvent): void {
  const { left } = box.value!.getBoundingClientRect();
  emit('set', rounded(((event.clientX - left - 6) / (WIDTH - 12)) * 2 - 1));
}
function down(event: PointerEvent): void {
  box.value?.setPointerCapture(event.pointerId);
  held.value = true;
  draw(event);
}
function key(event: KeyboardEvent): void {
  const by = { ArrowLeft: -0.05, ArrowRight: 0.05 }[event.key];
  const to = by === undefined ? (event.key === 'Home' ? 0 : undefined) : Math.round((props.place + by) * 100) / 100;
  if (to === undefined) return;
  event.preventDefault();
  event.stopPropagation();
  emit('set', Math.max(-1, Math.min(1, to)));
}
const text = () => (props.place === 0 ? 'middle' : `${Math.round(Math.abs(props.place) * 100)} % ${props.place < 0 ? 'left' : 'right'}`);
</script>

<template>
  <div
    ref="box"
    class="field"
    tabindex="0"
    role="slider"
    :aria-label="`Place of ${name}`"
    aria-valuemin="-100"
    aria-valuemax="100"
    :aria-valuenow="Math.round(place * 100)"
    :aria-valuetext="text()"
    :title="`${text()}; Home for the middle`"
    @pointerdown="down"
    @pointermove="held && draw($event)"
    @pointerup="held = false"
    @pointercancel="held = false"
    @keydown="key"
  >
    <span
      class="dot"
      :style="{ left: `${6 + ((place + 1) / 2) * (WIDTH - 12)}px`, top: `${6 + Math.max(0, Math.min(1, 1 + gain / DEPTH)) * (HEIGHT - 12)}px` }"
    />
  </div>
</template>

<style scoped>
.field {
  position: relative;
  width: 64px;
  height: 32px;
  border: 1px solid var(--line);
  border-radius: 16px 16px 4px 4px;
  touch-action: none;
  cursor: ew-resize;
}
.dot {
  position: absolute;
  width: 8px;
  height: 8px;
  margin: -4px 0 0 -4px;
  border-radius: 50%;
  background: var(--bone);
  pointer-events: none;
}
</style>
