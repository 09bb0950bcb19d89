<script setup lang="ts">
import type { Track } from '@core/scene';
import { busesFor } from '@core/scene';
import { AutoComplete, Button, Dropdown, Input, Menu, Modal, Select, Slider } from 'ant-design-vue';
import { computed, nextTick, ref, useTemplateRef } from 'vue';
import ColourPick from '../shared/controls/ColourPick.vue';
import { things } from '../shared/controls/format';
import { useCurves } from '../stores/curves';
import { useScene } from '../stores/scene';
import { orderTracks, removeTrack } from '../stores/tracks';

/** What can be done to a track: a right click or the menu key on its head offers it. */
const props = defineProps<{ track: Track }>();
const scene = useScene();
const curves = useCurves();
/** Curves that its lane can show. */
const drawable = computed(() => (props.track.bus ? [] : curves.of(props.track)));
const naming = ref(false);
const name = ref('');
const place = ref(0);
const behind = ref(0);
const colour = ref<Track['colour']>();
const group = ref('');
const into = ref(0);
/** Where it may flow. */
const flows = computed(() => [
  { value: 0, label: 'Main', title: 'Main' },
  ...busesFor(props.track.id, { tracks: scene.lines, effects: scene.effects }).map((t) => ({ value: t.id, label: t.name, title: t.name })),
]);
/** Groups that there are, to choose from. */
const groups = computed(() => [...new Set(scene.tracks.flatMap((t) => t.group ?? []))].map((value) => ({ value })));
const box = useTemplateRef<{ select: () => void }>('box');

async function rename(): Promise<void> {
  name.value = props.track.name;
  place.value = props.track.place ?? 0;
  behind.value = Math.round((props.track.behind ?? 0) * 100);
  colour.value = props.track.colour;
  group.value = props.track.group ?? '';
  into.value = props.track.into ?? 0;
  naming.value = true;
  await nextTick();
  box.value?.select();
}
function named(): void {
  naming.value = false;
  const text = name.value.trim() || props.track.name;
  const after: Partial<Track> = {
    ...{ name: text, place: place.value || undefined, colour: colour.value, group: group.value.trim() || undefined },
    ...{ into: into.value || undefined, behind: behind.value / 100 || undefined },
  };
  const keys = Object.keys(after) as (keyof Track)[];
  if (keys.some((k) => after[k] !== props.track[k])) scene.editTrack(props.track, `Settings of ${props.track.name}`, after);
}

/** Those that it stands among: tracks, or buses. */
const kin = () => scene.lines.filter((t) => !!t.bus === !!props.track.bus);
/** Exchanges it with the one above or below. */
function shift(by: -1 | 1): void {
  const at = kin().findIndex((t) => t.id === props.track.id);
  const moved = kin();
  moved.splice(at + by, 0, ...moved.splice(at, 1));
  void orderTracks(props.track.bus ? [...scene.tracks, ...moved] : [...moved, ...scene.lines.filter((t) => t.bus)]);
}

const own = () => scene.cues.filter((c) => c.trackId === props.track.id);
function chosen({ key }: { key: string | number }): void {
  if (key === 'name') void rename();
  else if (key === 'up') shift(-1);
  else if (key === 'down') shift(1);
  else if (key === 'lock')
    scene.editTrack(props.track, `${props.track.locked ? 'Unlock' : 'Lock'} ${props.track.name}`, { locked: !props.track.locked || undefined });
  else if (String(key).startsWith('curve ')) curves.show(props.track, drawable.value[Number(String(key).slice(6))]);
  else if (key === 'cues') curves.show(props.track, undefined);
  else void removeTrack(props.track);
}
const at = () => kin().findIndex((t) => t.id === props.track.id);
</script>

<template>
  <Dropdown :trigger="['contextmenu']">
    <slot />
    <template #overlay>
      <Menu :aria-label="`What can be done to ${track.name}`" @click="chosen">
        <Menu.Item key="name">Name, place, flow, colour, group …</Menu.Item>
        <Menu.Item key="up" :disabled="at() === 0">Move up</Menu.Item>
        <Menu.Item key="down" :disabled="at() === kin().length - 1">Move down</Menu.Item>
        <Menu.Item key="lock">{{ track.locked ? 'Unlock its cues' : 'Lock its cues' }}</Menu.Item>
        <Menu.SubMenu v-if="!track.bus" key="curves" title="On its lane">
          <Menu.Item key="cues">Its cues alone</Menu.Item>
          <Menu.Item v-for="(curve, i) in drawable" :key="`curve ${i}`"
            >{{ curve.name }}{{ curve.points.length > 0 ? `, ${things(curve.points.length, 'point')}` : '' }}</Menu.Item
          >
        </Menu.SubMenu>
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
      <label for="track-behind" title="Heard in a mix of 5.1 alone; in others all of it stands in front">In 5.1</label>
      <Slider
        v-model:value="behind"
        :step="5"
        :marks="{ 0: 'in front', 50: 'around', 100: 'behind' }"
        :tip-formatter="(v?: number) => `${v} %`"
        :aria-label-for-handle="`How much of ${track.name} stands behind`"
      />
      <label for="track-into">Flows into</label>
      <Select id="track-into" v-model:value="into" :options="flows" :aria-label="`What ${track.name} flows into`" />
      <label for="track-colour">Colour</label>
      <ColourPick id="track-colour" :value="colour" :label="`Colour of ${track.name}`" @set="(c) => (colour = c)" />
      <label for="track-group">Group</label>
      <AutoComplete
        id="track-group"
        v-model:value="group"
        :options="groups"
        placement="topLeft"
        :default-active-first-option="false"
        placeholder="Tracks of a group change level, mute and solo together"
        :aria-label="`Group of ${track.name}`"
      />
      <span />
      <Button type="primary" html-type="submit">Done</Button>
    </form>
  </Modal>
</template>

<style scoped>
.form {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 14px 14px;
  align-items: center;
}
</style>
