<script setup lang="ts">
import { computed, watch } from 'vue';
import { useRoute } from 'vue-router';
import { useCommands } from '../shared/controls/commands';
import StageParts from '../shared/controls/StageParts.vue';
import { useFind } from '../stores/find';
import { useLabels } from '../stores/labels';
import { useLibrary } from '../stores/library';
import { useServices } from '../stores/services';
import { labeller } from '../stores/workers';
import AnchorsPart from './AnchorsPart.vue';
import CategoriesPart from './CategoriesPart.vue';
import FilesPart from './FilesPart.vue';
import LookUpPart from './LookUpPart.vue';
import NamesPart from './NamesPart.vue';
import RecipesPart from './RecipesPart.vue';
import ReviewPart from './ReviewPart.vue';
import SafetyPart from './SafetyPart.vue';
import SheetsPart from './SheetsPart.vue';
import SlicesPart from './SlicesPart.vue';
import StampsPart from './StampsPart.vue';
import TablePart from './TablePart.vue';
import TagsPart from './TagsPart.vue';
import { useStamps } from './useStamps';
import WorkBar from './WorkBar.vue';

const route = useRoute();
const find = useFind();
find.show();
const labels = useLabels();
const library = useLibrary();
const stamps = useStamps();
const services = useServices();
void services.look();
// Its worker opens the store while one looks at the table.
void labeller();

watch(
  () => route.query,
  (query) => find.restore(query),
  { immediate: true },
);

const part = computed(() => String(route.params.part ?? ''));
const parts = computed(() => [
  { path: '', label: 'Table' },
  { path: 'review', label: 'Review' },
  { path: 'anchors', label: 'Anchors' },
  { path: 'slices', label: 'Slices' },
  { path: 'recipes', label: 'Recipes' },
  { path: 'names', label: 'File names' },
  { path: 'files', label: 'Write files' },
  { path: 'sheets', label: 'Sheets' },
  ...(services.known.exchange === undefined ? [] : [{ path: 'exchange', label: 'Exchange' }]),
  { path: 'tags', label: 'Tags', count: library.tags.length },
  { path: 'stamps', label: 'Stamps', count: library.stamps.length },
  { path: 'categories', label: 'Categories' },
  { path: 'safety', label: 'History and backup' },
]);
const views: Record<string, unknown> = {
  review: ReviewPart,
  anchors: AnchorsPart,
  slices: SlicesPart,
  recipes: RecipesPart,
  names: NamesPart,
  files: FilesPart,
  sheets: SheetsPart,
  exchange: LookUpPart,
  tags: TagsPart,
  stamps: StampsPart,
  categories: CategoriesPart,
  safety: SafetyPart,
};
useCommands(
  'Labelling',
  Array.from({ length: 9 }, (_, i) => ({
    label: `Put on the stamp with key ${i + 1}`,
    keys: [`Ctrl+Alt+${i + 1}`],
    run: () => {
      const stamp = library.stamps.find((s) => s.key === i + 1);
      if (stamp) void stamps.put(stamp, [...labels.selected]);
    },
    enabled: () => library.stamps.some((s) => s.key === i + 1),
  })),
);
</script>

<template>
  <div class="label">
    <StageParts stage="label" label="Parts of label" :parts="parts" :part="part" />
    <WorkBar />
    <div class="part"><component :is="views[part] ?? TablePart" /></div>
  </div>
</template>

<style scoped>
.label {
  display: flex;
  flex-direction: column;
  height: 100%;
}
.label > :deep(nav) {
  flex: 0 0 40px;
}
.part {
  flex: 1;
  min-height: 0;
}
</style>
