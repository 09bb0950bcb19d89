<script setup lang="ts">
import { Select } from 'ant-design-vue';
import { fileChoices, useSceneFiles } from './scene-files';

/** How the mix, its stems and files of cues are written. */
const files = useSceneFiles();
</script>

<template>
  <div class="form" role="group" aria-label="How mix and stems are written">
    <span class="mute">Mix, stems and cues as</span>
    <Select v-model:value="files.depthKey" size="small" :options="fileChoices.depths" aria-label="Depth and kind of file" class="depth" />
    <Select v-model:value="files.rate" size="small" :options="fileChoices.rates" aria-label="Sample rate" class="rate" />
    <Select v-model:value="files.layout" size="small" :options="fileChoices.channels" aria-label="Channels" class="rate" />
  </div>
</template>

<style scoped>
.form {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-bottom: 12px;
}
.depth {
  width: 180px;
}
.rate {
  width: 100px;
}
</style>
