<script setup lang="ts">
import { treeOf, type PublishFormat } from '@core/library';
import type { PublishTarget } from '@platform/index';
import { Button, Input, Select, Tooltip } from 'ant-design-vue';
import { computed, ref, shallowRef, watch } from 'vue';
import { useRouter } from 'vue-router';
import QueryLine from '../find/QueryLine.vue';
import { useCommands, withKey } from '../shared/controls/commands';
import { bytes, count, things } from '../shared/controls/format';
import FileRunBar from '../shared/controls/FileRunBar.vue';
import OutcomeAlert from '../shared/controls/OutcomeAlert.vue';
import VirtualRows from '../shared/list/VirtualRows.vue';
import { saveBlob } from '../shared/take/save';
import { patternFault } from '../shared/take/take';
import { tell } from '../shell/notice';
import { useLibrary } from '../stores/library';
import { usePublishing } from '../stores/publishing';
import { catalogue } from '../stores/workers';
import EarlierPublishings from './EarlierPublishings.vue';
import ExtrasBar from './ExtrasBar.vue';
import { folderFor, rootFor, rootTargets } from './places';
import { useSource } from './useSource';

/** A library to hand over: where every sound goes is seen before anything is written. */
const { find, source, sources, ids } = useSource();
const library = useLibrary();
const out = usePublishing();
const router = useRouter();

const formats: { value: string; label: string; format: PublishFormat }[] = [
  { value: 'own', label: 'as they are', format: { kind: 'own' } },
  { value: 'wav24-48', label: 'WAV, 24 bit, 48 kHz', format: { kind: 'wav', bits: 24, rate: 48_000 } },
  { value: 'wav24-96', label: 'WAV, 24 bit, 96 kHz', format: { kind: 'wav', bits: 24, rate: 96_000 } },
  { value: 'wav16-44', label: 'WAV, 16 bit, 44.1 kHz', format: { kind: 'wav', bits: 16, rate: 44_100 } },
  { value: 'flac24', label: 'FLAC, 24 bit', format: { kind: 'flac', bits: 24 } },
  { value: 'flac16', label: 'FLAC, 16 bit', format: { kind: 'flac', bits: 16 } },
];
const format = computed(() => formats.find((f) => JSON.stringify(f.format) === JSON.stringify(out.how.format))?.value ?? 'own');
const setFormat = (value: unknown) => (out.how.format = { ...formats.find((f) => f.value === value)!.format });

