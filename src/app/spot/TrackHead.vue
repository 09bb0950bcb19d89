<script setup lang="ts">
import type { Track } from '@core/scene';
import LetterToggle from '../shared/controls/LetterToggle.vue';
import NumberBox from '../shared/controls/NumberBox.vue';
import { useCurves } from '../stores/curves';
import { useScene } from '../stores/scene';
import { setTracks, turnTrack } from '../stores/tracks';
import TrackMenu from './TrackMenu.vue';

/** The head of a track: its name, level and switches. */
defineProps<{ track: Track }>();
const scene = useScene();
const curves = useCurves();
/** What a track has to be heard alone or not at all, and the colour it has then. */
const switches = { solo: 'amber', mute: 'coral' } as const;
</script>

<template>
  <div
    class="head"
    :class="{ here: track.id === scene.track?.id }"
    :style="track.colour && { boxShadow: `inset 3px 0 0 var(--${track.colour})` }"
    @click="scene.trackId = track.id"
  >
    <TrackMenu :track="track">
      <button class="names" :aria-pressed="track.id === scene.track?.id" :aria-label="`Place on ${track.name}`">
        <span class="cut name" :title="`${track.name}; right-click for more`"
          >{{ track.name }}<span v-if="track.group" class="mute aside">{{ track.group }}</span
          ><span v-if="track.locked" class="mute aside">locked</span></span
        >
      </button>
    </TrackMenu>
    <NumberBox
      :value="Math.round(curves.valueNow(track.points, 'gain', track.gain) * 10) / 10"
      :controls="false"
      :min="-60"
      :max="12"
      :step="0.5"
      :precision="1"
      :aria-label="`Gain of ${track.name}, dB`"
      class="gain mono"
      @set="(gain) => turnTrack(track, { gain })"
    />
    <LetterToggle
      v-for="(tone, part) in switches"
      :key="part"
      class="toggle"
      :letter="part[0].toUpperCase()"
      :hint="part === 'solo' ? 'Solo' : 'Mute'"
      :label="`${part === 'solo' ? 'Solo' : 'Mute'} ${track.name}`"
      :tone="tone"
      :on="track[part]"
      @toggle="setTracks(track, `${part === 'solo' ? 'Solo' : 'Mute'} ${track.name}`, { [part]: !track[part] })"
    />
  </div>
</template>

<style scoped>
.head {
  height: 100%;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 24px 24px;
  grid-template-rows: 1fr 1fr;
  align-items: center;
  column-gap: 4px;
  padding: 2px 8px 2px 14px;
}

.names {
  padding: 0;
  border: 0;
  background: none;
  text-align: left;
  min-width: 0;
  cursor: pointer;
}
.name {
  display: block;
  font-size: 13px;
}
.aside {
  margin-left: 6px;
  font-weight: 400;
}
.here {
  background: var(--raft);
}
.here .name {
  font-weight: 650;
  color: var(--bone);
}
.gain {
  grid-row: 2;
  grid-column: 1;
  width: 62px;
  height: 18px;
  margin-bottom: 3px;
  font-size: 12px;
  background: none;
}
.gain :deep(input) {
  height: 17px;
  padding: 0 4px;
  font-family: var(--mono);
}
.toggle {
  grid-row: 1 / 3;
}
</style>
