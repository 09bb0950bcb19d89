<script setup lang="ts">
import { MAIN } from '@core/engine';
import { nameOf } from '@core/library';
import { toDb } from '@core/audio';
import { lengthOfScene, loudnessTargets, missOf, sampleToFrame, timecodeAt, type MixLevels } from '@core/scene';
import { startMixer, type MixReport } from '@platform/index';
import { useLocalStorage } from '@vueuse/core';
import { Alert, Button, Progress, Select } from 'ant-design-vue';
import { proxy } from 'comlink';
import { computed, onMounted, ref, shallowRef, watch } from 'vue';
import { count, decibels, things } from '../shared/controls/format';
import NumberBox from '../shared/controls/NumberBox.vue';
import { useCommands } from '../shared/controls/commands';
import { saveBlob } from '../shared/take/save';
import { tell } from '../shell/notice';
import { useLibrary } from '../stores/library';
import { useScene } from '../stores/scene';
import { levelMix } from '../stores/tracks';
import CreditsRow from './CreditsRow.vue';
import CueSheetRow from './CueSheetRow.vue';
import FormBar from './FormBar.vue';
import LicenceTable from './LicenceTable.vue';
import ListRows from './ListRows.vue';
import SceneFileRow from './SceneFileRow.vue';
import NoCues from './NoCues.vue';
import { fileChoices, projectSounds, useSceneFiles, type Snapshot } from './scene-files';

const scene = useScene();
const library = useLibrary();
const files = useSceneFiles();
type Rendered = 'mix' | 'stems' | 'project';
type Rendering = Snapshot & { mixer: ReturnType<typeof startMixer>['mixer']; told: (share: number) => void };
/** What is being rendered, and how much of it is. */
const doing = ref<Rendered>();
const progress = ref(0);
const result = shallowRef<MixReport>();
let cancel = () => undefined as void;

onMounted(files.load);

/** Sounds of the scene that cannot be heard now. */
const away = computed(() => [...files.used.values()].filter((s) => library.absence(s)));
const end = computed(() => {
  const s = scene.current;
  return s ? timecodeAt(s, sampleToFrame(lengthOfScene(s, scene.cues), scene.rate, s.sampleRate)) : '';
});

/** Renders in a worker, told by how much and able to be cancelled. @param what for the messages */
async function render<T extends MixReport>(what: Rendered, work: (from: Rendering) => Promise<T>): Promise<T | undefined> {
  const s = scene.current;
  if (!s || doing.value) return undefined;
  doing.value = what;
  progress.value = 0;
  result.value = undefined;
  levels.value = undefined;
  const { mixer, end: endMixer } = startMixer();
  const stopped = new Promise<undefined>((done) => {
    cancel = () => {
      endMixer();
      done(undefined);
    };
  });
  try {
    const snapshot = await files.snapshot();
    const told = proxy((share: number) => void (progress.value = share));
    const answer = await Promise.race([work({ mixer, ...snapshot, told }), stopped]);
    if (!answer) {
      tell.info(`The ${what} ${what === 'stems' ? 'were' : 'was'} cancelled; nothing was saved`);
      return undefined;
    }
    const { clipped, peak, missing } = answer;
    result.value = { clipped, peak, missing };
    return answer;
  } catch (error) {
    tell.error(`The ${what} could not be made: ${(error as Error).message}`);
    return undefined;
  } finally {
    endMixer();
    doing.value = undefined;
  }
}

/** Whether what several stems share depends on their level: then their sum is not quite the mix. */
const isBent = computed(() => {
  const shared = new Set([MAIN, ...scene.lines.flatMap((t) => (t.bus ? t.id : []))]);
  const bends = ['compressor', 'limiter', 'gate', 'saturation'];
  return scene.effects.some((e) => e.on && shared.has(e.lineId) && bends.includes(e.kind));
});

const levels = shallowRef<MixLevels>();
/** What a mix would be made from, to tell whether that is what was measured. */
const asIs = computed(() => JSON.stringify([files.form, scene.current?.length, scene.lines, scene.effects, scene.main, scene.heard]));
async function mixed(): Promise<Blob | undefined> {
  const asked = asIs.value;
  const made = await render('mix', ({ mixer, s, lines, cues, items, told }) =>
    mixer.mix(s, lines, cues, items, told, new Date(), undefined, { ...files.form }),
  );
  // What was changed meanwhile was not measured.
  if (made && asIs.value === asked) levels.value = made.levels;
  return made?.file;
}
/** Mixes to see how loud that is, and saves nothing. */
const measure = () => mixed();
async function mix(): Promise<void> {
  const { title, ending } = files;
  const file = await mixed();
  if (file) saveBlob(file, `${title} mix.${ending}`);
}

