<script setup lang="ts">
import { isDue, type DeliveryState } from '@core/scene';
import { folderIn, mayWrite } from '@platform/index';
import { Alert, Button, Checkbox, Select, Tooltip } from 'ant-design-vue';
import { computed, onMounted, ref, shallowRef } from 'vue';
import { useCommands, withKey } from '../shared/controls/commands';
import { bytes, count, things } from '../shared/controls/format';
import FileRunBar from '../shared/controls/FileRunBar.vue';
import OutcomeAlert from '../shared/controls/OutcomeAlert.vue';
import NumberBox from '../shared/controls/NumberBox.vue';
import VirtualRows from '../shared/list/VirtualRows.vue';
import { tell } from '../shell/notice';
import { useScene } from '../stores/scene';
import { useDelivering, type DeliveryPart, type DeliveryTarget } from './delivering';
import FormBar from './FormBar.vue';
import NoCues from './NoCues.vue';
import { folderFor, rootFor, rootTargets } from './places';
import { fileChoices, useSceneFiles } from './scene-files';

/** All files of a scene into one folder: what would be written is seen before, and only what changed is written again. */
const scene = useScene();
const files = useSceneFiles();
const out = useDelivering();

const toggle = (part: DeliveryPart) => {
  const { parts } = out;
  out.parts = parts.includes(part) ? parts.filter((p) => p !== part) : [...parts, part];
};
const has = (part: DeliveryPart) => out.parts.includes(part);
const stemKinds = fileChoices.stems.filter((o) => o.value !== 'cue');
const stemsBy = computed({ get: () => (files.stemsBy === 'cue' ? 'track' : files.stemsBy), set: (by) => (files.stemsBy = by) });

/** The folder of the last delivery, which the browser keeps. */
const last = shallowRef<FileSystemDirectoryHandle>();
const target = ref('folder');
onMounted(async () => {
  last.value = await folderIn('delivered');
  if (last.value) target.value = 'last';
});
const targets = computed(() => [
  ...(last.value ? [{ value: 'last', label: `${last.value.name}, as last time` }] : []),
  { value: 'folder', label: 'a folder, chosen next' },
  ...rootTargets('Delivered'),
]);
async function targetOf(): Promise<DeliveryTarget> {
  if (target.value === 'last' && last.value) {
    if (!(await mayWrite(last.value, true))) throw new Error('the browser was not allowed to write there');
    return { kind: 'folder', handle: last.value };
  }
  if (target.value !== 'folder') return rootFor(Number(target.value.slice(5)), 'Delivered');
  const chosen = await folderFor('delivered', 'save the files one by one from the part Scene');
  last.value = chosen.handle;
  target.value = 'last';
  return chosen;
}

const at = ref(0);
async function look(): Promise<void> {
  if (out.parts.length === 0) return;
  try {
    await out.look(await targetOf());
    at.value = 0;
  } catch (error) {
    if ((error as Error).name !== 'AbortError') tell.error(`The delivery could not be planned: ${(error as Error).message}`);
  }
}
async function deliver(): Promise<void> {
  try {
    await out.deliver();
  } catch (error) {
    tell.error(`The scene could not be delivered: ${(error as Error).message}`);
  }
}

const states: Record<DeliveryState, string> = {
  new: 'new',
  changed: 'changed since it was delivered',
  gone: 'was delivered and is gone; made again',
  same: 'as it was delivered; only read again',
  foreign: 'another file lies in its place, and is left as it is',
  former: 'of an earlier delivery; stays',
};
const due = computed(() => (out.rows ?? []).filter(isDue).length);
const same = computed(() => (out.rows ?? []).filter((r) => r.state === 'same').length);
const told = computed(() => {
  const o = out.outcome;
  if (!o) return '';
  const parts = [
    `${things(o.written, 'file')} written and read again`,
    o.same > 0 && `${count(o.same)} still as ${o.same === 1 ? 'it was' : 'they were'} delivered`,
    o.failed.length > 0 && `${count(o.failed.length)} could not be delivered`,
  ];
  return `${parts.filter(Boolean).join(', ')}.${o.stopped ? ` It ended early: ${o.stopped}.` : ''}`;
});

useCommands('Using a sound', [
  { label: 'Look what the delivery comes to', keys: ['Ctrl+Enter'], run: () => void look(), enabled: () => !out.work.running },
  { label: 'Deliver', keys: ['Shift+Enter'], run: () => void deliver(), enabled: () => !out.work.running && out.rows !== undefined },
  {
    label: 'Next line',
    keys: ['ArrowDown'],
    run: () => (at.value = Math.min((out.rows?.length ?? 1) - 1, at.value + 1)),
    enabled: () => out.rows !== undefined,
  },
  { label: 'Previous line', keys: ['ArrowUp'], run: () => (at.value = Math.max(0, at.value - 1)), enabled: () => out.rows !== undefined },
]);
</script>

