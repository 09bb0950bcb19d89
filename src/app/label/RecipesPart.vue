<script setup lang="ts">
import { changeOf, fieldOf } from '@core/library';
import { starters, type Step, type StepKind } from '@core/naming';
import { checkedFile, validators, type RecipeFile } from '@core/schemas';
import type { PreviewRow, RecipeCounts } from '@platform/index';
import { Button, Input } from 'ant-design-vue';
import { useDebounceFn } from '@vueuse/core';
import { computed, ref, shallowRef, toRaw, watch } from 'vue';
import { VueDraggable } from 'vue-draggable-plus';
import QueryLine from '../find/QueryLine.vue';
import { useCommands } from '../shared/controls/commands';
import FilePick from '../shared/controls/FilePick.vue';
import { count, things } from '../shared/controls/format';
import MenuSelect from '../shared/controls/MenuSelect.vue';
import { save } from '../shared/take/save';
import VirtualRows from '../shared/list/VirtualRows.vue';
import { tell } from '../shell/notice';
import { useLabels } from '../stores/labels';
import { useLibrary } from '../stores/library';
import { catalogue } from '../stores/workers';
import ScopeBar from './ScopeBar.vue';
import StepLine from './StepLine.vue';
import { stepKinds } from './steps';

const library = useLibrary();
const labels = useLabels();

interface Draft {
  /** Of a kept recipe. */
  id?: number;
  name: string;
  steps: Step[];
}
const copy = <T,>(value: T): T => JSON.parse(JSON.stringify(value)) as T;
const draft = ref<Draft>({ name: 'New recipe', steps: [] });
const preview = shallowRef(new Map<number, PreviewRow['planned']>());
const written = ref<string[]>([]);
const counts = shallowRef<RecipeCounts>();
const stepFaults = ref<Record<number, string>>({});
const failure = ref('');
const shown = ref<number[]>([]);
/** Vue needs a key per step that outlives moving it. */
let nextKey = 1;
const keys = new WeakMap<object, number>();
function keyOf(step: object): number {
  const raw = toRaw(step);
  if (!keys.has(raw)) keys.set(raw, nextKey++);
  return keys.get(raw)!;
}

const choices = computed(() => [
  { label: 'Yours', options: library.recipes.map((r) => ({ value: `r${r.id}`, label: r.name })) },
  { label: 'To begin with', options: starters.map((r, i) => ({ value: `s${i}`, label: r.name })) },
]);
function open(value: string): void {
  const at = Number(value.slice(1));
  const found = value.startsWith('r') ? library.recipes.find((r) => r.id === at) : starters[at];
  if (found) draft.value = copy(found as Draft);
}
const kept = computed(() => library.recipes.find((r) => r.id === draft.value.id));
const altered = computed(() => !kept.value || JSON.stringify({ ...kept.value }) !== JSON.stringify({ ...draft.value, id: kept.value.id }));

async function keep(): Promise<void> {
  const { name, steps } = copy(draft.value);
  if (kept.value) return void (await library.edit(`Change the recipe ${name}`, [changeOf('recipes', kept.value, { name, steps })]));
  const [id] = await catalogue.newIds('recipes', 1);
  await library.edit(`Keep the recipe ${name}`, [{ table: 'recipes', id, after: { id, name, steps } }]);
  draft.value.id = id;
}
function duplicate(): void {
  draft.value = { name: `${draft.value.name} (copy)`, steps: copy(draft.value.steps) };
}
async function remove(): Promise<void> {
  if (kept.value) await library.discard('recipes', copy(kept.value));
  draft.value = { name: 'New recipe', steps: [] };
}
function saveFile(): void {
  const { name, steps } = draft.value;
  const file: RecipeFile = { format: 'cormorant-recipes', version: 1, recipes: [{ name, steps: copy(steps) }] };
  save(JSON.stringify(file, null, 2), 'application/json', `${name}.recipe.json`);
}
async function load(file: File): Promise<void> {
  try {
    const { recipes } = checkedFile<RecipeFile>(await file.text(), validators.recipeFile, file.name);
    const ids = await catalogue.newIds('recipes', recipes.length);
    await library.edit(
      `Read ${things(recipes.length, 'recipe')} from ${file.name}`,
      recipes.map((r, i) => ({ table: 'recipes', id: ids[i], after: { id: ids[i], ...r } })),
    );
    if (recipes[0]) draft.value = { id: ids[0], name: recipes[0].name, steps: recipes[0].steps as Step[] };
  } catch (error) {
    tell.error((error as Error).message);
  }
}

