<script setup lang="ts">
import { nameOf, type Sound } from '@core/library';
import { toDb } from '@core/audio';
import { credits, creditsCsv, lengthOfScene, sampleToFrame, timecodeAt, writeEdls, writeOtio, type CreditLine, type Cue, type Track } from '@core/scene';
import { startMixer, type MixAnswer } from '@platform/index';
import { Alert, Button, Progress, Table } from 'ant-design-vue';
import { proxy } from 'comlink';
import { computed, onMounted, ref, shallowRef, watch } from 'vue';
import { count, decibels, things } from '../shared/controls/format';
import { useCommands } from '../shared/controls/commands';
import { save } from '../shared/take/save';
import { tell } from '../shell/notice';
import { useLibrary } from '../stores/library';
import { useScene } from '../stores/scene';

const scene = useScene();
const library = useLibrary();
const progress = ref<number>();
const result = shallowRef<Omit<MixAnswer, 'wav'>>();
const used = shallowRef(new Map<number, Sound>());
let cancel = () => undefined as void;

async function load(): Promise<void> {
  const rows = await library.need([...new Set(scene.cues.map((c) => c.soundId))]);
  used.value = new Map(rows.map((s) => [s.id, s]));
}
onMounted(load);
watch(() => scene.cues, load);

/** Sounds of the scene that cannot be heard now. */
const away = computed(() => [...used.value.values()].filter((s) => library.absence(s)));
const lines = computed(() => credits(scene.cues, (id) => used.value.get(id)));
const conflicts = computed(() => lines.value.filter((l) => l.conflict).length);
const needed = computed(() => lines.value.filter((l) => l.credit).length);
const fileName = computed(() => scene.current?.name ?? 'scene');
const end = computed(() => {
  const s = scene.current;
  return s ? timecodeAt(s, sampleToFrame(lengthOfScene(s, scene.cues), scene.rate, s.sampleRate)) : '';
});

/** The path of a cue's sound as another program would look for it: library folder and path below it. */
function fileOf(cue: Cue): string {
  const sound = used.value.get(cue.soundId);
  return sound ? `${library.rootById.get(sound.rootId)?.name ?? ''}/${sound.path}` : cue.name;
}

async function mix(): Promise<void> {
  const s = scene.current;
  if (!s || progress.value !== undefined) return;
  progress.value = 0;
  result.value = undefined;
  const { mixer, end: endMixer } = startMixer();
  const stopped = new Promise<undefined>((done) => {
    cancel = () => {
      endMixer();
      done(undefined);
    };
  });
  try {
    const plain = JSON.parse(JSON.stringify({ s, tracks: scene.tracks, cues: scene.cues })) as { s: typeof s; tracks: Track[]; cues: Cue[] };
    const items = (await scene.itemsOf(scene.cues)).map((i) => ({ sound: { ...i.sound }, root: { ...i.root } }));
    const made = mixer.mix(
      plain.s,
      plain.tracks,
      plain.cues,
      items,
      proxy((share: number) => void (progress.value = share)),
    );
    const answer = await Promise.race([made, stopped]);
    if (!answer) return tell.info('The mix was cancelled; nothing was saved');
    result.value = { clipped: answer.clipped, peak: answer.peak, missing: answer.missing };
    save(answer.wav, 'audio/wav', `${fileName.value} mix.wav`);
  } catch (error) {
    tell.error(`The mix could not be made: ${(error as Error).message}`);
  } finally {
    endMixer();
    progress.value = undefined;
  }
}

function edl(): void {
  if (!scene.current) return;
  for (const { tracks, text } of writeEdls(scene.current, scene.tracks, scene.cues, fileOf)) {
    const part = scene.tracks.length > 4 ? ` tracks ${tracks[0]}-${tracks[1]}` : '';
    save(text, 'text/plain', `${fileName.value}${part}.edl`);
  }
}

function otio(): void {
  if (scene.current) save(writeOtio(scene.current, scene.tracks, scene.cues, fileOf), 'application/json', `${fileName.value}.otio`);
}

function csv(): void {
  save(creditsCsv(lines.value), 'text/csv', `${fileName.value} credits.csv`);
}