async function stems(): Promise<void> {
  const { stemsBy: by, title } = files;
  const parts = files.parts(by);
  if (parts.length === 0) return tell.info('No track is heard: there is nothing to make stems of');
  const made = await render('stems', ({ mixer, s, lines, cues, items, told }) =>
    mixer.stems(s, parts, [...lines.effects], lengthOfScene(s, cues), items, told, new Date(), { ...files.form }),
  );
  if (made) saveBlob(made.zip, `${title} ${by === 'cue' ? 'cues' : 'stems'}.zip`);
}

const targetKey = useLocalStorage('loudness target', loudnessTargets[0].key);
const targetNames = loudnessTargets.map(({ key, name }) => ({ value: key, label: name }));
const target = computed(() => loudnessTargets.find((t) => t.key === targetKey.value) ?? loudnessTargets[0]);
const miss = computed(() => levels.value && missOf(levels.value, target.value));
/** What was measured, and holds no more once the scene has changed. */
watch(asIs, () => (levels.value = undefined));
const lufs = (value: number) => (Number.isFinite(value) ? `${value.toFixed(1)} LUFS` : 'silence');
const verdict = computed(() => {
  const { value: off } = miss;
  if (!off || !levels.value) return '';
  if (!Number.isFinite(levels.value.loudness)) return 'Nothing is heard in it';
  const { loudness, truePeak } = target.value;
  const said = off.missed ? [`${Math.abs(off.by).toFixed(1)} LU ${off.by > 0 ? 'softer' : 'louder'} than ${loudness} LUFS`] : [`As loud as ${loudness} LUFS`];
  if (off.over > 0) said.push(`its true peak is ${off.over.toFixed(1)} dB above ${truePeak} dBTP`);
  else if (off.missed && off.overThen > 0) said.push(`brought to it, its true peak would be ${off.overThen.toFixed(1)} dB above ${truePeak} dBTP`);
  return said.join('; ');
});
/** Turns the main line up or down so that the mix is as loud as asked for. */
async function bringTo(): Promise<void> {
  const { value: off } = miss;
  if (!off) return;
  const { by } = off;
  if (await levelMix(by, `Bring the mix to ${target.value.name}`))
    tell.done(`The main line is ${Math.abs(by).toFixed(1)} dB ${by > 0 ? 'louder' : 'softer'}; measure again to be sure`);
}

async function project(): Promise<void> {
  const sounds = projectSounds(files.used);
  const markers = scene.markers.map((m) => ({ ...m }));
  const made = await render('project', async ({ mixer, s, lines, cues, items, told }) => {
    const answer = await mixer.project(s, lines, cues, markers, items, sounds, told);
    return { ...answer, clipped: 0, peak: 0 };
  });
  if (!made) return;
  result.value = undefined;
  saveBlob(made.zip, `${files.title}.dawproject`);
  const parts = made.rendered > 0 ? ` and ${things(made.rendered, 'rendered part')}` : '';
  tell.done(`The project holds ${things(made.copied, 'file')} as ${made.copied === 1 ? 'it is' : 'they are'}${parts}`);
  for (const { name, reason } of made.missing) tell.error(`${name} is not in the project: ${reason}`);
}

useCommands('Using a sound', [
  { label: 'Save the mix', keys: ['Enter'], run: () => void mix() },
  { label: 'Measure how loud the mix is', keys: ['m'], run: () => void measure() },
  { label: 'Save the stems', keys: ['s'], run: () => void stems() },
]);
</script>

