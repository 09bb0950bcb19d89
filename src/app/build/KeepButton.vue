<script setup lang="ts">
import { labelsFrom } from '@core/build';
import { nameOf } from '@core/library';
import type { Scene } from '@core/scene';
import { Button, Progress, Select, Tooltip } from 'ant-design-vue';
import { useLocalStorage } from '@vueuse/core';
import { computed, ref } from 'vue';
import { useCommands, withKey } from '../shared/controls/commands';
import { ended, things } from '../shared/controls/format';
import NumberBox from '../shared/controls/NumberBox.vue';
import { tell } from '../shell/notice';
import { useBuilds } from '../stores/builds';
import { useKeeping } from '../stores/keeping';
import { useMadePlace } from '../stores/made-place';
import KeepForm from './KeepForm.vue';

/** Makes a sound of the build: what it will be and where it goes is seen before. */
const props = defineProps<{ build: Scene }>();
const builds = useBuilds();
const keeping = useKeeping();
const place = useMadePlace();
const open = ref(false);
const name = ref('');
const failure = ref('');
/** How many variations; 1 for the build as it is. */
const several = ref(1);
const apart = useLocalStorage('variations-apart', 3);
const steps = [
  { value: 1, label: 'just so that one hears it' },
  { value: 3, label: 'clearly' },
  { value: 6, label: 'by a lot' },
];

const labels = computed(() => labelsFrom(name.value, keeping.parents).fields);
const text = (key: string) => {
  const value = labels.value[key];
  return Array.isArray(value) ? value.join(', ') : value === undefined ? '' : String(value);
};
const said = computed(() =>
  [
    ['Category', [text('category'), text('subCategory')].filter(Boolean).join(', ')],
    ['Keywords', text('keywords')],
    ['Description', text('description')],
    ['Licence', text('licence') || (keeping.parents.length > 0 ? 'none of its own, as its parents’ differ; credits name each of them' : '')],
  ].filter(([, value]) => value),
);
const faults = computed(() => place.faultsOf(name.value.trim()));

function show(): void {
  if (builds.layers.length === 0) return tell.info('There is nothing to keep yet: add a layer first');
  name.value = props.build.name;
  failure.value = '';
  several.value = 1;
  open.value = true;
}
async function keep(): Promise<void> {
  failure.value = '';
  const vary = several.value > 1 ? { count: several.value, apart: apart.value } : undefined;
  const { made, where, failure: why, reports, alike, cancelled } = await keeping.keep(name.value.trim(), { vary });
  if (cancelled) return tell.info('It was cancelled; nothing was made');
  if (made === 0) {
    failure.value = ended(`The sound was not made: ${why ?? 'nobody knows why'}`);
    return;
  }
  open.value = false;
  tell.done(
    made === 1 && !vary ? `${name.value.trim()} is a sound now, at ${where}` : `${things(made, 'variation')} of ${name.value.trim()} made, from ${where} on`,
  );
  if (why !== undefined) tell.error(`Not all of them were written: ${why}`);
  if (alike > 0) tell.info(`${things(alike, 'variation')} could not be told apart from the others, and ${alike === 1 ? 'was' : 'were'} left out`);
  const lost = new Map(reports.flatMap((r) => r.missing.map((m) => [m.name, m.reason] as const)));
  for (const [sound, reason] of lost) tell.error(`${sound} is not in it: ${reason}`);
  const clipped = reports.reduce((sum, r) => sum + r.clipped, 0);
  if (clipped > 0) tell.error(`${things(clipped, 'sample')} went above full scale and were cut off: turn the layers down, or put a limiter behind them`);
}
function cancel(): void {
  if (keeping.progress !== undefined) keeping.cancel();
  else open.value = false;
}
useCommands('The build', [{ label: 'Keep it as a sound', keys: ['Ctrl+Enter'], run: show }]);
</script>

<template>
  <Tooltip :title="withKey('A new sound in the library, with this build behind it', 'Keep it as a sound')">
    <Button size="small" type="primary" :disabled="builds.layers.length === 0" @click="show">Keep as a sound</Button>
  </Tooltip>
  <KeepForm
    id="keep"
    v-model:open="open"
    v-model:name="name"
    title="Keep as a sound"
    :said="[...said, ['Made of', keeping.parents.map((p) => nameOf(p.sound)).join(', ')]]"
    :faults="[...faults, failure].filter(Boolean)"
    :file="name.trim() || '…'"
    :busy="keeping.progress !== undefined"
    keeps="Keep it"
    @keep="keep"
    @cancel="cancel"
  >
    <label for="keep-several">Variations</label>
    <span class="tools">
      <NumberBox id="keep-several" :value="several" :min="1" :max="100" aria-label="Variations" @set="(n) => (several = Math.round(n))" />
      <template v-if="several > 1">
        <span class="mute">told apart</span>
        <Select v-model:value="apart" size="small" :options="steps" aria-label="How they are told apart" class="place" />
      </template>
      <span v-else class="mute small">one: the build as it is</span>
    </span>
    <template #progress>
      <Progress v-if="keeping.progress !== undefined" :percent="Math.floor(keeping.progress * 100)" size="small" class="push" />
      <span v-else class="push" />
    </template>
  </KeepForm>
</template>

<style scoped>
.place {
  min-width: 200px;
}
</style>
