<script setup lang="ts">
import { CheckOutlined, CloseOutlined } from '@ant-design/icons-vue';
import { computed } from 'vue';
import { usePrefs } from '../stores/prefs';

/** What a newcomer may try first; each ticks itself off once it was done, and the card can be sent away. */
const prefs = usePrefs();

const steps = [
  { key: 'find', text: 'Type what you look for, say winch' },
  { key: 'hear', text: 'Walk down the rows: each is heard' },
  { key: 'hold', text: 'Press T to hold one in the tray' },
  { key: 'label', text: 'Go to Label and change a name' },
  { key: 'spot', text: 'Press Enter to put one in the scene' },
];
const done = computed(() => prefs.firstSteps.done);
</script>

<template>
  <section v-if="prefs.firstSteps.shown" class="steps" aria-label="First steps">
    <div class="top">
      <strong>{{ done.length < steps.length ? 'First steps' : 'You know your way round now' }}</strong>
      <button class="away" aria-label="Close the first steps" @click="prefs.firstSteps = { ...prefs.firstSteps, shown: false }">
        <CloseOutlined />
      </button>
    </div>
    <ol>
      <li v-for="step in steps" :key="step.key" :class="{ done: done.includes(step.key) }">
        <span class="mark" aria-hidden="true"><CheckOutlined v-if="done.includes(step.key)" /></span>
        <span>{{ step.text }}<span v-if="done.includes(step.key)" class="unseen"> (done)</span></span>
      </li>
    </ol>
  </section>
</template>

<style scoped>
.steps {
  padding: 8px 10px;
  margin-bottom: 12px;
  border: 1px solid var(--line);
  border-radius: 8px;
  background: var(--bed);
  font-size: 12.5px;
}
.top {
  display: flex;
  align-items: center;
  justify-content: space-between;
}
.away {
  border: 0;
  padding: 2px 4px;
  background: none;
  color: var(--mute);
  cursor: pointer;
}
ol {
  margin: 6px 0 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  gap: 6px;
  padding: 2px 0;
  line-height: 1.3;
}
.mark {
  flex: none;
  width: 14px;
  color: var(--glass);
}
.mark:empty::before {
  content: '○';
  color: var(--mute);
}
.done {
  color: var(--mute);
}
</style>
