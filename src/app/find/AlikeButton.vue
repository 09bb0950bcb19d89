<script setup lang="ts">
import { DownOutlined } from '@ant-design/icons-vue';
import { Button, Dropdown, Menu, Tooltip } from 'ant-design-vue';
import { computed, ref, useTemplateRef } from 'vue';
import { useCommands, withKey } from '../shared/controls/commands';
import { useCommons } from '../stores/commons';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { useAlike } from './useAlike';
import VoiceDialog from './VoiceDialog.vue';

/** Finding by ear, from whatever there is to go by. */
const find = useFind();
const library = useLibrary();
const alike = useAlike();
const commons = useCommons();
const voice = ref(false);
const input = useTemplateRef('input');

const current = computed(() => (find.view.soundId === undefined ? undefined : library.sounds.get(find.view.soundId)));
const hasRegion = () => current.value?.marks.region !== undefined;
const elsewhere = () => current.value && void alike.elsewhere(current.value);
const region = () => current.value && alike.ofRegion(current.value);
const items = computed(() => [
  { key: 'region', label: 'Like the region of this sound', disabled: !hasRegion() },
  { key: 'file', label: 'Like a file …' },
  { key: 'voice', label: 'Like my voice …' },
  ...(commons.name ? [{ key: 'elsewhere', label: 'Like this sound, in the commons', disabled: !current.value }] : []),
]);
const acts: Record<string, () => void> = { region, file: () => input.value?.click(), voice: () => (voice.value = true), elsewhere };

function picked(): void {
  const file = input.value?.files?.[0];
  if (file) alike.ofFile(file);
  if (input.value) input.value.value = '';
}

useCommands('Finding', [
  { label: 'Find alike', keys: ['e'], run: () => alike.ofSound(), enabled: () => find.view.soundId !== undefined },
  { label: 'Find what is like the region', keys: ['Shift+e'], run: region, enabled: hasRegion },
  { label: 'Find what is like a file', keys: [], run: acts.file },
  { label: 'Find alike in the commons', keys: [], run: elsewhere, enabled: () => commons.name !== '' && find.view.soundId !== undefined },
  { label: 'Find by voice', keys: ['v'], run: acts.voice },
]);
</script>

<template>
  <input ref="input" type="file" hidden accept="audio/*,.wav,.aif,.aiff,.flac,.ogg,.opus,.mp3,.m4a" aria-label="A file to compare" @change="picked" />
  <span class="pair">
    <Tooltip :title="withKey('The sounds that are most like this one, nearest first', 'Find alike')">
      <Button size="small" :disabled="find.view.soundId === undefined" @click="alike.ofSound()">Find alike</Button>
    </Tooltip>
    <Dropdown :trigger="['click']">
      <Button size="small" aria-label="Find what is like something else"
        ><template #icon><DownOutlined /></template
      ></Button>
      <template #overlay><Menu :items="items" @click="({ key }) => acts[key]()" /></template>
    </Dropdown>
  </span>
  <VoiceDialog v-model:open="voice" />
</template>

<style scoped>
.pair {
  display: inline-flex;
}
</style>
