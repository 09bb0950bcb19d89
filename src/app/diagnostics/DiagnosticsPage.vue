<script setup lang="ts">
import { Button, Progress } from 'ant-design-vue';
import { useIntervalFn } from '@vueuse/core';
import { computed, defineAsyncComponent, ref, shallowRef } from 'vue';
import { bytes, count, signed, things } from '../shared/controls/format';
import { save as saveAs } from '../shared/take/save';
import { useOutput } from '../stores/output';
import { useTransport } from '../stores/transport';
import { useFind } from '../stores/find';
import { useInstrument } from '../stores/instrument';
import { usePicture } from '../stores/picture';
import { usePrefs } from '../stores/prefs';
import { useScene } from '../stores/scene';
import { useMeasuring } from './useMeasuring';

/** How fast sounds are heard here, by what output, and what this browser can do: to be looked at, or sent along with a complaint. */
const Plot = defineAsyncComponent(() => import('../shared/sound/PlotView.vue'));
const output = useOutput();
const transport = useTransport();
const find = useFind();
const picture = usePicture();
const scene = useScene();
const prefs = usePrefs();
const instrument = useInstrument();
const { progress, measure, cancel } = useMeasuring();

/** What a key press may take until it is heard, milliseconds. */
const ASKED = 30;

const state = shallowRef(output.state());
const held = shallowRef<{ sounds: number; bytes: number }>();
const room = ref<StorageEstimate>();
async function look(): Promise<void> {
  state.value = output.state();
  held.value = await output.holding();
  room.value = await navigator.storage.estimate();
}
useIntervalFn(() => void look(), 1000, { immediateCallback: true });

const waits = computed(() => output.latencies.map((l) => l.ms));
const sorted = computed(() => [...waits.value].sort((a, b) => a - b));
const at = (share: number) => sorted.value[Math.min(sorted.value.length - 1, Math.floor(sorted.value.length * share))];
const ms = (value: number | undefined) => (value === undefined ? '–' : `${value < 10 ? value.toFixed(1) : Math.round(value)} ms`);
const late = computed(() => waits.value.filter((w) => w > ASKED).length);

const listening = computed<[string, string][]>(() => [
  ['Keys measured', count(waits.value.length)],
  ['Half of them within', ms(at(0.5))],
  ['19 of 20 within', ms(at(0.95))],
  ['Slowest', ms(sorted.value.at(-1))],
  [`Over ${ASKED} ms`, count(late.value)],
]);
const device = computed<[string, string][]>(() => {
  const o = state.value;
  if (!o) return [['Output', 'not opened yet; it opens with the first sound']];
  return [
    ['Output', `${o.state}, ${o.rate / 1000} kHz`],
    ['The browser adds', ms(o.base * 1000)],
    ['The device adds', ms(o.device * 1000)],
    ['Blocks of the scene without their audio', count(transport.missed)],
    ['Held ready', held.value ? `${things(held.value.sounds, 'sound')}, ${bytes(held.value.bytes)}` : '–'],
  ];
});
/** How far the frames of the picture came from what was heard with them. */
const inStep = computed<[string, string][]>(() => {
  const late = [...picture.late].sort((a, b) => a - b);
  if (late.length === 0) return [['Picture and sound', 'not measured yet; run a scene that has a picture']];
  const half = (scene.rate.den / scene.rate.num) * 500;
  const within = late.filter((l) => Math.abs(l * 1000) <= half).length;
  return [
    ['Frames measured', count(late.length)],
    ['In the middle of them, behind the sound', `${signed(late[Math.floor(late.length / 2)] * 1000, 1)} ms`],
    ['Within half a frame', `${Math.round((within / late.length) * 100)} %`],
  ];
});
const finding = computed<[string, string][]>(() => [
  ['Sounds', count(find.answer.total)],
  ['Last answer', ms(find.answer.took)],
  ['Stored by the browser', room.value ? `${bytes(room.value.usage ?? 0)} of ${bytes(room.value.quota ?? 0)}` : '–'],
]);

