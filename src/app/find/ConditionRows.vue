<script setup lang="ts">
import { CloseOutlined, PlusOutlined } from '@ant-design/icons-vue';
import { fieldByQueryName, fields, isNumeric } from '@core/library';
import { canFacet, comparisonsOf, newCondition, valueText, type Comparison, type Condition, type ConditionGroup } from '@core/search';
import { useDebounceFn } from '@vueuse/core';
import { AutoComplete, Button, Input, Select } from 'ant-design-vue';
import { ref } from 'vue';
import { useFind } from '../stores/find';
import { searchAround } from '../stores/view';
import { catalogue } from '../stores/workers';
import { useValueName } from '../shared/list/useValueName';
import FieldSelect from '../shared/controls/FieldSelect.vue';
import { byLabel } from '../shared/controls/fields';

/** Conditions of one group, and the groups inside of it. */
const props = defineProps<{ group: ConditionGroup; depth: number }>();
const emit = defineEmits<{ change: [group: ConditionGroup]; remove: [] }>();

const find = useFind();
const valueName = useValueName();

const ways = [
  { value: 'all', label: 'All of these' },
  { value: 'any', label: 'Any of these' },
  { value: 'none', label: 'None of these' },
  { value: 'not all', label: 'Not all of these' },
];
const way = () => (props.group.not ? (props.group.any ? 'none' : 'not all') : props.group.any ? 'any' : 'all');
const setWay = (to: unknown) => emit('change', { ...props.group, any: to === 'any' || to === 'none', not: to === 'none' || to === 'not all' });
type Part = Condition | ConditionGroup;
const setParts = (parts: Part[]) => emit('change', { ...props.group, parts });
const add = (part: Part) => setParts([...props.group.parts, part]);
const takeOut = (i: number) => setParts(props.group.parts.filter((_, at) => at !== i));
const put = (i: number, part: Part) => setParts(props.group.parts.map((old, at) => (at === i ? part : old)));
const set = (i: number, change: Partial<Condition>) => put(i, { ...(props.group.parts[i] as Condition), ...change });

const anyField = { value: '', label: 'Any field' };
const fieldOptions = [anyField, ...fields.map((f) => ({ value: f.query[0], label: f.label })).sort(byLabel)];
const said: Record<Comparison, string> = {
  has: 'has',
  begins: 'begins with',
  phrase: 'has the phrase',
  contains: 'contains the signs',
  is: 'is',
  under: 'is under',
  upTo: 'is at most',
  over: 'is over',
  from: 'is at least',
  between: 'is between',
};
const fieldOf = (c: Condition) => (c.field === undefined ? undefined : fieldByQueryName(c.field));
const howOptions = (c: Condition) => comparisonsOf(fieldOf(c)).map((how) => ({ value: how, label: said[how] }));
const numeric = (c: Condition) => {
  const field = fieldOf(c);
  return field !== undefined && isNumeric(field);
};
const hint = (c: Condition) => {
  const field = fieldOf(c);
  if (!field || !isNumeric(field)) return 'words';
  return field.type === 'date' ? '2026-03-14' : (field.unit ?? 'number');
};

function setField(i: number, c: Condition, name: unknown): void {
  const field = name === '' ? undefined : fieldByQueryName(String(name));
  const allowed = comparisonsOf(field);
  set(i, { field: field?.query[0], ...(allowed.includes(c.how) ? {} : { how: allowed[0], value: '', to: undefined }) });
}
const setHow = (i: number, c: Condition, how: unknown) => set(i, { how: how as Comparison, to: how === 'between' ? (c.to ?? '') : undefined });

/** What the condition that is being typed may mean. */
const options = ref<{ value: string; label: string }[]>([]);
let newest = 0;
const look = useDebounceFn(async (c: Condition) => {
  const own = ++newest;
  const field = fieldOf(c);
  if (field && !canFacet(field)) return (options.value = []);
  const part = c.value.trim();
  const among = searchAround(find.view);
  const found = field ? (await catalogue.values(among, field.key, part, 12)).values : part.length > 1 ? await catalogue.words(part, 12) : [];
  if (own !== newest) return undefined;
  options.value = found
    .filter((v) => v.value !== '')
    .map((v) => {
      const name = field ? valueName(field.key, v.value) : v.value;
      return { value: field?.type === 'tags' ? name : v.value, label: `${name} (${v.count})` };
    });
  return undefined;
}, 120);

