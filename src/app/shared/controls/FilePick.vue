<script setup lang="ts">
import { Button } from 'ant-design-vue';
import { useTemplateRef } from 'vue';

/** A button that has a file chosen. */
defineProps<{ label: string; accept: string; main?: boolean }>();
const emit = defineEmits<{ pick: [file: File] }>();
const input = useTemplateRef('input');

function picked(event: Event): void {
  const box = event.target as HTMLInputElement;
  const file = box.files?.[0];
  // The same file can be chosen again.
  box.value = '';
  if (file) emit('pick', file);
}
</script>

<template>
  <input ref="input" type="file" hidden :accept="accept" :aria-label="label" @change="picked" />
  <Button :type="main ? 'primary' : 'default'" @click="input?.click()">{{ label }}</Button>
</template>