function add(kind: StepKind): void {
  draft.value.steps = [...draft.value.steps, stepKinds.find((k) => k.kind === kind)!.make()];
}
function change(at: number, step: Step): void {
  const old = draft.value.steps[at];
  keys.set(toRaw(step), keyOf(old));
  draft.value.steps = draft.value.steps.map((s, i) => (i === at ? step : s));
}
function move(at: number, by: number): void {
  const all = [...draft.value.steps];
  if (at + by < 0 || at + by >= all.length) return;
  [all[at], all[at + by]] = [all[at + by], all[at]];
  draft.value.steps = all;
}

let newest = 0;
let counting = 0;
async function look(): Promise<void> {
  const mine = ++newest;
  counting++;
  const steps = copy(draft.value.steps);
  const { ids } = labels;
  const rows = shown.value.filter((i) => i < ids.length);
  try {
    const result = await labels.run((l) => l.previewRecipe({ steps }, ids, rows), true);
    if (mine !== newest || !result) return;
    failure.value = '';
    preview.value = new Map(result.rows.map((r) => [r.id, r.planned]));
    written.value = result.written;
    const faults: Record<number, string> = {};
    for (const { step, message } of result.faults) faults[step] ??= message;
    for (const { planned } of result.rows) if ('fault' in planned && planned.step >= 0) faults[planned.step] ??= planned.fault;
    stepFaults.value = faults;
  } catch (error) {
    if (mine === newest) failure.value = (error as Error).message;
  }
}
async function tally(): Promise<void> {
  const mine = ++counting;
  const recipe = { name: draft.value.name, steps: copy(draft.value.steps) };
  const { ids } = labels;
  counts.value = undefined;
  if (recipe.steps.length === 0 || failure.value) return;
  try {
    const found = await labels.run((l, report) => l.runRecipe(recipe, ids, false, report), true);
    if (mine === counting) counts.value = found;
  } catch (error) {
    if (mine === counting) failure.value = (error as Error).message;
  }
}
async function again(): Promise<void> {
  await look();
  await tally();
}
const tallySoon = useDebounceFn(() => tally(), 400);
watch(
  () => [draft.value.steps, labels.ids, shown.value, library.revision] as const,
  async () => {
    await look();
    void tallySoon();
  },
  { deep: true, immediate: true },
);

async function run(): Promise<void> {
  const recipe = { name: draft.value.name, steps: copy(draft.value.steps) };
  const { ids } = labels;
  const done = await labels.run((l, report) => l.runRecipe(recipe, ids, true, report));
  if (!done) return;
  const failing = done.failing > 0 ? `; ${count(done.failing)} stay as they were, ${done.faults[0].message}` : '';
  tell.done(`${recipe.name} changed ${things(done.changed, 'sound')}${failing}. Ctrl Z takes it back`);
}
useCommands('Labelling', [
  { label: 'Run the recipe', keys: ['Shift+Enter'], run: () => void run(), enabled: () => (counts.value?.changed ?? 0) > 0 },
  { label: 'Keep the recipe', keys: ['Ctrl+s'], run: () => void keep() },
]);

function need(rows: number[]): void {
  shown.value = rows;
  void library.need(rows.map((i) => labels.ids[i]).filter((id) => id !== undefined));
}
const planned = (index: number) => preview.value.get(labels.ids[index]);
const faultOf = (index: number) => {
  const p = planned(index);
  return p && 'fault' in p ? p.fault : undefined;
};
const changes = (index: number, key: string) => {
  const p = planned(index);
  return p !== undefined && 'changed' in p && p.changed.includes(key);
};
const afterOf = (index: number, key: string) => {
  const p = planned(index);
  return p && 'after' in p ? p.after[key] : '';
};
const width = computed(() => 230 + written.value.length * 380);
</script>

