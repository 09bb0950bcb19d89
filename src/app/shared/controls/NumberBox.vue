<script setup lang="ts">
import { InputNumber } from 'ant-design-vue';

/** A box for a number, small, with its unit behind it. What else is given goes to the box itself. */
defineProps<{
  value?: number;
  min: number;
  max: number;
  step?: number;
  unit?: string;
  /** What an emptied box means; nothing changes when absent. */
  empty?: number;
}>();
const emit = defineEmits<{ set: [number] }>();

function take(typed: unknown, empty: number | undefined): void {
  const value = typeof typed === 'number' ? typed : empty;
  if (value !== undefined) emit('set', value);
}
</script>

<template>
  <InputNumber size="small" :value="value" :min="min" :max="max" :step="step ?? 1" :addon-after="unit" @change="(v) => take(v, empty)" />
</template>
