<script setup lang="ts">
import { computed } from 'vue';
import { useRoute } from 'vue-router';
import LayersPart from './LayersPart.vue';
import MakePart from './MakePart.vue';

/** Sounds that no library has: built of others, or made from nothing. */
const route = useRoute();
const part = computed(() => (route.params.part === 'make' ? MakePart : LayersPart));
</script>

<template>
  <component :is="part" />
</template>