<template>
  <div class="recipes">
    <section class="make" aria-label="Recipe">
      <div class="tools">
        <MenuSelect :options="choices" label="Open a recipe" class="pick" @pick="open" />
        <Input v-model:value="draft.name" class="name" aria-label="Name of the recipe" />
        <Button :disabled="!altered || draft.steps.length === 0" @click="keep">Keep</Button>
        <Button :disabled="draft.steps.length === 0" @click="duplicate">Duplicate</Button>
        <Button :disabled="!kept" @click="remove">Delete</Button>
        <span class="push" />
        <FilePick label="Read a file" accept=".json" @pick="load" />
        <Button :disabled="draft.steps.length === 0" @click="saveFile">Save as a file</Button>
      </div>
      <VueDraggable v-model="draft.steps" tag="ol" handle=".handle" class="steps" aria-label="Steps">
        <StepLine
          v-for="(step, i) in draft.steps"
          :key="keyOf(step)"
          :step="step"
          :place="i + 1"
          :fault="stepFaults[i]"
          @change="(s) => change(i, s)"
          @remove="draft.steps = draft.steps.filter((_, at) => at !== i)"
          @move="(by) => move(i, by)"
        />
      </VueDraggable>
      <div class="tools">
        <MenuSelect :options="stepKinds.map((k) => ({ value: k.kind, label: k.label }))" label="Add a step" class="pick" @pick="(k) => add(k as StepKind)" />
        <span v-if="draft.steps.length === 0" class="mute">Open a recipe above, or add steps: what they would do is shown below before anything changes.</span>
      </div>
    </section>
    <div class="tools run">
      <ScopeBar />
      <template v-if="failure">
        <span class="bad" role="alert">{{ failure }}</span>
        <Button size="small" @click="again">Try again</Button>
      </template>
      <span v-else-if="counts" role="status"
        ><span class="mono glass">{{ count(counts.changed) }}</span> would change, <span class="mono">{{ count(counts.unchanged) }}</span> stay as they are,
        <span class="mono" :class="{ bad: counts.failing > 0 }">{{ count(counts.failing) }}</span> cannot</span
      >
      <span class="push" />
      <Button type="primary" :disabled="!counts || counts.changed === 0 || labels.work.running" @click="run"
        >Run on {{ things(counts?.changed ?? 0, 'sound') }}</Button
      >
    </div>
    <QueryLine />
    <VirtualRows :count="labels.ids.length" :width="width" label="Before and after" class="rows" @show="need">
      <template #head>
        <div class="row head" role="row">
          <span role="columnheader" class="file">File</span>
          <template v-for="key in written" :key="key"
            ><span role="columnheader" class="before">{{ fieldOf(key).label }} now</span><span role="columnheader" class="after">would be</span></template
          >
        </div>
      </template>
      <template #default="{ index }">
        <div class="row" role="row" :aria-rowindex="index + 2">
          <bdi role="gridcell" class="file cut">{{ library.sounds.get(labels.ids[index])?.fields.file ?? '' }}</bdi>
          <span v-if="faultOf(index)" role="gridcell" class="bad cut">{{ faultOf(index) }}</span>
          <template v-else-if="planned(index)">
            <template v-for="key in written" :key="key">
              <bdi role="gridcell" class="before cut mute">{{ planned(index)!.before[key] }}</bdi>
              <bdi role="gridcell" class="after cut" :class="{ changed: changes(index, key) }">{{ afterOf(index, key) }}</bdi>
            </template>
          </template>
        </div>
      </template>
    </VirtualRows>
  </div>
</template>

<style scoped>
.recipes {
  display: flex;
  flex-direction: column;
  height: 100%;
}
.make {
  max-height: 46%;
  padding: 10px 16px 0;
  overflow-y: auto;
}
.tools {
  margin-bottom: 8px;
}
.run {
  margin: 0;
  padding: 8px 16px;
  border-top: 1px solid var(--line);
}
.pick {
  width: 220px;
}
.name {
  width: 220px;
}
.steps {
  margin: 0 0 8px;
  padding: 0;
  list-style: none;
}
.rows {
  flex: 1;
  min-height: 0;
}
.row {
  display: flex;
  align-items: center;
  height: 100%;
  border-bottom: 1px solid var(--line);
  font-size: 13px;
}
.head {
  height: 28px;
  color: var(--mute);
  font-size: 12px;
}
.row > * {
  flex: 0 0 190px;
  padding: 0 8px;
}
.row > .file {
  flex-basis: 230px;
  padding-left: 16px;
}
.row > .bad {
  flex: 1;
}
.changed {
  color: var(--bone);
  font-weight: 600;
}
.changed::before {
  content: '→ ';
  color: var(--glass);
}
</style>
