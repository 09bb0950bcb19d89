<script setup lang="ts">
import { videoEndings } from '@core/files';
import { SCENES } from '@core/scene';
import { useEventListener } from '@vueuse/core';
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import { useAlike } from '../find/useAlike';
import type { RootRecord } from '@platform/index';
import { useBuilds } from '../stores/builds';
import { tell } from './notice';
import { useIntake } from '../stores/intake';
import { useLoose } from '../stores/loose';
import { usePicture } from '../stores/picture';
import { useSceneArchives } from '../stores/scene-archives';

const builds = useBuilds();
const intake = useIntake();
const router = useRouter();
const over = ref(false);

const alike = useAlike();
const loose = useLoose();
const picture = usePicture();
const sceneFile = useSceneArchives();
/** What becomes of files, from left to right: each a part of the window. */
const ways = computed(() => [
  ...(router.currentRoute.value.name === 'build' ? [{ key: 'layers', label: 'Drop sounds as layers of the build; they are added to the library, too' }] : []),
  {
    key: 'add',
    label: router.currentRoute.value.name === 'spot' ? 'Drop a video as the picture of the scene, or sounds to add them' : 'Drop sounds or folders to add them',
  },
  { key: 'hear', label: 'Drop sounds to hear them; they are not added' },
  ...(router.currentRoute.value.name === 'find' ? [{ key: 'alike', label: 'Drop a sound to find what is like it; it is not added' }] : []),
]);
const way = ref('add');
/** Layers that are made of one drop at the most: whoever drops a whole library means something else. */
const MOST_LAYERS = 24;
/** Adds what was dropped to the library, and from there to the build. */
async function layer(roots: readonly RootRecord[], names: ReadonlySet<string>): Promise<void> {
  const sounds = (await intake.soundsIn(roots)).filter((s) => names.size === 0 || names.has(s.path.split('/').pop()!));
  if (sounds.length === 0) return tell.error('None of what was dropped is a sound that can be read; Intake says why');
  if (sounds.length > MOST_LAYERS) tell.info(`${sounds.length} sounds were added to the library, and the first ${MOST_LAYERS} to the build`);
  await builds.add(sounds.slice(0, MOST_LAYERS));
}
const wayAt = (event: DragEvent) => ways.value[Math.min(ways.value.length - 1, Math.floor((event.clientX / innerWidth) * ways.value.length))].key;

const bringsFiles = (event: DragEvent) => event.dataTransfer?.types.includes('Files') ?? false;

useEventListener(window, 'dragover', (event) => {
  if (!bringsFiles(event)) return;
  event.preventDefault();
  over.value = true;
  way.value = wayAt(event);
});
useEventListener(window, 'dragleave', (event) => {
  if (event.relatedTarget === null) over.value = false;
});
useEventListener(window, 'drop', async (event) => {
  if (!bringsFiles(event)) return;
  event.preventDefault();
  over.value = false;
  const chosen = wayAt(event);
  const [dropped] = event.dataTransfer?.files ?? [];
  if (dropped?.name.toLowerCase().endsWith(SCENES.ending)) {
    void router.push({ name: 'spot' });
    return void sceneFile.look(dropped);
  }
  if (chosen === 'alike' && dropped) return alike.ofFile(dropped);
  if (chosen === 'hear' && dropped) return void loose.open([...event.dataTransfer!.files].map((file) => ({ file })));
  const toSpot =
    router.currentRoute.value.name === 'spot' && dropped !== undefined && event.dataTransfer!.files.length === 1 && videoEndings.test(dropped.name);
  const items = [...(event.dataTransfer?.items ?? [])].filter((i) => i.kind === 'file');
  const files = [...(event.dataTransfer?.files ?? [])];
  // The items are only good until this handler returns: every handle is asked for before any is awaited.
  // What comes without a place on disk, such as a picture from another page, has no handle: it is copied.
  const handles = await Promise.all(items.map((i) => i.getAsFileSystemHandle?.().catch(() => null) ?? null));
  const got = handles.filter((h) => h !== null) as (FileSystemDirectoryHandle | FileSystemFileHandle)[];
  if (toSpot) {
    const [handle] = got;
    return handle?.kind === 'file' ? picture.takeHandle(handle) : picture.takeCopy(dropped);
  }
  if (chosen !== 'layers') void router.push({ name: 'intake' });
  const roots = got.length > 0 ? await intake.addHandles(got) : await intake.addCopies(files);
  // A folder is all that is in it; of files only these, whatever lies beside them.
  const single = got.some((h) => h.kind === 'directory') ? [] : files.map((f) => f.name);
  if (chosen === 'layers') await layer(roots, new Set(single));
});
</script>

<template>
  <div v-if="over" class="drops">
    <div v-for="w in ways" :key="w.key" class="drop" :class="{ on: way === w.key }">{{ w.label }}</div>
  </div>
</template>

<style scoped>
.drops {
  position: fixed;
  inset: 12px;
  z-index: 2000;
  display: flex;
  gap: 12px;
  pointer-events: none;
}
.drop {
  flex: 1;
  display: grid;
  place-content: center;
  border: 2px dashed var(--line);
  border-radius: 8px;
  background: color-mix(in srgb, var(--deep) 88%, transparent);
  font-size: 20px;
  text-align: center;
}
.on {
  border-color: var(--amber);
}
</style>
