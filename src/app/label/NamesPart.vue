<script setup lang="ts">
import { changeOf, fieldOf } from '@core/library';
import { NamePattern, shortNameKinds, UCS_PATTERN, type ShortName, type ShortNameKind } from '@core/naming';
import type { ComposedName, ParsedName } from '@platform/index';
import { AutoComplete, Button, Input, RadioGroup, Select, Table } from 'ant-design-vue';
import { useDebounceFn } from '@vueuse/core';
import { computed, ref, shallowRef, watch } from 'vue';
import QueryLine from '../find/QueryLine.vue';
import { count, things } from '../shared/controls/format';
import { patternFault } from '../shared/take/take';
import VirtualRows from '../shared/list/VirtualRows.vue';
import { tell } from '../shell/notice';
import { useLabels } from '../stores/labels';
import { useLibrary } from '../stores/library';
import { catalogue } from '../stores/workers';
import ScopeBar from './ScopeBar.vue';
import FieldSelect from '../shared/controls/FieldSelect.vue';
import { writable } from '../shared/controls/fields';

const library = useLibrary();
const labels = useLabels();
const way = ref<'compose' | 'parse' | 'short'>('compose');
const pattern = ref(UCS_PATTERN);
const composed = shallowRef<ComposedName[]>([]);
const parsed = shallowRef<ParsedName[]>([]);
/** Where each field of the pattern goes when names are read; empty: nowhere. */
const into = ref<Record<string, string>>({});
const failure = ref('');
const onlyFaulty = ref(false);

const ways = [
  { value: 'compose', label: 'Compose from fields' },
  { value: 'parse', label: 'Parse into fields' },
  { value: 'short', label: 'Short names' },
];
const editable = [{ value: '', label: 'Leave out' }, ...writable];

/** What is wrong with the pattern, with a mark under the place. */
const fault = computed(() => patternFault(pattern.value));
const keys = computed(() => (fault.value ? [] : new NamePattern(pattern.value).keys));
watch(
  keys,
  (now) => {
    into.value = Object.fromEntries(now.map((k) => [k, into.value[k] ?? (fieldOf(k).edited ? k : '')]));
  },
  { immediate: true },
);

let newest = 0;
const look = useDebounceFn(async () => {
  if (fault.value || way.value === 'short') return;
  const mine = ++newest;
  const { ids } = labels;
  try {
    if (way.value === 'compose') {
      const found = await labels.run((l, report) => l.composeNames(pattern.value, ids, report), true);
      if (mine === newest && found) composed.value = found;
    } else {
      const found = await labels.run((l, report) => l.parseNames(pattern.value, ids, report), true);
      if (mine === newest && found) parsed.value = found;
    }
    failure.value = '';
  } catch (error) {
    if (mine === newest) failure.value = (error as Error).message;
  }
}, 200);
watch(
  () => [pattern.value, way.value, labels.ids, library.revision],
  () => void look(),
  { immediate: true },
);

const good = computed(() => composed.value.filter((c) => c.faults.length === 0));
const shared = computed(() => composed.value.filter((c) => c.shared).length);
const listed = computed(() => (onlyFaulty.value ? composed.value.filter((c) => c.faults.length > 0) : composed.value));
const readable = computed(() => parsed.value.filter((p) => p.texts));
const longest = computed(() => composed.value.reduce((most, c) => Math.max(most, c.to.length), 0));

async function plan(): Promise<void> {
  const { ids } = labels;
  const n = await labels.run((l, report) => l.planNames(pattern.value, ids, report));
  if (n !== undefined) tell.done(`${things(n, 'name')} planned; files keep theirs until they are written. Ctrl Z takes it back`);
}
async function fill(): Promise<void> {
  const { ids } = labels;
  const wanted = Object.fromEntries(Object.entries(into.value).filter(([, to]) => to));
  const n = await labels.run((l, report) => l.fillFromNames(pattern.value, wanted, ids, report));
  if (n !== undefined) tell.done(`${things(n, 'sound')} filled from their names; Ctrl Z takes it back`);
}

