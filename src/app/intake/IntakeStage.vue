<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { useRoute } from 'vue-router';
import StageParts from '../shared/controls/StageParts.vue';
import { useLibrary } from '../stores/library';
import { useServices } from '../stores/services';
import { useTeam } from '../stores/team';
import { catalogue } from '../stores/workers';
import DuplicateList from './DuplicateList.vue';
import MissingList from './MissingList.vue';
import ProblemList from './ProblemList.vue';
import RootList from './RootList.vue';
import TeamPart from './TeamPart.vue';

const route = useRoute();
const library = useLibrary();
const services = useServices();
void services.look();
const team = useTeam();
const missing = ref(0);
watch(
  () => [library.revision, library.outOfReach] as const,
  async () => {
    const away = library.roots.filter((r) => library.outOfReach.has(r.id) && !r.removed).map((r) => r.id);
    const counts = new Map(away.length > 0 ? await catalogue.countByRoot() : []);
    // Of a root that cannot be read, all of it is missed, for now.
    const unreachable = away.reduce((sum, id) => sum + (counts.get(id) ?? 0), 0);
    missing.value = unreachable + (await catalogue.ids({ text: 'state:missing' })).length;
  },
  { immediate: true },
);

const part = computed(() => String(route.params.part || ''));
const parts = computed(() => [
  { path: '', label: 'Folders', count: library.roots.length },
  { path: 'problems', label: 'Problems', count: library.problems.length, warn: true },
  { path: 'missing', label: 'Missing files', count: missing.value, warn: true },
  { path: 'duplicates', label: 'Duplicates', count: undefined },
  ...(services.known.team === undefined ? [] : [{ path: 'team', label: 'Team', count: team.conflicts.length || undefined, warn: true }]),
]);
const views: Record<string, unknown> = { problems: ProblemList, missing: MissingList, duplicates: DuplicateList, team: TeamPart };
</script>

<template>
  <div class="intake">
    <StageParts stage="intake" label="Parts of intake" :parts="parts" :part="part" />
    <div class="part"><component :is="views[part] ?? RootList" /></div>
  </div>
</template>

<style scoped>
.intake {
  display: grid;
  grid-template-rows: 40px minmax(0, 1fr);
  height: 100%;
}
.part {
  min-height: 0;
}
</style>
