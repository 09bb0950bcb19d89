<script setup lang="ts">
import { computed } from 'vue';

/** The head of a list's column; where the list may stand in the column's order, a button says so and turns it round. */
const props = withDefaults(defineProps<{ column: string; label: string; sort?: { key: string; down: boolean }; sortable?: boolean }>(), {
  sortable: true,
  sort: undefined,
});
const emit = defineEmits<{ sort: [key: string] }>();

const order = computed(() => (props.sort?.key !== props.column ? 'none' : props.sort.down ? 'descending' : 'ascending'));
const arrow = computed(() => ({ none: '', ascending: ' ↑', descending: ' ↓' })[order.value]);
</script>

<template>
  <span role="columnheader" :aria-sort="sortable ? order : undefined">
    <button v-if="sortable" class="sort cut" @click="emit('sort', column)">{{ label }}{{ arrow }}</button>
    <span v-else class="cut">{{ label }}</span>
    <slot />
  </span>
</template>

<style scoped>
.sort {
  padding: 0;
  border: 0;
  background: none;
  color: var(--mute);
  font-size: 12px;
  cursor: pointer;
}
.sort:hover {
  color: var(--text);
}
</style>
