<script setup lang="ts">
import { SettingOutlined } from '@ant-design/icons-vue';
import { canFacet } from '@core/search';
import { Button } from 'ant-design-vue';
import { computed } from 'vue';
import { useFind } from '../stores/find';
import { usePrefs } from '../stores/prefs';
import FacetGroup from './FacetGroup.vue';
import HistogramBars from './HistogramBars.vue';
import PopPanel from '../shared/controls/PopPanel.vue';
import FieldSelect from '../shared/controls/FieldSelect.vue';
import { fieldOptions } from '../shared/controls/fields';

const find = useFind();
const prefs = usePrefs();

const choices = [
  { id: 'facet-keys', kept: 'facetKeys', label: 'Values of', name: 'Fields whose values are counted', options: fieldOptions(canFacet) },
  { id: 'histogram-keys', kept: 'histogramKeys', label: 'Spans of', name: 'Numbers that are counted by spans', options: fieldOptions((f) => !canFacet(f)) },
] as const;
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
    <PopPanel placement="topLeft">
      <template #panel>
        <div class="choice">
          <template v-for="choice in choices" :key="choice.id">
            <label :for="choice.id">{{ choice.label }}</label>
            <FieldSelect :id="choice.id" v-model:value="prefs[choice.kept]" size="middle" mode="multiple" :aria-label="choice.name" :options="choice.options" />
          </template>
        </div>
      </template>
      <Button type="text" size="small"
        ><template #icon><SettingOutlined /></template>Choose what is counted</Button
      >
    </PopPanel>
  </aside>
</template>

<style scoped>
.facets {
  padding: 16px 12px;
  overflow-y: auto;
  background: var(--deep);
}
.facets :deep(section) {
  margin-bottom: 18px;
}
.facets :deep(h2) {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  margin-bottom: 6px;
}
.facets :deep(.none) {
  margin: 0;
  font-size: 12px;
}
.choice {
  display: grid;
  gap: 6px;
  width: 320px;
}
</style>