// Short names
const fresh = ref<{ kind: ShortNameKind; name: string; short: string }>({ kind: 'creator', name: '', short: '' });
const fieldOfKind: Record<ShortNameKind, string> = { creator: 'author', publisher: 'manufacturer', library: 'library' };
/** Names that the catalogue's sounds have, to complete what is typed. */
const known = ref<Record<string, string[]>>({});
watch(
  () => library.revision,
  async () => {
    const { values } = await catalogue.values({ text: '' }, 'library', '', 200);
    known.value = { library: values.map((f) => f.value).filter(Boolean) };
    const shown = [...library.sounds.values()];
    for (const key of ['author', 'manufacturer']) known.value[key] = [...new Set(shown.flatMap((s) => (s.fields[key] as string | undefined) ?? []))];
  },
  { immediate: true },
);
const completion = computed(() =>
  (known.value[fieldOfKind[fresh.value.kind]] ?? []).filter((n) => n.toLowerCase().includes(fresh.value.name.toLowerCase())).map((value) => ({ value })),
);
async function addShort(): Promise<void> {
  const { kind, name, short } = { ...fresh.value, name: fresh.value.name.trim(), short: fresh.value.short.trim() };
  if (!name || !short) return;
  const [id] = await catalogue.newIds('shortNames', 1);
  await library.edit(`Add the short name ${short}`, [{ table: 'shortNames', id, after: { id, kind, name, short } }]);
  fresh.value = { kind, name: '', short: '' };
}
const setShort = (row: ShortName, part: Partial<ShortName>) => void library.edit(`Change the short name ${row.short}`, [changeOf('shortNames', row, part)]);
const shortColumns = [
  { title: 'Of', dataIndex: 'kind', key: 'kind', width: 140 },
  { title: 'Name', key: 'name' },
  { title: 'Short name', key: 'short', width: 200 },
  { title: '', key: 'do', width: 90 },
];
</script>

