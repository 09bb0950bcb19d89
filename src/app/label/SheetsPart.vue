<script setup lang="ts">
import { fieldOf, isField, type MatchedRow, type Policy, type Target } from '@core/library';
import type { SheetFacts, SheetFormat, SheetMatch } from '@platform/index';
import { Alert, Button, RadioGroup, Select } from 'ant-design-vue';
import { computed, ref, shallowRef } from 'vue';
import FilePick from '../shared/controls/FilePick.vue';
import { count, things } from '../shared/controls/format';
import MenuSelect from '../shared/controls/MenuSelect.vue';
import { save } from '../shared/take/save';
import VirtualRows from '../shared/list/VirtualRows.vue';
import { tell } from '../shell/notice';
import { useLabels } from '../stores/labels';
import { useLibrary } from '../stores/library';
import { usePrefs } from '../stores/prefs';
import ScopeBar from './ScopeBar.vue';
import FieldSelect from '../shared/controls/FieldSelect.vue';
import { foreign, writable } from '../shared/controls/fields';

const labels = useLabels();
const library = useLibrary();
const prefs = usePrefs();

const sheet = shallowRef<SheetFacts>();
const targets = ref<(Target | null)[]>([]);
const policies = ref<Record<string, Policy>>({});
const match = shallowRef<SheetMatch>();
const failure = ref('');
const state = ref<MatchedRow['state'] | 'all'>('all');
const cells = shallowRef(new Map<number, string[]>());
const format = ref<SheetFormat>('csv');
const exported = ref<string[]>([
  'fxName',
  'catId',
  'category',
  'subCategory',
  'description',
  'keywords',
  'tags',
  'stars',
  'library',
  'creatorId',
  'sourceId',
  'licence',
  'notes',
]);

const places = [
  { value: 'file', label: 'File name (finds the sound)' },
  { value: 'path', label: 'Path (finds the sound)' },
  { value: 'hash', label: 'Fingerprint (finds the sound)' },
];
/** Together they stand for a CatID. */
const named = [fieldOf('category'), fieldOf('subCategory')].map((f) => ({ value: f.key, label: `${f.label} (finds the CatID)` }));
const options = [
  { label: 'Finding', options: places },
  { label: 'Fields', options: [...writable, ...named] },
  { label: 'Languages', options: foreign },
];
const policyOptions: { value: Policy; label: string }[] = [
  { value: 'fill', label: 'Fill where empty' },
  { value: 'replace', label: 'Replace' },
  { value: 'append', label: 'Append' },
  { value: 'leave', label: 'Leave as it is' },
];
const isPlace = (t: Target | null) => places.some((p) => p.value === t);
const finds = computed(() => targets.value.some(isPlace));
const signature = (columns: readonly string[]) => columns.map((c) => c.trim().toLowerCase()).join('|');

async function open(file: File): Promise<void> {
  failure.value = '';
  match.value = undefined;
  sheet.value = undefined;
  try {
    const bytes = new Uint8Array(await file.arrayBuffer());
    const found = await labels.run((l) => l.readSheet(file.name, bytes), true);
    if (!found) return;
    sheet.value = found;
    const known = prefs.sheetMappings[signature(found.columns)];
    targets.value = known ?? found.guesses.map((g) => g ?? null);
    policies.value = {};
    if (finds.value) await compare();
  } catch (error) {
    failure.value = `${file.name}: ${(error as Error).message}`;
  }
}
async function compare(): Promise<void> {
  if (!sheet.value || !finds.value) return;
  prefs.sheetMappings = { ...prefs.sheetMappings, [signature(sheet.value.columns)]: [...targets.value].map((t) => t ?? null) };
  const plain = targets.value.map((t) => t ?? undefined);
  const rules = { ...policies.value };
  cells.value = new Map();
  match.value = await labels.run((l, report) => l.matchSheet(plain, rules, report));
}
async function setTarget(column: number, target: Target | null): Promise<void> {
  // A field is filled from one column only.
  targets.value = targets.value.map((t, i) => (i === column ? target : t === target ? null : t));
  await compare();
}
async function setPolicy(key: string, policy: Policy): Promise<void> {
  policies.value = { ...policies.value, [key]: policy };
  await compare();
}
async function setAll(policy: Policy): Promise<void> {
  for (const t of targets.value) if (t && !isPlace(t)) policies.value[t] = policy;
  await compare();
}