/** A value that was chosen is meant as a whole. */
function choose(i: number, c: Condition, chosen: unknown): void {
  const value = String(chosen);
  set(i, { value, how: c.how === 'has' && valueText(value).startsWith('"') ? 'phrase' : c.how });
}

const name = (c: Condition, i: number) => `condition ${i + 1}${c.field ? `, ${fieldOf(c)?.label}` : ''}`;
</script>

<template>
  <div class="group" role="group" :aria-label="depth === 0 ? 'Conditions of the query' : ways.find((w) => w.value === way())!.label">
    <div class="line">
      <Select class="way" size="small" :value="way()" :options="ways" aria-label="How many of these have to hold" @update:value="setWay" />
      <Button v-if="depth > 0" type="text" size="small" aria-label="Take out this group" @click="emit('remove')">
        <template #icon><CloseOutlined /></template>
      </Button>
    </div>
    <div class="inside">
      <template v-for="(part, i) in group.parts" :key="i">
        <ConditionRows v-if="part.kind === 'group'" :group="part" :depth="depth + 1" @change="put(i, $event)" @remove="takeOut(i)" />
        <div v-else class="line">
          <Button
            size="small"
            class="not"
            :aria-pressed="part.not"
            :class="{ on: part.not }"
            :aria-label="`not, ${name(part, i)}`"
            @click="set(i, { not: !part.not })"
            >not</Button
          >
          <FieldSelect
            class="field"
            :value="part.field ?? ''"
            :options="fieldOptions"
            :aria-label="`Field of ${name(part, i)}`"
            @update:value="setField(i, part, $event)"
          />
          <Select
            class="how"
            size="small"
            :value="part.how"
            :options="howOptions(part)"
            :aria-label="`Comparison of ${name(part, i)}`"
            @update:value="setHow(i, part, $event)"
          />
          <template v-if="numeric(part)">
            <Input
              :value="part.value"
              class="number"
              size="small"
              :placeholder="hint(part)"
              :aria-label="`Value of ${name(part, i)}`"
              @update:value="set(i, { value: $event })"
            />
            <template v-if="part.how === 'between'">
              <span class="mute">and</span>
              <Input
                :value="part.to"
                class="number"
                size="small"
                :placeholder="hint(part)"
                :aria-label="`Upper value of ${name(part, i)}`"
                @update:value="set(i, { to: $event })"
              />
            </template>
          </template>
          <AutoComplete
            v-else
            :value="part.value"
            class="value"
            size="small"
            :options="options"
            :placeholder="hint(part)"
            :aria-label="`Value of ${name(part, i)}`"
            @focus="((options = []), look(part))"
            @search="look({ ...part, value: $event })"
            @update:value="set(i, { value: String($event ?? '') })"
            @select="choose(i, part, $event)"
          />
          <Button type="text" size="small" :aria-label="`Take out ${name(part, i)}`" @click="takeOut(i)">
            <template #icon><CloseOutlined /></template>
          </Button>
        </div>
      </template>
      <div class="line">
        <Button type="link" size="small" @click="add(newCondition())"><PlusOutlined /> Condition</Button>
        <Button type="link" size="small" @click="add({ kind: 'group', not: false, any: !group.any, parts: [newCondition()] })"><PlusOutlined /> Group</Button>
      </div>
    </div>
  </div>
</template>

<style scoped>
.line {
  display: flex;
  align-items: center;
  gap: 6px;
  min-height: 30px;
}
.inside {
  margin-left: 10px;
  padding-left: 12px;
  border-left: 2px solid var(--line);
}
.way {
  width: 150px;
}
.field {
  width: 170px;
}
.how {
  width: 160px;
}
.number {
  width: 110px;
}
.value {
  flex: 1;
  min-width: 120px;
  max-width: 420px;
}
.not {
  padding: 0 7px;
}
.on {
  border-color: var(--coral);
  color: var(--coral);
}
</style>
