<script setup lang="ts">
import type { Change, Field, FieldValue, Sound } from '@core/library';
import { fieldOf, fields, labelChanges, licences, sharedValue, shownNumber, translated, valueFrom } from '@core/library';
import { categoryOf, languageNames, languages } from '@core/suggest';
import { Button, Checkbox, Input, Rate, Select, Tooltip } from 'ant-design-vue';
import { computed, ref, watch } from 'vue';
import { things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useLibrary } from '../stores/library';
import { usePrefs } from '../stores/prefs';
import { catalogue } from '../stores/workers';
import CategoryPicker from './CategoryPicker.vue';

const props = defineProps<{ ids: number[] }>();
const library = useLibrary();
const prefs = usePrefs();
const sounds = ref<Sound[]>([]);
/** Whose sounds are shown; until those of a new selection are there, nothing can be typed over what the old one had. */
const shownIds = ref<number[]>();
/** Text being typed, by field key; kept when the field is left. */
const drafts = ref<Record<string, string>>({});
/** What stands in the field that has the focus: a change made elsewhere does not move the text under the hands. */
const standing = ref<{ key: string; text: string }>();
/** Fields beyond the usual ones that were opened here: all of them, or languages. */
const opened = ref<string[]>([]);
const all = ref(false);

/** What nearly every sound is given; the rest stands behind a button. */
const usual = ['fxName', 'catId', 'description', 'keywords', 'tags', 'stars', 'notes', 'licence', 'library'];
const edited = computed(() => {
  const own = fields.filter((f) => f.edited);
  const carried = sounds.value.flatMap((s) => Object.keys(s.fields).filter((k) => k.includes('@')));
  const more = [...new Set([...carried, ...opened.value])].map(fieldOf);
  const first = usual.map(fieldOf);
  return [...first, ...more, ...(all.value ? own.filter((f) => !usual.includes(f.key)) : [])];
});

watch(
  () => [props.ids, library.revision] as const,
  async ([ids]) => {
    const rows = await library.need(ids);
    if (ids !== props.ids) return;
    const others = shownIds.value?.join() !== ids.join();
    sounds.value = rows;
    shownIds.value = ids;
    if (standing.value && others) enter(fieldOf(standing.value.key));
  },
  { immediate: true },
);
watch(
  () => props.ids.join(),
  () => {
    drafts.value = {};
    standing.value = undefined;
  },
);
const ready = computed(() => shownIds.value?.join() === props.ids.join());

const shared = computed(() => Object.fromEntries(edited.value.map((f) => [f.key, sharedValue(sounds.value, f.key)])));
const value = (f: Field): FieldValue | undefined => {
  const s = shared.value[f.key];
  return s?.same ? s.value : undefined;
};
const text = (f: Field): string | undefined => (value(f) === undefined ? undefined : String(value(f)));
const written = (f: Field) => String(value(f) ?? '');
const inField = (f: Field) => drafts.value[f.key] ?? (standing.value?.key === f.key ? standing.value.text : written(f));
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
  const changes = labelChanges(rows, f.key, next, (catId) => categoryOf(catId), prefs.keepVendor);
  await library.edit(`Edit ${f.label.toLowerCase()} of ${things(changes.length, 'sound')}`, [...more, ...changes]);
}

function leave(f: Field): void {
  const draft = drafts.value[f.key];
  if (draft === undefined) return;
  const { [f.key]: _, ...rest } = drafts.value;
  drafts.value = rest;
  const before = written(f);
  const typed = draft.trim();
  const read = valueFrom(f, typed);
  const fault = 'fault' in read && typed !== before ? read.fault : '';
  if (standing.value) standing.value.text = fault ? before : typed;
  if (fault) tell.error(`${f.label} stays as it was: ${fault}`);
  else if (typed !== before && 'value' in read) void set(f, read.value);
}

function enter(f: Field): void {
  standing.value = { key: f.key, text: written(f) };
}

