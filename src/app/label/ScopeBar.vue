<script setup lang="ts">
import { RadioGroup } from 'ant-design-vue';
import { computed } from 'vue';
import { count } from '../shared/controls/format';
import { useFind } from '../stores/find';
import { useLabels } from '../stores/labels';

/** What a batch is run on: the selected rows, or all that the query lists. */
const labels = useLabels();
const find = useFind();
const options = computed(() => [
  { label: `Selected (${count(labels.selected.size)})`, value: 'selected', disabled: labels.selected.size === 0 },
  { label: `Whole list (${count(find.answer.ids.length)})`, value: 'list' },
]);
</script>

<template>
  <RadioGroup
    size="small"
    option-type="button"
    :options="options"
    :value="labels.scopeNow"
    aria-label="Sounds to work on"
    @change="(e: { target: { value?: unknown } }) => (labels.scope = e.target.value as 'selected' | 'list')"
  />
</template>
