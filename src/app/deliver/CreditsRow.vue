<script setup lang="ts">
import { Button, Select } from 'ant-design-vue';
import { useCommands } from '../shared/controls/commands';
import { saveBlob } from '../shared/take/save';
import { tell } from '../shell/notice';
import { fileChoices, useSceneFiles } from './scene-files';

/** The credits of a scene: a sheet of all sounds, or what has to be printed. */
const files = useSceneFiles();
function saveCredits(): void {
  const file = files.creditFile();
  if (file) saveBlob(file.blob, file.name);
  else tell.info('No sound of this scene asks for a credit: there is nothing to print');
}
useCommands('Using a sound', [{ label: 'Save the credits', keys: ['c'], run: saveCredits }]);
</script>

<template>
  <li>
    <div><strong>Credits</strong><span class="mute">What each licence asks for: a sheet of all sounds, or what has to be printed, by author</span></div>
    <Select v-model:value="files.creditForm" :options="fileChoices.credits" aria-label="Form of the credits" class="by" />
    <Button @click="saveCredits">Save the credits</Button>
  </li>
</template>
