<script setup lang="ts">
import type { Condition, Step } from '@core/naming';
import { Button, Checkbox, Input, InputNumber, Select, Switch } from 'ant-design-vue';
import { computed } from 'vue';
import FieldSelect from '../shared/controls/FieldSelect.vue';
import { fieldOptions, foreign, writable } from '../shared/controls/fields';
import { lineOf, type Control } from './step-layouts';
import { sentenceOf, testOptions } from './steps';

/** One step of a recipe, as a line of words with its controls between them. */
const props = defineProps<{ step: Step; place: number; fault?: string }>();
const emit = defineEmits<{ change: [step: Step]; remove: []; move: [by: number] }>();

const written = [...writable, ...foreign];
const all = [...fieldOptions(), ...foreign];

const set = (part: Record<string, unknown>) => emit('change', { ...props.step, ...part } as Step);
const valueOf = ({ part, get }: Control) => {
  const value = (props.step as unknown as Record<string, unknown>)[part];
  return (get ? get(value) : value) as never;
};
const put = ({ part, set: to }: Control, value: unknown) => set({ [part]: to ? to(value) : value });
const when = computed(() => props.step.when);
function setWhen(part: Partial<Condition> | undefined): void {
  if (!part) {
    const { when: _, ...rest } = props.step;
    return emit('change', rest as Step);
  }
  set({ when: { field: 'fxName', test: 'contains', value: '', ...when.value, ...part } });
}
const text = (e: { target: { value?: string } }) => e.target.value ?? '';
const label = (what: string) => `Step ${props.place}: ${what}`;
const optionsOf = (c: Control) => (c.as === 'choice' ? c.options : c.as === 'any' || c.as === 'anyFields' ? all : written) as never;
const classOf: Partial<Record<Control['as'], string>> = { choice: 'small', fields: 'many', anyFields: 'many' };
</script>

<template>
  <li class="step" :class="{ off: !step.on, faulty: fault }" :aria-label="`Step ${place}: ${sentenceOf(step)}`">
    <span class="handle mono mute" title="Drag to another place">{{ place }}</span>
    <Switch size="small" :checked="step.on" :aria-label="label('on')" @change="(on: unknown) => set({ on: Boolean(on) })" />
    <div class="words">
      <template v-for="(c, i) in lineOf(step)" :key="i">
        <template v-if="typeof c === 'string'">{{ c }}</template>
        <Checkbox v-else-if="c.as === 'flag'" :checked="valueOf(c)" @change="put(c, !valueOf(c))">{{ c.label }}</Checkbox>
        <Input
          v-else-if="c.as === 'text' || c.as === 'short'"
          size="small"
          :class="[c.as, { mono: c.mono }]"
          :value="valueOf(c)"
          :placeholder="c.hint"
          :aria-label="label(c.label)"
          @change="(e) => put(c, text(e))"
        />
        <InputNumber
          v-else-if="c.as === 'number'"
          size="small"
          class="number"
          :min="c.min"
          :max="c.max"
          :precision="0"
          :value="valueOf(c)"
          :aria-label="label(c.label)"
          @change="(n: unknown) => n !== null && put(c, Number(n))"
        />
        <FieldSelect
          v-else
          :class="classOf[c.as] ?? 'field'"
          :mode="c.as === 'fields' || c.as === 'anyFields' ? 'multiple' : undefined"
          :show-search="c.as !== 'choice'"
          :value="valueOf(c)"
          :options="optionsOf(c)"
          :aria-label="label(c.label)"
          @change="(v: unknown) => put(c, v)"
        />
      </template>
      <template v-if="when">
        where
        <FieldSelect
          class="field"
          :value="when.field"
          :options="all"
          :aria-label="label('condition field')"
          @change="(v: unknown) => setWhen({ field: String(v) })"
        />
        <Select
          size="small"
          class="small"
          :value="when.test"
          :options="testOptions"
          :aria-label="label('condition')"
          @change="(v: unknown) => setWhen({ test: v as Condition['test'] })"
        />
        <Input
          v-if="when.test !== 'filled' && when.test !== 'empty'"
          size="small"
          class="short"
          :value="when.value"
          :aria-label="label('condition value')"
          @change="(e) => setWhen({ value: text(e) })"
        />
        <Button size="small" type="text" :aria-label="label('drop the condition')" @click="setWhen(undefined)">×</Button>
      </template>
      <Button v-else size="small" type="text" class="mute" @click="setWhen({})">where…</Button>
      <div v-if="fault" class="fault" role="alert">{{ fault }}</div>
    </div>
    <Button size="small" type="text" :aria-label="label('move up')" @click="emit('move', -1)">↑</Button>
    <Button size="small" type="text" :aria-label="label('move down')" @click="emit('move', 1)">↓</Button>
    <Button size="small" type="text" :aria-label="label('take out')" @click="emit('remove')">×</Button>
  </li>
</template>

<style scoped>
.step {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 5px 8px;
  border-bottom: 1px solid var(--line);
}
.off .words {
  opacity: 0.5;
}
.faulty {
  box-shadow: inset 3px 0 var(--coral);
}
.handle {
  width: 20px;
  cursor: grab;
  text-align: right;
}
.words {
  display: flex;
  flex: 1;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  font-size: 13px;
}
.field {
  width: 132px;
}
.small {
  width: 104px;
}
.many {
  min-width: 180px;
}
.text {
  width: 150px;
}
.short {
  width: 60px;
}
.number {
  width: 58px;
}
.fault {
  flex-basis: 100%;
  color: var(--coral);
  font-size: 12px;
}
</style>
