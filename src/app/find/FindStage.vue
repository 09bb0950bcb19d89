<script setup lang="ts">
import { computed, watch } from 'vue';
import { useRoute } from 'vue-router';
import { useCommons } from '../stores/commons';
import { useFind } from '../stores/find';
import CommonsPart from './CommonsPart.vue';
import LibraryPart from './LibraryPart.vue';

/** Sounds are found, in the library or among those that others share. */
const route = useRoute();
const find = useFind();
find.show();
watch(
  () => route.query,
  (query) => find.restore(query),
  { immediate: true },
);
void useCommons().look();
const part = computed(() => (route.params.part === 'commons' ? CommonsPart : LibraryPart));
</script>

<template>
  <component :is="part" />
</template>
