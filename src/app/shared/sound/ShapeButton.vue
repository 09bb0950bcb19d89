<script setup lang="ts">
import { fadeForms, fullShape, isPlain, LENGTHS, plainShape, SPEEDS, type Shape } from '@core/audio';
import type { Sound } from '@core/library';
import { useTimeoutFn } from '@vueuse/core';
import { Button, Checkbox, Select, Slider, Switch } from 'ant-design-vue';
import { computed, onBeforeUnmount, ref, watch } from 'vue';
import { tell } from '../../shell/notice';
import { useAudition } from '../../stores/audition';
import { useCommands, withKey } from '../controls/commands';
import { capital } from '../controls/format';
import NumberBox from '../controls/NumberBox.vue';
import PopPanel from '../controls/PopPanel.vue';
import ShapeFields from './ShapeFields.vue';
import { useMarks } from './useMarks';

/** What is done to a sound while it is heard and when it is taken away. The file stays as it is. */
const props = defineProps<{ sound: Sound }>();

const audition = useAudition();
/** What is being set, a moment before it is kept. */
const draft = ref<Shape>(fullShape(props.sound.marks.shape));
/** The sound that is being shaped, until that is kept; what the catalogue says of it is older. */
let shaping: Sound | undefined;
const keep = useMarks(() => shaping ?? props.sound);
/** Milliseconds for which the hand rests before what it set is kept. */
const REST = 300;
const { start: keepSoon, stop: wait } = useTimeoutFn(() => void commit(), REST, { immediate: false });

async function commit(): Promise<void> {
  wait();
  const kept = shaping;
  if (!kept) return;
  const shape = { ...draft.value };
  await keep('Shape', { 'marks.shape': isPlain(shape) ? undefined : shape });
  if (shaping === kept) shaping = undefined;
}
watch(
  () => [props.sound.id, props.sound.marks.shape] as const,
  ([id, shape], [before]) => {
    // Whoever moved on meanwhile leaves what was set with the sound for which it was set.
    if (id !== before) void commit();
    if (id !== before || !shaping) draft.value = fullShape(shape);
    if (id !== before) shaping = undefined;
  },
);
onBeforeUnmount(() => void commit());

/** Heard at once; kept as one edit, when the hand rests or right away. */
function set(change: Partial<Shape>, done = false): void {
  draft.value = { ...draft.value, ...change };
  shaping = props.sound;
  if (audition.sound?.id === props.sound.id) audition.renew({ ...props.sound, marks: { ...props.sound.marks, shape: { ...draft.value } } });
  if (done) void commit();
  else keepSoon();
}

const OCTAVE = 12;
const semitones = computed(() => Number((OCTAVE * Math.log2(draft.value.speed)).toFixed(2)));
const speed = (value: number) => Math.max(SPEEDS.least, Math.min(SPEEDS.most, value));
const length = (value: number) => Math.max(LENGTHS.least, Math.min(LENGTHS.most, value));
const bySemitones = (n: number) => set({ speed: speed(2 ** (n / OCTAVE)) });
/** Beats a minute as it sounds now, where its own are known. */
const tempo = computed(() => (typeof props.sound.fields.tempo === 'number' ? props.sound.fields.tempo : undefined));
const beats = computed(() => tempo.value && Number(((tempo.value * draft.value.speed) / draft.value.length).toFixed(1)));
/** Whether another tempo leaves the pitch alone. */
const keepPitch = ref(true);
function toBeats(bpm: number): void {
  if (!tempo.value || !(bpm > 0)) return;
  const times = bpm / tempo.value;
  set(keepPitch.value ? { length: length(draft.value.speed / times) } : { speed: speed(times * draft.value.length) });
}

/** Seconds after which taps begin anew. */
const PAUSE = 2;
const taps: number[] = [];
function tap(): void {
  const now = performance.now() / 1000;
  if (taps.length > 0 && now - taps[taps.length - 1] > PAUSE) taps.length = 0;
  taps.push(now);
  if (taps.length > 2) toBeats((60 * (taps.length - 1)) / (now - taps[0]));
}

