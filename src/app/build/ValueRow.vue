<script setup lang="ts">
import { LockOutlined, UnlockOutlined } from '@ant-design/icons-vue';
import { shareOf, valueAt, type PatchValue } from '@core/synth';
import { Button, Slider } from 'ant-design-vue';
import { computed } from 'vue';
import NumberBox from '../shared/controls/NumberBox.vue';

/** A number of a sound that is made from nothing: turned, typed, or locked while the others are rolled. */
const props = defineProps<{ spec: PatchValue; value: number; locked: boolean }>();
const emit = defineEmits<{ turn: [value: number]; lock: [] }>();
/** Places of the slider. */
const PLACES = 200;
const at = computed(() => Math.round(shareOf(props.spec, props.value) * PLACES));
const step = computed(() => 10 ** -(props.spec.digits ?? 0));
</script>

<template>
  <div class="value" role="group" :aria-label="spec.name">
    <Button
      type="text"
      size="small"
      :aria-label="locked ? `Let ${spec.name} be rolled` : `Lock ${spec.name}`"
      :aria-pressed="locked"
      :title="locked ? 'Stays as it is when the others are rolled' : 'Keep it as it is when the others are rolled'"
      @click="emit('lock')"
    >
      <template #icon><LockOutlined v-if="locked" class="locked" /><UnlockOutlined v-else class="mute" /></template>
    </Button>
    <span class="cut" :class="{ locked }" :title="spec.name">{{ spec.name }}</span>
    <span :data-slider-label="`${spec.name}, as a slider`">
      <Slider :value="at" :min="0" :max="PLACES" :tooltip-open="false" @change="(place) => emit('turn', valueAt(spec, Number(place) / PLACES))" />
    </span>
    <NumberBox
      :value="value"
      :min="spec.from"
      :max="spec.to"
      :step="step"
      :controls="false"
      :aria-label="spec.name"
      class="mono"
      @set="(v) => emit('turn', v)"
    />
    <span class="mute small cut" :title="spec.unit">{{ spec.unit }}</span>
  </div>
</template>

<style scoped>
.value {
  display: grid;
  grid-template-columns: 24px minmax(0, 1fr) 70px 58px 66px;
  gap: 6px;
  align-items: center;
  min-height: 31px;
}
.value > :nth-child(4) {
  width: 100%;
}
.locked {
  color: var(--amber);
}
</style>
