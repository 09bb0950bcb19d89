<script setup lang="ts">
import { loudnessTargets, missOf } from '@core/scene';
import { useElementSize, useLocalStorage } from '@vueuse/core';
import { Button, Progress, Select } from 'ant-design-vue';
import { computed, ref, useTemplateRef } from 'vue';
import { tell } from '../shell/notice';
import { useMix } from '../stores/mix';
import { useScene } from '../stores/scene';
import { levelMix } from '../stores/tracks';
import { useTransport } from '../stores/transport';

/** How loud the whole scene is, against what is asked for, and along its length. */
const mix = useMix();
const scene = useScene();
const transport = useTransport();
const targetKey = useLocalStorage('loudness target', loudnessTargets[0].key);
const targets = loudnessTargets.map(({ key, name }) => ({ value: key, label: name, title: name }));
const target = computed(() => loudnessTargets.find((t) => t.key === targetKey.value) ?? loudnessTargets[0]);
/** What is looked at: all of it, or a bus. */
const WHOLE = 0;
const chosen = ref(WHOLE);
const buses = computed(() => scene.lines.filter((t) => t.bus));
const sights = computed(() => [{ id: WHOLE, name: 'Whole scene' }, ...buses.value].map(({ id: value, name }) => ({ value, label: name, title: name })));
const isWhole = computed(() => !buses.value.some((b) => b.id === chosen.value));
const loud = computed(() => (isWhole.value ? mix.measured : mix.measured?.buses.get(chosen.value)));
const levels = computed(() => loud.value?.levels);
const miss = computed(() => (isWhole.value && levels.value ? missOf(levels.value, target.value) : undefined));

const strip = useTemplateRef('strip');
const { width, height } = useElementSize(strip);
/** From what to what the curve runs, LUFS; in its middle lies what is asked of the whole, or what a bus has. */
const SPAN = 36;
const middle = computed(() => (isWhole.value ? target.value.loudness : Math.max(-70, levels.value?.loudness ?? -70)));
const yOf = (loudness: number) => Math.max(1, Math.min(height.value - 1, ((middle.value + SPAN / 2 - loudness) / SPAN) * height.value));
/** Samples of the scene for each pixel. */
const length = computed(() => Math.max(scene.current?.length ?? 0, ((loud.value?.course.length ?? 0) * (scene.current?.sampleRate ?? 0)) / 10));
const curve = computed(() => {
  const { course } = loud.value ?? {};
  const s = scene.current;
  if (!course || !s || length.value === 0) return '';
  const step = Math.max(1, Math.floor(course.length / Math.max(1, width.value)));
  let path = '';
  for (let i = 0; i < course.length; i += step)
    path += `${path === '' ? 'M' : 'L'}${(((i * s.sampleRate) / 10 / length.value) * width.value).toFixed(1)} ${yOf(course[i]).toFixed(1)}`;
  return path;
});
function go(event: MouseEvent): void {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
  transport.seek(Math.round(((event.clientX - box.left) / box.width) * length.value));
}
const number = (value: number) => (Number.isFinite(value) ? value.toFixed(1).replace('-', '−') : '−∞');
/** Turns the main line so that all of it is as loud as is asked for. */
async function bring(): Promise<void> {
  const { value: off } = miss;
  if (off && (await levelMix(off.by, `Bring the mix to ${target.value.name}`)))
    tell.done(`The main line is ${Math.abs(off.by).toFixed(1)} dB ${off.by > 0 ? 'louder' : 'softer'}`);
}
</script>

<template>
  <section class="sight" aria-label="Whole scene">
    <div class="tools">
      <Select
        v-if="buses.length > 0"
        size="small"
        :value="isWhole ? WHOLE : chosen"
        :options="sights"
        aria-label="What is looked at"
        class="which"
        @change="(v) => (chosen = Number(v))"
      />
      <strong v-else>Whole scene</strong>
      <template v-if="levels">
        <span :class="{ stale: !mix.isFresh }"
          ><span class="mono" :class="{ off: miss?.missed }">{{ number(levels.loudness) }} LUFS</span>
          <span v-if="miss" class="mute">asked {{ number(target.loudness) }} ± {{ target.within }}</span></span
        >
        <span :class="{ stale: !mix.isFresh }"
          ><span class="mono" :class="{ off: miss && miss.over > 0 }">{{ number(levels.truePeak) }} dBTP</span>
          <span v-if="miss" class="mute">below {{ number(target.truePeak) }}</span></span
        >
        <span class="mono" :class="{ stale: !mix.isFresh }" title="Loudness range">LRA {{ levels.range.toFixed(1) }}</span>
      </template>
      <span v-else class="mute">not measured yet</span>
    </div>
    <div ref="strip" class="strip" @click="go">
      <svg :width="width" :height="height" aria-hidden="true">
        <line x1="0" :x2="width" :y1="yOf(middle)" :y2="yOf(middle)" class="asked" />
        <path :d="curve" class="curve" :class="{ stale: !mix.isFresh }" />
        <line v-if="length > 0" :x1="(transport.position / length) * width" :x2="(transport.position / length) * width" y1="0" :y2="height" class="playhead" />
      </svg>
    </div>
    <div class="tools">
      <span class="mute cut hint">Short-term loudness; click to go there</span>
      <span class="push" />
      <template v-if="mix.progress !== undefined">
        <Progress :percent="Math.round(mix.progress * 100)" size="small" class="progress" aria-label="Measuring" />
        <Button size="small" @click="mix.stopMeasuring()">Stop</Button>
      </template>
      <Button v-else-if="!mix.isFresh" size="small" @click="mix.measure()">Measure it</Button>
      <Select v-model:value="targetKey" size="small" :options="targets" aria-label="Loudness that is asked for" :style="{ flex: '0 0 170px' }" />
      <Button size="small" :disabled="!miss?.missed || !mix.isFresh" @click="bring">Bring the mix to it</Button>
    </div>
  </section>
</template>

<style scoped>
.sight {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr) auto;
  grid-template-columns: minmax(0, 1fr);
  gap: 6px;
  min-height: 0;
  padding: 12px 14px 6px;
}
.strip {
  min-height: 60px;
  overflow: hidden;
  cursor: pointer;
}
svg {
  display: block;
}
.asked {
  stroke: var(--line);
}
.curve {
  fill: none;
  stroke: var(--glass);
}
.playhead {
  stroke: var(--bone);
  stroke-width: 2;
}
.tools {
  min-height: 24px;
  white-space: nowrap;
}
.mono + .mute {
  margin-left: 6px;
}
.hint {
  min-width: 0;
}
.which {
  min-width: 116px;
}
.stale,
.stale .off {
  color: var(--mute);
}
.curve.stale {
  opacity: 0.5;
}
.off {
  color: var(--amber);
}
.progress {
  width: 140px;
  margin: 0;
}
</style>
