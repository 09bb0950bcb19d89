<script setup lang="ts">
import type { MidiState } from '@platform/index';
import { DeleteOutlined } from '@ant-design/icons-vue';
import { Button, Checkbox, Select } from 'ant-design-vue';
import { computed, ref } from 'vue';
import { useInstrument } from '../../stores/instrument';
import { usePrefs } from '../../stores/prefs';
import { commands } from '../controls/commands';
import NumberBox from '../controls/NumberBox.vue';
import PopPanel from '../controls/PopPanel.vue';

/** MIDI instruments: which one is listened to, how it plays, and which of its keys do commands. */
const instrument = useInstrument();
const prefs = usePrefs();

const said: Record<MidiState, string> = {
  unasked: 'The browser asks once before instruments may be used.',
  asking: 'The browser is asking whether instruments may be used.',
  ready: '',
  refused: 'The browser does not let this page use instruments. Allow MIDI in its settings for this address, then try again.',
  'unknown to this browser': 'This browser knows no MIDI. Chromium and its relatives do.',
};
const devices = computed(() => [
  { value: '', label: 'All instruments' },
  ...instrument.instruments.map(({ id, name }) => ({ value: id, label: name })),
  ...(prefs.midiInput && !instrument.instruments.some((i) => i.id === prefs.midiInput)
    ? [{ value: prefs.midiInput, label: 'One that is not connected now' }]
    : []),
]);
const command = ref<string>();
const labels = computed(() => [...new Set(commands.flat().map((c) => c.label))].map((value) => ({ value, label: value })));
const learnt = computed(() => Object.entries(prefs.midiCommands));
const ready = computed(() => instrument.state === 'ready');
</script>

<template>
  <PopPanel placement="topLeft">
    <template #panel>
      <div class="menu" role="group" aria-label="MIDI instruments">
        <p v-if="said[instrument.state]" :class="{ bad: instrument.state === 'refused' }" role="status">{{ said[instrument.state] }}</p>
        <p v-else-if="instrument.instruments.length === 0" role="status">No instrument is connected. One that is plugged in now is heard at once.</p>
        <Button v-if="!ready" size="small" :disabled="instrument.state === 'asking'" @click="instrument.listen()">Use instruments</Button>
        <Select v-else v-model:value="prefs.midiInput" size="small" aria-label="Instrument" :options="devices" />
        <Checkbox v-model:checked="prefs.velocity">A harder stroke is louder</Checkbox>
        <label for="voices">Sounds at once</label>
        <NumberBox id="voices" :value="prefs.voices" :min="1" :max="64" @set="(voices) => (prefs.voices = voices)" />
        <template v-if="ready">
          <label for="midi-command">A key or controller can do any command</label>
          <Select id="midi-command" v-model:value="command" size="small" show-search :options="labels" placeholder="Command" aria-label="Command for a key" />
          <Button size="small" :disabled="!command" @click="instrument.learning = instrument.learning ? undefined : command">{{
            instrument.learning ? 'Press the key, or turn the controller' : 'Learn'
          }}</Button>
          <div v-for="[name, label] in learnt" :key="name" class="learnt">
            <span class="mono">{{ name }}</span>
            <span class="cut">{{ label }}</span>
            <Button size="small" type="text" :aria-label="`Forget ${name}`" @click="instrument.forget(name)"
              ><template #icon><DeleteOutlined /></template
            ></Button>
          </div>
        </template>
      </div>
    </template>
    <Button size="small" :class="{ on: ready }" title="MIDI instruments">MIDI</Button>
  </PopPanel>
</template>

<style scoped>
.menu {
  display: grid;
  gap: 8px;
  width: 280px;
}
p {
  margin: 0;
  font-size: 13px;
}
.menu :deep(.ant-checkbox-wrapper) {
  margin: 0;
}
.learnt {
  display: grid;
  grid-template-columns: 110px 1fr auto;
  align-items: center;
}
.on {
  border-color: var(--glass);
  color: var(--glass);
}
</style>
