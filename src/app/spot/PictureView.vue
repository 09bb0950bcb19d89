<script setup lang="ts">
import { videoFiles } from '@core/files';
import { Button } from 'ant-design-vue';
import { computed, onUnmounted, ref, shallowRef, useTemplateRef, watch } from 'vue';
import { tell } from '../shell/notice';
import { useTransport } from '../stores/transport';
import { usePicture } from '../stores/picture';
import { useScene } from '../stores/scene';
import { keepInStep, type Pace } from './keepInStep';
import PicturePanel from './PicturePanel.vue';
import LinkButton from './LinkButton.vue';
import TimecodeBox from './TimecodeBox.vue';

const scene = useScene();
const transport = useTransport();
const picture = usePicture();
const video = useTemplateRef('video');
const input = ref<HTMLInputElement>();
/** The window of its own, for a second screen. */
const own = shallowRef<{ window: Window; video: HTMLVideoElement }>();

const pace = (): Pace => ({
  playing: transport.playing,
  speed: transport.speed,
  at: (moment) => {
    const sample = transport.soundingAt(moment);
    return sample === undefined ? undefined : picture.timeOf(sample);
  },
  still: picture.middleOf(scene.frame),
});

const steps: ReturnType<typeof keepInStep>[] = [];
let shown: ReturnType<typeof keepInStep> | undefined;
watch(video, (element) => {
  if (shown) steps.splice(steps.indexOf(shown), 1)[0].end();
  shown = element ? keepInStep(element, () => ({ ...pace(), onFrame: picture.measured })) : undefined;
  if (shown) steps.push(shown);
});
const turn = () => steps.forEach((s) => s.turn());
watch(() => [scene.frame, transport.playing, transport.speed, picture.offset, picture.facts, picture.url] as const, turn, { flush: 'post' });
onUnmounted(() => {
  steps.forEach((s) => s.end());
  own.value?.window.close();
});

/** Shows the picture in a window of its own as well, to be moved to a second screen; or closes that. */
function toggleOwn(): void {
  if (own.value) return own.value.window.close();
  const window = open('', 'cormorant-picture', 'popup,width=960,height=540');
  if (!window || !picture.url) return void tell.error('The window was blocked by the browser. Allow windows for this page, and try again.');
  const { document } = window;
  document.title = `${scene.current?.name ?? ''}: picture`;
  document.body.replaceChildren();
  document.body.style.cssText = 'margin:0;background:#000;display:grid;height:100vh;overflow:hidden';
  const second = document.createElement('video');
  Object.assign(second, { src: picture.url, muted: true, playsInline: true, preload: 'auto' });
  second.style.cssText = 'width:100%;height:100vh;object-fit:contain';
  second.setAttribute('aria-label', `Picture of ${scene.current?.name ?? ''}`);
  // A click fills the screen with it; keys go on meaning the scene.
  second.addEventListener('dblclick', () => void (document.fullscreenElement ? document.exitFullscreen() : second.requestFullscreen()));
  window.addEventListener('keydown', (event) => globalThis.window.dispatchEvent(new KeyboardEvent('keydown', event)));
  document.body.append(second);
  const step = keepInStep(second, pace);
  second.addEventListener('loadeddata', step.turn);
  steps.push(step);
  own.value = { window, video: second };
  window.addEventListener('pagehide', () => {
    step.end();
    steps.splice(steps.indexOf(step), 1);
    own.value = undefined;
  });
}
watch(
  () => picture.url,
  (url) => {
    if (own.value && url) own.value.video.src = url;
  },
);

async function choose(): Promise<void> {
  if (!window.showOpenFilePicker) return input.value?.click();
  try {
    const [handle] = await window.showOpenFilePicker({
      types: [{ description: 'Picture', accept: { 'video/*': videoFiles as `.${string}`[] } }],
    });
    await picture.takeHandle(handle);
  } catch (error) {
    if ((error as Error).name !== 'AbortError') tell.error(`The picture could not be opened: ${(error as Error).message}`);
  }
}
async function copied(event: Event): Promise<void> {
  const [file] = (event.target as HTMLInputElement).files ?? [];
  if (file) await picture.takeCopy(file);
}

const speed = computed(() => {
  const { playing, speed } = transport;
  if (!playing || speed === 1) return '';
  return `${Math.abs(speed)} times, ${speed < 0 ? 'backward' : 'forward'}`;
});
</script>

<template>
  <div class="picture">
    <div class="frame">
      <video
        v-if="picture.url"
        ref="video"
        :src="picture.url"
        muted
        playsinline
        preload="auto"
        :aria-label="`Picture of ${scene.current?.name}`"
        @loadeddata="turn"
        @error="picture.failed()"
      />
      <div v-if="picture.failure || !picture.url" class="empty" role="status">
        <strong>{{ picture.failure ? 'The picture cannot be shown' : 'No picture yet' }}</strong>
        <span>{{ picture.failure || 'Choose one, or drop a video here. Sounds can be placed without one, too.' }}</span>
        <span class="tools">
          <Button v-if="picture.failure" @click="picture.again()">Try again</Button>
          <Button @click="choose">Choose a picture</Button>
          <PicturePanel :own="own !== undefined" @choose="choose" @own="toggleOwn" />
        </span>
      </div>
      <input ref="input" type="file" accept="video/*" hidden aria-label="Picture file" @change="copied" />
    </div>
    <div class="under">
      <TimecodeBox />
      <span class="mute">frame {{ scene.frame }} · {{ scene.current?.fps }} fps</span>
      <span v-if="speed" class="amber" role="status">{{ speed }}</span>
      <slot />
      <LinkButton />
      <PicturePanel v-if="picture.url && !picture.failure" :own="own !== undefined" @choose="choose" @own="toggleOwn" />
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
  position: relative;
  display: grid;
  grid-template: minmax(0, 1fr) / minmax(0, 1fr);
  min-height: 0;
  overflow: hidden;
  border-radius: 6px;
  background: #000;
}
/* It is as large as there is room, whatever its own size is. */
video {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  object-fit: contain;
}
.frame .empty {
  position: relative;
  grid-area: 1 / 1;
  background: var(--bed);
}
.under {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
  white-space: nowrap;
}
.amber {
  color: var(--amber);
}
</style>
