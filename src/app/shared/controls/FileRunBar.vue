<script setup lang="ts">
import { Progress } from 'ant-design-vue';
import { computed } from 'vue';
import { count, timeLeft } from './format';

/** How far a work on files is: its share, how many are done, how long it may take yet, and which one is in hand. Its buttons are in the slot. */
const props = defineProps<{
  what: string;
  work: { share: number; done: number; total: number; current: string; started: number; paused?: boolean };
  /** How fast it goes, in words. */
  rate?: string;
  /** Where nothing is written yet there is nothing to count. */
  uncounted?: boolean;
}>();
const left = computed(() => {
  const { share, started, paused } = props.work;
  const gone = (performance.now() - started) / 1000;
  return share > 0.03 && !paused ? timeLeft((gone * (1 - share)) / share) : '';
});
</script>

<template>
  <div class="tools" role="status">
    <span class="mute">{{ what }}</span>
    <Progress :percent="Math.floor(work.share * 100)" size="small" class="share" :aria-label="what" />
    <span v-if="!uncounted" class="mono small">{{ count(work.done) }} of {{ count(work.total) }}</span>
    <span class="mute mono small">{{ [rate, left].filter(Boolean).join(', ') }}</span>
    <bdi class="mute small cut now">{{ work.current }}</bdi>
    <span class="push" />
    <slot />
  </div>
</template>

<style scoped>
.share {
  flex: 0 0 180px;
  margin: 0;
}
.now {
  max-width: 400px;
}
</style>