<template>
  <div class="label-part">
    <div class="tools">
      <RadioGroup v-model:value="way" option-type="button" :options="ways" aria-label="What to do with names" />
      <template v-if="way !== 'short'">
        <label for="pattern" class="mute">Pattern</label>
        <Input id="pattern" v-model:value="pattern" class="pattern mono" :status="fault ? 'error' : ''" />
        <Button :disabled="pattern === UCS_PATTERN" @click="pattern = UCS_PATTERN">UCS</Button>
      </template>
    </div>
    <div v-if="fault && way !== 'short'" class="tools bad" role="alert">{{ fault }}</div>
    <div v-else-if="failure" class="tools bad" role="alert">{{ failure }}</div>
    <template v-if="way === 'short'">
      <div class="short">
        <p class="mute">Abbreviations of creators, publishers and libraries: recipes look them up both ways, and file names are made of them.</p>
        <form class="tools" @submit.prevent="addShort">
          <Select v-model:value="fresh.kind" :options="shortNameKinds.map((value) => ({ value }))" aria-label="Of what" class="kind" />
          <AutoComplete v-model:value="fresh.name" :options="completion" placeholder="Full name" aria-label="Full name" class="full" />
          <Input v-model:value="fresh.short" placeholder="Short name" aria-label="Short name" class="kind" @press-enter="addShort" />
          <Button type="primary" :disabled="!fresh.name.trim() || !fresh.short.trim()" @click="addShort">Add</Button>
        </form>
        <Table
          v-if="library.shortNames.length > 0"
          :columns="shortColumns"
          :data-source="library.shortNames"
          row-key="id"
          size="small"
          :pagination="{ pageSize: 50, hideOnSinglePage: true, size: 'small', showSizeChanger: false }"
        >
          <template #bodyCell="{ column, record }">
            <Input
              v-if="column.key === 'name' || column.key === 'short'"
              :default-value="record[column.key as 'name']"
              size="small"
              :aria-label="`${column.title} of ${record.name}`"
              @blur="(e: FocusEvent) => setShort(record as ShortName, { [column.key as string]: (e.target as HTMLInputElement).value.trim() })"
            />
            <Button v-else-if="column.key === 'do'" size="small" @click="library.discard('shortNames', record as ShortName)">Delete</Button>
          </template>
        </Table>
        <div v-else class="empty">
          <strong>There are no short names yet</strong><span>Add the first above; names of your libraries complete themselves.</span>
        </div>
      </div>
    </template>
    <template v-else>
      <div v-if="way === 'parse' && keys.length > 0" class="tools wrap">
        <span v-for="key in keys" :key="key" class="into">
          <label :for="`into-${key}`" class="mute mono">{{ key }}</label>
          <FieldSelect :id="`into-${key}`" v-model:value="into[key]" :options="editable" class="kind" />
        </span>
      </div>
      <div class="tools">
        <ScopeBar />
        <template v-if="way === 'compose'">
          <span role="status"
            ><span class="mono glass">{{ count(good.length) }}</span> names are good,
            <span class="mono" :class="{ bad: composed.length > good.length }">{{ count(composed.length - good.length) }}</span> are not<template
              v-if="shared > 0"
              >, of which <span class="mono bad">{{ count(shared) }}</span> would be the name of several files</template
            >; the longest has <span class="mono">{{ longest }}</span> characters</span
          >
          <Button size="small" :aria-pressed="onlyFaulty" :disabled="composed.length === good.length && !onlyFaulty" @click="onlyFaulty = !onlyFaulty">{{
            onlyFaulty ? 'Show all' : 'Only the faulty'
          }}</Button>
          <span class="push" />
          <Button type="primary" :disabled="good.length === 0 || fault !== ''" @click="plan">Plan {{ things(good.length, 'name') }}</Button>
        </template>
        <template v-else>
          <span role="status"
            ><span class="mono glass">{{ count(readable.length) }}</span> names follow the pattern,
            <span class="mono">{{ count(parsed.length - readable.length) }}</span> do not</span
          >
          <span class="push" />
          <Button type="primary" :disabled="readable.length === 0 || fault !== ''" @click="fill">Fill {{ things(readable.length, 'sound') }}</Button>
        </template>
      </div>
      <QueryLine />
      <VirtualRows :count="way === 'compose' ? listed.length : parsed.length" label="File names before and after" class="rows" @show="() => undefined">
        <template #head>
          <div class="list-row row head" role="row">
            <span role="columnheader">Is called</span><span role="columnheader">{{ way === 'compose' ? 'Would be called' : 'Says' }}</span>
          </div>
        </template>
        <template #default="{ index }">
          <div v-if="way === 'compose' && listed[index]" class="list-row row" role="row" :aria-rowindex="index + 2">
            <bdi role="gridcell" class="cut mute">{{ listed[index].from }}</bdi>
            <span role="gridcell" class="cut"
              ><bdi :class="{ same: listed[index].from === listed[index].to }">{{ listed[index].to }}</bdi>
              <span v-if="listed[index].faults.length > 0" class="bad small">{{ listed[index].faults.join('; ') }}</span></span
            >
          </div>
          <div v-else-if="way === 'parse' && parsed[index]" class="list-row row" role="row" :aria-rowindex="index + 2">
            <bdi role="gridcell" class="cut">{{ parsed[index].name }}</bdi>
            <span role="gridcell" class="cut">
              <template v-if="parsed[index].texts"
                ><span v-for="(text, key) in parsed[index].texts" :key="key" class="said" :class="{ left: !into[key] }"
                  ><span class="mute small">{{ into[key] ? fieldOf(into[key]).label : 'left over' }}</span> <bdi>{{ text }}</bdi></span
                ></template
              >
              <span v-else class="mute">does not follow the pattern</span>
            </span>
          </div>
        </template>
      </VirtualRows>
    </template>
  </div>
</template>

<style scoped>
.wrap {
  flex-wrap: wrap;
}
.pattern {
  flex: 1;
}
.into {
  display: grid;
  font-size: 12px;
}
.kind {
  width: 150px;
}
.full {
  width: 300px;
}
.short {
  padding: 0 16px;
  overflow-y: auto;
}
.short .tools {
  padding-left: 0;
}
.row {
  grid-template-columns: minmax(0, 0.8fr) minmax(0, 1.2fr);
}
.said {
  margin-right: 14px;
}
.said > * + *,
bdi + .bad {
  margin-left: 0.6em;
}
.left,
.same {
  opacity: 0.6;
}
.empty {
  height: 260px;
}
</style>
