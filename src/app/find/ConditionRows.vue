<script setup lang="ts">
import { CloseOutlined, PlusOutlined } from '@ant-design/icons-vue';
import { fieldByQueryName, fields, isNumeric } from '@core/library';
import { canFacet, comparisonsOf, newCondition, valueText, type Comparison, type Condition, type ConditionGroup } from '@core/search';
import { useDebounceFn } from '@vueuse/core';
import { AutoComplete, Button, Input, Select } from 'ant-design-vue';
import { ref } from 'vue';
import { useFind } from '../stores/find';
import { searchOf, wide } from '../stores/view';
import { catalogue } from '../stores/workers';
import { useValueName } from './useValueName';

/** Conditions of one group, and the groups inside of it. */
const props = defineProps<{ group: ConditionGroup; depth: number }>();
defineEmits<{ remove: [] }>();

const find = useFind();
const valueName = useValueName();

const ways = [
  { value: 'all', label: 'All of these' },
  { value: 'any', label: 'Any of these' },
  { value: 'none', label: 'None of these' },
  { value: 'not all', label: 'Not all of these' },
];
const way = () => (props.group.not ? (props.group.any ? 'none' : 'not all') : props.group.any ? 'any' : 'all');
/** The form holds its groups in common: each level changes its own. */
function setWay(to: unknown): void {
  Object.assign(props.group, { any: to === 'any' || to === 'none', not: to === 'none' || to === 'not all' });
}

const anyField = { value: '', label: 'Any field' };
const fieldOptions = [anyField, ...fields.map((f) => ({ value: f.query[0], label: f.label })).sort((a, b) => a.label.localeCompare(b.label))];
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

function setField(c: Condition, name: unknown): void {
  const field = name === '' ? undefined : fieldByQueryName(String(name));
  c.field = field?.query[0];
  const allowed = comparisonsOf(field);
  if (allowed.includes(c.how)) return;
  Object.assign(c, { how: allowed[0], value: '', to: undefined });
}
function setHow(c: Condition, how: unknown): void {
  c.how = how as Comparison;
  c.to = how === 'between' ? (c.to ?? '') : undefined;
}

/** What the condition that is being typed may mean. */
const options = ref<{ value: string; label: string }[]>([]);
let turn = 0;
const look = useDebounceFn(async (c: Condition) => {
  const own = ++turn;
  const field = fieldOf(c);
  if (field && !canFacet(field)) return (options.value = []);
  const part = c.value.trim();
  const among = { ...searchOf({ ...wide(), pullId: find.view.pullId }), inside: find.view.trail.map(searchOf) };
  const found = field ? (await catalogue.values(among, field.key, part, 12)).values : part.length > 1 ? await catalogue.words(part, 12) : [];
  if (own !== turn) return undefined;
  options.value = found
    .filter((v) => v.value !== '')
    .map((v) => {
      const name = field ? valueName(field.key, v.value) : v.value;
      return { value: field?.type === 'tags' ? name : v.value, label: `${name} (${v.count})` };
    });
  return undefined;
}, 120);

/** A value that was chosen is meant as a whole. */
function choose(c: Condition, value: unknown): void {
  c.value = String(value);
  if (c.how === 'has' && valueText(c.value).startsWith('"')) c.how = 'phrase';
}

const name = (c: Condition, i: number) => `condition ${i + 1}${c.field ? `, ${fieldOf(c)?.label}` : ''}`;
</script>

<template>
  <div class="group" role="group" :aria-label="depth === 0 ? 'Conditions of the query' : ways.find((w) => w.value === way())!.label">
    <div class="line">
      <Select class="way" size="small" :value="way()" :options="ways" aria-label="How many of these have to hold" @update:value="setWay" />
      <Button v-if="depth > 0" type="text" size="small" aria-label="Take out this group" @click="$emit('remove')">
        <template #icon><CloseOutlined /></template>
      </Button>
    </div>
    <div class="inside">
      <template v-for="(part, i) in group.parts" :key="i">
        <ConditionRows v-if="part.kind === 'group'" :group="part" :depth="depth + 1" @remove="group.parts.splice(i, 1)" />
        <div v-else class="line">
          <Button
            size="small"
            class="not"
            :aria-pressed="part.not"
            :class="{ on: part.not }"
            :aria-label="`Leave out, ${name(part, i)}`"
            @click="part.not = !part.not"
            >not</Button
          >
          <Select
            class="field"
            size="small"
            show-search
            option-filter-prop="label"
            :value="part.field ?? ''"
            :options="fieldOptions"
            :aria-label="`Field of ${name(part, i)}`"
            @update:value="setField(part, $event)"
          />
          <Select
            class="how"
            size="small"
            :value="part.how"
            :options="howOptions(part)"
            :aria-label="`Comparison of ${name(part, i)}`"
            @update:value="setHow(part, $event)"
          />
          <template v-if="numeric(part)">
            <Input v-model:value="part.value" class="number" size="small" :placeholder="hint(part)" :aria-label="`Value of ${name(part, i)}`" />
            <template v-if="part.how === 'between'">
              <span class="mute">and</span>
              <Input v-model:value="part.to" class="number" size="small" :placeholder="hint(part)" :aria-label="`Upper value of ${name(part, i)}`" />
            </template>
          </template>
          <AutoComplete
            v-else
            v-model:value="part.value"
            class="value"
            size="small"
            :options="options"
            :placeholder="hint(part)"
            :aria-label="`Value of ${name(part, i)}`"
            @focus="((options = []), look(part))"
            @search="look(part)"
            @select="choose(part, $event)"
          />
          <Button type="text" size="small" :aria-label="`Take out ${name(part, i)}`" @click="group.parts.splice(i, 1)">
            <template #icon><CloseOutlined /></template>
          </Button>
        </div>
      </template>
      <div class="line">
        <Button type="link" size="small" @click="group.parts.push(newCondition())"><PlusOutlined /> Condition</Button>
        <Button type="link" size="small" @click="group.parts.push({ kind: 'group', not: false, any: !group.any, parts: [newCondition()] })"
          ><PlusOutlined /> Group</Button
        >
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
