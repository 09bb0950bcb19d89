<script setup lang="ts">
import { labelsFrom } from '@core/build';
import { nameOf } from '@core/library';
import { Button, Progress } from 'ant-design-vue';
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import { ended, things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useBuilds } from '../stores/builds';
import { useKeeping } from '../stores/keeping';
import { useLoose } from '../stores/loose';
import { useMadePlace } from '../stores/made-place';
import { usePasses } from '../stores/passes';
import { useScene } from '../stores/scene';
import KeepForm from './KeepForm.vue';

/** What was played of the build by keys: heard again, kept as a sound, or laid into the scene stroke by stroke. */
const passes = usePasses();
const builds = useBuilds();
const keeping = useKeeping();
const scene = useScene();
const loose = useLoose();
const place = useMadePlace();
const router = useRouter();
const open = ref(false);
const name = ref('');
const failure = ref('');
const hands = computed(() => passes.hands.join(', '));
const said = computed(() => [
  ['Strokes', `${passes.strokes.length}, from the first to the last ${passes.length.toFixed(1)} s`],
  ...(hands.value ? [['Turned', hands.value]] : []),
  ['Description', String(labelsFrom(name.value, keeping.parents).fields.description ?? '')],
  ['Made of', keeping.parents.map((p) => nameOf(p.sound)).join(', ')],
]);

async function hear(): Promise<void> {
  if (!passes.pass) return;
  try {
    const file = await keeping.hear(passes.pass);
    if (file) await loose.hear(file);
  } catch (error) {
    tell.error(`The pass cannot be heard: ${(error as Error).message}`);
  }
}
function show(): void {
  name.value = scene.current ? `${scene.current.name}, played` : '';
  failure.value = '';
  open.value = true;
}
async function keep(): Promise<void> {
  failure.value = '';
  const { made, where, failure: why, cancelled } = await keeping.keep(name.value.trim(), { pass: passes.pass });
  if (cancelled) return tell.info('It was cancelled; nothing was made');
  if (made === 0) {
    failure.value = ended(`The sound was not made: ${why ?? 'nobody knows why'}`);
    return;
  }
  open.value = false;
  tell.done(`${name.value.trim()} is a sound now, at ${where}`);
}
function cancel(): void {
  if (keeping.progress !== undefined) keeping.cancel();
  else open.value = false;
}
async function lay(): Promise<void> {
  if (passes.pass && (await builds.toScene(keeping.asPlayed(passes.pass)))) await router.push({ name: 'spot' });
}
</script>

<template>
  <div class="tools pass" role="group" aria-label="What was played">
    <template v-if="passes.isRecording">
      <strong class="records">Recording</strong>
      <span class="mute">{{ passes.strokes.length === 0 ? 'play keys: it begins with the first stroke' : things(passes.strokes.length, 'stroke') }}</span>
    </template>
    <template v-else>
      <strong>{{ things(passes.strokes.length, 'stroke') }}</strong>
      <span class="mute">in {{ passes.length.toFixed(1) }} s{{ hands ? `, with ${hands}` : '' }}</span>
      <Button size="small" :loading="keeping.progress !== undefined && !open" @click="hear">Hear it again</Button>
      <Button size="small" @click="show">Keep what was played</Button>
      <Button size="small" @click="lay">Lay it into the scene</Button>
      <Button size="small" type="text" @click="passes.drop()">Let it go</Button>
    </template>
  </div>
  <KeepForm
    id="pass"
    v-model:open="open"
    v-model:name="name"
    title="Keep what was played"
    :said="said"
    :faults="[...place.faultsOf(name.trim()), failure].filter(Boolean)"
    :file="name.trim() || '…'"
    :busy="keeping.progress !== undefined"
    keeps="Keep it"
    @keep="keep"
    @cancel="cancel"
  >
    <template #progress>
      <Progress v-if="keeping.progress !== undefined" :percent="Math.floor(keeping.progress * 100)" size="small" class="push" />
      <span v-else class="push" />
    </template>
  </KeepForm>
</template>

<style scoped>
.pass {
  min-height: 40px;
  padding: 0 16px 0 20px;
  border-top: 1px solid var(--line);
}
.records {
  color: var(--coral);
}
</style>
