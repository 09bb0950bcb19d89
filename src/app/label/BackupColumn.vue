<script setup lang="ts">
import type { TableName } from '@core/library';
import type { BackupFacts } from '@platform/index';
import { Alert, Button, Checkbox, CheckboxGroup, Modal, Select } from 'ant-design-vue';
import { onMounted, ref, shallowRef, watch } from 'vue';
import FilePick from '../shared/controls/FilePick.vue';
import { ago, bytes, count, things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useBackups, type Kept } from '../stores/backups';
import { useLabels } from '../stores/labels';
import AsideList from './AsideList.vue';
import BinList from './BinList.vue';

/** Backups, by hand and by themselves; what was set aside; the bin. */
const labels = useLabels();
const backups = useBackups();
const when = (at: number) => new Date(at).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });
onMounted(() => void backups.list());
const places = { browser: 'in the browser', server: 'on the disk' };
const placesOf = ({ copies }: Kept) => copies.map((c) => places[c.where]).join(', ');

// Restoring a backup
const opened = shallowRef<{ name: string; facts: BackupFacts }>();
const chosen = ref<TableName[]>([]);
const remove = ref(false);
const failure = ref('');
const labelled: Record<string, string> = {
  roots: 'Folders',
  intakes: 'Intakes',
  sounds: 'Sounds and their labels',
  tags: 'Tags',
  pulls: 'Pulls and the tray',
  scenes: 'Scenes',
  tracks: 'Tracks and buses',
  effects: 'Effects',
  cues: 'Cues',
  markers: 'Markers',
  versions: 'Versions',
  stamps: 'Stamps',
  recipes: 'Recipes',
  shortNames: 'Short names',
  categories: 'Own categories',
  searches: 'Saved searches',
  alikes: 'Words that mean the same',
  bin: 'The bin',
};
async function open(file: File): Promise<void> {
  failure.value = '';
  try {
    const facts = await labels.run((l, report) => l.readBackup(file, report), true);
    if (!facts) return;
    opened.value = { name: file.name, facts };
    chosen.value = facts.tables.filter((t) => t.added + t.changed + t.same > 0).map((t) => t.table);
    remove.value = false;
  } catch (error) {
    failure.value = `${file.name}: ${(error as Error).message}`;
  }
}
async function restoreBackup(): Promise<void> {
  const { name } = opened.value!;
  const tables = [...chosen.value];
  const gone = remove.value;
  const n = await labels.run((l, report) => l.restore(tables, gone, `Restore ${name}`, report));
  opened.value = undefined;
  if (n !== undefined) tell.done(`${things(n, 'record')} restored from ${name}`);
}
const everyOptions = [
  { value: 0, label: 'Never' },
  { value: 1, label: 'Every day' },
  { value: 7, label: 'Every week' },
];
// One that was asked for elsewhere.
watch(
  () => backups.pending,
  (file) => {
    if (!file) return;
    backups.pending = undefined;
    void open(file);
  },
  { immediate: true },
);
</script>

