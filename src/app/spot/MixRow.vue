<script setup lang="ts">
import { MAIN } from '@core/engine';
import { LOUDEST, type Track } from '@core/scene';
import { computed } from 'vue';
import NumberBox from '../shared/controls/NumberBox.vue';
import EffectChips from '../shared/mix/EffectChips.vue';
import LineMeter from '../shared/mix/LineMeter.vue';
import LineSwitches from '../shared/mix/LineSwitches.vue';
import PlaceDot from '../shared/mix/PlaceDot.vue';
import { useCurves } from '../stores/curves';
import { useMix } from '../stores/mix';
import { useScene } from '../stores/scene';
import { turnTrack } from '../stores/tracks';
import TrackMenu from './TrackMenu.vue';

/** One line of the mix: how loud it is and is set, where it stands, and what it goes through. The main one where no track is given. */
const props = defineProps<{ track?: Track; depth: number }>();
const mix = useMix();
const scene = useScene();
const id = computed(() => props.track?.id ?? MAIN);
const name = computed(() => props.track?.name ?? 'Main');
const curves = useCurves();
/** Gain and place as they are at the playhead. */
const set = computed(() => {
  const { gain, place = 0 } = props.track ?? scene.main;
  const { points } = props.track ?? scene.main;
  return { gain: Math.round(curves.valueNow(points, 'gain', gain) * 10) / 10, place: curves.valueNow(points, 'place', place) };
});

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
    <LineSwitches v-if="track" :track="track" />
    <span v-else />
    <LineMeter :id="id" :name="name" />
    <NumberBox
      :value="set.gain"
      :controls="false"
      :min="-60"
      :max="track ? LOUDEST.track : LOUDEST.main"
      :step="0.5"
      :aria-label="`Gain of ${name}, dB`"
      class="gain mono"
      @set="gain"
    />
    <PlaceDot :place="set.place" :gain="set.gain" :name="name" @set="place" />
    <EffectChips :line-id="id" :name="name" />
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
.gain {
  width: 62px;
}
</style>
