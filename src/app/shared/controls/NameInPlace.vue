<script setup lang="ts">
import { Input } from 'ant-design-vue';
import { onMounted, useTemplateRef } from 'vue';

/** A box in the place of a name, to give it another: Enter or leaving it takes what was typed, Escape leaves the name as it is. */
const props = defineProps<{ name: string }>();
const emit = defineEmits<{ named: [string]; leave: [] }>();
const box = useTemplateRef<{ focus: () => void; select: () => void }>('box');
// A menu that it came from takes the focus back as it closes.
onMounted(() =>
  requestAnimationFrame(() => {
    box.value?.focus();
    box.value?.select();
  }),
);

// A box that goes away is left as well.
let isDone = false;
function take(event: Event): void {
  if (isDone) return;
  isDone = true;
  const name = (event.target as HTMLInputElement).value.trim();
  if (name === '' || name === props.name) emit('leave');
  else emit('named', name);
}
function leave(): void {
  isDone = true;
  emit('leave');
}
</script>

<template>
  <Input
    ref="box"
    size="small"
    :default-value="name"
    autofocus
    :maxlength="200"
    :aria-label="`New name of ${name}`"
    @press-enter="take"
    @blur="take"
    @keydown.esc.stop="leave"
  />
</template>
