<script setup lang="ts">
import { labelsFrom } from '@core/build';
import { nameOf } from '@core/library';
import type { Scene } from '@core/scene';
import { Button, Input, Modal, Progress, Select, Tooltip } from 'ant-design-vue';
import { computed, nextTick, ref, useTemplateRef } from 'vue';
import { useCommands, withKey } from '../shared/controls/commands';
import { things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useBuilds } from '../stores/builds';
import { useKeeping } from '../stores/keeping';

/** Makes a sound of the build: what it will be and where it goes is seen before. */
const props = defineProps<{ build: Scene }>();
const builds = useBuilds();
const keeping = useKeeping();
const open = ref(false);
const name = ref('');
const failure = ref('');
const box = useTemplateRef<{ select: () => void }>('box');

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
const faults = computed(() => (name.value.trim() === '' ? ['A name is needed.'] : keeping.faultsOf(name.value.trim())));
const absent = computed(() => (keeping.isHere ? '' : 'Choose where it goes.'));

async function show(): Promise<void> {
  if (builds.layers.length === 0) return tell.info('There is nothing to keep yet: add a layer first');
  name.value = props.build.name;
  failure.value = '';
  open.value = true;
  await nextTick();
  box.value?.select();
}
async function keep(): Promise<void> {
  if (faults.value.length > 0 || absent.value) return;
  failure.value = '';
  const { id, path, failure: why, report, cancelled } = await keeping.keep(name.value.trim());
  if (cancelled) return tell.info('It was cancelled; nothing was made');
  if (why !== undefined || id === undefined) {
    failure.value = `The sound was not made: ${why ?? 'nobody knows why'}.`;
    return;
  }
  open.value = false;
  tell.done(`${name.value.trim()} is a sound now, at ${path}`);
  for (const { name: lost, reason } of report?.missing ?? []) tell.error(`${lost} is not in it: ${reason}`);
  if (report && report.clipped > 0)
    tell.error(`${things(report.clipped, 'sample')} went above full scale and were cut off: turn the layers down, or put a limiter behind them`);
}
function cancel(): void {
  if (keeping.progress !== undefined) keeping.cancel();
  else open.value = false;
}
useCommands('The build', [{ label: 'Keep it as a sound', keys: ['Ctrl+Enter'], run: () => void show() }]);
</script>

<template>
  <Tooltip :title="withKey('A new sound in the library, with this build behind it', 'Keep it as a sound')">
    <Button size="small" type="primary" :disabled="builds.layers.length === 0" @click="show">Keep as a sound</Button>
  </Tooltip>
  <Modal v-model:open="open" title="Keep as a sound" :width="560" :footer="null" :mask-closable="keeping.progress === undefined" @cancel="cancel">
    <form class="form" @submit.prevent="keep">
      <label for="keep-name">Name</label>
      <Input id="keep-name" ref="box" v-model:value="name" :maxlength="200" aria-label="Name of the sound" />
      <label for="keep-root">Goes to</label>
      <span class="tools">
        <Select id="keep-root" v-model:value="keeping.target.rootId" :options="keeping.places" aria-label="Where it goes" class="place" />
        <template v-if="keeping.target.rootId !== 0">
          <span class="mute">/</span>
          <Input v-model:value="keeping.target.folder" aria-label="Folder below it" class="folder" />
        </template>
      </span>
      <template v-for="[key, value] in said" :key="key">
        <span class="mute">{{ key }}</span><span class="value">{{ value }}</span>
      </template>
      <span class="mute">Made of</span><span class="value">{{ keeping.parents.map((p) => nameOf(p.sound)).join(', ') }}</span> <span class="mute">The file</span
      ><span class="value mono small">{{ keeping.pathOf(name.trim() || '…') }}, 24 bit, stereo</span>
      <span v-for="fault in [...faults, absent, failure].filter(Boolean)" :key="fault" class="bad wide" role="alert">{{ fault }}</span>
      <span class="tools wide">
        <Progress v-if="keeping.progress !== undefined" :percent="Math.floor(keeping.progress * 100)" size="small" class="push" />
        <span v-else class="push" />
        <Button @click="cancel">Cancel</Button>
        <Button type="primary" html-type="submit" :disabled="faults.length > 0 || absent !== '' || keeping.progress !== undefined">Keep it</Button>
      </span>
    </form>
  </Modal>
</template>

<style scoped>
.form {
  display: grid;
  grid-template-columns: 90px minmax(0, 1fr);
  gap: 8px 12px;
  align-items: baseline;
}
.wide {
  grid-column: 1 / -1;
}
.place {
  min-width: 200px;
}
.folder {
  width: 150px;
}
.value {
  overflow-wrap: anywhere;
}
</style>
