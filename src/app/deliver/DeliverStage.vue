<script setup lang="ts">
import { computed } from 'vue';
import { useRoute } from 'vue-router';
import StageParts from '../shared/controls/StageParts.vue';
import { useServices } from '../stores/services';
import DeliveryPart from './DeliveryPart.vue';
import LabelsPart from './LabelsPart.vue';
import LibraryPart from './LibraryPart.vue';
import ScenePart from './ScenePart.vue';
import TeamPart from './TeamPart.vue';

const route = useRoute();
const part = computed(() => String(route.params.part ?? ''));
const services = useServices();
void services.look();
const parts = computed(() => [
  { path: '', label: 'Scene' },
  { path: 'delivery', label: 'Delivery' },
  { path: 'library', label: 'Library' },
  ...(services.known.exchange === undefined ? [] : [{ path: 'labels', label: 'Labels' }]),
  ...(services.known.team === undefined ? [] : [{ path: 'team', label: 'Team' }]),
]);
</script>

<template>
  <div class="deliver">
    <StageParts stage="deliver" label="Parts of deliver" :parts="parts" :part="part" />
    <div class="part"><component :is="{ library: LibraryPart, delivery: DeliveryPart, labels: LabelsPart, team: TeamPart }[part] ?? ScenePart" /></div>
  </div>
</template>

<style scoped>
.deliver {
  display: flex;
  flex-direction: column;
  height: 100%;
}
.deliver > :deep(nav) {
  flex: 0 0 40px;
}
.part {
  flex: 1;
  min-height: 0;
}
</style>
