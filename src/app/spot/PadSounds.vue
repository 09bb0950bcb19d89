<script setup lang="ts">
import { nameOf, type Sound } from '@core/library';
import { Button } from 'ant-design-vue';
import { things } from '../shared/controls/format';
import PopPanel from '../shared/controls/PopPanel.vue';
import { useAudition } from '../stores/audition';

/** The sounds that a pad plays, each to be heard, and to be taken off where they were put there by hand. */
defineProps<{ sounds: readonly Sound[]; byHand: boolean }>();
const emit = defineEmits<{ off: [id: number]; empty: [] }>();
const audition = useAudition();
/** Names that are listed. */
const SHOWN = 200;
</script>

<template>
  <PopPanel placement="topLeft">
    <template #panel>
      <ul class="listing" aria-label="Sounds of the pad">
        <li v-for="sound in sounds.slice(0, SHOWN)" :key="sound.id">
          <button class="plain cut" :title="`Hear ${nameOf(sound)}`" @click="audition.choose(sound, true)">{{ nameOf(sound) }}</button>
          <Button v-if="byHand" size="small" type="text" :aria-label="`Take ${nameOf(sound)} off the pad`" @click="emit('off', sound.id)">Take off</Button>
        </li>
        <li v-if="sounds.length > SHOWN" class="mute small">and {{ things(sounds.length - SHOWN, 'more sound') }}</li>
      </ul>
      <Button v-if="byHand" size="small" danger @click="emit('empty')">Empty the pad</Button>
    </template>
    <Button size="small">{{ things(sounds.length, 'sound') }} …</Button>
  </PopPanel>
</template>

<style scoped>
.listing {
  width: 280px;
  max-height: 300px;
  margin: 0 0 8px;
  padding: 0;
  overflow-y: auto;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 8px;
  align-items: center;
  min-height: 26px;
}
</style>