const states: Record<MatchedRow['state'], string> = {
  new: 'fill what is empty',
  same: 'say what is there',
  conflict: 'differ from what is there',
  missing: 'find no sound',
  twice: 'fit several sounds or a sound twice',
  refused: 'name no category of the list',
};
const stateOptions = computed(() => {
  const counts = match.value?.counts;
  return [
    { value: 'all', label: 'All' },
    ...(Object.keys(states) as MatchedRow['state'][]).map((s) => ({ value: s, label: `${count(counts?.[s] ?? 0)} ${states[s]}`, disabled: !counts?.[s] })),
  ];
});
const rows = computed(() => (match.value?.rows ?? []).filter((r) => state.value === 'all' || r.state === state.value));
const changing = computed(
  () => (match.value?.rows ?? []).filter((r) => r.soundId !== undefined && r.state !== 'twice' && Object.keys(r.texts).length > 0).length,
);
const placeColumn = computed(() => targets.value.findIndex(isPlace));

async function need(shown: number[]): Promise<void> {
  const wanted = shown.map((i) => rows.value[i]).filter((r) => r !== undefined);
  void library.need(wanted.flatMap((r) => r.soundId ?? []));
  const missing = wanted.map((r) => r.row).filter((r) => !cells.value.has(r));
  if (missing.length === 0) return;
  const found = await labels.run((l) => l.sheetCells(missing), true);
  cells.value = new Map([...cells.value, ...missing.map((r, i) => [r, found?.[i] ?? []] as const)]);
}
const tagNames = computed(() => new Map(library.tags.map((t) => [t.id, t.name])));
const now = (r: MatchedRow, key: string) => {
  const value = r.soundId === undefined ? undefined : library.sounds.get(r.soundId)?.fields[key];
  if (key === 'tags') return ((value as number[] | undefined) ?? []).map((id) => tagNames.value.get(id)).join(', ');
  return Array.isArray(value) ? value.join(', ') : String(value ?? '');
};

