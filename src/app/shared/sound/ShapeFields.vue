<script setup lang="ts">
import { directions, LENGTHS, PITCHES, SPEEDS, textures, type ChannelPick, type Shape, type Texture } from '@core/audio';
import { RadioButton, RadioGroup, Select } from 'ant-design-vue';
import { computed } from 'vue';
import { capital } from '../controls/format';
import NumberBox from '../controls/NumberBox.vue';

/** How a sound plays, wherever that is set: three columns of a panel. What is said of a sound in a cue, in Spot, is said in the same words. */
const props = defineProps<{ shape: Shape; channels: number }>();
const emit = defineEmits<{ set: [change: Partial<Shape>, done?: boolean] }>();

const OCTAVE = 12;
const semitones = computed(() => Number((OCTAVE * Math.log2(props.shape.speed)).toFixed(2)));
const within = (value: number, { least, most }: { least: number; most: number }) => Math.max(least, Math.min(most, value));
const speed = (value: number) => emit('set', { speed: within(value, SPEEDS) });

const picks = computed(() => {
  const named: { value: ChannelPick; label: string }[] = [{ value: 'all', label: 'All as they are' }];
  if (props.channels < 2) return named;
  named.push(
    { value: 'mono', label: 'Mono, their mean' },
    { value: 'side', label: 'Side, left minus right' },
    { value: 'swapped', label: 'Left and right exchanged' },
  );
  for (let c = 0; c < props.channels; c++) named.push({ value: c, label: props.channels === 2 ? ['Left alone', 'Right alone'][c] : `Channel ${c + 1} alone` });
  return named;
});
</script>

<template>
  <label for="shape-speed">Speed</label>
  <NumberBox :value="semitones" :min="-48" :max="48" :empty="0" unit="semitones" aria-label="Speed in semitones" @set="(n) => speed(2 ** (n / OCTAVE))" />
  <NumberBox
    id="shape-speed"
    :value="Number(shape.speed.toFixed(4))"
    :min="SPEEDS.least"
    :max="SPEEDS.most"
    :step="0.05"
    :empty="1"
    unit="times"
    @set="speed"
  />

  <label for="shape-pitch">Pitch</label>
  <NumberBox
    id="shape-pitch"
    :value="shape.pitch"
    :min="PITCHES.least"
    :max="PITCHES.most"
    :empty="0"
    unit="semitones"
    @set="(pitch) => emit('set', { pitch })"
  />
  <span class="mute">at the same length</span>

  <label for="shape-length">Length</label>
  <NumberBox
    id="shape-length"
    :value="Number((shape.length * 100).toFixed(2))"
    :min="LENGTHS.least * 100"
    :max="LENGTHS.most * 100"
    :step="5"
    :empty="100"
    unit="%"
    @set="(n) => emit('set', { length: within(n / 100, LENGTHS) })"
  />
  <Select
    size="small"
    aria-label="What kind of sound it is"
    :value="shape.texture"
    :options="textures.map((t) => ({ value: t, label: capital(t) }))"
    @change="(v) => emit('set', { texture: v as Texture })"
  />

  <span>Direction</span>
  <RadioGroup class="wide" size="small" :value="shape.direction" aria-label="Direction" @change="(e) => emit('set', { direction: e.target.value })">
    <RadioButton v-for="d in directions" :key="d" :value="d">{{ capital(d) }}</RadioButton>
  </RadioGroup>

  <span>Channels</span>
  <Select
    class="wide"
    size="small"
    aria-label="Channels"
    :value="shape.channels"
    :options="picks"
    @change="(v) => emit('set', { channels: v as ChannelPick })"
  />
</template>

<style scoped>
.wide {
  grid-column: 2 / -1;
}
</style>
