<script setup lang="ts">
import { energyOf, frameToSample } from '@core/scene';
import { RATE } from '@platform/index';
import { proxy } from 'comlink';
import { computed, onUnmounted, useTemplateRef, watch } from 'vue';
import { usePictureEvents } from '../stores/events';
import { usePrefs } from '../stores/prefs';
import { usePicture } from '../stores/picture';
import { useScene } from '../stores/scene';
import { film } from '../stores/workers';

/** The film, a picture for each second, and below it the curve of how much moves in it. */
const props = defineProps<{ from: number; pixelsPerSample: number; width: number }>();
/** Pixels of the pictures, and of the curve. */
const [HIGH, CURVE] = [34, 12];
const scene = useScene();
const picture = usePicture();
const events = usePictureEvents();
const prefs = usePrefs();
/** What moves always, as water and grain do, lies at the foot of the curve. */
const energy = computed(() => {
  if (!events.motion) return undefined;
  const of = energyOf(events.motion);
  const sorted = [...of].sort((a, b) => a - b);
  const [low, high] = [0.1, 0.995].map((share) => sorted[Math.floor(share * (sorted.length - 1))] ?? 0);
  return of.map((e) => Math.min(1, Math.max(0, (e - low) / (high - low || 1))));
});
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
  await film()
    .strip({ ...root }, of.path, facts.size, times, HIGH, take)
    .catch(() => undefined);
}

function draw(): void {
  const paper = canvas.value?.getContext('2d');
  if (!paper) return;
  paper.clearRect(0, 0, props.width, HIGH + CURVE);
  drawCurve(paper);
  const perSecond = props.pixelsPerSample * RATE;
  const offset = frameToSample(picture.offset, scene.rate, RATE);
  for (const [i, image] of pictures) {
    // Each second is filled with its picture, again and again when it is wider than that.
    const x0 = (i * RATE + offset - props.from) * props.pixelsPerSample;
    if (x0 > props.width || x0 + perSecond < 0) continue;
    paper.save();
    paper.beginPath();
    paper.rect(x0, 0, perSecond, HIGH);
    paper.clip();
    for (let x = x0; x < x0 + perSecond; x += image.width) paper.drawImage(image, x, 0);
    paper.restore();
  }
}

/** The most that moves in each pixel's time. */
function drawCurve(paper: CanvasRenderingContext2D): void {
  const of = energy.value;
  if (!of || !events.motion) return;
  // Not whole samples: these would add up over a long picture.
  const perStep = (events.motion.step * RATE * scene.rate.den) / scene.rate.num;
  const offset = frameToSample(picture.offset, scene.rate, RATE);
  const stepAt = (x: number) => (props.from + x / props.pixelsPerSample - offset) / perStep;
  paper.fillStyle = prefs.palette.sky;
  for (let x = 0; x < props.width; x++) {
    const [first, last] = [Math.floor(stepAt(x)), Math.max(Math.floor(stepAt(x)), Math.ceil(stepAt(x + 1)) - 1)];
    let most = 0;
    for (let i = Math.max(0, first); i <= Math.min(last, of.length - 1); i++) most = Math.max(most, of[i]);
    const high = Math.round(most * CURVE);
    if (high > 0) paper.fillRect(x, HIGH + CURVE - high, 1, high);
  }
}

watch(() => [props.from, props.pixelsPerSample, props.width, picture.offset, energy.value, prefs.palette], draw, { flush: 'post' });
watch(
  () => picture.facts,
  () => void fetchPictures(),
  { immediate: true },
);
onUnmounted(() => pictures.forEach((p) => p.close()));
</script>

<template>
  <canvas ref="canvas" :width="width" :height="HIGH + CURVE" aria-hidden="true" />
</template>
