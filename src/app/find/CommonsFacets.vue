<script setup lang="ts">
import { licenceOf } from '@core/library';
import { Checkbox } from 'ant-design-vue';
import { computed } from 'vue';
import { count } from '../shared/controls/format';
import { useCommons } from '../stores/commons';

/** What of the open sounds that were found has each licence and each author. */
const commons = useCommons();

const asks = (code: string): string => {
  const { credit, commercial, alike, unchanged } = licenceOf(code);
  const all = [credit && 'names its author', !commercial && 'unpaid work only', alike && 'shared alike', unchanged && 'unchanged only'];
  return all.filter(Boolean).join(', ') || 'asks for nothing';
};
const groups = computed(() =>
  (['licences', 'authors'] as const).map((key) => {
    const counts = Object.entries(commons.page?.[key] ?? {}).sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1));
    const isOffered = ([value]: [string, number]) => key === 'authors' || !commons.onlyFree || commons.usable.includes(value);
    const gone = commons.chosen[key].filter((v) => !counts.some(([own]) => own === v));
    return { key, title: { licences: 'Licence', authors: 'Author' }[key], counts: [...counts, ...gone.map((v): [string, number] => [v, 0])].filter(isOffered) };
  }),
);
function toggle(key: 'licences' | 'authors', value: string): void {
  const own = commons.chosen[key];
  commons.chosen[key] = own.includes(value) ? own.filter((v) => v !== value) : [...own, value];
}
</script>

<template>
  <aside class="facets" aria-label="Facets">
    <section v-for="group in groups" :key="group.key" :aria-label="group.title">
      <h2>{{ group.title }}</h2>
      <div v-for="[value, n] in group.counts" :key="value" class="line">
        <Checkbox :checked="commons.chosen[group.key].includes(value)" @change="toggle(group.key, value)">
          <span class="two"
            ><span class="cut" :title="value">{{ value }}</span
            ><span v-if="group.key === 'licences'" class="mute small">{{ asks(value) }}</span></span
          >
        </Checkbox>
        <span class="mono mute small">{{ count(n) }}</span>
      </div>
      <p v-if="group.counts.length === 0" class="mute small">None</p>
    </section>
    <p v-if="commons.name" class="mute small">{{ commons.name }} shares {{ count(commons.all) }} sounds.</p>
  </aside>
</template>

<style scoped>
.facets {
  padding: 16px 12px;
  overflow-y: auto;
  background: var(--deep);
}
section {
  margin-bottom: 18px;
}
.line {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  padding: 2px 0;
}
.two {
  display: inline-grid;
}
</style>
