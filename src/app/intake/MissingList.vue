<script setup lang="ts">
import type { MatchedBy, Reconnection, Sound } from '@core/library';
import { changeOf, nameOf } from '@core/library';
import type { RootRecord } from '@platform/index';
import { Alert, Button, Progress, Select, Table } from 'ant-design-vue';
import { computed, ref, shallowRef, watch } from 'vue';
import { count, things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useIntake } from '../stores/intake';
import { useLibrary } from '../stores/library';
import { catalogue } from '../stores/workers';

interface Plan {
  rootId: number;
  target: RootRecord;
  found: Reconnection[];
  lost: { id: number; path: string }[];
}

const intake = useIntake();
const library = useLibrary();
const missing = shallowRef<Sound[]>([]);
const inRoot = shallowRef(new Map<number, number>());
const plan = shallowRef<Plan>();
const chosen = ref<number[]>([]);
const failure = ref('');
const keepsHandles = 'showDirectoryPicker' in window;

watch(
  () => [library.revision, library.outOfReach] as const,
  async () => {
    missing.value = await catalogue.missing();
    inRoot.value = new Map(await catalogue.countByRoot());
  },
  { immediate: true },
);

const groups = computed(() => {
  const byRoot = new Map<number, Sound[]>();
  for (const s of missing.value) byRoot.set(s.rootId, [...(byRoot.get(s.rootId) ?? []), s]);
  const found = [...byRoot].map(([rootId, sounds]) => ({ rootId, sounds, away: false, count: sounds.length, root: library.rootById.get(rootId) }));
  // Of a root that cannot be read, all of it is looked for.
  const away = library.roots
    .filter((r) => library.outOfReach.has(r.id) && !r.removed && (inRoot.value.get(r.id) ?? 0) > 0)
    .map((root) => ({ rootId: root.id, sounds: [] as Sound[], away: true, count: inRoot.value.get(root.id)!, root }));
  return [...away, ...found.filter((g) => !library.outOfReach.has(g.rootId))];
});
const targets = computed(() => library.roots.filter((r) => intake.isOffered(r)).map((r) => ({ value: r.id, label: r.name })));
const comparing = (rootId: number) => intake.works.get(rootId);

async function compare(rootId: number, target: RootRecord | undefined): Promise<void> {
  if (!target) return;
  failure.value = '';
  plan.value = undefined;
  try {
    const result = await intake.planReconnection(rootId, target);
    plan.value = { rootId, target, ...result };
    chosen.value = result.found.map((f) => f.soundId);
  } catch (error) {
    failure.value = (error as Error).message;
  }
}

async function pick(rootId: number): Promise<void> {
  try {
    const handle = await window.showDirectoryPicker!({ id: 'reconnect', mode: 'read' });
    await compare(rootId, await intake.addUnread(handle));
  } catch (error) {
    if ((error as Error).name !== 'AbortError') failure.value = (error as Error).message;
  }
}

async function reconnect(): Promise<void> {
  const { value: p } = plan;
  if (!p) return;
  const found = p.found.filter((f) => chosen.value.includes(f.soundId));
  plan.value = undefined;
  await intake.reconnect(p.target, found);
  tell.done(`${things(found.length, 'sound')} reconnected; Ctrl Z takes it back`);
}

/** Takes sounds that are lost for good out of the catalogue. Undo brings them back. */
async function retire(sounds: readonly Sound[]): Promise<void> {
  await library.edit(
    `Retire ${things(sounds.length, 'sound')}`,
    sounds.map((s) => changeOf('sounds', s, { hidden: 'retired' })),
  );
  tell.done(`${things(sounds.length, 'sound')} retired; Ctrl Z takes it back`);
}

const how: Record<MatchedBy, string> = {
  path: 'Same folder, name and size',
  name: 'Same name and size',
  content: 'Same size, head and tail',
  audio: 'The same audio',
};
const columns = [
  { title: 'Was', key: 'from', ellipsis: true },
  { title: 'Would be', key: 'to', ellipsis: true },
  { title: 'Recognised by', key: 'by', width: 210 },
];
const missingColumns = [
  { title: 'Sound', key: 'name', ellipsis: true },
  { title: 'Was at', key: 'path', ellipsis: true },
];
</script>

