<script setup lang="ts">
import { parseQuery, withoutClause } from '@core/search';
import { CloseOutlined } from '@ant-design/icons-vue';
import { Alert, Button, Input, Tooltip } from 'ant-design-vue';
import { computed, nextTick, ref, useTemplateRef } from 'vue';
import { useCommands, withKey } from '../shared/controls/commands';
import { count } from '../shared/controls/format';
import { useFind } from '../stores/find';
import ConditionBuilder from './ConditionBuilder.vue';
import TrailLine from './TrailLine.vue';
import { useCompletion, type Completion } from './useCompletion';

const find = useFind();
const input = ref<{ focus: (o?: { cursor: 'all' }) => void; blur: () => void }>();
const focused = ref(false);
/** Whether the query stands below as a form. */
const building = ref(false);
const field = useTemplateRef('field');
const element = () => field.value?.querySelector('input');
const { completions, begun, look, close } = useCompletion();

const told = computed(() => {
  const { count: found, took } = find.answer;
  return `${count(found)} in ${took < 1 ? 'under 1' : Math.round(took)} ms`;
});
const fault = computed(() => find.answer.faults[0]);
/** The query with what is wrong in it marked. */
const marked = computed(() => {
  const { at, length } = fault.value ?? { at: 0, length: 0 };
  const { text } = find.view;
  return [text.slice(0, at), text.slice(at, at + length) || ' ', text.slice(at + length)];
});
/** While nobody types, each clause is a thing of its own; a faulty text stays as it was typed. */
const chips = computed(() => {
  const { text } = find.view;
  if (focused.value || text.length > 400) return [];
  const { clauses, faults } = parseQuery(`${text} `);
  return faults.length > 0 ? [] : clauses.map((c) => ({ ...c, text: text.slice(c.at, c.at + c.length) }));
});

function caret(): number {
  return element()?.selectionStart ?? find.view.text.length;
}
function type(text: string): void {
  find.drift({ text });
  void nextTick(() => look(text, caret()));
}
async function edit(chip: { at: number; length: number }): Promise<void> {
  input.value?.focus();
  await nextTick();
  element()?.setSelectionRange(chip.at, chip.at + chip.length);
}
const remove = (chip: { at: number; length: number }) => find.go({ text: withoutClause(find.view.text, chip) });

async function take(completion: Completion): Promise<void> {
  const at = begun.value;
  if (!at) return;
  const { text } = find.view;
  const next = text.slice(0, at.from) + completion.text + text.slice(at.to);
  const to = at.from + completion.text.length;
  find.drift({ text: next });
  close();
  await nextTick();
  element()?.focus();
  element()?.setSelectionRange(to, to);
  look(next, to);
}

/** What comes next is the query that looks inside. */
async function narrow(): Promise<void> {
  find.narrow();
  await nextTick();
  input.value?.focus();
}

function key(event: KeyboardEvent): void {
  const nth = event.altKey ? Number(event.code.replace('Digit', '')) : NaN;
  if (event.key === 'Tab' && !event.shiftKey && completions.value.length > 0) void take(completions.value[0]);
  else if (nth >= 1 && nth <= completions.value.length) void take(completions.value[nth - 1]);
  else if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) void narrow();
  else if (event.key === 'Backspace' && find.view.text === '' && find.view.trail.length > 0) find.stepOut();
  else return;
  event.preventDefault();
  event.stopPropagation();
}
function leave(): void {
  focused.value = false;
  close();
}

const veryWords = 'Exact words only';
const toggleExact = () => find.go({ exact: find.view.exact ? undefined : true });

useCommands('Finding', [
  { label: veryWords, keys: ['Shift+w'], run: toggleExact, enabled: () => find.view.text.trim() !== '' },
  { label: 'The query as conditions', keys: ['Alt+c'], run: () => (building.value = !building.value), inText: true },
  { label: 'Go to the query', keys: ['/'], run: () => input.value?.focus({ cursor: 'all' }) },
  { label: 'Look inside these results', keys: ['Ctrl+Enter'], run: () => void narrow(), enabled: () => find.narrowed && find.answer.count > 0 },
  { label: 'Step back out', keys: ['Ctrl+Backspace'], run: () => find.stepOut(), enabled: () => find.view.trail.length > 0 },
]);
</script>

