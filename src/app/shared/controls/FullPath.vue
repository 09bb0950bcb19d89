<script setup lang="ts">
import { CopyOutlined, FolderOpenOutlined } from '@ant-design/icons-vue';
import type { RootRecord } from '@platform/index';
import { revealFolder } from '@platform/index';
import { Button, Tooltip } from 'ant-design-vue';
import { computed } from 'vue';
import { tell } from '../../shell/notice';

/** Where a root, or a file of it, lies on this machine: to be read, copied, and opened where that can be. */
const { root, path = '' } = defineProps<{ root: RootRecord | undefined; path?: string }>();
const full = computed(() => [root?.place ?? root?.name ?? '', path].filter(Boolean).join('/'));

async function copy(): Promise<void> {
  try {
    await navigator.clipboard.writeText(full.value);
    tell.done('The path was copied');
  } catch {
    tell.error('The browser did not let the path be copied. Select it and copy it by hand.');
  }
}
async function open(): Promise<void> {
  try {
    await revealFolder(root!, path);
  } catch (error) {
    tell.error(`The folder could not be opened: ${(error as Error).message}`);
  }
}
</script>

<template>
  <span class="place">
    <bdi class="cut" :title="full">{{ full }}</bdi>
    <Tooltip title="Copy the path"
      ><Button size="small" type="text" :aria-label="`Copy the path ${full}`" @click="copy"
        ><template #icon><CopyOutlined /></template></Button
    ></Tooltip>
    <Tooltip v-if="root?.place" title="Open its folder"
      ><Button size="small" type="text" :aria-label="`Open the folder of ${full}`" @click="open"
        ><template #icon><FolderOpenOutlined /></template></Button
    ></Tooltip>
  </span>
</template>

<style scoped>
.place {
  display: flex;
  align-items: center;
  gap: 2px;
  min-width: 0;
}
</style>