async function apply(): Promise<void> {
  const n = await labels.run((l, report) => l.applySheet(report));
  if (n === undefined) return;
  tell.done(`${things(n, 'sound')} filled from ${sheet.value?.name}; Ctrl Z takes it back`);
  await compare();
}
async function write(): Promise<void> {
  const { ids } = labels;
  const keys = [...exported.value];
  const kind = format.value;
  const bytes = await labels.run((l, report) => l.exportSheet(ids, keys, kind, report));
  const types = { csv: 'text/csv', tsv: 'text/tab-separated-values', xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet' };
  if (bytes) save(bytes as BlobPart, types[kind], `Sounds.${kind}`);
}
const label = (t: Target | null) => (t && isField(t) ? fieldOf(t).label : '');
</script>

<template>
  <div class="label-part">
    <div class="tools">
      <FilePick label="Open a sheet" accept=".csv,.tsv,.txt,.xlsx" :main="sheet === undefined" @pick="open" />
      <span v-if="sheet" class="mute"
        ><bdi>{{ sheet.name }}</bdi
        >, {{ things(sheet.rows, 'row') }}</span
      >
      <span class="push" />
      <ScopeBar />
      <FieldSelect v-model:value="exported" mode="multiple" size="middle" :max-tag-count="2" aria-label="Fields to write" class="export" />
      <RadioGroup
        v-model:value="format"
        size="small"
        option-type="button"
        :options="['csv', 'tsv', 'xlsx'].map((value) => ({ value, label: value.toUpperCase() }))"
        aria-label="Format"
      />
      <Button :disabled="labels.ids.length === 0" @click="write">Write {{ things(labels.ids.length, 'sound') }}</Button>
    </div>
    <Alert v-if="failure" type="error" :message="failure" closable class="alert" @close="failure = ''" />
    <div v-if="!sheet" class="empty">
      <strong>Labels from a sheet, or into one</strong>
      <span
        >A CSV, TSV or XLSX whose first row names its columns; one of them is the file name, the path or our fingerprint. Nothing changes before you have seen
        each row.</span
      >
    </div>
    <template v-else>
      <Alert
        v-if="sheet.faults.length > 0"
        type="warning"
        :message="`Row ${sheet.faults[0].row}: ${sheet.faults[0].message}${sheet.faults.length > 1 ? ` (and ${sheet.faults.length - 1} more)` : ''}`"
        closable
        class="alert"
      />
      <div class="heads" role="group" aria-label="Columns of the sheet">
        <div v-for="(column, i) in sheet.columns" :key="i" class="column">
          <label :for="`column-${i}`" class="cut"
            ><bdi>{{ column || `Column ${i + 1}` }}</bdi></label
          >
          <span class="cut mute small"
            ><bdi>{{
              sheet.sample
                .map((r) => r[i])
                .filter(Boolean)
                .join(' · ')
            }}</bdi></span
          >
          <FieldSelect
            :id="`column-${i}`"
            allow-clear
            placeholder="Leave out"
            :value="targets[i] ?? undefined"
            :options="options"
            @change="(t: unknown) => setTarget(i, (t as string | undefined) ?? null)"
          />
          <Select
            v-if="targets[i] && !isPlace(targets[i])"
            size="small"
            :value="policies[targets[i]!] ?? 'fill'"
            :options="policyOptions"
            :aria-label="`What to do with ${label(targets[i])}`"
            @change="(p: unknown) => setPolicy(targets[i]!, p as Policy)"
          />
        </div>
      </div>
      <Alert
        v-if="!finds"
        type="warning"
        message="Say which column is the file name, the path or the fingerprint: rows find their sounds by it."
        class="alert"
      />
      <template v-if="match">
        <div class="tools">
          <RadioGroup v-model:value="state" size="small" option-type="button" :options="stateOptions" aria-label="Rows to show" />
          <span class="push" />
          <MenuSelect
            size="small"
            label="For all fields"
            placeholder="For all fields…"
            :options="policyOptions"
            class="all"
            @pick="(p) => setAll(p as Policy)"
          />
          <Button type="primary" :disabled="changing === 0 || labels.work.running" @click="apply">Change {{ things(changing, 'sound') }}</Button>
        </div>
        <Alert
          v-if="match.faults.length > 0"
          type="warning"
          :message="`Row ${match.faults[0].row + 2} is left out: ${match.faults[0].message}`"
          class="alert"
        />
        <VirtualRows :count="rows.length" :row-height="46" label="Rows of the sheet" class="rows" @show="need">
          <template #head>
            <div class="list-row row head" role="row">
              <span role="columnheader">Row</span><span role="columnheader">Sheet says</span><span role="columnheader">Sound</span
              ><span role="columnheader">Now → would be</span>
            </div>
          </template>
          <template #default="{ index }">
            <div v-if="rows[index]" class="list-row row" role="row" :aria-rowindex="index + 2">
              <span role="gridcell" class="mono mute">{{ rows[index].row + 2 }}</span>
              <bdi role="gridcell" class="cut">{{ cells.get(rows[index].row)?.[placeColumn] ?? '' }}</bdi>
              <span role="gridcell" class="two">
                <bdi class="cut">{{ rows[index].soundId === undefined ? '' : (library.sounds.get(rows[index].soundId!)?.path ?? '') }}</bdi>
                <span class="small" :class="{ bad: ['missing', 'twice', 'refused'].includes(rows[index].state), amber: rows[index].state === 'conflict' }">{{
                  states[rows[index].state]
                }}</span>
              </span>
              <span role="gridcell" class="cut">
                <span v-for="(text, key) in rows[index].texts" :key="key" class="said"
                  ><span class="mute small">{{ fieldOf(key).label }}</span>
                  <s v-if="now(rows[index], key)" class="mute"
                    ><bdi>{{ now(rows[index], key) }}</bdi></s
                  >
                  <bdi>{{ text }}</bdi></span
                >
              </span>
            </div>
          </template>
        </VirtualRows>
      </template>
    </template>
  </div>
</template>

<style scoped>
.export {
  width: 260px;
}
.all {
  width: 150px;
}
.alert {
  margin: 0 16px 8px;
}
.heads {
  display: flex;
  gap: 12px;
  padding: 0 16px 10px;
  overflow-x: auto;
}
.column {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  flex: 0 0 176px;
  align-content: start;
  gap: 4px;
}
.row {
  grid-template-columns: 48px minmax(0, 0.7fr) minmax(0, 0.9fr) minmax(0, 1.4fr);
}
.said {
  margin-right: 12px;
}
.said > * + * {
  margin-left: 0.45em;
}
.amber {
  color: var(--amber);
}
</style>
