<script setup lang="ts">
import { DeleteOutlined, PlusOutlined } from '@ant-design/icons-vue';
import type { Pull } from '@core/library';
import { TRAY } from '@core/library';
import { Button, Input, Tooltip } from 'ant-design-vue';
import { computed, nextTick, ref } from 'vue';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { count } from './format';
import { catalogue } from '../stores/workers';

const find = useFind();
const library = useLibrary();
const naming = ref(false);
const name = ref('');
const field = ref<{ focus: () => void }>();

const pulls = computed(() => library.pulls.filter((p) => p.id !== TRAY));
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

async function startNaming(): Promise<void> {
  naming.value = true;
  await nextTick();
  field.value?.focus();
}

/** Keeps what the tray holds as a pull, or begins an empty one. The tray stays as it is. */
async function keep(): Promise<void> {
  const text = name.value.trim();
  naming.value = false;
  name.value = '';
  if (!text) return;
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
    <div class="heading">
      <h2>Pulls</h2>
      <Tooltip title="Keep the tray as a pull"
        ><Button type="text" size="small" aria-label="Keep the tray as a pull" @click="startNaming"
          ><template #icon><PlusOutlined /></template></Button
      ></Tooltip>
    </div>
    <Input
      v-if="naming"
      ref="field"
      v-model:value="name"
      size="small"
      placeholder="Name of the pull"
      aria-label="Name of the pull"
      @press-enter="keep"
      @blur="keep"
      @keydown.esc="naming = false"
    />
    <p v-if="pulls.length === 0 && !naming" class="hint">Hold sounds in the tray, then keep them here under a name.</p>
    <div v-for="pull in pulls" :key="pull.id" class="line" @dragover.prevent @drop="drop($event, pull)">
      <button class="line-button" :class="{ here: find.view.pullId === pull.id }" @click="show(pull.id)">
        <span class="cut" :title="pull.name">{{ pull.name }}</span>
        <span class="count">{{ count(pull.soundIds.length) }}</span>
      </button>
      <Tooltip title="Remove this pull; its sounds stay in the library"
        ><Button class="remove" type="text" size="small" :aria-label="`Remove the pull ${pull.name}`" @click="remove(pull)"
          ><template #icon><DeleteOutlined /></template></Button
      ></Tooltip>
    </div>
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
.heading {
  margin-top: 10px;
}
h2:first-child {
  margin-top: 4px;
}
.heading {
  display: flex;
  align-items: end;
  justify-content: space-between;
}
.line {
  display: flex;
  align-items: center;
}
.remove {
  opacity: 0;
}
.line:hover .remove,
.remove:focus-visible {
  opacity: 1;
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
