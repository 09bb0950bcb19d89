<script setup lang="ts">
import { fromTimecode } from '@core/scene';
import { Input } from 'ant-design-vue';
import { nextTick, ref, useTemplateRef } from 'vue';
import { useCommands, withKey } from '../shared/controls/commands';
import { tell } from '../shell/notice';
import { useScene } from '../stores/scene';

/** Where the playhead is; a click or key lets one type where it is to go. */
const scene = useScene();
const typing = ref(false);
const text = ref('');
const box = useTemplateRef<{ select: () => void }>('box');

async function begin(): Promise<void> {
  if (!scene.current) return;
  text.value = scene.timecode;
  typing.value = true;
  await nextTick();
  box.value?.select();
}
/** The timecode, or only its last parts, or frames from here such as `+12`. */
function frameOf(typed: string): number {
  const { rate, frame } = scene;
  const by = /^[+-]\d+$/.exec(typed);
  if (by) return frame + Number(typed);
  // Digits alone are taken in pairs from their end.
  const digits = /[:;]/.test(typed) ? typed.split(/[:;]/) : (typed.padStart(typed.length + (typed.length % 2), '0').match(/\d\d/g) ?? [typed]);
  const known = scene.timecode.split(/[:;]/);
  const parts = [...known.slice(0, 4 - digits.length), ...digits].map((p) => p.padStart(2, '0'));
  return fromTimecode(`${parts.slice(0, 3).join(':')}${rate.drop ? ';' : ':'}${parts[3]}`, rate) - scene.current!.startFrame;
}
function go(): void {
  typing.value = false;
  try {
    scene.seekFrame(frameOf(text.value.trim()));
  } catch (error) {
    tell.error(`${(error as Error).message}. Type one such as ${scene.timecode}, or frames from here such as +12`);
  }
}

useCommands('The scene', [{ label: 'Go to a timecode', keys: ['Ctrl+g'], run: () => void begin() }]);
</script>

<template>
  <Input
    v-if="typing"
    ref="box"
    v-model:value="text"
    size="small"
    class="mono typed"
    aria-label="Timecode to go to"
    @press-enter="go"
    @blur="typing = false"
    @keydown.esc.stop="typing = false"
  />
  <!-- A button would hide from readers that its text is a clock; by keyboard there is the command. -->
  <span v-else class="mono timecode" role="timer" aria-label="Playhead" :title="withKey('Go to a timecode', 'Go to a timecode')" @click="begin">{{
    scene.timecode
  }}</span>
</template>

<style scoped>
.timecode {
  font-size: 17px;
  cursor: text;
}
.typed {
  width: 130px;
  font-family: var(--mono);
}
</style>
