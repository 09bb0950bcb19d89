<script setup lang="ts">
import { SettingOutlined } from '@ant-design/icons-vue';
import { fields } from '@core/library';
import { canFacet } from '@core/search';
import { Button, Popover, Select } from 'ant-design-vue';
import { computed } from 'vue';
import { useFind } from '../stores/find';
import { usePrefs } from '../stores/prefs';
import FacetGroup from './FacetGroup.vue';
import HistogramBars from './HistogramBars.vue';

const find = useFind();
const prefs = usePrefs();

const texts = fields.filter(canFacet).map((f) => ({ value: f.key, label: f.label }));
const numbers = fields.filter((f) => !canFacet(f)).map((f) => ({ value: f.key, label: f.label }));
const byName = (text: string, option?: { label?: string }) => option?.label?.toLowerCase().includes(text.toLowerCase()) ?? false;
/** A field that is in use stays in sight, whether it is among the chosen ones or not. */
const shown = computed(() => {
  const used = [...Object.entries(find.view.facets), ...Object.entries(find.view.without)].filter(([, v]) => v.length > 0).map(([k]) => k);
  return [...new Set([...prefs.facetKeys, ...used])];
});
const counted = computed(() => [...new Set([...prefs.histogramKeys, ...Object.keys(find.view.ranges)])].filter((key) => find.answer.histograms[key]));
</script>

<template>
  <aside class="facets" aria-label="Facets">
    <FacetGroup v-for="key in shown" :key="key" :field-key="key" />
    <HistogramBars
      v-for="key in counted"
      :key="key"
      :field-key="key"
      :histogram="find.answer.histograms[key]"
      :range="find.view.ranges[key]"
      @choose="(range) => find.chooseRange(key, range)"
    />
    <Popover trigger="click" placement="topLeft">
      <template #content>
        <div class="choice">
          <label for="facet-keys">Values of</label>
          <Select
            id="facet-keys"
            v-model:value="prefs.facetKeys"
            mode="multiple"
            aria-label="Fields whose values are counted"
            :options="texts"
            :filter-option="byName as never"
          />
          <label for="histogram-keys">Spans of</label>
          <Select
            id="histogram-keys"
            v-model:value="prefs.histogramKeys"
            mode="multiple"
            aria-label="Numbers that are counted by spans"
            :options="numbers"
            :filter-option="byName as never"
          />
        </div>
      </template>
      <Button type="text" size="small"
        ><template #icon><SettingOutlined /></template>Choose what is counted</Button
      >
    </Popover>
  </aside>
</template>

<style scoped>
.facets {
  padding: 16px 12px;
  overflow-y: auto;
  background: var(--deep);
}
.choice {
  display: grid;
  gap: 6px;
  width: 320px;
}
</style>
