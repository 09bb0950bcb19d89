<script setup lang="ts">
import { Segmented } from 'ant-design-vue';
import { useRoute, useRouter } from 'vue-router';

/** Goes between layers and what is made from nothing. */
const route = useRoute();
const router = useRouter();
const parts = [
  { value: '', label: 'From layers' },
  { value: 'make', label: 'From nothing' },
];
</script>

<template>
  <Segmented
    size="small"
    :value="String(route.params.part ?? '')"
    :options="parts"
    aria-label="From layers or from nothing"
    @change="(part) => router.push({ name: 'build', params: { part: String(part) } })"
  />
</template>
