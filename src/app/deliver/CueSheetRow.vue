<script setup lang="ts">
import { Button, Select } from 'ant-design-vue';
import { ref } from 'vue';
import { useCommands } from '../shared/controls/commands';
import { saveBlob } from '../shared/take/save';
import { tell } from '../shell/notice';
import { useScene } from '../stores/scene';
import { fileChoices, useSceneFiles } from './scene-files';

/** The cue sheet: every cue that is heard with its times, track, sound and licence. */
const scene = useScene();
const files = useSceneFiles();
const busy = ref(false);

async function make(): Promise<void> {
  if (!scene.current || busy.value) return;
  busy.value = true;
  try {
    const { name, blob } = await files.sheet();
    saveBlob(blob, name);
  } catch (error) {
    tell.error(`The cue sheet could not be made: ${(error as Error).message}`);
  } finally {
    busy.value = false;
  }
}

useCommands('Using a sound', [{ label: 'Save the cue sheet', keys: ['u'], run: () => void make() }]);
</script>

<template>
  <li>
    <div>
      <strong>Cue sheet</strong
      ><span class="mute">Every cue that is heard: in, out, anchor, track, sound, file and licence; the page has the frames of the picture</span>
    </div>
    <Select v-model:value="files.sheetForm" :options="fileChoices.sheets" aria-label="Form of the cue sheet" class="by" />
    <Button :loading="busy" @click="make">Save the cue sheet</Button>
  </li>
</template>
