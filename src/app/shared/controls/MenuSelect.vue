<script setup lang="ts">
import { Select } from 'ant-design-vue';
import { nextTick, ref } from 'vue';

/** A searchable menu in the shape of a select: each choice is told, and none stays chosen. */
defineProps<{ label: string; placeholder?: string; options: object[]; id?: string; size?: 'small' }>();
const emit = defineEmits<{ pick: [value: string] }>();
const value = ref<string>();

function pick(chosen: unknown): void {
  emit('pick', String(chosen));
  void nextTick(() => (value.value = undefined));
}
</script>

<template>
  <Select
    :id="id"
    v-model:value="value"
    show-search
    option-filter-prop="label"
    :size="size"
    :options="options as never"
    :placeholder="placeholder ?? label"
    :aria-label="label"
    @select="pick"
  />
</template>
