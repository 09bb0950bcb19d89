<script setup lang="ts">
import { colours, type Colour } from '@core/schemas';
import { Select } from 'ant-design-vue';

/** A colour for what has one of its own; none is that of all others. */
defineProps<{ value?: Colour; label: string }>();
const emit = defineEmits<{ set: [Colour | undefined] }>();
const names: Record<Colour, string> = { sky: 'blue', coral: 'red', moss: 'green', plum: 'violet' };
const NONE = 'none';
</script>

<template>
  <Select size="small" :value="value ?? NONE" :aria-label="label" @change="(v) => emit('set', v === NONE ? undefined : (v as Colour))">
    <Select.Option :value="NONE" title="as all others">as all others</Select.Option>
    <Select.Option v-for="colour in colours" :key="colour" :value="colour" :title="names[colour]">
      <span class="dot" :style="{ background: `var(--${colour})` }" />{{ names[colour] }}
    </Select.Option>
  </Select>
</template>

<style scoped>
.dot {
  display: inline-block;
  width: 9px;
  height: 9px;
  margin-right: 7px;
  border-radius: 50%;
}
</style>
