<script setup lang="ts">
import type { ChaseState } from '@core/scene';
import type { LinkState } from '@platform/index';
import { Button, Checkbox, Select } from 'ant-design-vue';
import { computed } from 'vue';
import PopPanel from '../shared/controls/PopPanel.vue';
import { useLink } from '../stores/link';

/** The link with another machine over MIDI: which ports, what goes over them, and whether the scene holds on to what it follows. */
const link = useLink();

const said: Record<LinkState, string> = {
  unasked: 'The browser asks once before ports of MIDI may be used.',
  asking: 'The browser is asking whether ports of MIDI may be used.',
  ready: '',
  refused: 'The browser does not let this page use MIDI. Allow it in its settings for this address, then try again.',
  'unknown to this browser': 'This browser knows no MIDI. Chromium and its relatives do.',
};
const chases: Record<ChaseState, string> = {
  nothing: 'No timecode comes in',
  locking: 'Timecode comes in; waiting for it to be whole',
  locked: 'Locked',
  lost: 'Lost: nothing comes in any more',
};
const optionsOf = (ports: { id: string; name: string }[], none: string) => [
  { value: '', label: none },
  ...ports.map(({ id, name }) => ({ value: id, label: name, title: name })),
];
const inputs = computed(() => optionsOf(link.ports.inputs, 'No port'));
const outputs = computed(() => optionsOf(link.ports.outputs, 'No port'));
const isLocked = computed(() => link.how.follow && link.chasing === 'locked' && link.fault === '');
</script>

<template>
  <PopPanel placement="topLeft">
    <template #panel>
      <div class="menu" role="group" aria-label="Link with another machine">
        <p v-if="said[link.state]" :class="{ bad: link.state === 'refused' }" role="status">{{ said[link.state] }}</p>
        <Button v-if="link.state !== 'ready'" size="small" :disabled="link.state === 'asking'" @click="link.open()">Use MIDI</Button>
        <template v-else>
          <label for="link-in">From</label>
          <Select id="link-in" v-model:value="link.how.input" size="small" :options="inputs" aria-label="Port that is listened to" />
          <Checkbox v-model:checked="link.how.follow" class="wide">Follow its timecode</Checkbox>
          <Checkbox v-model:checked="link.how.obey" class="wide">Play, stop and locate when it says so</Checkbox>
          <label for="link-out">To</label>
          <Select id="link-out" v-model:value="link.how.output" size="small" :options="outputs" aria-label="Port that is spoken on" />
          <Checkbox v-model:checked="link.how.send" class="wide">Send timecode</Checkbox>
          <Checkbox v-model:checked="link.how.command" class="wide">Have it play, stop and locate</Checkbox>
          <p v-if="link.how.follow" class="wide" role="status">
            <span :class="{ good: isLocked, bad: link.chasing === 'lost' }">{{ chases[link.chasing] }}</span>
            <template v-if="link.chasing === 'locked'">
              at <span class="mono">{{ link.hears }}</span>, <span class="mono">{{ Math.abs(link.off).toFixed(2) }}</span> frames apart</template
            >
          </p>
          <p v-if="link.how.follow && link.fault" class="wide bad" role="alert">{{ link.fault }}</p>
        </template>
      </div>
    </template>
    <Button size="small" :class="{ on: isLocked }" title="Timecode and transport, from or to another machine over MIDI">{{
      isLocked ? 'Link: locked' : 'Link …'
    }}</Button>
  </PopPanel>
</template>

<style scoped>
.menu {
  display: grid;
  grid-template-columns: auto 220px;
  gap: 8px 10px;
  align-items: center;
}
.menu p {
  margin: 0;
}
.wide {
  grid-column: 1 / -1;
}
.on,
.good {
  color: var(--glass);
}
.on {
  border-color: var(--glass);
}
</style>
