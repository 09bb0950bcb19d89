<script setup lang="ts">
import { reactionOf } from '@core/scene';
import { useEventListener, useTimeoutFn } from '@vueuse/core';
import { Button, Modal } from 'ant-design-vue';
import { computed, ref } from 'vue';
import { things } from '../shared/controls/format';
import { usePrefs } from '../stores/prefs';

/** Twelve flashes, each answered by a key: how late this player's hand is behind what the eye sees. */
const open = defineModel<boolean>('open', { required: true });
const prefs = usePrefs();
const FLASHES = 12;
/** Milliseconds before a flash: from, to. A wait that can be guessed measures nothing. And how long it stays. */
const [SOONEST, LATEST, LIT] = [900, 2400, 160];

const running = ref(false);
const lit = ref(false);
const times = ref<number[]>([]);
/** How many flashes there were. */
const shown = ref(0);
/** When the flash was seen that waits for its answer, as in `performance.now`. */
let seen: number | undefined;
const result = computed(() => (shown.value === FLASHES && !running.value ? reactionOf(times.value) : undefined));

const wait = ref(SOONEST);
const { start, stop } = useTimeoutFn(flash, wait, { immediate: false });
const { start: darken } = useTimeoutFn(() => (lit.value = false), LIT, { immediate: false });

function next(): void {
  if (shown.value === FLASHES) return end();
  wait.value = SOONEST + Math.random() * (LATEST - SOONEST);
  start();
}
function flash(): void {
  if (!running.value) return;
  // One that nobody answered is over.
  lit.value = true;
  shown.value++;
  // It is on screen with the frame after the one in which it is drawn.
  requestAnimationFrame(() => requestAnimationFrame((now) => (seen = now)));
  darken();
  next();
}
function end(): void {
  // The last flash may still be answered.
  wait.value = SOONEST;
  setTimeout(() => (running.value = false), SOONEST);
}
function begin(): void {
  times.value = [];
  shown.value = 0;
  seen = undefined;
  running.value = true;
  next();
}
function answer(event: KeyboardEvent): void {
  if (!open.value || !running.value || event.repeat || event.key === 'Escape' || event.key === 'Tab') return;
  event.preventDefault();
  event.stopPropagation();
  if (seen === undefined) return;
  times.value = [...times.value, event.timeStamp - seen];
  seen = undefined;
}
useEventListener(window, 'keydown', answer, { capture: true });

function close(): void {
  stop();
  running.value = false;
  open.value = false;
}
function keep(): void {
  if (!result.value) return;
  const { median, spread } = result.value;
  prefs.reaction = { median, spread };
  prefs.withoutReaction = true;
  close();
}
const said = computed(() => {
  if (running.value) return shown.value === 0 ? 'Press any key as soon as the disc lights up.' : `${shown.value} of ${FLASHES}`;
  if (result.value)
    return `${Math.round(result.value.median)} ms, give or take ${Math.round(result.value.spread)} ms, from ${things(result.value.count, 'answer')}`;
  if (shown.value === FLASHES) return 'Too few of the flashes were answered in time. Try again.';
  return 'Twelve flashes at uneven times. Press any key as soon as you see one; how late you are is taken out of what you play to the picture.';
});
</script>

<template>
  <Modal :open="open" title="How fast are you?" :footer="null" :width="460" @cancel="close">
    <div class="test">
      <div class="disc" :class="{ lit }" aria-hidden="true"></div>
      <p role="status">{{ said }}</p>
      <div class="row">
        <Button v-if="result" type="primary" @click="keep">Take {{ Math.round(result.median) }} ms out</Button>
        <Button v-if="!running" :type="result ? 'default' : 'primary'" @click="begin">{{ shown > 0 ? 'Measure again' : 'Begin' }}</Button>
        <Button v-if="prefs.reaction && !running" @click="((prefs.reaction = null), close())">Forget what was measured</Button>
      </div>
    </div>
  </Modal>
</template>

<style scoped>
.test {
  display: grid;
  gap: 16px;
  justify-items: center;
  padding: 12px 0 4px;
}
.test p {
  min-height: 44px;
  margin: 0;
  text-align: center;
}
.disc {
  width: 120px;
  height: 120px;
  border: 1px solid var(--line);
  border-radius: 50%;
  background: var(--deep);
}
.lit {
  background: var(--bone);
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  justify-content: center;
}
</style>
