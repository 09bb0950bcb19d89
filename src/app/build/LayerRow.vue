<script setup lang="ts">
import { inWords, struckInWords, type Layer } from '@core/build';
import { heardLines, type Scene } from '@core/scene';
import { Dropdown, Menu } from 'ant-design-vue';
import { computed } from 'vue';
import NumberBox from '../shared/controls/NumberBox.vue';
import { things } from '../shared/controls/format';
import EffectChips from '../shared/mix/EffectChips.vue';
import LineSwitches from '../shared/mix/LineSwitches.vue';
import { bringsSounds, droppedSounds } from '../shared/take/drag';
import { useBuilds } from '../stores/builds';
import { useLibrary } from '../stores/library';
import { useScene } from '../stores/scene';
import { orderTracks, removeTrack, turnTrack } from '../stores/tracks';
import LayerContour from './LayerContour.vue';

/** One layer of a build: what it is, how it lies on the line of all anchors, what it goes through, and how loud it is. */
const props = defineProps<{ build: Scene; layer: Layer; opened: boolean; plumb: number; pixelsPerSecond: number }>();
const emit = defineEmits<{ open: [] }>();
const builds = useBuilds();
const scene = useScene();
const library = useLibrary();

const first = computed(() => props.layer.cues[0]);
const track = computed(() => props.layer.track);
const sound = computed(() => library.sounds.get(first.value.soundId));
const absence = computed(() => sound.value && library.absence(sound.value));
const isHeard = computed(() => heardLines(scene.lines, scene.effects).has(track.value.id));
const said = computed(() => {
  const words = [inWords(first.value, props.build, sound.value?.format.frames), ...struckInWords(track.value)].join(', ');
  const more = props.layer.cues.length - 1;
  return more > 0 ? `${words}; each stroke takes another of ${things(more + 1, 'sound')}` : words;
});

/** Exchanges it with the layer above or below. */
function shift(by: -1 | 1): void {
  const tracks = builds.layers.map((l) => l.track);
  const at = tracks.findIndex((t) => t.id === track.value.id);
  tracks.splice(at + by, 0, ...tracks.splice(at, 1));
  void orderTracks(tracks);
}
const index = computed(() => builds.layers.findIndex((l) => l.track.id === track.value.id));
function chosen({ key }: { key: string | number }): void {
  if (key === 'copy') void builds.duplicate(props.layer);
  else if (key === 'up') shift(-1);
  else if (key === 'down') shift(1);
  else void removeTrack(track.value);
}
/** Sounds that are dropped onto a layer join it. */
async function dropped(event: DragEvent): Promise<void> {
  const ids = droppedSounds(event);
  if (ids) await builds.addTo(props.layer, await library.need(ids));
}
</script>

<template>
  <div
    class="row"
    role="listitem"
    :aria-label="track.name"
    :class="{ opened }"
    @dragover="bringsSounds($event) && $event.preventDefault()"
    @drop.prevent.stop="dropped"
  >
    <Dropdown :trigger="['contextmenu']">
      <button class="name" :aria-expanded="opened" :title="`${track.name}; right-click for more`" @click="emit('open')">
        <span class="cut">{{ track.name }}</span>
        <span v-if="absence" class="bad cut small">{{ absence }}</span>
        <span v-else class="mute cut small">{{ said }}</span>
      </button>
      <template #overlay>
        <Menu :aria-label="`What can be done with ${track.name}`" @click="chosen">
          <Menu.Item key="copy">Duplicate</Menu.Item>
          <Menu.Item key="up" :disabled="index === 0">Move up</Menu.Item>
          <Menu.Item key="down" :disabled="index === builds.layers.length - 1">Move down</Menu.Item>
          <Menu.Divider />
          <Menu.Item key="remove" danger>Take the layer out</Menu.Item>
        </Menu>
      </template>
    </Dropdown>
    <LineSwitches :track="track" />
    <LayerContour :build="build" :cue="first" :lit="opened" :silent="!isHeard" :plumb="plumb" :pixels-per-second="pixelsPerSecond" />
    <EffectChips :line-id="track.id" :name="track.name" />
    <span class="level" :data-moves="`line ${track.id} gain`">
      <NumberBox
        :value="Math.round(track.gain * 10) / 10"
        :controls="false"
        :min="-60"
        :max="12"
        :step="0.5"
        :aria-label="`Level of ${track.name}, dB`"
        class="gain mono"
        @set="(gain) => turnTrack(track, { gain })"
      />
      <span class="mute">dB</span>
    </span>
  </div>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: subgrid;
  grid-column: 1 / -1;
  align-items: center;
  min-height: 46px;
  border-bottom: 1px solid var(--line);
}
.opened {
  background: var(--raft);
  box-shadow: inset 3px 0 0 var(--sky);
}
.name {
  display: grid;
  min-width: 0;
  height: 100%;
  align-content: center;
  padding: 4px 8px 4px 20px;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
  cursor: pointer;
}
.name > :first-child {
  font-weight: 600;
}
.level {
  display: flex;
  gap: 6px;
  align-items: center;
  padding-right: 16px;
}
.gain {
  width: 62px;
}
</style>
