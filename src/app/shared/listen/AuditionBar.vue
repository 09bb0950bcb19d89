<script setup lang="ts">
import { CaretRightFilled, PauseOutlined } from '@ant-design/icons-vue';
import { Button, Checkbox, Select, Tooltip } from 'ant-design-vue';
import { useEventListener } from '@vueuse/core';
import { computed, onUnmounted, ref } from 'vue';
import { useAudition } from '../../stores/audition';
import { useInstrument } from '../../stores/instrument';
import { usePrefs, type PlayMode } from '../../stores/prefs';
import { commands, keyName, keysOf, useCommands, withKey } from '../controls/commands';
import KeyboardStrip from './KeyboardStrip.vue';
import ListeningMenu from './ListeningMenu.vue';
import Meter from './Meter.vue';

/** Plays the list of the screen through, where it can. */
defineProps<{ through?: () => void }>();
const audition = useAudition();
const prefs = usePrefs();
const instrument = useInstrument();

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
const HOLDING = ['Play or stop', 'Next sound', 'Previous sound', 'A page further', 'A page back'];
const holding = computed(() => new Set(commands.flat().flatMap((c) => (HOLDING.includes(c.label) ? keysOf(c) : []))));
const held = ref(false);
useEventListener(document, 'keyup', (event) => holding.value.has(keyName(event)) && audition.letGo());
useEventListener(document, 'pointerup', () => {
  if (held.value) audition.letGo();
  held.value = false;
});
function pointer(): void {
  held.value = prefs.playMode === 'held';
  if (held.value) audition.goDown();
}

/** Shows the keys and arms them, or puts both away. */
function toggleKeyboard(): void {
  prefs.keyboard = instrument.armed = !prefs.keyboard;
}
useCommands('Listening', [{ label: 'Play by keys', keys: ['Shift+k'], run: toggleKeyboard }]);
// What cannot be seen to be armed must not be.
onUnmounted(() => (instrument.armed = false));

/** Where the ear is, relative to the anchor. */
const place = computed(() => {
  const { sound, frame } = audition;
  if (!sound) return '0.000 s';
  const s = (frame - Math.max(0, sound.marks.anchor)) / sound.format.rate;
  return `${s < 0 ? '-' : ''}${Math.abs(s).toFixed(3)} s`;
});
</script>

<template>
  <div>
    <KeyboardStrip v-if="prefs.keyboard" />
    <footer class="bar" aria-label="Audition">
      <Tooltip :title="withKey('Play or stop', 'Play or stop')">
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
      <span class="mono place" title="Time from the anchor">{{ place }}</span>
      <Checkbox v-model:checked="prefs.playOnMove">Play when moving</Checkbox>
      <Select v-model:value="prefs.playMode" size="small" aria-label="How long it plays" class="mode" :options="modes" @select="leave" />
      <ListeningMenu :through="through" />
      <Tooltip :title="withKey('Play it from the computer’s keys or a MIDI instrument', 'Play by keys')">
        <Button size="small" aria-label="Play by keys" :aria-pressed="prefs.keyboard" :class="{ on: prefs.keyboard }" @click="toggleKeyboard">Keys</Button>
      </Tooltip>
      <slot />
      <Meter class="push" />
    </footer>
  </div>
</template>

<style scoped>
.mode {
  width: 104px;
}
.on {
  border-color: var(--glass);
  color: var(--glass);
}
.place {
  min-width: 84px;
}
</style>
