<script setup lang="ts">
import { effects as registry, effectOf } from '@core/effects';
import { busesFor, effectsOf, type LineEffect } from '@core/scene';
import { Button, Dropdown, Menu } from 'ant-design-vue';
import { computed, ref } from 'vue';
import { tell } from '../../shell/notice';
import { useMix } from '../../stores/mix';
import { useScene } from '../../stores/scene';

/** The effects of a line in their order: opened by a click, carried within the line or to another one by drag, and more of them added. */
const props = defineProps<{ lineId: number; name: string }>();
const mix = useMix();
const scene = useScene();
const own = computed(() => effectsOf(props.lineId, scene.effects));

const number = (value: number, digits = 0) => value.toFixed(digits).replace('-', '−');
/** An effect in a word or two: its name and what it is doing, or what it is set to. */
function told(effect: LineEffect): string {
  const label = mix.nameOf(effect);
  const value = (key: string) => effect.values[key] ?? effectOf(effect.kind)?.params.find((p) => p.key === key)?.initial ?? 0;
  const down = mix.reductions.get(effect.id);
  if (!effect.on) return `${label}, off`;
  if (down !== undefined && down < -0.5) return `${label}, ${number(-down)} dB down`;
  if (effect.kind === 'limiter') return `${label}, ${number(value('ceiling'), 1)} dBTP`;
  if (effect.kind === 'distance') return `${label}, ${number(value('far'))} m`;
  if (effect.kind === 'reverb') return `${label}, ${number(value('decay'), 1)} s`;
  if (effect.kind === 'send' || effect.kind === 'gain') return `${label}, ${number(value('gain'), 1)} dB`;
  return label;
}

function add({ key }: { key: string | number }): void {
  const kind = String(key);
  if (kind !== 'send') return void mix.add(props.lineId, kind);
  const [bus] = busesFor(props.lineId, { tracks: scene.lines, effects: scene.effects });
  if (!bus) return tell.info('There is no bus that this could flow into: add a bus first');
  void mix.add(props.lineId, kind, bus.id);
}

const CARRIED = 'application/x-cormorant-effect';
/** The place in the line at which what is held over it would land. */
const landing = ref<number>();
function lift(event: DragEvent, effect: LineEffect): void {
  event.dataTransfer!.setData(CARRIED, String(effect.id));
  event.dataTransfer!.effectAllowed = 'copyMove';
}
function over(event: DragEvent, at: number): void {
  if (!event.dataTransfer?.types.includes(CARRIED)) return;
  event.preventDefault();
  event.stopPropagation();
  event.dataTransfer.dropEffect = event.altKey ? 'copy' : 'move';
  landing.value = at;
}
function drop(event: DragEvent): void {
  const effect = scene.effects.find((e) => e.id === Number(event.dataTransfer?.getData(CARRIED)));
  const at = landing.value;
  landing.value = undefined;
  if (!effect || at === undefined) return;
  event.preventDefault();
  event.stopPropagation();
  void mix.carry(effect, props.lineId, at, event.altKey);
}
</script>

<template>
  <div class="effects" role="group" :aria-label="`Effects of ${name}`" @dragover="over($event, own.length)" @dragleave="landing = undefined" @drop="drop">
    <span v-if="own.length === 0" class="mute none">none</span>
    <button
      v-for="(effect, i) in own"
      :key="effect.id"
      class="chip"
      draggable="true"
      :class="{
        chosen: effect.id === mix.chosenId,
        off: !effect.on,
        works: (mix.reductions.get(effect.id) ?? 0) < -0.5,
        landing: landing === i,
      }"
      :aria-expanded="effect.id === mix.chosenId"
      title="Drag it to another place or line; Alt copies it"
      @click="mix.chosenId = effect.id === mix.chosenId ? undefined : effect.id"
      @dragstart="lift($event, effect)"
      @dragover="over($event, i)"
      @dragend="landing = undefined"
    >
      {{ told(effect) }}
    </button>
    <Dropdown :trigger="['click']">
      <Button type="text" size="small" class="add" :aria-label="`Add an effect to ${name}`" aria-haspopup="menu">+</Button>
      <template #overlay>
        <Menu :aria-label="`Effects for ${name}`" :style="{ columnCount: 2 }" @click="add">
          <Menu.Item v-for="e in registry" :key="e.kind" :title="e.about">{{ e.name }}</Menu.Item>
        </Menu>
      </template>
    </Dropdown>
  </div>
</template>

<style scoped>
.effects {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
  min-width: 0;
  padding: 6px 14px 6px 0;
}
.none {
  font-size: 12px;
}
.chip {
  padding: 3px 12px;
  border: 1px solid var(--line);
  border-radius: 14px;
  background: var(--raft2);
  cursor: pointer;
  white-space: nowrap;
}
.works {
  border-color: var(--glass);
}
.chosen {
  border-color: var(--sky);
  color: var(--bone);
}
.off {
  color: var(--mute);
  background: none;
  border-style: dashed;
}
.landing {
  box-shadow: -3px 0 0 var(--sky);
}
.add {
  color: var(--sky);
  font-size: 15px;
}
</style>
