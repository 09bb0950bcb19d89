<script setup lang="ts">
import { computerKeys, keyName } from '@core/engine';
import { nameOf } from '@core/library';
import { MinusOutlined, PlusOutlined } from '@ant-design/icons-vue';
import { Button, Tooltip } from 'ant-design-vue';
import { useEventListener } from '@vueuse/core';
import { computed, shallowRef } from 'vue';
import { useAudition } from '../../stores/audition';
import { useInstrument } from '../../stores/instrument';
import MidiButton from './MidiButton.vue';

/** Keys that play the current sound, higher and lower: drawn ones, those of the computer while armed, and MIDI instruments. */
const audition = useAudition();
const instrument = useInstrument();

/** What the keys play. */
const played = computed(() => instrument.other?.name ?? (audition.sound && nameOf(audition.sound)));

const OCTAVES = 3;
const BLACK = [1, 3, 6, 8, 10];
/** Black keys lie a little off the border between two white ones, as on any keyboard. Shares of a white key. */
const whites = [0, 0, 1, 1, 2, 3, 3, 4, 4, 5, 5, 6];

/** What is printed on the keys of this computer, where the browser says it. */
const printed = shallowRef<ReadonlyMap<string, string>>();
const board = (navigator as { keyboard?: { getLayoutMap(): Promise<ReadonlyMap<string, string>> } }).keyboard;
void board?.getLayoutMap().then(
  (map) => (printed.value = map),
  () => undefined,
);
const letter = (code: string) => (printed.value?.get(code) ?? code.replace(/^(Key|Digit)/, '')).toUpperCase();
/** The computer's key for each semitone; the row in which the hand rests goes before the others. */
const letters = computed(() => {
  const bySemitone = new Map<number, string>();
  for (const [code, semitones] of [...computerKeys].filter(([code]) => letter(code).length === 1))
    if (!bySemitone.has(semitones) || Math.abs(semitones) < 3) bySemitone.set(semitones, letter(code));
  return bySemitone;
});

const first = computed(() => Math.floor((instrument.home + 12 * instrument.octave) / 12) * 12 - 12);
const drawn = computed(() =>
  Array.from({ length: OCTAVES * 12 + 1 }, (_, i) => {
    const key = first.value + i;
    const black = BLACK.includes(i % 12);
    const white = Math.floor(i / 12) * 7 + whites[i % 12];
    const semitones = key - instrument.home;
    return {
      key,
      black,
      left: black ? white + 0.68 : white,
      home: semitones === 0,
      sounding: audition.keys.includes(key),
      letter: letters.value.get(semitones - 12 * instrument.octave),
      said: `${keyName(key)}, ${semitones === 0 ? 'as it is' : `${Math.abs(semitones)} semitones ${semitones > 0 ? 'higher' : 'lower'}`}`,
    };
  }),
);
const widths = OCTAVES * 7 + 1;

let held: number | undefined;
function down(event: PointerEvent, key: number): void {
  if (event.button !== 0) return;
  held = key;
  instrument.press(key);
}
/** The pointer slides from key to key. */
function over(key: number): void {
  if (held === undefined || held === key) return;
  up();
  held = key;
  instrument.press(key);
}
function up(): void {
  if (held !== undefined) instrument.lift(held);
  held = undefined;
}
useEventListener(window, ['pointerup', 'pointercancel'], up);
</script>

<template>
  <section class="strip" aria-label="Keyboard">
    <div class="left">
      <Tooltip title="While armed, the computer’s letters play: F as it is, a semitone a key, a fourth a row (Esc ends it)">
        <Button size="small" :aria-pressed="instrument.armed" :class="{ on: instrument.armed }" @click="instrument.armed = !instrument.armed">{{
          instrument.armed ? 'Armed' : 'Arm keys'
        }}</Button>
      </Tooltip>
      <MidiButton />
      <span class="octave">
        <Button size="small" aria-label="An octave lower" :disabled="instrument.octave <= -3" @click="instrument.octave--"
          ><template #icon><MinusOutlined /></template
        ></Button>
        <span class="mono">{{ instrument.octave > 0 ? '+' : '' }}{{ instrument.octave }} oct</span>
        <Button size="small" aria-label="An octave higher" :disabled="instrument.octave >= 3" @click="instrument.octave++"
          ><template #icon><PlusOutlined /></template
        ></Button>
      </span>
      <span class="cut mute small" :title="played">{{ played ? `${played}, as it is at ${keyName(instrument.home)}` : 'Choose a sound to play' }}</span>
      <Button v-if="instrument.other" type="link" size="small" class="back" @click="instrument.other = undefined">Play the current sound</Button>
    </div>
    <div class="keys" role="group" aria-label="Keys">
      <button
        v-for="k in drawn"
        :key="k.key"
        class="key"
        :class="{ black: k.black, home: k.home, sounding: k.sounding }"
        :style="{ left: `${(k.left / widths) * 100}%`, width: `${((k.black ? 0.64 : 1) / widths) * 100}%` }"
        tabindex="-1"
        :aria-label="k.said"
        :aria-pressed="k.sounding"
        :title="k.said"
        :disabled="!played"
        @pointerdown.prevent="down($event, k.key)"
        @pointerenter="over(k.key)"
      >
        <span aria-hidden="true">{{ instrument.armed ? k.letter : k.key % 12 === 0 ? keyName(k.key) : '' }}</span>
      </button>
    </div>
  </section>
</template>

<style scoped>
.strip {
  display: grid;
  grid-template-columns: 250px minmax(0, 1fr);
  gap: 16px;
  padding: 8px 16px;
  border-top: 1px solid var(--line);
  background: var(--deep);
}
.left {
  display: grid;
  grid-template-columns: auto auto 1fr;
  gap: 6px;
  align-content: center;
  align-items: center;
}
.octave {
  display: flex;
  align-items: center;
  justify-content: end;
  gap: 4px;
  font-size: 12px;
}
.left > .cut {
  grid-column: 1 / -1;
}
.keys {
  position: relative;
  height: 74px;
  user-select: none;
  touch-action: none;
}
.key {
  position: absolute;
  top: 0;
  display: flex;
  align-items: end;
  justify-content: center;
  height: 100%;
  padding: 0 0 3px;
  border: 1px solid var(--line);
  border-radius: 0 0 5px 5px;
  background: var(--raft2);
  color: var(--text);
  font: 12px var(--mono);
}
.black {
  z-index: 1;
  height: 60%;
  background: var(--deep);
  color: var(--mute);
}
:root[data-theme='light'] .black:not(.sounding) {
  background: var(--text);
  color: var(--bed);
}
.home {
  box-shadow: inset 0 3px var(--amber);
}
.key.sounding {
  background: var(--glassDeep);
  color: var(--bone);
  border-color: var(--glass);
}
.on {
  border-color: var(--glass);
  color: var(--glass);
}
</style>
