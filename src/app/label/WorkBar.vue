<script setup lang="ts">
import { Button, Progress } from 'ant-design-vue';
import { computed, onUnmounted, ref, watch } from 'vue';
import { timeLeft } from '../shared/controls/format';
import { useLabels } from '../stores/labels';

/** The work that runs: what it does, how far it is, and how to stop it. */
const labels = useLabels();
const started = ref(0);
const shown = ref(false);
let timer: ReturnType<typeof setTimeout> | undefined;
watch(
  () => labels.work.running,
  (running) => {
    started.value = performance.now();
    clearTimeout(timer);
    // What is done at once needs no bar that flashes.
    if (running) timer = setTimeout(() => (shown.value = labels.work.running), 400);
    else shown.value = false;
  },
);
onUnmounted(() => clearTimeout(timer));
const left = computed(() => {
  const { share } = labels.work;
  const gone = (performance.now() - started.value) / 1000;
  return share > 0.05 && share < 1 ? timeLeft((gone * (1 - share)) / share) : '';
});
</script>

<template>
  <div v-if="shown" class="work" role="status">
    <span class="mute what">{{ labels.work.what || 'Working' }}</span>
    <Progress :percent="Math.round(labels.work.share * 100)" size="small" :aria-label="labels.work.what || 'Working'" />
    <span class="mute mono left">{{ left }}</span>
    <Button size="small" :disabled="labels.work.keeping" @click="labels.work.cancelled = true">Cancel</Button>
  </div>
</template>

<style scoped>
.work {
  display: grid;
  grid-template-columns: auto 1fr minmax(110px, auto) auto;
  align-items: center;
  gap: 12px;
  padding: 6px 16px;
  border-bottom: 1px solid var(--line);
}
.what,
.left {
  font-size: 12px;
  white-space: nowrap;
}
.work :deep(.ant-progress) {
  margin: 0;
}
</style>
