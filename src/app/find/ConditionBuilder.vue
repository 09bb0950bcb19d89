<script setup lang="ts">
import { conditionsOf, parseQuery, queryText, type ConditionGroup } from '@core/search';
import { shallowRef, watch } from 'vue';
import { useFind } from '../stores/find';
import ConditionRows from './ConditionRows.vue';

/** The query as a form: the same query, whichever way it is put. */
const find = useFind();
// What says nothing yet stands in the form but not in the query, so the form is only made anew when the query came from elsewhere.
let written: string | undefined;
const root = shallowRef<ConditionGroup>({ kind: 'group', not: false, any: false, parts: [] });

watch(
  () => find.view.text,
  (text) => {
    if (text !== written) root.value = conditionsOf(parseQuery(`${text} `).query);
    written = text;
  },
  { immediate: true },
);
function change(group: ConditionGroup): void {
  root.value = group;
  const text = queryText(group);
  if (text === (written ?? '').trim()) return;
  // A condition that is whole is no word that is still being typed.
  written = text && `${text} `;
  find.drift({ text: written });
}
</script>

<template>
  <section class="builder" aria-label="Conditions">
    <ConditionRows :group="root" :depth="0" @change="change" />
  </section>
</template>

<style scoped>
.builder {
  max-height: 38vh;
  margin: 0 12px 8px;
  padding: 8px 10px;
  overflow-y: auto;
  border: 1px solid var(--line);
  border-radius: 8px;
}
</style>
