<script setup lang="ts">
import { frameToSample } from '@core/scene';
import { mediaUrl, RATE } from '@platform/index';
import { Button } from 'ant-design-vue';
import { ref, shallowRef, useTemplateRef, watch } from 'vue';
import { tell } from '../shell/notice';
import { useAudition } from '../stores/audition';
import { useIntake } from '../stores/intake';
import { useLibrary } from '../stores/library';
import { useScene } from '../stores/scene';

const scene = useScene();
const audition = useAudition();
const library = useLibrary();
const intake = useIntake();
const video = useTemplateRef('video');
const url = shallowRef<string>();
const failure = ref('');
const input = ref<HTMLInputElement>();

watch(
  () => [scene.current?.picture?.rootId, scene.current?.picture?.path, library.roots.length] as const,
  async ([rootId, path]) => {
    failure.value = '';
    url.value = undefined;
    const root = rootId === undefined ? undefined : library.rootById.get(rootId);
    if (!path) return;
    try {
      if (!root) throw new Error('Its folder is not in the library any more.');
      url.value = await mediaUrl(root, path);
    } catch (error) {
      failure.value = (error as Error).message;
    }
  },
  { immediate: true },
);

/** Seconds of picture at which a frame is safely on screen: its middle. */
const middleOf = (frame: number) => ((frame + 0.5) * scene.rate.den) / scene.rate.num;

// The engine is the clock. Stopped, the picture is set to the frame; running, it runs along and is only corrected when it strays.
watch(
  () => [scene.frame, audition.scenePlaying, url.value] as const,
  ([frame, playing]) => {
    const v = video.value;
    if (!v || v.readyState === 0) return;
    const wanted = playing ? audition.scenePosition / RATE : middleOf(frame);
    if (!playing) {
      if (!v.paused) v.pause();
      if (Math.abs(v.currentTime - wanted) > 0.0005) v.currentTime = wanted;
      return;
    }
    const limit = frameToSample(3, scene.rate, RATE) / RATE;
    if (Math.abs(v.currentTime - wanted) > limit) v.currentTime = wanted;
    if (v.paused && wanted < v.duration - 0.05) void v.play().catch(() => undefined);
  },
);

function ready(): void {
  if (video.value) video.value.currentTime = middleOf(scene.frame);
}

async function choose(): Promise<void> {
  if (!window.showOpenFilePicker) return input.value?.click();
  try {
    const [handle] = await window.showOpenFilePicker({
      types: [{ description: 'Picture', accept: { 'video/*': ['.webm', '.mp4', '.mov', '.mkv'] } }],
    });
    await intake.addHandles([handle]);
    await take(handle.name, (await handle.getFile()).size);
  } catch (error) {
    if ((error as Error).name !== 'AbortError') tell.error(`The picture could not be opened: ${(error as Error).message}`);
  }
}

async function copied(event: Event): Promise<void> {
  const [file] = (event.target as HTMLInputElement).files ?? [];
  if (!file) return;
  await intake.addCopies([file]);
  await take(file.name, file.size);
}

async function take(path: string, size: number): Promise<void> {
  const root = [...library.roots].reverse().find((r) => r.name === path);
  if (!root) return;
  try {
    await scene.setPicture(root, path, size);
  } catch (error) {
    tell.error((error as Error).message);
  }
}
</script>

<template>
  <div class="picture">
    <div class="frame">
      <video
        v-if="url"
        ref="video"
        :src="url"
        muted
        playsinline
        preload="auto"
        :aria-label="`Picture of ${scene.current?.name}`"
        @loadeddata="ready"
        @error="failure = 'This browser cannot show the picture.'"
      />
      <div v-if="failure || !url" class="empty">
        <strong>{{ failure ? 'The picture cannot be shown' : 'No picture yet' }}</strong>
        <span>{{ failure || 'Sounds can be placed without one, too.' }}</span>
        <Button @click="choose">Choose a picture</Button>
      </div>
      <input ref="input" type="file" accept="video/*" hidden aria-label="Picture file" @change="copied" />
    </div>
    <div class="under">
      <span class="mono timecode" role="timer" aria-label="Playhead">{{ scene.timecode }}</span>
      <span class="mute">frame {{ scene.frame }} · {{ scene.current?.fps }} fps</span>
      <slot />
    </div>
  </div>
</template>

<style scoped>
.picture {
  display: grid;
  grid-template-rows: minmax(0, 1fr) 34px;
  padding: 12px 14px 0;
}
.frame {
  display: grid;
  min-height: 0;
  overflow: hidden;
  border-radius: 6px;
  background: #000;
}
video {
  grid-area: 1 / 1;
  width: 100%;
  height: 100%;
  object-fit: contain;
}
.frame .empty {
  grid-area: 1 / 1;
  background: var(--bed);
}
.under {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 16px;
}
.timecode {
  font-size: 17px;
}
</style>
