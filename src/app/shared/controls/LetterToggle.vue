<script setup lang="ts">
import { Button, Tooltip } from 'ant-design-vue';

/** Something of a track that is on or off, as one letter: solo and mute, for instance. */
defineProps<{ letter: string; label: string; hint: string; on: boolean; tone: 'amber' | 'coral' }>();
defineEmits<{ toggle: [] }>();
</script>

<template>
  <Tooltip :title="hint">
    <Button size="small" class="letter" :class="{ [tone]: on }" :aria-pressed="on" :aria-label="label" @click.stop="$emit('toggle')">{{ letter }}</Button>
  </Tooltip>
</template>

<style scoped>
.letter {
  width: 24px;
  height: 22px;
  padding: 0;
  font-size: 12px;
}
.amber {
  border-color: var(--amber);
  color: var(--amber);
}
.coral {
  border-color: var(--coral);
  color: var(--coral);
}
</style>
