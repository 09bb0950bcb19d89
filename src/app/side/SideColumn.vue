<script setup lang="ts">
import { TRAY } from '@core/library';
import { RadioGroup } from 'ant-design-vue';
import { computed } from 'vue';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { droppedSounds } from '../shared/take/drag';
import { count } from '../shared/controls/format';
import { usePrefs } from '../stores/prefs';
import { usePulls } from '../stores/pulls';
import BrowseTree from './BrowseTree.vue';
import FirstSteps from './FirstSteps.vue';
import HeardList from './HeardList.vue';
import PullList from './PullList.vue';
import SavedSearches from './SavedSearches.vue';

const find = useFind();
const library = useLibrary();
const pulls = usePulls();
const prefs = usePrefs();

const libraries = computed(() => find.answer.facets.library?.values ?? []);
/** What came in last, newest first. */
const arrivals = computed(() =>
  [...library.intakes]
    .filter((i) => i.added > 0)
    .sort((a, b) => b.started - a.started)
    .slice(0, 6),
);
const everything = computed(() => find.view.pullId === undefined && find.view.intakeId === undefined);
const day = (at: number) => (new Date(at).toDateString() === new Date().toDateString() ? 'today' : new Date(at).toLocaleDateString());

function show(pullId?: number, intakeId?: number): void {
  find.begin({ pullId, intakeId });
}

function drop(event: DragEvent): void {
  const ids = droppedSounds(event);
  if (ids && library.tray) void pulls.add(library.tray, ids);
}
const shows = [
  { value: 'lists', label: 'Lists' },
  { value: 'browse', label: 'Browse' },
];
</script>

<template>
  <nav class="side" aria-label="Lists and libraries">
    <FirstSteps />
    <RadioGroup v-model:value="prefs.sideShows" class="shows" size="small" option-type="button" :options="shows" aria-label="What this column shows" />
    <BrowseTree v-if="prefs.sideShows === 'browse'" />
    <template v-else>
      <h2>Tray</h2>
      <div class="line" @dragover.prevent @drop="drop($event)">
        <button class="line-button" :class="{ here: find.view.pullId === TRAY }" @click="show(TRAY)">
          Held for now <span class="count">{{ count(library.tray?.soundIds.length ?? 0) }}</span>
        </button>
      </div>
      <PullList />
      <SavedSearches />
      <HeardList />
      <template v-if="arrivals.length > 0">
        <h2>Arrivals</h2>
        <button
          v-for="i in arrivals"
          :key="i.id"
          class="line-button"
          :class="{ here: find.view.intakeId === i.id }"
          :title="`${library.rootById.get(i.rootId)?.name ?? ''}, ${new Date(i.started).toLocaleString()}`"
          @click="show(undefined, i.id)"
        >
          <span class="cut">{{ library.rootById.get(i.rootId)?.name }}</span>
          <span class="mute day">{{ day(i.started) }}</span>
          <span class="count">{{ count(i.added) }}</span>
        </button>
      </template>
      <h2>Libraries</h2>
      <button
        class="line-button"
        :class="{ here: everything && !find.view.facets.library?.length }"
        @click="find.go({ pullId: undefined, intakeId: undefined, facets: { ...find.view.facets, library: [] } })"
      >
        All libraries <span class="count">{{ count(find.answer.total) }}</span>
      </button>
      <button
        v-for="l in libraries"
        :key="l.value"
        class="line-button inner"
        :class="{ here: find.view.facets.library?.includes(l.value) }"
        @click="find.go({ facets: { ...find.view.facets, library: [l.value] } })"
      >
        <span class="cut" :title="l.value">{{ l.value }}</span> <span class="count">{{ count(l.count) }}</span>
      </button>
    </template>
  </nav>
</template>

<style scoped>
.side {
  display: flex;
  flex-direction: column;
  padding: 16px 10px;
  overflow-y: auto;
  background: var(--deep);
}
.side > h2:not(:first-child) {
  margin-top: 14px;
}
/* A column that is too short scrolls; nothing in it gives way. */
.side > * {
  flex-shrink: 0;
}
.shows {
  display: flex;
}
.shows :deep(.ant-radio-button-wrapper) {
  flex: 1;
  text-align: center;
}
.day {
  flex: none;
  font-size: 12px;
}
.inner {
  padding-left: 22px;
}
.hint {
  margin: 4px 8px;
  font-size: 12px;
  color: var(--mute);
}
</style>