<template>
  <section aria-label="Backup and bin">
    <h1>Backup</h1>
    <p class="mute">One dated file with all labels, lists, scenes, tags, stamps and recipes; sounds stay where they are.</p>
    <p>
      <strong>{{ backups.newest ? `Last backed up ${ago(backups.newest)}` : 'Not backed up yet' }}</strong>
      <span v-if="backups.failure" class="warn"> The last one could not be written: {{ backups.failure }}</span>
    </p>
    <div class="tools">
      <Button type="primary" :disabled="labels.work.running" @click="backups.download()">Back up now</Button>
      <FilePick label="Restore…" accept=".backup,.gz" @pick="open" />
    </div>
    <Alert v-if="failure" type="error" :message="failure" closable @close="failure = ''" />
    <h2>Into a folder</h2>
    <div class="tools">
      <label for="every" class="mute">By itself</label>
      <Select id="every" v-model:value="backups.every" size="small" :options="everyOptions" class="every" />
      <Button v-if="backups.canChoose" size="small" @click="backups.choose()">{{ backups.folder ? 'Another folder' : 'Choose a folder' }}</Button>
    </div>
    <p class="mute small">
      <template v-if="backups.folder"
        >Into <bdi>{{ backups.folder }}</bdi>; {{ backups.lastInFolder ? `last written ${when(backups.lastInFolder)}` : 'none written yet' }}</template
      >
      <template v-else>No folder is chosen: a copy outside of the browser survives whatever happens to it.</template>
      <template v-if="backups.waits"> · <Button size="small" type="link" @click="backups.allow()">Allow writing into it</Button></template>
    </p>
    <h2>By itself</h2>
    <p class="mute small">
      Every minute while something changes (of a large library less often),
      {{ backups.hasServer ? 'in the browser and on the disk beside it' : 'in the browser' }}; the newest of each hour, day and week stay.
      <template v-if="backups.persistent">The browser has promised to keep them.</template>
      <template v-else-if="backups.persistent === false"
        >When the disk runs low, the browser may throw them away, and the library with them.
        <Button size="small" type="link" class="inline" @click="backups.persist()">Ask it to keep them</Button></template
      >
    </p>
    <div class="tools"><Button size="small" :disabled="labels.work.running" @click="backups.byItself()">Write one now</Button></div>
    <p v-if="backups.kept.length === 0" class="mute small">None yet; the first is written a minute after something changed.</p>
    <ul v-else class="kept" aria-label="Backups written by themselves">
      <li v-for="b in backups.kept" :key="b.at">
        <span class="small"
          >{{ when(b.at) }}<br /><span class="mute"
            ><span class="mono">{{ bytes(b.bytes) }}</span> {{ placesOf(b) }}</span
          ></span
        >
        <Button size="small" :aria-label="`Restore the backup of ${when(b.at)}`" @click="backups.open(b)">Restore…</Button>
        <Button size="small" :aria-label="`Save a copy of the backup of ${when(b.at)}`" @click="backups.saveCopy(b)">Save</Button>
      </li>
    </ul>
    <AsideList />
    <BinList />
    <Modal
      :open="opened !== undefined"
      title="Restore a backup"
      width="620px"
      :ok-text="`Restore ${things(chosen.length, 'part')}`"
      :ok-button-props="{ disabled: chosen.length === 0 }"
      @ok="restoreBackup"
      @cancel="opened = undefined"
    >
      <template v-if="opened">
        <p>
          <bdi>{{ opened.name }}</bdi>, written {{ when(opened.facts.made) }}. What each part would do here:
        </p>
        <CheckboxGroup v-model:value="chosen" class="parts">
          <div v-for="t in opened.facts.tables" :key="t.table" class="table">
            <Checkbox :value="t.table" :disabled="t.added + t.changed + t.same + t.onlyHere === 0">{{ labelled[t.table] ?? t.table }}</Checkbox>
            <span class="mute small"
              >{{ count(t.added) }} come back, {{ count(t.changed) }} change, {{ count(t.same) }} are the same, {{ count(t.onlyHere) }} are only here</span
            >
          </div>
        </CheckboxGroup>
        <Alert
          v-if="opened.facts.leftOut.count > 0"
          type="warning"
          :message="`${things(opened.facts.leftOut.count, 'record')} of it cannot be used, and will be left out`"
        >
          <template #description>
            <ul class="reasons small">
              <li v-for="reason in opened.facts.leftOut.reasons" :key="reason">{{ reason }}</li>
            </ul>
          </template>
        </Alert>
        <Checkbox v-model:checked="remove">Also take out what the backup does not have</Checkbox>
      </template>
    </Modal>
  </section>
</template>

<style scoped>
h1 {
  margin-bottom: 6px;
  font-size: 15px;
  color: var(--text);
}
h2 {
  margin: 14px 0 4px;
}
.tools {
  margin: 8px 0;
}
.inline {
  height: auto;
  padding: 0;
  font-size: 12px;
}
.warn {
  color: var(--coral);
}
.kept {
  margin: 0;
  padding: 0;
  list-style: none;
}
.kept li {
  display: grid;
  grid-template-columns: 1fr auto auto;
  align-items: center;
  gap: 8px;
  padding: 3px 0;
  border-bottom: 1px solid var(--line);
}
.every {
  width: 120px;
}
.parts {
  display: grid;
  gap: 4px;
  margin-bottom: 12px;
}
.table {
  display: grid;
  grid-template-columns: 210px 1fr;
  align-items: center;
}
.reasons {
  max-height: 160px;
  margin: 4px 0 0;
  padding-left: 18px;
  overflow-y: auto;
}
</style>