<template>
  <div class="page">
    <section aria-label="Missing files">
      <div v-if="groups.length === 0" class="empty">
        <strong>Every file is where it was</strong>
        <span>When a drive is renamed or a folder moves, its sounds are listed here and can be connected again, with all that was made of them.</span>
      </div>
      <Alert v-if="failure" type="error" :message="failure" closable @close="failure = ''" />
      <div v-for="g in groups" :key="g.rootId" class="group">
        <div class="title">
          <h1>
            {{ things(g.count, 'sound') }} of <bdi>{{ g.root?.name ?? 'a folder that was taken out' }}</bdi> {{ g.away ? 'out of reach' : 'not found' }}
          </h1>
          <label class="unseen" :for="`target-${g.rootId}`">Look for the missing sounds of {{ g.root?.name }} in</label>
          <Select
            :id="`target-${g.rootId}`"
            class="target"
            size="small"
            :options="targets"
            placeholder="Look for them in…"
            :value="undefined"
            @change="(id: unknown) => compare(g.rootId, library.rootById.get(id as number))"
          />
          <Button v-if="keepsHandles" size="small" @click="pick(g.rootId)">Look in another folder</Button>
          <Button v-if="!g.away" size="small" @click="retire(g.sounds)">Retire them</Button>
        </div>
        <div v-if="comparing(g.rootId)?.phase === 'Comparing'" class="busy">
          <Progress :percent="Math.floor((100 * comparing(g.rootId)!.done) / Math.max(1, comparing(g.rootId)!.total))" size="small" aria-label="Comparing" />
          <span class="mute small mono">Comparing {{ count(comparing(g.rootId)!.done) }} of {{ count(comparing(g.rootId)!.total) }} files</span>
        </div>
        <div v-if="plan?.rootId === g.rootId" class="plan" role="region" aria-label="Before and after">
          <div class="title">
            <strong v-if="plan.found.length > 0">{{ count(plan.found.length) }} of {{ count(g.count) }} found in {{ plan.target.name }}</strong>
            <strong v-else>None of them is in {{ plan.target.name }}</strong>
            <span class="push" />
            <Button size="small" @click="plan = undefined">Leave it</Button>
            <Button size="small" type="primary" :disabled="chosen.length === 0" @click="reconnect">Reconnect {{ things(chosen.length, 'sound') }}</Button>
          </div>
          <Table
            v-if="plan.found.length > 0"
            :columns="columns"
            :data-source="plan.found"
            :pagination="{ pageSize: 50, hideOnSinglePage: true, size: 'small', showSizeChanger: false }"
            :row-selection="{ selectedRowKeys: chosen, onChange: (keys: (string | number)[]) => (chosen = keys as number[]) }"
            size="small"
            row-key="soundId"
          >
            <template #bodyCell="{ column, record }">
              <bdi v-if="column.key === 'from'">{{ (record as Reconnection).from }}</bdi>
              <bdi v-else-if="column.key === 'to'">{{ (record as Reconnection).to.path }}</bdi>
              <template v-else>{{ how[(record as Reconnection).by] }}</template>
            </template>
          </Table>
          <p v-if="plan.lost.length > 0 && plan.found.length > 0" class="mute small">{{ things(plan.lost.length, 'sound') }} stay missing.</p>
        </div>
        <p v-else-if="g.away" class="mute">
          {{ intake.unavailable.get(g.rootId)?.reason ?? 'The server was started without this folder.' }} Labels, lists, cues and history stay with its sounds.
          Bring it back as it was, or look for its files somewhere else.
        </p>
        <Table
          v-else
          :columns="missingColumns"
          :data-source="g.sounds"
          :pagination="{ pageSize: 20, hideOnSinglePage: true, size: 'small', showSizeChanger: false }"
          size="small"
          row-key="id"
        >
          <template #bodyCell="{ column, record }">
            <bdi v-if="column.key === 'name'">{{ nameOf(record as Sound) }}</bdi>
            <bdi v-else>{{ (record as Sound).path }}</bdi>
          </template>
        </Table>
      </div>
    </section>
  </div>
</template>

<style scoped>
.group {
  margin-bottom: 28px;
}
.title {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-bottom: 8px;
}
h1 {
  flex: 1;
  margin: 0;
  font-size: 16px;
  color: var(--text);
}
.target {
  width: 200px;
}
.push {
  flex: 1;
}
.small {
  font-size: 12px;
}
.plan {
  padding: 12px;
  border: 1px solid var(--line);
  border-radius: 8px;
}
.empty {
  height: 300px;
}
</style>
