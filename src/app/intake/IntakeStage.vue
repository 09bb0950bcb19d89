<script setup lang="ts">
import type { Problem } from '@platform/index';
import { Alert, Button, Progress, Table, Tooltip } from 'ant-design-vue';
import { useNow } from '@vueuse/core';
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import { count, things, timeLeft } from '../shared/format';
import { tell } from '../shell/notice';
import { useIntake, type Progress as Running } from '../stores/intake';
import { useLibrary } from '../stores/library';

const intake = useIntake();
const library = useLibrary();
const router = useRouter();
const now = useNow({ interval: 250 });
const fileInput = ref<HTMLInputElement>();
const folderInput = ref<HTMLInputElement>();
const keepsHandles = 'showDirectoryPicker' in window;

const inRoot = computed(() => {
  const counts = new Map<number, number>();
  for (const i of library.intakes) counts.set(i.rootId, (counts.get(i.rootId) ?? 0) + i.added);
  return counts;
});
const arrivals = computed(() => [...library.intakes].filter((i) => i.added > 0).sort((a, b) => b.started - a.started));
const kinds = {
  server: 'Read from its folder by the Cormorant server',
  picked: 'Read from where it is',
  copied: 'Copied into the browser',
};

function status(p: Running): string {
  const passed = Math.max(0.001, (now.value.getTime() - p.started) / 1000);
  if (p.phase === 'Looking') return 'Looking for sounds';
  const rate = p.done / passed;
  const left = rate > 0 ? timeLeft((p.total - p.done) / rate) : '';
  return `${p.phase}: ${count(p.done)} of ${count(p.total)}, ${count(Math.round(rate))} a second, ${left}`;
}

async function addFolder(): Promise<void> {
  if (!window.showDirectoryPicker) return folderInput.value?.click();
  try {
    await intake.addHandles([await window.showDirectoryPicker({ id: 'sounds', mode: 'read' })]);
  } catch (error) {
    if ((error as Error).name !== 'AbortError') tell.error(`The folder could not be added: ${(error as Error).message}`);
  }
}

async function addFiles(): Promise<void> {
  if (!window.showOpenFilePicker) return fileInput.value?.click();
  try {
    await intake.addHandles(await window.showOpenFilePicker({ multiple: true }));
  } catch (error) {
    if ((error as Error).name !== 'AbortError') tell.error(`The files could not be added: ${(error as Error).message}`);
  }
}

function copied(event: Event): void {
  const input = event.target as HTMLInputElement;
  void intake.addCopies([...(input.files ?? [])]);
}

function showArrivals(intakeId: number): void {
  void router.push({ name: 'find', query: { intake: String(intakeId) } });
}

const columns = [
  {
    title: 'File',
    dataIndex: 'path',
    key: 'path',
    ellipsis: true,
    sorter: (a: Problem, b: Problem) => (a.path < b.path ? -1 : 1),
  },
  {
    title: 'What is wrong',
    dataIndex: 'reason',
    key: 'reason',
    sorter: (a: Problem, b: Problem) => (a.reason < b.reason ? -1 : 1),
  },
  { title: 'In', key: 'root', width: 180 },
];
const rootName = (id: number) => library.rootById.get(id)?.name ?? '';
</script>