<template>
  <NoCues v-if="!scene.current || scene.cues.length === 0" />
  <div v-else class="label-part">
    <div class="tools parts" role="group" aria-label="What is delivered">
      <Checkbox :checked="has('mix')" @change="toggle('mix')">Mix</Checkbox>
      <span class="one">
        <Checkbox :checked="has('stems')" @change="toggle('stems')">Stems</Checkbox>
        <Select v-if="has('stems')" v-model:value="stemsBy" size="small" :options="stemKinds" aria-label="What each stem holds" class="kind" />
      </span>
      <span class="one">
        <Checkbox :checked="has('cues')" @change="toggle('cues')">Cues</Checkbox>
        <NumberBox
          v-if="has('cues')"
          class="kind"
          size="small"
          :value="files.handle"
          :min="0"
          :max="60"
          :step="0.5"
          unit="s handles"
          aria-label="Handles of each cue, seconds"
          @set="(v) => (files.handle = v)"
        />
      </span>
      <Checkbox :checked="has('edl')" @change="toggle('edl')">Edit list</Checkbox>
      <Checkbox :checked="has('otio')" @change="toggle('otio')">Timeline</Checkbox>
      <Checkbox :checked="has('project')" @change="toggle('project')">Project</Checkbox>
      <span class="one">
        <Checkbox :checked="has('sheet')" @change="toggle('sheet')">Cue sheet</Checkbox>
        <Select
          v-if="has('sheet')"
          v-model:value="files.sheetForm"
          size="small"
          :options="fileChoices.sheets"
          aria-label="Form of the cue sheet"
          class="kind"
        />
      </span>
      <span class="one">
        <Checkbox :checked="has('credits')" @change="toggle('credits')">Credits</Checkbox>
        <Select
          v-if="has('credits')"
          v-model:value="files.creditForm"
          size="small"
          :options="fileChoices.credits"
          aria-label="Form of the credits"
          class="kind"
        />
      </span>
    </div>
    <div class="tools line">
      <FormBar />
      <span class="push" />
      <span class="mute">Into</span>
      <Select v-model:value="target" size="small" :options="targets" aria-label="Where it goes" :dropdown-match-select-width="false" class="into" />
      <Tooltip :title="withKey('What would be written, and what is there already', 'Look what the delivery comes to')"
        ><Button :type="out.rows ? 'default' : 'primary'" :disabled="out.work.running || out.parts.length === 0" @click="look"
          >Look what it comes to</Button
        ></Tooltip
      >
    </div>
    <FileRunBar v-if="out.work.running" what="Delivering" :work="out.work"><Button size="small" @click="out.cancel">Stop</Button></FileRunBar>
    <Alert
      v-if="out.fault"
      class="told"
      type="warning"
      show-icon
      :message="`${out.fault} Choose another folder, or move that file away; nothing is written beside it.`"
    />
    <OutcomeAlert v-if="out.outcome" class="told" :message="told" :stopped="out.outcome.stopped" :failed="out.outcome.failed" :notes="out.outcome.notes" />
    <template v-if="out.rows">
      <div v-if="!out.work.running" class="tools line">
        <span role="status"
          ><span class="mono glass">{{ count(due) }}</span> to write, {{ count(same) }} as delivered before; into the folder <bdi>{{ files.title }}</bdi></span
        >
        <span class="push" />
        <Button type="primary" :disabled="due + same === 0 || out.fault !== ''" @click="deliver">{{
          due > 0 ? `Deliver ${things(due, 'file')}` : `Read ${things(same, 'file')} again`
        }}</Button>
      </div>
      <div class="panes">
        <VirtualRows :count="out.rows.length" :current="at" label="The delivery as it would be" @show="() => undefined">
          <template #head>
            <div class="list-row row head" role="row">
              <span role="columnheader">File</span><span role="columnheader">What it is</span><span role="columnheader" class="end">Size there</span
              ><span role="columnheader">To know</span>
            </div>
          </template>
          <template #default="{ index }">
            <div
              v-if="out.rows[index]"
              class="list-row row"
              role="row"
              :aria-rowindex="index + 2"
              :aria-selected="index === at"
              :class="{ current: index === at }"
              @click="at = index"
            >
              <span role="gridcell" class="cut" :title="out.rows[index].path"
                ><bdi>{{ out.rows[index].path }}</bdi></span
              >
              <span role="gridcell" class="cut mute small" :title="out.rows[index].what">{{ out.rows[index].what }}</span>
              <span role="gridcell" class="mono end mute">{{ out.rows[index].before ? bytes(out.rows[index].before!.bytes) : '' }}</span>
              <span role="gridcell" class="cut small" :class="out.rows[index].state === 'foreign' ? 'bad' : isDue(out.rows[index]) ? '' : 'mute'">{{
                out.work.running && index < out.work.done ? 'done' : states[out.rows[index].state]
              }}</span>
            </div>
          </template>
        </VirtualRows>
      </div>
    </template>
    <div v-else-if="!out.work.running && !out.outcome" class="empty">
      <strong>Deliver the scene as a folder</strong>
      <span
        >Mix, stems and lists go into a folder named after the scene, with a manifest and checksums. You see what would be written before it is; a second
        delivery writes only what has changed, and leaves alone what others put there.</span
      >
    </div>
  </div>
</template>

<style scoped>
.label-part {
  min-height: 0;
}
.parts {
  flex-wrap: wrap;
  gap: 6px 12px;
}
.one {
  display: inline-flex;
  gap: 4px;
  align-items: center;
}
.kind {
  width: 120px;
}
.line {
  white-space: nowrap;
}
.line :deep(.form) {
  margin: 0;
}
.into {
  max-width: 340px;
}
.told {
  margin: 0 16px 8px;
}
.panes {
  flex: 1;
  display: grid;
  min-height: 0;
  border-top: 1px solid var(--line);
}
.row {
  grid-template-columns: minmax(0, 1.1fr) minmax(0, 1fr) 90px minmax(0, 1fr);
}
.row:hover {
  background: color-mix(in srgb, var(--raft) 50%, transparent);
}
.current,
.current:hover {
  background: var(--raft2);
}
</style>