function blur(f: Field): void {
  leave(f);
  standing.value = undefined;
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

const licenceOptions = licences.map((l) => ({ value: l.code, label: l.code }));
const kindOptions = ['Loop', 'Single', 'Several', 'Bed'].map((value) => ({ value }));
/** Tags that most sounds have come first. */
const tagCounts = ref(new Map<number, number>());
watch(
  () => library.revision,
  async () => (tagCounts.value = new Map(await catalogue.tagCounts())),
  { immediate: true },
);
const tagOptions = computed(() =>
  [...library.tags]
    .sort((a, b) => (tagCounts.value.get(b.id) ?? 0) - (tagCounts.value.get(a.id) ?? 0))
    .map((t) => ({ value: t.name, label: t.name, count: tagCounts.value.get(t.id) ?? 0 })),
);
const newLanguage = ref<string>();
function addLanguage(code: string): void {
  opened.value = [...new Set([...opened.value, ...translated.map((key) => `${key}@${code}`)])];
  newLanguage.value = undefined;
}
const languageOptions = languages.filter((l) => l !== 'en').map((l) => ({ value: l, label: `${languageNames[l]} (${l})` }));
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
          <label :for="`f-${f.key}`" :title="origin(f)">{{ f.heading ?? f.label }}</label>
          <span v-if="differs(f)" class="differs">{{ differs(f) }}</span>
        </div>
        <CategoryPicker v-if="f.key === 'catId'" :id="`f-${f.key}`" :value="text(f)" :placeholder="hint(f)" @choose="(catId) => set(f, catId)" />
        <Select
          v-else-if="f.type === 'choice'"
          :id="`f-${f.key}`"
          allow-clear
          :value="text(f)"
          :placeholder="hint(f)"
          :options="f.key === 'licence' ? licenceOptions : kindOptions"
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
        >
          <template #option="{ value: tag, count: n }">
            <div class="tag">
              <bdi>{{ tag }}</bdi><span v-if="n" class="mono mute">{{ n }}</span>
            </div>
          </template>
        </Select>
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
          :value="inField(f)"
          :readonly="!ready"
          :placeholder="hint(f)"
          :auto-size="{ minRows: 2, maxRows: 7 }"
          @update:value="(t: string) => (drafts = { ...drafts, [f.key]: t })"
          @focus="enter(f)"
          @blur="blur(f)"
        />
        <Input
          v-else
          :id="`f-${f.key}`"
          :value="inField(f)"
          :readonly="!ready"
          :placeholder="hint(f)"
          @update:value="(t: string) => (drafts = { ...drafts, [f.key]: t })"
          @focus="enter(f)"
          @blur="blur(f)"
          @press-enter="leave(f)"
        />
      </div>
      <div class="more">
        <Button size="small" :aria-expanded="all" @click="all = !all">{{ all ? 'Usual fields only' : 'All fields' }}</Button>
        <Select
          v-model:value="newLanguage"
          size="small"
          :options="languageOptions"
          placeholder="Add a language"
          aria-label="Add a language"
          class="language"
          @select="(l: unknown) => addLanguage(String(l))"
        />
      </div>
      <Checkbox v-model:checked="prefs.keepVendor" class="small">Keep an old category in VendorCategory</Checkbox>
      <RouterLink
        v-if="sounds.length === 1"
        class="small history"
        :to="{ name: 'label', params: { part: 'safety' }, query: { ...$route.query, sound: String(sounds[0].id) } }"
        >History of this sound</RouterLink
      >
      <dl v-if="sounds.length === 1" class="facts">
        <template
          v-for="f in fields.filter((x) => !x.edited && sounds[0].fields[x.key] !== undefined && x.type !== 'date' && x.key !== 'takeGroup')"
          :key="f.key"
        >
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
.tag,
.more {
  display: flex;
  justify-content: space-between;
  gap: 8px;
}
.more {
  margin: 14px 0 8px;
}
.language {
  width: 150px;
}
.small {
  font-size: 12px;
}
.history {
  display: block;
  margin-top: 8px;
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
