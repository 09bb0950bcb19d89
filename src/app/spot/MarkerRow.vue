<script setup lang="ts">
import { frameToSample, sampleToFrame, timecodeAt, type Marker } from '@core/scene';
import { sampleAt, type Sight } from '@core/timeline';
import { RATE } from '@platform/index';
import { Button, Input } from 'ant-design-vue';
import { computed, ref, shallowRef } from 'vue';
import ColourPick from '../shared/controls/ColourPick.vue';
import PopPanel from '../shared/controls/PopPanel.vue';
import { useTransport } from '../stores/transport';
import { moveMarker, removeMarker, setMarker } from '../stores/markers';
import { useScene } from '../stores/scene';

/** Markers over the lanes: a click goes there and opens its name and colour, a drag moves it. */
const props = defineProps<{ sight: Sight }>();
const scene = useScene();
const transport = useTransport();
const openId = ref<number>();
/** A marker under a hand that has not let go of it. */
const held = shallowRef<{ id: number; x: number; at: number; moved: boolean }>();

const xOf = (sample: number) => (sample - props.sight.from) * props.sight.scale;
const inSight = computed(() =>
  scene.markers.map((m) => ({ marker: m, x: xOf(held.value?.id === m.id ? held.value.at : m.at) })).filter((m) => m.x > -10 && m.x < props.sight.width + 10),
);
const at = (marker: Marker) => (scene.current ? timecodeAt(scene.current, sampleToFrame(marker.at, scene.rate, RATE)) : '');

function down(event: PointerEvent, marker: Marker): void {
  if (event.button !== 0) return;
  (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
  held.value = { id: marker.id, x: event.clientX, at: marker.at, moved: false };
}
function move(event: PointerEvent, marker: Marker): void {
  const own = held.value;
  if (own?.id !== marker.id || (!own.moved && Math.abs(event.clientX - own.x) < 4)) return;
  const wanted = sampleAt(props.sight, xOf(marker.at) + event.clientX - own.x);
  const frame = Math.max(0, sampleToFrame(wanted + frameToSample(1, scene.rate, RATE) / 2, scene.rate, RATE));
  held.value = { ...own, moved: true, at: frameToSample(frame, scene.rate, RATE) };
}
async function up(marker: Marker): Promise<void> {
  const own = held.value;
  if (own?.moved) await moveMarker(marker, own.at);
  held.value = undefined;
}
/** Kept when one is done with it: a name is one step back, not one for each letter. */
function rename(marker: Marker, event: Event): void {
  const name = (event.target as HTMLInputElement).value.trim();
  const now = scene.markers.find((m) => m.id === marker.id)?.name;
  if (name !== '' && name !== now) void setMarker(marker, { name });
}
function go(marker: Marker): void {
  transport.seek(marker.at);
}
</script>

<template>
  <div role="group" aria-label="Markers">
    <PopPanel
      v-for="{ marker, x } in inSight"
      :key="marker.id"
      placement="bottomLeft"
      :open="openId === marker.id"
      @update:open="(open) => (openId = open && !held?.moved ? marker.id : undefined)"
    >
      <template #panel>
        <form class="panel" @submit.prevent="openId = undefined">
          <Input
            size="small"
            :default-value="marker.name"
            :maxlength="200"
            :aria-label="`Name of ${marker.name}`"
            @blur="rename(marker, $event)"
            @press-enter="rename(marker, $event)"
          />
          <ColourPick :value="marker.colour" :label="`Colour of ${marker.name}`" @set="(colour) => setMarker(marker, { colour })" />
          <span class="mono mute">{{ at(marker) }}</span>
          <Button size="small" danger @click="removeMarker(marker)">Remove the marker</Button>
        </form>
      </template>
      <button
        class="marker"
        :aria-label="`Marker ${marker.name}, ${at(marker)}`"
        :title="marker.name"
        :style="{ left: `${x}px`, '--tone': `var(--${marker.colour ?? 'glass'})` }"
        @pointerdown.stop="down($event, marker)"
        @pointermove="move($event, marker)"
        @pointerup="up(marker)"
        @pointercancel="held = undefined"
        @click.stop="go(marker)"
      >
        <span class="cut">{{ marker.name }}</span>
      </button>
    </PopPanel>
    <div
      v-for="{ marker, x } in inSight"
      :key="`line ${marker.id}`"
      class="line"
      :style="{ left: `${x}px`, background: `var(--${marker.colour ?? 'glass'})` }"
    />
  </div>
</template>

<style scoped>
.marker {
  position: absolute;
  z-index: 2;
  top: 20px;
  height: 14px;
  max-width: 120px;
  padding: 0 5px 0 4px;
  border: 0;
  border-left: 2px solid var(--tone);
  border-radius: 0 3px 3px 0;
  background: color-mix(in srgb, var(--tone) 30%, var(--deep));
  color: var(--text);
  font: inherit;
  font-size: 11px;
  line-height: 14px;
  cursor: pointer;
  pointer-events: auto;
  touch-action: none;
}
.marker .cut {
  display: block;
}
.line {
  position: absolute;
  top: 20px;
  bottom: 0;
  width: 1px;
  opacity: 0.45;
  pointer-events: none;
}
.panel {
  display: grid;
  gap: 8px;
  width: 200px;
}
</style>
