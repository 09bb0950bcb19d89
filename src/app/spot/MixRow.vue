<script setup lang="ts">
import { effectOf, effects as registry } from '@core/effects';
import { MAIN } from '@core/engine';
import { busesFor, effectsOf, type LineEffect, type Track } from '@core/scene';
import { Button, Dropdown, Menu } from 'ant-design-vue';
import { computed } from 'vue';
import LetterToggle from '../shared/controls/LetterToggle.vue';
import NumberBox from '../shared/controls/NumberBox.vue';
import { tell } from '../shell/notice';
import { useCurves } from '../stores/curves';
import { useMix } from '../stores/mix';
import { useScene } from '../stores/scene';
import { LOUDEST_MAIN, setTracks, turnTrack } from '../stores/tracks';
import LineMeter from './LineMeter.vue';
import PlaceDot from './PlaceDot.vue';
import TrackMenu from './TrackMenu.vue';

/** One line of the mix: how loud it is and is set, where it stands, and what it goes through. The main one where no track is given. */
const props = defineProps<{ track?: Track; depth: number }>();
const mix = useMix();
const scene = useScene();
const id = computed(() => props.track?.id ?? MAIN);
const name = computed(() => props.track?.name ?? 'Main');
const own = computed(() => effectsOf(id.value, scene.effects));
const curves = useCurves();
/** Gain and place as they are at the playhead. */
const set = computed(() => {
  const { gain, place = 0 } = props.track ?? scene.main;
  const points = props.track?.points;
  return { gain: Math.round(curves.valueNow(points, 'gain', gain) * 10) / 10, place: curves.valueNow(points, 'place', place) };
});

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
  if (kind !== 'send') return void mix.add(id.value, kind);
  const [bus] = busesFor(id.value, { tracks: scene.lines, effects: scene.effects });
  if (!bus) return tell.info('There is no bus that this could flow into: add a bus first');
  void mix.add(id.value, kind, bus.id);
}
const gain = (value: number) => (props.track ? turnTrack(props.track, { gain: value }) : mix.turnMain({ gain: value }));
function place(value: number): void {
  if (!props.track) return mix.turnMain({ place: value || undefined });
  turnTrack(props.track, { place: value });
}
</script>

<template>
  <div class="row" role="listitem" :aria-label="name">
    <div class="name" :style="{ paddingLeft: `${6 + depth * 24}px` }">
      <span v-if="depth > 0" class="mute" aria-hidden="true">—</span>
      <TrackMenu v-if="track" :track="track">
        <button class="cut plain" :class="{ bus: track.bus }" :title="`${track.name}; right-click for more`">{{ track.name }}</button>
      </TrackMenu>
      <strong v-else>Main</strong>
    </div>
    <div class="switches">
      <template v-if="track">
        <LetterToggle
          letter="S"
          hint="Solo"
          tone="amber"
          :label="`Solo ${name}`"
          :on="track.solo"
          @toggle="setTracks(track, `Solo ${name}`, { solo: !track.solo })"
        />
        <LetterToggle
          letter="M"
          hint="Mute"
          tone="coral"
          :label="`Mute ${name}`"
          :on="track.mute"
          @toggle="setTracks(track, `Mute ${name}`, { mute: !track.mute })"
        />
      </template>
    </div>
    <LineMeter :id="id" :name="name" />
    <NumberBox
      :value="set.gain"
      :controls="false"
      :min="-60"
      :max="track ? 12 : LOUDEST_MAIN"
      :step="0.5"
      :aria-label="`Gain of ${name}, dB`"
      class="gain mono"
      @set="gain"
    />
    <PlaceDot :place="set.place" :gain="set.gain" :name="name" @set="place" />
    <div class="effects" role="group" :aria-label="`Effects of ${name}`">
      <span v-if="own.length === 0" class="mute none">none</span>
      <button
        v-for="effect in own"
        :key="effect.id"
        class="chip"
        :class="{ chosen: effect.id === mix.chosenId, off: !effect.on, works: (mix.reductions.get(effect.id) ?? 0) < -0.5 }"
        :aria-expanded="effect.id === mix.chosenId"
        @click="mix.chosenId = effect.id === mix.chosenId ? undefined : effect.id"
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
.name {
  display: flex;
  gap: 8px;
  align-items: center;
  min-width: 0;
}
.plain {
  min-width: 0;
  padding: 0;
  border: 0;
  background: none;
  text-align: left;
  cursor: pointer;
}
.bus {
  font-weight: 650;
}
.switches {
  display: flex;
  gap: 4px;
}
.gain {
  width: 62px;
}
.effects {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
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
.add {
  color: var(--sky);
  font-size: 15px;
}
</style>
