<script setup lang="ts">
import type { HostAction, HostState } from '@core/schemas';
import { Button, Checkbox } from 'ant-design-vue';

/** What was done in a session, and what there is to know of it. */
defineProps<{ state: HostState }>();
const emit = defineEmits<{ act: [action: HostAction] }>();
</script>

<template>
  <footer>
    <section aria-label="What was done">
      <h2>What was done</h2>
      <ul role="list">
        <li v-for="step in [...state.steps].reverse().slice(0, 8)" :key="step.id">
          <bdi class="cut">{{ step.label }}</bdi>
          <span class="mute cut">{{ step.by }}</span>
          <Button size="small" :aria-label="`Take back ${step.label}`" @click="emit('act', { do: 'undo', step: step.id })">Take back</Button>
        </li>
        <li v-if="state.steps.length === 0" class="mute">
          Nothing yet. What is sent to this session lands on the cursor of the selected track, or fills the range.
        </li>
      </ul>
    </section>
    <section aria-label="This session">
      <h2>This session</h2>
      <p class="mute">
        <span class="mono">{{ (state.used / 1e6).toFixed(1) }}</span> of <span class="mono">{{ (state.allowed / 1e6).toFixed(0) }} MB</span> used
      </p>
      <Checkbox :checked="state.busy !== undefined" @change="emit('act', { do: 'busy', why: state.busy ? '' : 'It waits for an answer to a question.' })"
        >Wait for an answer to a question: nothing is done meanwhile</Checkbox
      >
      <Button size="small" @click="emit('act', { do: 'track', name: `Track ${state.tracks.length + 1}` })">Another track</Button>
    </section>
  </footer>
</template>

<style scoped>
footer {
  display: flex;
  gap: 16px;
  grid-row: 4;
  padding: 8px 16px;
  background: var(--raft);
  align-items: start;
  max-height: 240px;
}
section {
  flex: 1;
  min-width: 0;
}
section:last-child {
  display: grid;
  flex: none;
  gap: 8px;
  justify-items: start;
  width: 340px;
}
p {
  margin: 0;
}
ul {
  max-height: 170px;
  margin: 6px 0 0;
  padding: 0;
  overflow-y: auto;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 160px) auto;
  gap: 16px;
  align-items: center;
  min-height: 30px;
}
li:only-child.mute {
  display: block;
}
.mute {
  color: var(--mute);
}
</style>
