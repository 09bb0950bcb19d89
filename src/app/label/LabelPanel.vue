<script setup lang="ts">
import type { Change, Field, FieldValue, Sound } from '@core/library';
import { fields, labelChanges, licences, sharedValue, shownNumber } from '@core/library';
import { categories, categoryOf, findCategories } from '@core/suggest';
import { Button, Input, Rate, Select, Tooltip } from 'ant-design-vue';
import { computed, ref, watch } from 'vue';
import { things } from '../shared/format';
import { tell } from '../shell/notice';
import { useLibrary } from '../stores/library';
import { catalogue } from '../stores/workers';

const props = defineProps<{ ids: number[] }>();
const library = useLibrary();
const sounds = ref<Sound[]>([]);
/** Text being typed, by field key; kept when the field is left. */
const drafts = ref<Record<string, string>>({});
const catQuery = ref('');

const edited = fields.filter((f) => f.edited);

watch(
  () => [props.ids, library.revision] as const,
  async ([ids]) => {
    const rows = await library.need(ids);
    if (ids === props.ids) sounds.value = rows;
  },
  { immediate: true },
);
watch(
  () => props.ids.join(),
  () => (drafts.value = {}),
);

const shared = computed(() => Object.fromEntries(edited.map((f) => [f.key, sharedValue(sounds.value, f.key)])));
const value = (f: Field): FieldValue | undefined => {
  const s = shared.value[f.key];
  return s?.same ? s.value : undefined;
};
const text = (f: Field): string | undefined => (value(f) === undefined ? undefined : String(value(f)));
const differs = (f: Field) => {
  const s = shared.value[f.key];
  return s && !s.same ? `${s.count} different values` : '';
};
const hint = (f: Field) => differs(f) || (f.type === 'tags' ? 'Type a tag, Enter adds it' : f.type === 'list' ? 'Type a word, Enter adds it' : 'None');
const origin = (f: Field) => {
  const from = new Set(sounds.value.map((s) => s.from[f.key]).filter(Boolean));
  return from.size === 0 ? 'No value' : `From ${[...from].join(', ')}`;
};

async function set(f: Field, next: FieldValue | undefined, more: Change[] = []): Promise<void> {
  const rows = await library.need(props.ids);
  const changes = labelChanges(rows, f.key, next, (catId) => categoryOf(catId));
  await library.edit(`Edit ${f.label.toLowerCase()} of ${things(changes.length, 'sound')}`, [...more, ...changes]);
}

function leave(f: Field): void {
  const draft = drafts.value[f.key];
  if (draft === undefined) return;
  const { [f.key]: _, ...rest } = drafts.value;
  drafts.value = rest;
  const typed = draft.trim();
  if (typed === String(value(f) ?? '')) return;
  if (f.type !== 'number') return void set(f, typed);
  const number = Number(typed.replace(',', '.'));
  if (Number.isFinite(number) && number >= 0) void set(f, typed === '' ? undefined : number);
  else tell.error(`“${typed}” is no number; ${f.label} stays as it was`);
}

/** Gives tags their ids; a word that is no tag yet becomes one in the same edit. */
async function setTags(f: Field, names: string[]): Promise<void> {
  const known = new Map(library.tags.map((t) => [t.name.toLowerCase(), t.id]));
  const fresh = names.map((n) => n.trim()).filter((n) => n && !known.has(n.toLowerCase()));
  const ids = await catalogue.newIds('tags', fresh.length);
  const made = fresh.map((name, i): Change => {
    known.set(name.toLowerCase(), ids[i]);
    return { table: 'tags', id: ids[i], after: { id: ids[i], name } };
  });
  await set(
    f,
    names.flatMap((n) => known.get(n.trim().toLowerCase()) ?? []),
    made,
  );
}

const tagName = computed(() => new Map(library.tags.map((t) => [t.id, t.name])));
const listed = (f: Field): string[] => {
  const v = value(f);
  if (!Array.isArray(v)) return [];
  return f.type === 'tags' ? (v as number[]).map((id) => tagName.value.get(id) ?? '') : [...(v as string[])];
};

const found = computed(() =>
  (catQuery.value ? findCategories(catQuery.value) : categories).map((c) => ({
    value: c.catId,
    label: `${c.category}, ${c.subCategory}`.toLowerCase(),
    catId: c.catId,
    explanation: c.explanation,
  })),
);
const licenceOptions = licences.map((l) => ({ value: l.code, label: l.code }));
const tagOptions = computed(() => library.tags.map((t) => ({ value: t.name })));
</script>

