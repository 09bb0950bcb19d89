<script setup lang="ts">
import { CaretRightFilled, PauseOutlined } from '@ant-design/icons-vue';
import { Button, Checkbox, Select, Tooltip } from 'ant-design-vue';
import { useEventListener } from '@vueuse/core';
import { computed, ref } from 'vue';
import { useAudition } from '../stores/audition';
import { usePrefs, type PlayMode } from '../stores/prefs';
import { keyName } from './commands';
import ListeningMenu from './ListeningMenu.vue';
import Meter from './Meter.vue';

/** Plays the list of the screen through, where it can. */
defineProps<{ through?: () => void }>();
const audition = useAudition();
const prefs = usePrefs();

const modes: { value: PlayMode; label: string }[] = [
  { value: 'once', label: 'Once' },
  { value: 'held', label: 'While held' },
  { value: 'looped', label: 'Looped' },
];

/** A choice is made: the keys mean the list again, not this box. */
function leave(): void {
  setTimeout(() => document.activeElement instanceof HTMLElement && document.activeElement.blur());
}

// Held, a sound plays as long as what started it is down: a key that plays or walks, or the pointer on the button.
const HOLDING = ['Space', 'ArrowDown', 'ArrowUp', 'PageDown', 'PageUp'];
const held = ref(false);
useEventListener(document, 'keyup', (event) => HOLDING.includes(keyName(event)) && audition.letGo());
useEventListener(document, 'pointerup', () => {
  if (held.value) audition.letGo();
  held.value = false;
});
function pointer(): void {
  held.value = prefs.playMode === 'held';
  if (held.value) audition.goDown();
}

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
      <Button
        type="primary"
        shape="circle"
        :aria-label="audition.playing ? 'Stop' : 'Play'"
        :disabled="!audition.sound"
        @pointerdown="pointer"
        @click="prefs.playMode !== 'held' && audition.toggle()"
      >
        <template #icon><PauseOutlined v-if="audition.playing" /><CaretRightFilled v-else /></template>
      </Button>
    </Tooltip>
    <span class="mono place">{{ place }}</span>
    <span class="mute">from anchor</span>
    <Checkbox v-model:checked="prefs.playOnMove">Play when moving</Checkbox>
    <Select v-model:value="prefs.playMode" size="small" aria-label="How long it plays" class="mode" :options="modes" @select="leave" />
    <ListeningMenu :through="through" />
    <slot />
    <Meter class="push" />
  </footer>
</template>

<style scoped>
.mode {
  width: 104px;
}
.place {
  min-width: 84px;
}
</style>
