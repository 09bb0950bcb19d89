<script setup lang="ts">
import { Alert, Button, Input, Tooltip } from 'ant-design-vue';
import { computed, ref } from 'vue';
import { useCommands } from '../shared/commands';
import { count } from '../shared/format';
import { useFind } from '../stores/find';

const find = useFind();
const input = ref<{ focus: (o?: { cursor: 'all' }) => void; blur: () => void }>();

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

useCommands([{ label: 'Go to the query', keys: ['/'], run: () => input.value?.focus({ cursor: 'all' }) }]);
</script>

<template>
  <div class="query">
    <Input
      ref="input"
      :value="find.view.text"
      size="large"
      placeholder="Words, “phrases”, creak*, length:<2s, licence:cc0, -door"
      aria-label="Query"
      spellcheck="false"
      autocomplete="off"
      @update:value="(text: string) => find.drift({ text })"
      @press-enter="input?.blur()"
      @keydown.esc="find.view.text ? find.drift({ text: '' }) : input?.blur()"
    >
      <template #suffix
        ><span class="mono mute told" role="status">{{ told }}</span></template
      >
    </Input>
    <Tooltip v-if="find.narrowed" title="Back to the whole list">
      <Button size="large" @click="find.widen()">Show all</Button>
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
  gap: 10px;
  padding: 12px 14px 10px;
}
.told {
  font-size: 12px;
}
.fault {
  margin: 0 14px 8px;
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
