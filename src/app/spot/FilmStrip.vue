<script setup lang="ts">
import { mediaUrl, RATE, type RootRecord } from '@platform/index';
import { proxy } from 'comlink';
import { onUnmounted, useTemplateRef, watch } from 'vue';
import { useLibrary } from '../stores/library';
import { useScene } from '../stores/scene';
import { film } from '../stores/workers';

const props = defineProps<{ from: number; pixelsPerSample: number; width: number; height: number }>();
const scene = useScene();
const library = useLibrary();
const canvas = useTemplateRef('canvas');
/** Small pictures, one a second of picture, as they come. */
const pictures = new Map<number, ImageBitmap>();
let asked = '';

async function fetchPictures(): Promise<void> {
  const picture = scene.current?.picture;
  const root = picture && library.rootById.get(picture.rootId);
  if (!picture || !root || asked === `${root.id}/${picture.path}`) return;
  asked = `${root.id}/${picture.path}`;
  const seconds = Math.floor(scene.current!.length / RATE);
  const times = Array.from({ length: Math.min(1200, seconds) }, (_, i) => i + 0.5);
  const size = await sizeOf(root, picture.path);
  await film
    .strip(
      { ...root },
      picture.path,
      size,
      times,
      34,
      proxy((i: number, image: ImageBitmap) => {
        pictures.set(i, image);
        draw();
      }),
    )
    // A filmstrip is a help to the eye; without one the timeline works as well.
    .catch(() => undefined);
}

/** The bytes of a served picture; handles know their own size. */
async function sizeOf(root: RootRecord, path: string): Promise<number> {
  if (root.kind !== 'server') return 1;
  const response = await fetch(await mediaUrl(root, path), { method: 'HEAD' });
  return Number(response.headers.get('Content-Length') ?? 0);
}

function draw(): void {
  const paper = canvas.value?.getContext('2d');
  if (!paper) return;
  paper.clearRect(0, 0, props.width, props.height);
  const perSecond = props.pixelsPerSample * RATE;
  for (const [i, image] of pictures) {
    // Each second is filled with its picture, again and again when it is wider than that.
    const x0 = (i * RATE - props.from) * props.pixelsPerSample;
    if (x0 > props.width || x0 + perSecond < 0) continue;
    paper.save();
    paper.beginPath();
    paper.rect(x0, 0, perSecond, props.height);
    paper.clip();
    for (let x = x0; x < x0 + perSecond; x += image.width) paper.drawImage(image, x, 0);
    paper.restore();
  }
}

watch(() => [props.from, props.pixelsPerSample, props.width], draw, { flush: 'post' });
watch(
  () => [scene.current?.picture?.path, library.roots.length],
  () => void fetchPictures(),
  { immediate: true },
);
onUnmounted(() => pictures.forEach((p) => p.close()));
</script>

<template>
  <canvas ref="canvas" :width="width" :height="height" aria-hidden="true" />
</template>
