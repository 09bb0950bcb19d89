<script setup lang="ts">
import { Button, Checkbox, Progress } from 'ant-design-vue';
import { ref } from 'vue';
import PopPanel from '../shared/controls/PopPanel.vue';
import { useBuildSession } from '../stores/build-session';
import { useBuilds } from '../stores/builds';

/** The build as a project for other programs: what that cannot say is told before. */
const session = useBuildSession();
const builds = useBuilds();
const open = ref(false);
const beside = ref(true);
</script>

<template>
  <PopPanel v-model:open="open" placement="bottomRight">
    <template #panel>
      <div class="panel" role="group" aria-label="As a project">
        <p>A DAWproject with the original files of the layers, their part, level, place, fades and delay, and the anchor as a marker.</p>
        <p v-if="session.unsaid.length > 0" class="mute">It cannot say: {{ session.unsaid.join('; ') }}.</p>
        <Checkbox v-if="session.shaped" v-model:checked="beside">Beside it, each layer as it is heard, as WAV files</Checkbox>
        <Progress v-if="session.progress !== undefined" :percent="Math.floor(session.progress * 100)" size="small" aria-label="Making the project" />
        <span class="tools">
          <Button v-if="session.progress !== undefined" size="small" @click="session.cancel()">Cancel</Button>
          <Button v-else size="small" type="primary" @click="session.save(session.shaped && beside)">Save the project</Button>
        </span>
      </div>
    </template>
    <Button size="small" :disabled="builds.layers.length === 0">As a project …</Button>
  </PopPanel>
</template>

<style scoped>
.panel {
  display: grid;
  gap: 10px;
  width: 320px;
}
.panel p {
  margin: 0;
}
.tools {
  display: flex;
  justify-content: end;
}
</style>