<template>
  <div class="query">
    <slot name="before" />
    <div ref="field" class="field" :class="{ covered: chips.length > 0 }">
      <Input
        ref="input"
        :value="find.view.text"
        size="large"
        placeholder="Words, “phrases”, creak*, length:<2s, licence:cc0, -door"
        aria-label="Query"
        aria-describedby="query-completions"
        spellcheck="false"
        autocomplete="off"
        @update:value="type"
        @focus="focused = true"
        @blur="leave"
        @click="look(find.view.text, caret())"
        @press-enter="input?.blur()"
        @keydown="key"
        @keydown.esc="find.view.text ? find.drift({ text: '' }) : input?.blur()"
      >
        <template #suffix
          ><span class="mono mute told" role="status" :aria-busy="find.busy">{{ told }}</span></template
        >
      </Input>
      <ul v-if="chips.length > 0" class="chips" aria-label="Clauses of the query">
        <template v-for="chip in chips" :key="chip.at">
          <li v-if="chip.or" class="mute or">or</li>
          <li class="chip">
            <button class="mono cut" :title="`Edit ${chip.text}`" @click="edit(chip)">{{ chip.text }}</button>
            <button class="off" :aria-label="`Take out ${chip.text}`" @click="remove(chip)"><CloseOutlined /></button>
          </li>
        </template>
      </ul>
    </div>
    <slot />
    <Tooltip v-if="find.narrowed" title="Back to the whole list">
      <Button size="large" @click="find.widen()">Show all</Button>
    </Tooltip>
  </div>
  <ConditionBuilder v-if="building" />
  <div class="under">
    <div v-if="focused && completions.length > 0" id="query-completions" class="completions" role="group" aria-label="Completions">
      <button v-for="(c, i) in completions" :key="c.text" tabindex="-1" class="completion" :title="c.title" @pointerdown.prevent @click="take(c)">
        <kbd>{{ i === 0 ? 'Tab' : `Alt ${i + 1}` }}</kbd>{{ c.shown }}<span v-if="c.count !== undefined" class="mono mute">{{ count(c.count) }}</span>
      </button>
    </div>
    <TrailLine v-else @narrow="narrow" />
    <span class="push" />
    <Tooltip :title="withKey('The query as a form of conditions', 'The query as conditions')">
      <Button size="small" aria-label="The query as conditions" :aria-expanded="building" :class="{ on: building }" @click="building = !building"
        >Conditions</Button
      >
    </Tooltip>
    <slot name="more" />
    <Tooltip
      v-if="find.view.exact || find.answer.bands.length > 0"
      :title="withKey('Leaves out other forms, what is close in meaning and what lacks a word', veryWords)"
    >
      <Button size="small" :aria-pressed="find.view.exact === true" :class="{ on: find.view.exact }" @click="toggleExact">{{ veryWords }}</Button>
    </Tooltip>
  </div>
  <Alert v-if="fault" class="fault" type="warning" banner :show-icon="false">
    <template #message>
      <span class="mono"
        >{{ marked[0] }}<mark>{{ marked[1] }}</mark
        >{{ marked[2] }}</span
      >
      <span class="why">{{ fault.message }} The rest is searched.</span>
    </template>
  </Alert>
</template>

<style scoped>
.query {
  display: flex;
  gap: 8px;
  padding: 12px 12px 4px;
}
.field {
  position: relative;
  flex: 1;
  min-width: 0;
}
.told {
  font-size: 12px;
}
.covered :deep(input) {
  color: transparent;
}
.chips {
  position: absolute;
  z-index: 2;
  inset: 0 150px 0 8px;
  display: flex;
  align-items: center;
  gap: 5px;
  margin: 0;
  padding: 0;
  overflow: hidden;
  list-style: none;
  pointer-events: none;
}
.chip {
  display: flex;
  flex: 0 1 auto;
  min-width: 40px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--raft2);
  pointer-events: auto;
}
.chip button {
  padding: 2px 3px 2px 8px;
  border: 0;
  background: none;
  color: var(--text);
  cursor: pointer;
}
.chip .off {
  padding: 0 6px 0 2px;
  color: var(--mute);
  font-size: 12px;
}
.or {
  font-size: 12px;
}
.under {
  display: flex;
  align-items: center;
  gap: 6px;
  min-height: 28px;
  padding: 0 12px 4px;
  overflow: hidden;
}
.push {
  margin-left: auto;
}
.under > :deep(.ant-btn) {
  flex: none;
}
.on {
  border-color: var(--glass);
  color: var(--glass);
}
.completions {
  display: flex;
  gap: 4px;
  overflow: hidden;
}
.completion {
  display: flex;
  align-items: baseline;
  gap: 6px;
  flex: none;
  padding: 1px 7px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: none;
  font-size: 12.5px;
  cursor: pointer;
}
.completion:hover {
  background: var(--raft2);
}
.completion kbd {
  color: var(--mute);
  font-family: inherit;
  font-size: 12px;
}
.fault {
  margin: 0 12px 8px;
  padding: 4px 10px;
  border-radius: 6px;
  font-size: 12.5px;
}
.why {
  margin-left: 14px;
}
mark {
  background: none;
  color: var(--coral);
  text-decoration: underline wavy;
}
</style>
