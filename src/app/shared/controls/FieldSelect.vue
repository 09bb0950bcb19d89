<script setup lang="ts">
import { Select } from 'ant-design-vue';
import { fieldOptions } from './fields';

/** A choice among fields, found by a part of their names. Whatever else a select takes is handed on to it. */
withDefaults(defineProps<{ options?: object[] }>(), { options: () => fieldOptions() });
</script>

<template>
  <Select size="small" show-search option-filter-prop="label" :options="options as never" />
</template>
