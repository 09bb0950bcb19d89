<script setup lang="ts">
import type { Track } from '@core/scene';
import LetterToggle from '../controls/LetterToggle.vue';
import { setTracks } from '../../stores/tracks';

/** Solo and mute of a line. */
defineProps<{ track: Track }>();
</script>

<template>
  <div class="switches">
    <LetterToggle
      letter="S"
      hint="Solo"
      tone="amber"
      :label="`Solo ${track.name}`"
      :on="track.solo"
      @toggle="setTracks(track, `Solo ${track.name}`, { solo: !track.solo })"
    />
    <LetterToggle
      letter="M"
      hint="Mute"
      tone="coral"
      :label="`Mute ${track.name}`"
      :on="track.mute"
      @toggle="setTracks(track, `Mute ${track.name}`, { mute: !track.mute })"
    />
  </div>
</template>

<style scoped>
.switches {
  display: flex;
  gap: 4px;
}
</style>