useCommands('Using a sound', [
  { label: 'Save the mix', keys: ['Enter'], run: () => void mix() },
  { label: 'Save the edit list', keys: ['e'], run: edl },
  { label: 'Save the timeline', keys: ['t'], run: otio },
  { label: 'Save the credits', keys: ['c'], run: csv },
]);

const columns = [
  { title: 'Sound', dataIndex: 'sound', key: 'sound', ellipsis: true },
  { title: 'Author', dataIndex: 'author', key: 'author', ellipsis: true, width: 190 },
  { title: 'Licence', dataIndex: 'licence', key: 'licence', width: 130 },
  { title: 'Cues', dataIndex: 'uses', key: 'uses', width: 64, align: 'right' as const },
  { title: 'Why it may not be used', dataIndex: 'conflict', key: 'conflict', width: 190 },
];
</script>

<template>
  <div class="page">
    <div v-if="!scene.current || scene.cues.length === 0" class="empty">
      <strong>{{ scene.current ? 'The scene has no cues yet' : 'There is no scene yet' }}</strong>
      <span>Spot sounds first; then the mix, the edit list, the timeline and the credits are made here.</span>
      <RouterLink to="/spot"><Button type="primary">Go to Spot</Button></RouterLink>
    </div>
    <template v-else>
      <h1>{{ scene.current.name }}</h1>
      <p class="mute facts">
        {{ things(scene.cues.length, 'cue') }} on {{ things(scene.tracks.length, 'track') }},
        <span class="mono">{{ timecodeAt(scene.current, 0) }}</span> to <span class="mono">{{ end }}</span> at {{ scene.current.fps }} frames a second
      </p>
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
            <span class="mute">Stereo broadcast WAV, 24 bit, 48 kHz; its TimeReference is the scene's first frame</span>
          </div>
          <Progress v-if="progress !== undefined" :percent="Math.floor(progress * 100)" size="small" class="progress" aria-label="Mixing" />
          <Button v-if="progress !== undefined" @click="cancel()">Cancel</Button>
          <Button v-else type="primary" @click="mix">Save the mix</Button>
        </li>
        <li>
          <div>
            <strong>Edit list</strong>
            <span class="mute"
              >CMX 3600, an event for each cue, {{ scene.tracks.length > 4 ? 'a list for each four tracks' : 'a channel for each track' }}</span
            >
          </div>
          <Button @click="edl">Save the edit list</Button>
        </li>
        <li>
          <div><strong>Timeline</strong><span class="mute">OpenTimelineIO with tracks, clips and anchors, to the sample</span></div>
          <Button @click="otio">Save the timeline</Button>
        </li>
        <li>
          <div><strong>Credits</strong><span class="mute">CSV with author, licence and the line each asks for</span></div>
          <Button @click="csv">Save the credits</Button>
        </li>
      </ul>
      <Alert v-if="result" class="told" :type="result.clipped > 0 || result.missing.length > 0 ? 'warning' : 'success'" show-icon>
        <template #message>
          Peak <span class="mono">{{ decibels(toDb(result.peak)) }}</span>.
          <template v-if="result.clipped > 0">{{ count(result.clipped) }} samples were above full scale and are clipped: lower some tracks.</template>
          <template v-for="m in result.missing" :key="m.name"> {{ m.name }} is silent in it: {{ m.reason }}</template>
        </template>
      </Alert>
      <section aria-label="Licences">
        <h2>
          Licences
          <span class="mute"
            >{{ things(needed, 'credit') }} to print, <span :class="{ bad: conflicts > 0 }">{{ things(conflicts, 'conflict') }} in a commercial job</span></span
          >
        </h2>
        <Table :columns="columns" :data-source="lines" :pagination="false" size="small" :row-key="(l: CreditLine) => l.sound + l.author">
          <template #bodyCell="{ column, record }">
            <span v-if="column.key === 'conflict' && (record as CreditLine).conflict" class="bad">{{ (record as CreditLine).conflict }}</span>
          </template>
        </Table>
      </section>
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
.outputs li {
  display: flex;
  align-items: center;
  gap: 16px;
  min-height: 58px;
  border-top: 1px solid var(--line);
}
.outputs li > div:first-child {
  display: grid;
  flex: 1;
}
.progress {
  width: 220px;
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
