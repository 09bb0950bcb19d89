<script setup lang="ts">
import { anchorOf } from '@core/build';
import type { Scene } from '@core/scene';
import { RATE } from '@platform/index';
import { computed } from 'vue';
import { useTransport } from '../stores/transport';

/** Where a build is heard, over the contour of a layer. It moves by itself, and nothing else is drawn anew. */
const props = defineProps<{ build: Scene; from: number; pixelsPerSecond: number }>();
const transport = useTransport();
const x = computed(() => props.from + ((transport.position - anchorOf(props.build)) / RATE) * props.pixelsPerSecond);
</script>

<template>
  <i v-if="transport.playing" class="head" :style="{ transform: `translateX(${x}px)` }" aria-hidden="true" />
</template>

<style scoped>
.head {
  position: absolute;
  top: 0;
  bottom: 0;
  left: 0;
  width: 1px;
  background: var(--bone);
}
</style>
