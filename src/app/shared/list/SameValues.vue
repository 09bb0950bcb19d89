<script setup lang="ts">
import type { Field, FieldValue } from '@core/library';
import { computed } from 'vue';
import { useSameValue } from './useSameValue';
import { useValueName } from './useValueName';

/** The values of a field, each of which finds the sounds that share it or come near it; plain text where none can. */
const props = defineProps<{ field: Field; value: FieldValue | undefined; shown: string }>();

const same = useSameValue();
const values = computed(() => same.valuesOf(props.field.key, props.value));
const valueName = useValueName();
/** Of a list each word by itself. */
const texts = computed(() => (Array.isArray(props.value) ? props.value.map((v) => valueName(props.field.key, String(v))) : [props.shown]));
</script>

<template>
  <bdi v-if="values.length === 0">{{ shown }}</bdi>
  <template v-for="(v, i) in values" :key="v.label"
    ><button class="value" :title="`Find sounds with the same: ${v.label}`" @click="same.look(v)">
      <bdi>{{ texts[i] }}</bdi></button
    >{{ ' ' }}</template
  >
</template>

<style scoped>
.value {
  max-width: 100%;
  padding: 0;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
  cursor: pointer;
}
.value:hover {
  color: var(--sky);
  text-decoration: underline;
}
</style>