function copy(): void {
  audition.copiedShape = { ...draft.value };
  tell.done('Shape copied; open another sound and put it there');
}
useCommands('Listening', [
  { label: 'Hear sounds plain, without their shapes', keys: ['q'], run: () => (audition.plain = !audition.plain) },
  { label: 'Play the other way', keys: ['Shift+r'], run: () => set({ direction: draft.value.direction === 'backward' ? 'forward' : 'backward' }, true) },
  { label: 'A semitone slower', keys: ['<'], run: () => bySemitones(semitones.value - 1) },
  { label: 'A semitone faster', keys: ['>'], run: () => bySemitones(semitones.value + 1) },
  { label: 'Put the copied shape on it', keys: ['Shift+v'], run: () => set(audition.copiedShape!, true), enabled: () => audition.copiedShape !== undefined },
]);
</script>

<template>
  <PopPanel placement="bottomLeft">
    <template #panel>
      <div class="shape" role="group" aria-label="Shape">
        <label for="shape-gain">Gain</label>
        <span data-slider-label="Gain in decibels">
          <Slider :value="draft.gain" :min="-24" :max="24" :step="0.5" @change="(v) => set({ gain: Number(v) })" />
        </span>
        <NumberBox id="shape-gain" :value="draft.gain" :min="-60" :max="24" :step="0.5" :empty="0" unit="dB" @set="(gain) => set({ gain })" />

        <ShapeFields :shape="draft" :channels="sound.format.channels" @set="set" />

        <template v-if="beats">
          <label for="shape-tempo">Tempo</label>
          <span class="line">
            <Button size="small" @click="tap">Tap</Button>
            <Button size="small" @click="toBeats(beats / 2)">Halve</Button>
            <Button size="small" @click="toBeats(beats * 2)">Double</Button>
          </span>
          <NumberBox id="shape-tempo" :value="beats" :min="10" :max="600" unit="BPM" @set="toBeats" />
          <span />
          <Checkbox v-model:checked="keepPitch" class="wide">Tempo leaves the pitch as it is</Checkbox>
        </template>

        <label for="shape-in">Fades</label>
        <NumberBox
          id="shape-in"
          :value="draft.fadeIn"
          :min="0"
          :max="60"
          :step="0.05"
          :empty="0"
          addon-before="In"
          unit="s"
          @set="(fadeIn) => set({ fadeIn })"
        />
        <NumberBox
          :value="draft.fadeOut"
          :min="0"
          :max="60"
          :step="0.05"
          :empty="0"
          addon-before="Out"
          unit="s"
          aria-label="Fade out"
          @set="(fadeOut) => set({ fadeOut })"
        />
        <span />
        <Select
          class="wide"
          size="small"
          aria-label="Form of the fades"
          :value="draft.fade"
          :options="fadeForms.map((f) => ({ value: f, label: capital(f) }))"
          @change="(v) => set({ fade: v as Shape['fade'] })"
        />

        <div class="foot">
          <Switch v-model:checked="audition.plain" size="small" aria-label="Hear it plain" />
          <span class="mute">{{ withKey('Hear it plain', 'Hear sounds plain, without their shapes') }}</span>
          <span class="push" />
          <Button size="small" :disabled="isPlain(draft)" @click="copy">Copy</Button>
          <Button size="small" :disabled="!audition.copiedShape" @click="set(audition.copiedShape!, true)">Put on</Button>
          <Button size="small" :disabled="isPlain(draft)" @click="set(plainShape, true)">Reset</Button>
        </div>
      </div>
    </template>
    <Button size="small" :class="{ on: !isPlain(draft) }" title="Gain, speed, pitch, length, direction, fades and channels; the file stays as it is"
      >Shape</Button
    >
  </PopPanel>
</template>

<style scoped>
.shape {
  display: grid;
  grid-template-columns: 76px 160px 150px;
  align-items: center;
  gap: 8px 12px;
}
.shape :deep(.ant-input-number-group-wrapper) {
  width: 100%;
}
.wide {
  grid-column: 2 / -1;
}
.line {
  display: flex;
  gap: 6px;
}
.foot {
  display: flex;
  grid-column: 1 / -1;
  align-items: center;
  gap: 8px;
  padding-top: 8px;
  border-top: 1px solid var(--line);
}
.on {
  border-color: var(--amber);
  color: color-mix(in srgb, var(--amber) 65%, var(--text));
}
.push {
  margin-left: auto;
}
</style>
