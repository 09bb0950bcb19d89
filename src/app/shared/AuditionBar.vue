<script setup lang="ts">
import { CaretRightFilled, PauseOutlined } from '@ant-design/icons-vue';
import { Button, Checkbox, Tooltip } from 'ant-design-vue';
import { computed } from 'vue';
import { useAudition } from '../stores/audition';
import { usePrefs } from '../stores/prefs';
import Meter from './Meter.vue';

const audition = useAudition();
const prefs = usePrefs();

/** Where the ear is, relative to the anchor. */
const place = computed(() => {
  const { sound, frame } = audition;
  if (!sound) return '0.000 s';
  const s = (frame - Math.max(0, sound.marks.anchor)) / sound.format.rate;
  return `${s < 0 ? '-' : ''}${Math.abs(s).toFixed(3)} s`;
});
</script>

<template>
  <footer class="bar" aria-label="Audition">
    <Tooltip title="Play or stop (Space)">
      <Button type="primary" shape="circle" :aria-label="audition.playing ? 'Stop' : 'Play'" :disabled="!audition.sound" @click="audition.toggle()">
        <template #icon><PauseOutlined v-if="audition.playing" /><CaretRightFilled v-else /></template>
      </Button>
    </Tooltip>
    <span class="mono place">{{ place }}</span>
    <span class="mute">from anchor</span>
    <Checkbox v-model:checked="prefs.playOnMove">Play when moving</Checkbox>
    <Checkbox :checked="prefs.loop" @change="audition.setLoop(!prefs.loop)">Loop</Checkbox>
    <slot />
    <Meter class="push" />
  </footer>
</template>

<style scoped>
.place {
  min-width: 84px;
}
</style>