<template>
  <aside class="panel" aria-label="Labels">
    <div v-if="sounds.length === 0" class="empty">
      <strong>Nothing is selected</strong>
      <span>Click a row; Shift and Ctrl take several. What you edit here goes to all of them.</span>
    </div>
    <template v-else>
      <h2>{{ sounds.length === 1 ? 'Labels of one sound' : `Labels of ${things(sounds.length, 'sound')}` }}</h2>
      <div v-for="f in edited" :key="f.key" class="field">
        <div class="head">
          <label :for="`f-${f.key}`" :title="origin(f)">{{ f.label }}</label>
          <span v-if="differs(f)" class="differs">{{ differs(f) }}</span>
        </div>
        <Select
          v-if="f.key === 'catId'"
          :id="`f-${f.key}`"
          show-search
          allow-clear
          :value="text(f)"
          :placeholder="hint(f)"
          :options="found"
          :filter-option="false"
          option-label-prop="label"
          class="wide"
          @search="(text: string) => (catQuery = text)"
          @change="(v: unknown) => set(f, v ? String(v) : undefined)"
        >
          <template #option="{ label, catId, explanation }">
            <div class="category">
              <span>{{ label }}</span><span class="mono mute">{{ catId }}</span>
            </div>
            <div class="mute explain">{{ explanation }}</div>
          </template>
        </Select>
        <Select
          v-else-if="f.type === 'choice'"
          :id="`f-${f.key}`"
          allow-clear
          :value="text(f)"
          :placeholder="hint(f)"
          :options="licenceOptions"
          class="wide"
          @change="(v: unknown) => set(f, v ? String(v) : undefined)"
        />
        <Select
          v-else-if="f.type === 'tags'"
          :id="`f-${f.key}`"
          mode="tags"
          :value="listed(f)"
          :options="tagOptions"
          :placeholder="hint(f)"
          class="wide"
          @change="(v: unknown) => setTags(f, v as string[])"
        />
        <Select
          v-else-if="f.type === 'list'"
          :id="`f-${f.key}`"
          mode="tags"
          :value="listed(f)"
          :open="false"
          :placeholder="hint(f)"
          class="wide"
          @change="(v: unknown) => set(f, v as string[])"
        />
        <div v-else-if="f.type === 'stars'" class="stars">
          <Rate :id="`f-${f.key}`" :value="Number(value(f) ?? 0)" aria-label="Stars" @change="(n: number) => set(f, n)" />
          <Tooltip title="No stars"><Button v-if="value(f)" type="text" size="small" @click="set(f, 0)">Clear</Button></Tooltip>
        </div>
        <Input.TextArea
          v-else-if="f.type === 'longtext'"
          :id="`f-${f.key}`"
          :value="drafts[f.key] ?? String(value(f) ?? '')"
          :placeholder="hint(f)"
          :auto-size="{ minRows: 2, maxRows: 7 }"
          @update:value="(t: string) => (drafts = { ...drafts, [f.key]: t })"
          @blur="leave(f)"
        />
        <Input
          v-else
          :id="`f-${f.key}`"
          :value="drafts[f.key] ?? String(value(f) ?? '')"
          :placeholder="hint(f)"
          @update:value="(t: string) => (drafts = { ...drafts, [f.key]: t })"
          @blur="leave(f)"
          @press-enter="leave(f)"
        />
      </div>
      <dl v-if="sounds.length === 1" class="facts">
        <template v-for="f in fields.filter((x) => !x.edited && sounds[0].fields[x.key] !== undefined && x.type !== 'date' && x.key !== 'stem')" :key="f.key">
          <dt>{{ f.label }}</dt>
          <dd class="cut" :title="`${String(sounds[0].fields[f.key])} (from ${sounds[0].from[f.key]})`">
            {{ typeof sounds[0].fields[f.key] === 'number' ? shownNumber(f, sounds[0].fields[f.key] as number) : sounds[0].fields[f.key] }}
          </dd>
        </template>
      </dl>
    </template>
  </aside>
</template>

<style scoped>
.panel {
  padding: 16px 14px;
  overflow-y: auto;
  background: var(--deep);
}
.field {
  margin-top: 12px;
}
.head {
  display: flex;
  justify-content: space-between;
  margin-bottom: 3px;
  font-size: 12px;
  color: var(--mute);
}
.differs {
  color: var(--amber);
}
.wide {
  width: 100%;
}
.category {
  display: flex;
  justify-content: space-between;
}
.explain {
  font-size: 12px;
  white-space: normal;
}
.stars {
  display: flex;
  align-items: center;
}
.facts {
  display: grid;
  grid-template-columns: 110px minmax(0, 1fr);
  gap: 4px 8px;
  margin: 20px 0 0;
  padding-top: 12px;
  border-top: 1px solid var(--line);
  font-size: 12.5px;
}
dt {
  color: var(--mute);
}
dd {
  margin: 0;
}
</style>
