<script setup lang="ts">
import { Segmented } from 'ant-design-vue';
import { computed } from 'vue';
import { useLocalStorage } from '@vueuse/core';
import { useCommands } from '../shared/controls/commands';
import { things } from '../shared/controls/format';
import { useHands } from '../stores/hands';
import { useScene } from '../stores/scene';
import { useTrials } from '../stores/trials';
import PadsPart from './PadsPart.vue';
import ScenePart from './ScenePart.vue';
import SoundsPart from './SoundsPart.vue';
import VersionsPart from './VersionsPart.vue';

/** What stands beside the picture: sounds to place or to exchange, pads to play, what the scene uses, and its versions. */
const scene = useScene();
const hands = useHands();
const trials = useTrials();
type Part = 'sounds' | 'pads' | 'scene' | 'versions';
const part = useLocalStorage<Part>('spot-part', 'sounds');
const parts = [
  { value: 'sounds', label: 'Sounds' },
  { value: 'pads', label: 'Pads' },
  { value: 'scene', label: 'In this scene' },
  { value: 'versions', label: 'Versions' },
];
const title = computed(() => {
  if (scene.comparing) return `Hearing ${scene.comparing.name}`;
  if (part.value !== 'sounds') return '';
  if (hands.selected.size > 1) return `Alternates for ${things(hands.selected.size, 'cue')}`;
  return scene.cue ? `Alternates for “${scene.cue.name}”` : 'Sounds to place';
});
const turn = () => (part.value = parts[(parts.findIndex((p) => p.value === part.value) + 1) % parts.length].value as Part);

useCommands('The view', [{ label: 'Sounds, pads, what is in the scene, or versions', keys: ['Shift+v'], run: turn }]);
</script>

<template>
  <div class="side">
    <div class="top">
      <h2 class="cut" :title="title">{{ title }}</h2>
      <span v-if="trials.trying" class="trying">trying</span>
      <Segmented size="small" :value="part" :options="parts" aria-label="Beside the picture" @change="(v) => (part = v as Part)" />
    </div>
    <SoundsPart v-if="part === 'sounds'" />
    <PadsPart v-else-if="part === 'pads'" />
    <ScenePart v-else-if="part === 'scene'" />
    <VersionsPart v-else />
  </div>
</template>

<style scoped>
.side {
  display: grid;
  grid-template: auto minmax(0, 1fr) / minmax(0, 1fr);
  gap: 8px;
  min-height: 0;
  padding: 12px 14px 8px;
}
.top {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 12px;
}
.top h2 {
  flex: 1 1 0;
  min-width: 0;
  padding: 0;
}
.trying {
  font-size: 12px;
  color: var(--amber);
}
</style>
