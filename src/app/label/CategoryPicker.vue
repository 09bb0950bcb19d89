<script setup lang="ts">
import { categories, categoryOf, findCategories, type Category } from '@core/suggest';
import { Select } from 'ant-design-vue';
import { computed, onMounted, ref, shallowRef, useTemplateRef } from 'vue';
import { count } from '../shared/controls/format';
import { useLibrary } from '../stores/library';
import { usePrefs } from '../stores/prefs';
import { catalogue } from '../stores/workers';

/** Chooses a category by any of its words, in any of the languages, misspelt or by CatID. */
const props = withDefaults(defineProps<{ id?: string; value?: string; placeholder?: string; focused?: boolean; label?: string }>(), {
  id: undefined,
  value: undefined,
  placeholder: 'Any word for it',
  label: undefined,
});
const emit = defineEmits<{ choose: [catId: string | undefined]; leave: [] }>();

const prefs = usePrefs();
const library = useLibrary();
const query = ref('');
const counts = shallowRef<Record<string, number>>({});
const select = useTemplateRef<{ focus: () => void }>('select');
const MOST = 60;

const found = computed(() => {
  void library.ownCategories;
  const recent = prefs.recentCategories.flatMap((id) => categoryOf(id) ?? []);
  const rows: Category[] = query.value.trim() ? findCategories(query.value) : [...new Set([...recent, ...categories])];
  return rows.slice(0, query.value.trim() ? MOST : 900).map((c) => ({
    value: c.catId,
    label: `${c.category[0]}${c.category.slice(1).toLowerCase()}, ${c.subCategory.toLowerCase()}`,
    explanation: c.explanation,
    recent: !query.value.trim() && prefs.recentCategories.includes(c.catId),
  }));
});
async function opened(is: boolean): Promise<void> {
  if (is) counts.value = await catalogue.categoryCounts();
  else query.value = '';
}
function choose(value: unknown): void {
  const catId = value ? String(value) : undefined;
  if (catId) prefs.recentCategories = [catId, ...prefs.recentCategories.filter((id) => id !== catId)].slice(0, 8);
  emit('choose', catId);
}
onMounted(() => props.focused && select.value?.focus());
defineExpose({ focus: () => select.value?.focus() });
</script>

<template>
  <Select
    :id="id"
    ref="select"
    show-search
    allow-clear
    :default-open="focused"
    :aria-label="label"
    :value="value"
    :placeholder="placeholder"
    :options="found"
    :filter-option="false"
    :list-height="320"
    :dropdown-match-select-width="380"
    option-label-prop="label"
    class="wide"
    @search="(text: string) => (query = text)"
    @dropdown-visible-change="opened"
    @change="choose"
    @blur="emit('leave')"
  >
    <template #option="{ value: catId, label: name, explanation, recent }">
      <div class="category">
        <span>{{ name }}<span v-if="recent" class="mute recent">used lately</span></span
        ><span class="mono mute"
          >{{ catId }}<span v-if="counts[catId]" class="count">{{ count(counts[catId]) }}</span></span
        >
      </div>
      <div class="mute explain">{{ explanation }}</div>
    </template>
  </Select>
</template>

<style scoped>
.wide {
  width: 100%;
}
.category {
  display: flex;
  justify-content: space-between;
  gap: 12px;
}
.explain,
.recent {
  font-size: 12px;
  white-space: normal;
}
.recent {
  margin-left: 8px;
}
.count {
  margin-left: 8px;
  color: var(--glass);
}
</style>