const has = (name: string, within: object = window) => name in within;
const abilities: [string, boolean, string][] = [
  ['Folders read where they are', has('showDirectoryPicker'), 'without it, picked files are copied in; folders of npm start work all the same'],
  ['Folders watched', has('FileSystemObserver'), 'without it, picked folders are looked through when the window gets the focus'],
  ['Compressed sounds', has('AudioDecoder'), 'without it, FLAC, Ogg, Opus, MP3 and M4A are not heard'],
  ['Small window', has('documentPictureInPicture'), 'without it, Cormorant stays in its own window'],
  ['MIDI instruments', has('requestMIDIAccess', navigator), 'without it, the computer’s keys and the drawn ones play'],
  ['Opened from the desktop', has('launchQueue'), 'without it, audio files are opened by dropping them'],
];

function save(): void {
  const report = {
    at: new Date().toISOString(),
    browser: navigator.userAgent,
    listening: Object.fromEntries(listening.value),
    output: state.value,
    held: held.value,
    latencies: output.latencies.map(({ ms, container }) => ({ ms: Number(ms.toFixed(2)), container })),
    picture: Object.fromEntries(inStep.value),
    finding: Object.fromEntries(finding.value),
    abilities: Object.fromEntries(abilities.map(([name, is]) => [name, is])),
    midi: instrument.state,
  };
  saveAs(JSON.stringify(report, undefined, 2), 'application/json', 'Cormorant diagnostics.json');
}
</script>

<template>
  <div class="page">
    <div class="tools">
      <strong>Diagnostics</strong>
      <span class="push" />
      <template v-if="progress !== undefined">
        <Progress class="progress" size="small" :percent="Math.round(progress * 100)" aria-label="Measured" />
        <Button size="small" @click="cancel">Stop</Button>
      </template>
      <Button v-else type="primary" :disabled="find.answer.ids.length === 0" @click="measure">Measure on the listed sounds</Button>
      <Button @click="save">Save as a file</Button>
    </div>
    <section aria-labelledby="key-to-ear">
      <h2 id="key-to-ear">From a key to the first block of the sound</h2>
      <dl>
        <div v-for="[name, value] in listening" :key="name">
          <dt>{{ name }}</dt>
          <dd class="mono">{{ value }}</dd>
        </div>
      </dl>
      <Plot
        v-if="waits.length > 1"
        :points="waits.map((w, i) => [i + 1, w])"
        :colour="prefs.palette.glass"
        label="Milliseconds of each key, oldest first"
        x-unit=""
        :range="[1, waits.length]"
        :x-text="(x) => String(Math.round(x))"
        y-unit=" ms"
      />
      <p v-else class="mute">
        Nothing was played yet. Walk through some sounds in Find, or measure here: forty sounds of the list are heard for a moment each.
      </p>
    </section>
    <section aria-labelledby="the-output">
      <h2 id="the-output">The output</h2>
      <dl>
        <div v-for="[name, value] in device" :key="name">
          <dt>{{ name }}</dt>
          <dd class="mono">{{ value }}</dd>
        </div>
      </dl>
    </section>
    <section aria-labelledby="the-picture">
      <h2 id="the-picture">Picture and sound</h2>
      <dl>
        <div v-for="[name, value] in inStep" :key="name">
          <dt>{{ name }}</dt>
          <dd class="mono">{{ value }}</dd>
        </div>
      </dl>
    </section>
    <section aria-labelledby="the-catalogue">
      <h2 id="the-catalogue">The catalogue</h2>
      <dl>
        <div v-for="[name, value] in finding" :key="name">
          <dt>{{ name }}</dt>
          <dd class="mono">{{ value }}</dd>
        </div>
      </dl>
    </section>
    <section aria-labelledby="this-browser">
      <h2 id="this-browser">This browser</h2>
      <ul>
        <li v-for="[name, is, without] in abilities" :key="name">
          <span>{{ name }}</span>
          <span :class="is ? 'glass' : 'bad'">{{ is ? 'yes' : 'no' }}</span>
          <span v-if="!is" class="mute">{{ without }}</span>
        </li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
strong {
  font-size: 18px;
}
.progress {
  width: 220px;
}
section {
  padding: 16px 0;
  border-bottom: 1px solid var(--line);
}
dl {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 32px;
  margin: 10px 0;
}
dt {
  color: var(--mute);
  font-size: 12px;
}
dd {
  margin: 0;
  font-size: 16px;
}
ul {
  margin: 8px 0 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 240px 60px 1fr;
  padding: 3px 0;
}
</style>
