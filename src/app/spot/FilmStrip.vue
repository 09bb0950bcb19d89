<script setup lang="ts">
import { frameToSample } from '@core/scene';
import { RATE } from '@platform/index';
import { proxy } from 'comlink';
import { onUnmounted, useTemplateRef, watch } from 'vue';
import { usePicture } from '../stores/picture';
import { useScene } from '../stores/scene';
import { film } from '../stores/workers';

const props = defineProps<{ from: number; pixelsPerSample: number; width: number; height: number }>();
const scene = useScene();
const picture = usePicture();
const canvas = useTemplateRef('canvas');
/** Small pictures, one a second of picture, as they come. */
const pictures = new Map<number, ImageBitmap>();
let asked = '';

async function fetchPictures(): Promise<void> {
  const { picture: of, root, facts } = picture;
  const wanted = of && root && facts ? `${root.id}/${of.path}` : '';
  if (asked === wanted) return;
  asked = wanted;
  pictures.forEach((p) => p.close());
  pictures.clear();
  draw();
  if (!of || !root || !facts) return;
  const seconds = Math.max(1, Math.floor((of.frames * scene.rate.den) / scene.rate.num));
  const times = Array.from({ length: Math.min(1200, seconds) }, (_, i) => facts.first + i + 0.5);
  const mine = asked;
  const take = proxy((i: number, image: ImageBitmap) => {
    if (asked !== mine) return image.close();
    pictures.set(i, image);
    draw();
  });
  // A filmstrip is a help to the eye; without one the timeline works as well.
  await film.strip({ ...root }, of.path, facts.size, times, 34, take).catch(() => undefined);
}

function draw(): void {
  const paper = canvas.value?.getContext('2d');
  if (!paper) return;
  paper.clearRect(0, 0, props.width, props.height);
  const perSecond = props.pixelsPerSample * RATE;
  const offset = frameToSample(picture.offset, scene.rate, RATE);
  for (const [i, image] of pictures) {
    // Each second is filled with its picture, again and again when it is wider than that.
    const x0 = (i * RATE + offset - props.from) * props.pixelsPerSample;
    if (x0 > props.width || x0 + perSecond < 0) continue;
    paper.save();
    paper.beginPath();
    paper.rect(x0, 0, perSecond, props.height);
    paper.clip();
    for (let x = x0; x < x0 + perSecond; x += image.width) paper.drawImage(image, x, 0);
    paper.restore();
  }
}

watch(() => [props.from, props.pixelsPerSample, props.width, picture.offset], draw, { flush: 'post' });
watch(
  () => picture.facts,
  () => void fetchPictures(),
  { immediate: true },
);
onUnmounted(() => pictures.forEach((p) => p.close()));
</script>

<template>
  <canvas ref="canvas" :width="width" :height="height" aria-hidden="true" />
</template>