const treeFault = computed(
  () =>
    out.how.tree
      .split('/')
      .map((p) => (p.includes('{') ? patternFault(p.trim()) : ''))
      .find(Boolean) ?? '',
);
const nameFault = computed(() => patternFault(out.how.names));
const titleFault = computed(() => (out.how.title.trim() === '' || /[<>:"/\\|?*]/.test(out.how.title) ? 'A title that can be a folder is needed' : ''));
const wrong = computed(() => titleFault.value || treeFault.value || nameFault.value);

async function look(): Promise<void> {
  if (wrong.value) return;
  const wanted = await ids();
  try {
    await out.plan(wanted);
    at.value = 0;
    closed.value = new Set();
    // Many files are seen by their folders first.
    if ((out.rows?.length ?? 0) > 60)
      closed.value = new Set(
        treeOf(out.rows!)
          .filter((l) => !l.row && l.depth > 0)
          .map((l) => l.path),
      );
  } catch (error) {
    tell.error(`The library could not be planned: ${(error as Error).message}`);
  }
}
watch([() => JSON.stringify([out.how, source.value]), () => library.undoState], () => {
  if (!out.work.running) out.rows = undefined;
});
// While sounds are still being measured the query is answered again and again, by the same ones as a rule.
watch(
  () => find.answer.ids,
  (ids, before) => {
    const same = ids.length === before.length && ids.every((id, i) => id === before[i]);
    if (!same && !out.work.running) out.rows = undefined;
  },
);

const show = ref<'all' | 'faults' | 'lacks'>('all');
const closed = shallowRef<ReadonlySet<string>>(new Set());
const at = ref(0);
const faulty = computed(() => (out.rows ?? []).filter((r) => r.faults.length > 0));
const lacking = computed(() => (out.rows ?? []).filter((r) => r.lacks.length > 0));
const good = computed(() => (out.rows ?? []).filter((r) => r.faults.length === 0));
const shows = computed(() => [
  { value: 'all', label: `All of it (${count(out.rows?.length ?? 0)})` },
  { value: 'faults', label: `Cannot be published (${count(faulty.value.length)})` },
  { value: 'lacks', label: `Lack a field (${count(lacking.value.length)})` },
]);
const lines = computed(() => treeOf({ all: out.rows ?? [], faults: faulty.value, lacks: lacking.value }[show.value], closed.value));
const current = computed(() => lines.value[at.value]);
const total = computed(() => good.value.reduce((sum, r) => sum + r.bytes, 0));
function fold(path: string): void {
  const next = new Set(closed.value);
  if (!next.delete(path)) next.add(path);
  closed.value = next;
}
function step(by: number): void {
  at.value = Math.max(0, Math.min(lines.value.length - 1, at.value + by));
}
const gist = (line: (typeof lines.value)[number]) => {
  if (line.row) return line.row.faults[0] ?? (line.row.lacks.length > 0 ? `lacks ${line.row.lacks.join(', ')}` : (line.row.notes[0] ?? ''));
  const parts = [line.faults > 0 && `${things(line.faults, 'sound')} cannot be published`, line.lacking > 0 && `${count(line.lacking)} lack a field`];
  return parts.filter(Boolean).join(', ');
};

/** What lacks a field becomes a pull, which is labelled like any list. */
async function label(): Promise<void> {
  const name = `To label for ${out.how.title}`;
  const [id] = await catalogue.newIds('pulls', 1);
  const after = { name, soundIds: lacking.value.map((r) => r.id), created: Date.now() };
  if (!(await library.edit(`Keep ${name}`, [{ table: 'pulls', id, after }]))) return;
  await router.push({ name: 'label', query: { pull: String(id) } });
}

/** Where it goes: a folder that is chosen, an archive, or a folder of the library that may be written. */
const target = ref('folder');
const targets = computed(() => [{ value: 'folder', label: 'a folder, chosen next' }, { value: 'zip', label: 'a ZIP archive' }, ...rootTargets('Published')]);
async function targetOf(): Promise<PublishTarget> {
  if (target.value === 'zip') return { kind: 'zip' };
  if (target.value === 'folder') return folderFor('published', 'publish a ZIP archive');
  return rootFor(Number(target.value.slice(5)), 'Published');
}
async function publish(): Promise<void> {
  try {
    const done = await out.publish(await targetOf());
    if (done.zip) saveBlob(done.zip, `${out.how.title}.zip`);
  } catch (error) {
    if ((error as Error).name !== 'AbortError') tell.error(`The library was not published: ${(error as Error).message}`);
  }
}
const told = computed(() => {
  const o = out.outcome;
  if (!o) return '';
  const parts = [
    `${things(o.written, 'file')} written and read again`,
    o.same > 0 && `${count(o.same)} were there and the same`,
    o.failed.length > 0 && `${count(o.failed.length)} could not be published`,
    o.left.length > 0 && `${count(o.left.length)} of an earlier time are no part of it any more and stay there`,
  ];
  return `${parts.filter(Boolean).join(', ')}.${o.stopped ? ` It ended early: ${o.stopped}.` : ''}`;
});

useCommands('Using a sound', [
  { label: 'Look what publishing comes to', keys: ['Ctrl+Enter'], run: () => void look(), enabled: () => !out.work.running },
  { label: 'Next line', keys: ['ArrowDown'], run: () => step(1), enabled: () => lines.value.length > 0 },
  { label: 'Previous line', keys: ['ArrowUp'], run: () => step(-1), enabled: () => lines.value.length > 0 },
  {
    label: 'Open or close the folder',
    keys: ['Enter'],
    run: () => current.value && fold(current.value.path),
    enabled: () => current.value !== undefined && !current.value.row,
  },
]);
</script>

<template>
  <div class="label-part">
    <QueryLine />
    <div class="tools line">
      <Select v-model:value="source" size="small" class="source" :options="sources" aria-label="What is published" :dropdown-match-select-width="false" />
      <span class="mute">as</span>
      <Input v-model:value="out.how.title" size="small" class="title" aria-label="Title" :status="titleFault ? 'error' : ''" />
      <span class="mute">in folders</span>
      <Tooltip :title="treeFault || 'Fields of the sounds, / between folders'"
        ><Input v-model:value="out.how.tree" size="small" class="tree mono" aria-label="Folders" :status="treeFault ? 'error' : ''"
      /></Tooltip>
      <span class="mute">named</span>
      <Tooltip :title="nameFault || 'Fields of the sounds; empty for the names that files have'"
        ><Input
          v-model:value="out.how.names"
          size="small"
          class="names mono"
          placeholder="as they are"
          aria-label="File names"
          :status="nameFault ? 'error' : ''"
      /></Tooltip>
      <Select size="small" :value="format" :options="formats" aria-label="Format" :dropdown-match-select-width="false" @change="setFormat" />
      <span class="push" />
      <Tooltip :title="withKey('Folders, counts, sizes and faults; nothing is written', 'Look what publishing comes to')"
        ><Button :type="out.rows ? 'default' : 'primary'" :disabled="out.work.running || wrong !== ''" @click="look">Look what it comes to</Button></Tooltip
      >
    </div>
    <ExtrasBar />
    <FileRunBar v-if="out.work.running" :what="out.work.what" :work="out.work">
      <Button size="small" @click="out.rest(!out.work.paused)">{{ out.work.paused ? 'Go on' : 'Pause' }}</Button>
      <Button size="small" @click="out.cancel">Stop after this file</Button>
    </FileRunBar>
    <OutcomeAlert v-if="out.outcome" class="told" :message="told" :stopped="out.outcome.stopped" :failed="out.outcome.failed" :notes="out.outcome.notes" />
    <template v-if="out.rows">
      <div class="tools line">
        <Select v-model:value="show" :options="shows" size="small" class="which" aria-label="Lines to show" @change="at = 0" />
        <span role="status"
          ><span class="mono glass">{{ count(good.length) }}</span> {{ good.length === 1 ? 'sound' : 'sounds' }}, about {{ bytes(total) }}</span
        >
        <Button v-if="lacking.length > 0" size="small" title="Keeps them as a list, and goes to Label" @click="label"
          >Label the {{ count(lacking.length) }} that lack a field</Button
        >
        <span class="push" />
        <span class="mute">Into</span>
        <Select v-model:value="target" size="small" :options="targets" aria-label="Where it goes" :dropdown-match-select-width="false" />
        <Button type="primary" :disabled="out.work.running || good.length === 0" @click="publish">Publish {{ things(good.length, 'sound') }}</Button>
      </div>
      <div class="panes">
        <VirtualRows :count="lines.length" :current="at" label="The library as it would be" @show="() => undefined">
          <template #head>
            <div class="list-row row head" role="row">
              <span role="columnheader">Folder or file</span><span role="columnheader" class="end">Sounds</span><span role="columnheader" class="end">Size</span
              ><span role="columnheader">To know</span>
            </div>
          </template>
          <template #default="{ index }">
            <div
              v-if="lines[index]"
              class="list-row row"
              role="row"
              :aria-rowindex="index + 2"
              :aria-selected="index === at"
              :class="{ current: index === at }"
              @click="at = index"
              @dblclick="!lines[index].row && fold(lines[index].path)"
            >
              <span role="gridcell" class="cut" :style="{ paddingLeft: `${lines[index].depth * 18}px` }">
                <button
                  v-if="!lines[index].row"
                  class="fold"
                  :aria-expanded="!closed.has(lines[index].path)"
                  :aria-label="`${closed.has(lines[index].path) ? 'Open' : 'Close'} ${lines[index].name}`"
                  @click.stop="fold(lines[index].path)"
                >
                  {{ closed.has(lines[index].path) ? '▸' : '▾' }}
                </button>
                <bdi :class="{ folder: !lines[index].row }">{{ lines[index].name }}</bdi></span
              >
              <span role="gridcell" class="mono end mute">{{ lines[index].row ? '' : count(lines[index].count) }}</span>
              <span role="gridcell" class="mono end">{{ bytes(lines[index].bytes) }}</span>
              <span role="gridcell" class="cut small" :class="lines[index].faults > 0 ? 'bad' : 'mute'" :title="gist(lines[index])">{{
                gist(lines[index])
              }}</span>
            </div>
          </template>
        </VirtualRows>
        <aside v-if="current" class="side" aria-label="The line">
          <h1>
            <bdi>{{ current.name }}</bdi>
          </h1>
          <p class="mute small">
            <bdi>{{ out.how.title }}/{{ current.path }}</bdi>
          </p>
          <template v-if="current.row">
            <p v-for="fault in current.row.faults" :key="fault" class="bad">{{ fault }}</p>
            <p v-if="current.row.lacks.length > 0">It lacks {{ current.row.lacks.join(', ') }}.</p>
            <p v-for="note in current.row.notes" :key="note" class="mute small">{{ note }}</p>
          </template>
          <p v-else class="mute">{{ things(current.count, 'sound') }}, about {{ bytes(current.bytes) }}</p>
        </aside>
      </div>
    </template>
    <div v-else-if="!out.work.running && !out.outcome" class="empty">
      <strong>Publish a library</strong>
      <span
        >Sounds of a query or of a pull go into folders by their fields, with labels inside the files, and a sheet, licence and checksums beside them. You see
        the whole tree before anything is written.</span
      >
    </div>
    <EarlierPublishings v-if="!out.rows && !out.work.running" />
  </div>
</template>

<style scoped>
.label-part {
  min-height: 0;
}
.line {
  white-space: nowrap;
}
.source {
  width: 215px;
}
.title {
  width: 130px;
}
.tree {
  width: 240px;
}
.names {
  width: 140px;
}
.which {
  width: 220px;
}
.told {
  margin: 0 16px 8px;
}
.panes {
  flex: 1;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  min-height: 0;
  border-top: 1px solid var(--line);
}
.row {
  grid-template-columns: minmax(0, 1.3fr) 70px 90px minmax(0, 1fr);
}
.row:hover {
  background: color-mix(in srgb, var(--raft) 50%, transparent);
}
.current,
.current:hover {
  background: var(--raft2);
}
.fold {
  width: 20px;
  padding: 0;
  border: 0;
  background: none;
  color: var(--mute);
  cursor: pointer;
}
.folder {
  color: var(--bone);
}
.side {
  padding: 16px 14px;
  overflow-y: auto;
  border-left: 1px solid var(--line);
}
.side h1 {
  margin: 0;
  font-size: 15px;
  overflow-wrap: anywhere;
}
.side p {
  overflow-wrap: anywhere;
}
</style>
