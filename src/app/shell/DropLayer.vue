<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import { ref } from 'vue';
import { useRouter } from 'vue-router';
import { useIntake } from '../stores/intake';

const intake = useIntake();
const router = useRouter();
const over = ref(false);

const bringsFiles = (event: DragEvent) => event.dataTransfer?.types.includes('Files') ?? false;

useEventListener(window, 'dragover', (event) => {
  if (!bringsFiles(event)) return;
  event.preventDefault();
  over.value = true;
});
useEventListener(window, 'dragleave', (event) => {
  if (event.relatedTarget === null) over.value = false;
});
useEventListener(window, 'drop', async (event) => {
  if (!bringsFiles(event)) return;
  event.preventDefault();
  over.value = false;
  const items = [...(event.dataTransfer?.items ?? [])].filter((i) => i.kind === 'file');
  const files = [...(event.dataTransfer?.files ?? [])];
  // The items are only good until this handler returns: every handle is asked for before any is awaited.
  // What comes without a place on disk, such as a picture from another page, has no handle: it is copied.
  const handles = await Promise.all(items.map((i) => i.getAsFileSystemHandle?.().catch(() => null) ?? null));
  const got = handles.filter((h) => h !== null) as (FileSystemDirectoryHandle | FileSystemFileHandle)[];
  void router.push({ name: 'intake' });
  if (got.length > 0) await intake.addHandles(got);
  else await intake.addCopies(files);
});
</script>

<template>
  <div v-if="over" class="drop">Drop sounds or folders to add them</div>
</template>

<style scoped>
.drop {
  position: fixed;
  inset: 12px;
  z-index: 2000;
  display: grid;
  place-content: center;
  border: 2px dashed var(--amber);
  border-radius: 8px;
  background: color-mix(in srgb, var(--deep) 88%, transparent);
  font-size: 20px;
  pointer-events: none;
}
</style>