<template>
  <div class="page">
    <section aria-label="Roots">
      <div class="title">
        <h1>Folders in the library</h1>
        <Tooltip title="Nothing in it is changed or copied"><Button type="primary" @click="addFolder">Add a folder</Button></Tooltip>
        <Button @click="addFiles">Add files</Button>
      </div>
      <p v-if="!keepsHandles" class="mute">
        This browser cannot keep a folder open: what you add is copied into it. To leave files where they are, start Cormorant with
        <span class="mono">npm start -- FOLDER</span>.
      </p>
      <input ref="folderInput" type="file" webkitdirectory multiple hidden aria-label="Folder of sounds" @change="copied" />
      <input ref="fileInput" type="file" multiple hidden accept=".wav,.bwf,.aif,.aiff,.flac,.ogg,.mp3" aria-label="Sound files" @change="copied" />
      <div v-if="library.roots.length === 0" class="empty">
        <strong>No folder is in the library yet</strong>
        <span>Drop folders or files anywhere on this window, or add a folder. Nothing on disk is changed.</span>
      </div>
      <ul class="roots">
        <li v-for="root in library.roots" :key="root.id">
          <div class="root">
            <div class="names">
              <span class="cut name" :title="root.name">{{ root.name }}</span>
              <span class="mute small">{{ kinds[root.kind] }}</span>
            </div>
            <span class="mono counted">{{ things(inRoot.get(root.id) ?? 0, 'sound') }}</span>
            <template v-if="intake.running.get(root.id)">
              <div class="progress">
                <Progress
                  :percent="
                    intake.running.get(root.id)!.total === 0 ? 0 : Math.floor((intake.running.get(root.id)!.done / intake.running.get(root.id)!.total) * 100)
                  "
                  size="small"
                  status="active"
                  :aria-label="`Intake of ${root.name}`"
                />
                <span class="small mute mono">{{ status(intake.running.get(root.id)!) }}</span>
              </div>
              <Button size="small" @click="intake.cancel(root.id)">Cancel</Button>
            </template>
            <template v-else>
              <span class="progress mute small">{{ intake.current.has(root.id) ? 'Up to date' : '' }}</span>
              <Button size="small" :aria-label="`Look again in ${root.name}`" @click="intake.scan(root)">Look again</Button>
            </template>
          </div>
          <Alert v-if="intake.unavailable.get(root.id)" type="error" banner :message="intake.unavailable.get(root.id)!.reason">
            <template #action>
              <Button v-if="intake.unavailable.get(root.id)!.askAgain" size="small" @click="intake.allowAgain(root)">Allow again</Button>
              <Button v-else size="small" @click="intake.scan(root)">Try again</Button>
            </template>
          </Alert>
        </li>
      </ul>
    </section>

    <section v-if="arrivals.length > 0" aria-label="Arrivals">
      <h2>Arrivals</h2>
      <ul class="arrivals">
        <li v-for="i in arrivals.slice(0, 8)" :key="i.id">
          <button class="line-button" @click="showArrivals(i.id)">
            <span>{{ rootName(i.rootId) }}</span>
            <span class="mute">{{ new Date(i.started).toLocaleString() }}</span>
            <span class="count">{{ things(i.added, 'sound') }}</span>
          </button>
        </li>
      </ul>
    </section>

    <section v-if="library.problems.length > 0" aria-label="Problems">
      <div class="title">
        <h2>{{ things(library.problems.length, 'file') }} could not be read</h2>
        <Button
          v-for="root in library.roots.filter((r) => library.problems.some((p) => p.rootId === r.id))"
          :key="root.id"
          size="small"
          @click="intake.retry(root)"
          >Try {{ root.name }} again</Button
        >
      </div>
      <Table :columns="columns" :data-source="library.problems" :pagination="{ pageSize: 12, hideOnSinglePage: true, size: 'small' }" size="small" row-key="id">
        <template #bodyCell="{ column, record }">
          <template v-if="column.key === 'root'">{{ rootName((record as Problem).rootId) }}</template>
          <span v-else-if="column.key === 'path'" :title="(record as Problem).path">{{ (record as Problem).path }}</span>
        </template>
      </Table>
    </section>
  </div>
</template>

<style scoped>
section {
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
  font-size: 16px;
  color: var(--text);
}
.title h2 {
  flex: 1;
}
h2 {
  margin-bottom: 6px;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
.roots > li {
  border-top: 1px solid var(--line);
}
.roots > li:last-child {
  border-bottom: 1px solid var(--line);
}
.root {
  display: grid;
  grid-template-columns: minmax(160px, 1fr) 110px minmax(200px, 1.2fr) 96px;
  align-items: center;
  gap: 16px;
  min-height: 52px;
}
.root > :last-child {
  justify-self: end;
}
.names {
  display: grid;
  min-width: 0;
}
.name {
  font-weight: 600;
}
.small {
  font-size: 12px;
}
.counted {
  text-align: right;
  color: var(--glass);
}
.arrivals span:nth-child(2) {
  font-size: 12px;
}
.empty {
  height: 160px;
}
</style>
