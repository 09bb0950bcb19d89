<script setup lang="ts">
import type { Track } from '@core/scene';
import { Button, Dropdown, Input, Menu, Modal, Slider } from 'ant-design-vue';
import { nextTick, ref, useTemplateRef } from 'vue';
import { things } from '../shared/controls/format';
import { useScene } from '../stores/scene';

/** What can be done to a track: a right click or the menu key on its head offers it. */
const props = defineProps<{ track: Track }>();
const scene = useScene();
const naming = ref(false);
const name = ref('');
const place = ref(0);
const box = useTemplateRef<{ select: () => void }>('box');

async function rename(): Promise<void> {
  name.value = props.track.name;
  place.value = props.track.place ?? 0;
  naming.value = true;
  await nextTick();
  box.value?.select();
}
function named(): void {
  naming.value = false;
  const text = name.value.trim() || props.track.name;
  const at = place.value || undefined;
  if (text !== props.track.name || at !== props.track.place) scene.editTrack(props.track, `Name and place of ${props.track.name}`, { name: text, place: at });
}

/** Exchanges it with the one above or below. */
function shift(by: -1 | 1): void {
  const at = scene.tracks.findIndex((t) => t.id === props.track.id);
  const moved = [...scene.tracks];
  moved.splice(at + by, 0, ...moved.splice(at, 1));
  void scene.orderTracks(moved);
}

const own = () => scene.cues.filter((c) => c.trackId === props.track.id);
function chosen({ key }: { key: string | number }): void {
  if (key === 'name') void rename();
  else if (key === 'up') shift(-1);
  else if (key === 'down') shift(1);
  else if (key === 'lock') scene.editTrack(props.track, `${props.track.locked ? 'Unlock' : 'Lock'} ${props.track.name}`, { locked: !props.track.locked || undefined });
  else void scene.removeTrack(props.track);
}
const at = () => scene.tracks.findIndex((t) => t.id === props.track.id);
</script>

<template>
  <Dropdown :trigger="['contextmenu']">
    <slot />
    <template #overlay>
      <Menu :aria-label="`What can be done to ${track.name}`" @click="chosen">
        <Menu.Item key="name">Rename and place …</Menu.Item>
        <Menu.Item key="up" :disabled="at() === 0">Move up</Menu.Item>
        <Menu.Item key="down" :disabled="at() === scene.tracks.length - 1">Move down</Menu.Item>
        <Menu.Item key="lock">{{ track.locked ? 'Unlock its cues' : 'Lock its cues' }}</Menu.Item>
        <Menu.Divider />
        <Menu.Item key="remove" danger :disabled="track.locked">Remove{{ own().length > 0 ? ` with ${things(own().length, 'cue')}` : '' }}</Menu.Item>
      </Menu>
    </template>
  </Dropdown>
  <Modal v-model:open="naming" :title="`Track ${track.name}`" :footer="null" :width="420" @cancel="naming = false">
    <form class="form" @submit.prevent="named">
      <label for="track-name">Name</label>
      <Input id="track-name" ref="box" v-model:value="name" :maxlength="200" aria-label="Name of the track" />
      <label for="track-place">Place</label>
      <Slider
        v-model:value="place"
        :min="-1"
        :max="1"
        :step="0.05"
        :marks="{ '-1': 'left', 0: 'middle', 1: 'right' }"
        :aria-label-for-handle="`Place of ${track.name}`"
      />
      <span />
      <Button type="primary" html-type="submit">Done</Button>
    </form>
  </Modal>
</template>

<style scoped>
.form {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 14px 14px;
  align-items: center;
}
</style>
