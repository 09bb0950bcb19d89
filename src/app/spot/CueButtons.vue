<script setup lang="ts">
import type { Cue } from '@core/scene';
import { useHands } from '../stores/hands';
import { useLibrary } from '../stores/library';
import { useScene } from '../stores/scene';
import { useTransport } from '../stores/transport';

/** The cues of a lane as buttons, for those who do not see what is drawn. Apart from that: while the view moves, these stay as they are. */
defineProps<{ places: readonly { cue: Cue; left: number; width: number }[]; label: (cue: Cue) => string }>();
const scene = useScene();
const hands = useHands();
const library = useLibrary();
const transport = useTransport();

/** Why a cue's sound cannot be heard now. */
function absence(cue: Cue): string | undefined {
  const sound = library.sounds.get(cue.soundId);
  return sound && library.absence(sound);
}
function said(cue: Cue, label: string): string {
  const why = absence(cue)?.toLowerCase();
  return [label, cue.locked ? 'locked' : '', why ?? '', !why && transport.late.has(cue.id) ? 'still loading' : ''].filter(Boolean).join(', ');
}
</script>

<template>
  <button
    v-for="{ cue, left, width } in places"
    :key="cue.id"
    :aria-pressed="hands.selected.has(cue.id)"
    :aria-label="said(cue, label(cue))"
    :title="absence(cue) ? `${cue.name}: its file is ${absence(cue)!.toLowerCase()}` : cue.name"
    :style="{ left: `${left}px`, width: `${width}px` }"
    @keydown.enter.stop.prevent="scene.select(cue.id)"
    @click="$event.detail === 0 && scene.select(cue.id)"
  />
</template>

<style scoped>
button {
  position: absolute;
  top: 4px;
  bottom: 3px;
  padding: 0;
  border: 0;
  border-radius: 4px;
  background: none;
  cursor: inherit;
  touch-action: none;
}
</style>
