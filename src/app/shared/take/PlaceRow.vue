<script setup lang="ts">
import { Input, Select } from 'ant-design-vue';
import { useMadePlace } from '../../stores/made-place';

/** Where the file of a sound goes that is made here. */
defineProps<{ id: string }>();
const place = useMadePlace();
</script>

<template>
  <span class="tools">
    <Select :id="id" v-model:value="place.target.rootId" :options="place.places" aria-label="Where it goes" class="place" />
    <template v-if="place.target.rootId !== 0">
      <span class="mute">/</span>
      <Input v-model:value="place.target.folder" aria-label="Folder below it" class="folder" />
    </template>
  </span>
</template>

<style scoped>
.place {
  min-width: 200px;
}
.folder {
  width: 150px;
}
</style>
