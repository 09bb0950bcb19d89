<script setup lang="ts">
import type { Pull } from '@core/library';
import { TRAY } from '@core/library';
import { computed } from 'vue';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { count } from './format';
import NamedList from './NamedList.vue';
import { catalogue } from '../stores/workers';

const find = useFind();
const library = useLibrary();

const items = computed(() =>
  library.pulls.filter((p) => p.id !== TRAY).map((p) => ({ id: p.id, name: p.name, count: p.soundIds.length, here: find.view.pullId === p.id })),
);
const byId = (id: number) => library.pulls.find((p) => p.id === id)!;
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
  find.go({ pullId, intakeId, soundId: undefined });
}

/** Keeps what the tray holds as a pull, or begins an empty one. The tray stays as it is. */
async function keep(text: string): Promise<void> {
  const [id] = await catalogue.newIds('pulls', 1);
  const pull: Pull = { id, name: text, soundIds: [...(library.tray?.soundIds ?? [])], created: Date.now() };
  await library.edit(`Keep the tray as ${text}`, [{ table: 'pulls', id, after: { ...pull } }]);
}

function remove(pull: Pull): void {
  void library.discard('pulls', pull);
  if (find.view.pullId === pull.id) show();
}

function drop(event: DragEvent, pull: Pull | undefined): void {
  const ids = event.dataTransfer?.getData('application/x-cormorant-sounds');
  if (ids && pull) void library.addToPull(pull, JSON.parse(ids) as number[], `Add to ${pull.name}`);
}
</script>

<template>
  <nav class="side" aria-label="Lists and libraries">
    <h2>Tray</h2>
    <div class="line" @dragover.prevent @drop="drop($event, library.tray)">
      <button class="line-button" :class="{ here: find.view.pullId === TRAY }" @click="show(TRAY)">
        Held for now <span class="count">{{ count(library.tray?.soundIds.length ?? 0) }}</span>
      </button>
    </div>
    <NamedList
      title="Pulls"
      noun="pull"
      make="Keep the tray as a pull"
      remove-hint="Remove this pull; its sounds stay in the library"
      :items="items"
      @make="keep"
      @show="(id) => show(id)"
      @remove="(id) => remove(byId(id))"
      @drop="(event, id) => drop(event, byId(id))"
    >
      <p class="hint">Hold sounds in the tray, then keep them here under a name.</p>
    </NamedList>
    <slot />
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
  </nav>
</template>

<style scoped>
.side {
  padding: 16px 10px;
  overflow-y: auto;
  background: var(--deep);
}
h2 {
  padding: 0 8px;
  margin: 14px 0 6px;
}
h2:first-child {
  margin-top: 4px;
}
.line {
  display: flex;
  align-items: center;
}
.here {
  background: var(--raft2);
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