<template>
  <div class="page">
    <NoCues v-if="!scene.current || scene.cues.length === 0" />
    <template v-else>
      <h1>{{ scene.current.name }}</h1>
      <p class="mute facts">
        {{ things(scene.cues.length, 'cue') }} on {{ things(scene.tracks.length, 'track') }}, <span class="mono">{{ timecodeAt(scene.current, 0) }}</span> to
        <span class="mono">{{ end }}</span> at {{ scene.current.fps }} frames a second
      </p>
      <FormBar />
      <Alert v-if="away.length > 0" class="told" type="warning" show-icon>
        <template #message>
          {{ things(away.length, 'sound') }} of this scene cannot be reached now, and would be silent in the mix:
          <template v-for="(s, i) in away.slice(0, 5)" :key="s.id">{{ i > 0 ? ', ' : '' }}{{ nameOf(s) }}</template
          >{{ away.length > 5 ? ` and ${away.length - 5} more` : '' }}. <RouterLink to="/intake/missing">Reconnect them</RouterLink>
        </template>
      </Alert>
      <ul class="outputs">
        <li>
          <div>
            <strong>Mix</strong>
            <span class="mute">{{ files.formName }}; its {{ files.depth.flac ? 'comment TIME_REFERENCE' : 'TimeReference' }} is the scene's first frame</span>
          </div>
          <template v-if="doing === 'mix'">
            <Progress :percent="Math.floor(progress * 100)" size="small" class="progress" aria-label="Mixing" />
            <Button @click="cancel()">Cancel</Button>
          </template>
          <template v-else>
            <Button :disabled="doing !== undefined" @click="measure">Measure it</Button>
            <Button type="primary" :disabled="doing !== undefined" @click="mix">Save the mix</Button>
          </template>
        </li>
        <li>
          <div>
            <strong>Stems</strong>
            <span v-if="files.stemsBy === 'cue'" class="mute"
              >A file of each cue that is heard, through its track, in a ZIP: its TimeReference is where it begins; with handles it has no fades</span
            >
            <span v-else class="mute"
              >The same files of each {{ files.stemsBy }} that is heard, in a ZIP: all from the first frame, together
              {{ isBent ? 'the mix but for what shared dynamics turn down' : 'the mix' }}</span
            >
          </div>
          <template v-if="doing === 'stems'">
            <Progress :percent="Math.floor(progress * 100)" size="small" class="progress" aria-label="Making stems" />
            <Button @click="cancel()">Cancel</Button>
          </template>
          <template v-else>
            <NumberBox
              v-if="files.stemsBy === 'cue'"
              class="handle"
              :value="files.handle"
              :min="0"
              :max="60"
              :step="0.5"
              unit="s handles"
              aria-label="Handles of each cue, seconds"
              @set="(v) => (files.handle = v)"
            />
            <Select v-model:value="files.stemsBy" :options="fileChoices.stems" aria-label="What each stem holds" class="by" />
            <Button :disabled="doing !== undefined" @click="stems">{{ files.stemsBy === 'cue' ? 'Save the cues' : 'Save the stems' }}</Button>
          </template>
        </li>
        <ListRows />
        <li>
          <div>
            <strong>Project</strong>
            <span class="mute"
              >DAWproject with its sounds in it: tracks, buses, sends, volume curves, clips with fades and gain, markers; effects stay out, and what is reversed
              or stretched is rendered beside</span
            >
          </div>
          <template v-if="doing === 'project'">
            <Progress :percent="Math.floor(progress * 100)" size="small" class="progress" aria-label="Making the project" />
            <Button @click="cancel()">Cancel</Button>
          </template>
          <Button v-else :disabled="doing !== undefined" @click="project">Save the project</Button>
        </li>
        <SceneFileRow />
        <CueSheetRow />
        <CreditsRow />
      </ul>
      <Alert v-if="result" class="told" :type="result.clipped > 0 || result.missing.length > 0 ? 'warning' : 'success'" show-icon>
        <template #message>
          Peak <span class="mono">{{ decibels(toDb(result.peak)) }}</span>.
          <template v-if="result.clipped > 0">{{ count(result.clipped) }} samples were above full scale and are clipped: lower some tracks.</template>
          <template v-for="m in result.missing" :key="m.name"> {{ m.name }} is silent in it: {{ m.reason }}</template>
        </template>
      </Alert>
      <section v-if="levels && miss" class="loudness" aria-label="Loudness">
        <span
          >Loudness <span class="mono">{{ lufs(levels.loudness) }}</span></span
        >
        <span
          >Range <span class="mono">{{ levels.range.toFixed(1) }} LU</span></span
        >
        <span
          >True peak <span class="mono">{{ decibels(levels.truePeak) }}TP</span></span
        >
        <Select v-model:value="targetKey" :options="targetNames" class="by" aria-label="Loudness that is asked for" />
        <span role="status" :class="{ bad: miss.missed || miss.over > 0 }">{{ verdict }}</span>
        <Button v-if="miss.by !== 0" size="small" @click="bringTo">Bring the mix to it</Button>
      </section>
      <LicenceTable />
    </template>
  </div>
</template>

<style scoped>
h1 {
  font-size: 18px;
  color: var(--text);
}
.facts {
  margin: 4px 0 16px;
}
.outputs {
  margin: 0;
  padding: 0;
  list-style: none;
  border-bottom: 1px solid var(--line);
}
.outputs :deep(li) {
  display: flex;
  align-items: center;
  gap: 16px;
  min-height: 58px;
  padding: 6px 0;
  border-top: 1px solid var(--line);
}
.outputs :deep(li) > div:first-child {
  display: grid;
  flex: 1;
}
.progress {
  width: 220px;
}

.outputs :deep(.by) {
  width: 140px;
}
.handle {
  width: 140px;
}
.loudness {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 18px;
  align-items: center;
}
.loudness .by {
  width: 190px;
}

.told {
  margin-top: 16px;
}
section {
  margin-top: 28px;
}
h2 {
  margin-bottom: 8px;
}
.bad {
  color: var(--coral);
}
</style>
