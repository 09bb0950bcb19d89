<script setup lang="ts">
import { SCENES } from '@core/scene';
import { Button, Progress, Select } from 'ant-design-vue';
import { useLocalStorage } from '@vueuse/core';
import { computed } from 'vue';
import { useCommands } from '../shared/controls/commands';
import { useScene } from '../stores/scene';
import { useSceneArchives, type WithMedia } from '../stores/scene-archives';

/** The scene, or all of them, as a file that another library opens. */
const scene = useScene();
const files = useSceneArchives();
const withMedia = useLocalStorage<WithMedia>('scene file media', 'sounds');
const which = useLocalStorage<'this' | 'all'>('scene file scenes', 'this');

const option = <T extends string>(value: T, label: string) => ({ value, label, title: label });
const medias = [option<WithMedia>('none', 'without files'), option<WithMedia>('sounds', 'with sounds'), option<WithMedia>('all', 'with sounds and picture')];
const whiches = computed(() => [option('this', 'this scene'), option('all', `all ${scene.scenes.length} scenes`)]);
const chosen = computed(() => (scene.scenes.length > 1 ? which.value : 'this'));
const save = () => void files.save(chosen.value, withMedia.value);
useCommands('Using a sound', [{ label: 'Save the scene file', keys: ['f'], run: save }]);
</script>

<template>
  <li>
    <div>
      <strong>Scene file</strong>
      <span class="mute">All of it as it stands here, with versions, effects and pads, to be opened by another Cormorant or kept ({{ SCENES.ending }})</span>
    </div>
    <template v-if="files.packing !== undefined">
      <Progress :percent="Math.floor(files.packing * 100)" size="small" class="progress" aria-label="Packing the scene file" />
      <Button @click="files.stopPacking">Cancel</Button>
    </template>
    <template v-else>
      <Select v-if="scene.scenes.length > 1" v-model:value="which" :options="whiches" aria-label="Scenes in the file" class="by" />
      <Select v-model:value="withMedia" :options="medias" aria-label="What goes into the scene file" class="media" />
      <Button @click="save">Save the scene file</Button>
    </template>
  </li>
</template>

<style scoped>
.progress {
  width: 220px;
}
.media {
  width: 210px;
}
</style>
