<script setup lang="ts">
import {
  changeOf,
  fieldOf,
  isField,
  nameOf,
  tagChange,
  textOf,
  valueAt,
  type Binned,
  type Change,
  type FieldValue,
  type Sound,
  type TableName,
} from '@core/library';
import type { BackupFacts, HistoryEntry, JournalEntry } from '@platform/index';
import { Alert, Button, Checkbox, CheckboxGroup, Modal, Select, Table } from 'ant-design-vue';
import { computed, ref, shallowRef, watch } from 'vue';
import FilePick from '../shared/controls/FilePick.vue';
import { count, things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useBackups } from '../stores/backups';
import { useFind } from '../stores/find';
import { useLabels } from '../stores/labels';
import { useLibrary } from '../stores/library';
import { catalogue } from '../stores/workers';

const library = useLibrary();
const labels = useLabels();
const find = useFind();
const backups = useBackups();

const journal = shallowRef<JournalEntry[]>([]);
const history = shallowRef<HistoryEntry[]>([]);
const sound = shallowRef<Sound>();
watch(
  () => [library.revision, find.view.soundId] as const,
  async ([, id]) => {
    journal.value = await catalogue.journal(100);
    [sound.value] = id === undefined ? [] : await catalogue.sounds([id]);
    history.value = id === undefined ? [] : await catalogue.history(id);
  },
  { immediate: true },
);
const when = (at: number) => new Date(at).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });
const by = (entry: JournalEntry) => (entry.by === undefined || entry.by === 'typed' ? 'typed' : entry.by);
const tagNames = computed(() => new Map(library.tags.map((t) => [t.id, t.name])));

/** The fields that an entry changed of the sound, with what was and what came. */
function parts({ changes }: HistoryEntry): { path: string; label: string; before: string; after: string; was: unknown }[] {
  return changes.flatMap((c) => {
    if (!c.before || !c.after) return [];
    return Object.keys(c.after)
      .filter((path) => !path.startsWith('from.'))
      .map((path) => {
        const key = path.replace(/^fields\./, '');
        const text = (value: unknown) =>
          path.startsWith('fields.') && isField(key)
            ? textOf(fieldOf(key), value as FieldValue | undefined, tagNames.value)
            : value === undefined
              ? ''
              : JSON.stringify(value);
        const label = path.startsWith('fields.') && isField(key) ? fieldOf(key).label : key;
        return { path, label, before: text(c.before![path]), after: text(c.after![path]), was: c.before![path] };
      });
  });
}
const isNow = (path: string, was: unknown) => sound.value !== undefined && JSON.stringify(valueAt(sound.value, path)) === JSON.stringify(was);
async function putBack(path: string, was: unknown, label: string): Promise<void> {
  if (!sound.value) return;
  const after: Record<string, unknown> = { [path]: was };
  if (path.startsWith('fields.')) after[path.replace('fields.', 'from.')] = was === undefined ? undefined : 'typed';
  await library.edit(`Put ${label.toLowerCase()} of ${nameOf(sound.value)} back`, [changeOf('sounds', sound.value, after)]);
}

// The bin
const tableNames: Partial<Record<TableName, string>> = {
  pulls: 'Pull',
  tags: 'Tag',
  stamps: 'Stamp',
  recipes: 'Recipe',
  shortNames: 'Short name',
  categories: 'Category',
};
const bin = computed(() => [...library.bin].sort((a, b) => b.at - a.at));
async function restore(b: Binned): Promise<void> {
  const changes: (Change | undefined)[] = [
    { table: b.table, id: b.record.id, after: { ...b.record } },
    { table: 'bin', id: b.id, before: { ...b } },
  ];
  if (b.table === 'tags' && b.soundIds) {
    const sounds = await catalogue.sounds([...b.soundIds]);
    changes.push(...sounds.map((s) => tagChange(s, [...((s.fields.tags as number[] | undefined) ?? []), b.record.id])));
  }
  await library.edit(`Restore ${b.record.name ?? 'from the bin'}`, changes);
}
async function emptyBin(): Promise<void> {
  await library.edit(
    'Empty the bin',
    library.bin.map((b) => ({ table: 'bin', id: b.id, before: { ...b } })),
  );
}
const binColumns = [
  { title: 'What', key: 'what', width: 110 },
  { title: 'Name', key: 'name' },
  { title: 'Deleted', key: 'at', width: 170 },
  { title: '', key: 'do', width: 90 },
];

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
  cues: 'Cues',
  stamps: 'Stamps',
  recipes: 'Recipes',
  shortNames: 'Short names',
  categories: 'Own categories',
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
</script>

<template>
  <div class="safety">
    <section class="column" aria-label="Edits">
      <div class="tools">
        <h1>Edits</h1>
        <span class="push" />
        <Button size="small" :disabled="!library.undoState.undo" @click="library.undo()">Undo</Button>
        <Button size="small" :disabled="!library.undoState.redo" @click="library.redo()">Redo</Button>
      </div>
      <p v-if="journal.length === 0" class="mute">Nothing has been changed yet. Everything that you change is listed here, and can be taken back.</p>
      <ol class="journal">
        <li v-for="e in journal" :key="e.seq" :class="{ undone: e.state === 'undone' }">
          <span class="cut"
            ><bdi>{{ e.label }}</bdi></span
          >
          <span class="mute small">{{ when(e.at) }}, {{ by(e) }}, {{ things(e.count, 'change') }}{{ e.state === 'undone' ? ', taken back' : '' }}</span>
        </li>
      </ol>
    </section>
    <section class="column" aria-label="History of the sound">
      <h1>{{ sound ? `History of ${nameOf(sound)}` : 'History of a sound' }}</h1>
      <p v-if="!sound" class="mute">Choose a sound in the table: what became of each of its values is listed here.</p>
      <p v-else-if="history.length === 0" class="mute">Nobody has changed this sound since it was taken in.</p>
      <ol class="journal">
        <li v-for="h in history" :key="h.entry.seq" :class="{ undone: h.entry.state === 'undone' }">
          <span class="mute small">{{ when(h.entry.at) }}, {{ by(h.entry) }}{{ h.entry.state === 'undone' ? ', taken back' : '' }}</span>
          <div v-for="p in parts(h)" :key="p.path" class="part">
            <span class="mute small">{{ p.label }}</span>
            <span class="values"
              ><s class="mute"
                ><bdi>{{ p.before || 'nothing' }}</bdi></s
              >
              <bdi>{{ p.after || 'nothing' }}</bdi></span
            >
            <Button
              v-if="!isNow(p.path, p.was)"
              size="small"
              :aria-label="`Put ${p.label} back to ${p.before || 'nothing'}`"
              @click="putBack(p.path, p.was, p.label)"
              >Put back</Button
            >
          </div>
        </li>
      </ol>
    </section>
    <section class="column" aria-label="Backup and bin">
      <h1>Backup</h1>
      <p class="mute">One dated file with all labels, lists, scenes, tags, stamps and recipes; sounds stay where they are.</p>
      <div class="tools">
        <Button type="primary" :disabled="labels.work.running" @click="backups.download()">Back up now</Button>
        <FilePick label="Restore…" accept=".backup,.gz" @pick="open" />
      </div>
      <Alert v-if="failure" type="error" :message="failure" closable @close="failure = ''" />
      <div class="tools">
        <label for="every" class="mute">By itself</label>
        <Select id="every" v-model:value="backups.every" size="small" :options="everyOptions" class="every" />
        <Button v-if="backups.canChoose" size="small" @click="backups.choose()">{{ backups.folder ? 'Another folder' : 'Choose a folder' }}</Button>
      </div>
      <p class="mute small">
        <template v-if="backups.folder"
          >Into <bdi>{{ backups.folder }}</bdi>;
        </template>
        {{ backups.last ? `last written ${when(backups.last)}` : 'none written yet' }}
        <template v-if="backups.waits"> · <Button size="small" type="link" @click="backups.allow()">Allow writing into it</Button></template>
      </p>
      <div class="tools">
        <h1>Bin</h1>
        <span class="push" /><Button size="small" :disabled="bin.length === 0" @click="emptyBin">Empty it</Button>
      </div>
      <p v-if="bin.length === 0" class="mute">Deleted pulls, tags, stamps and recipes wait here.</p>
      <Table v-else :columns="binColumns" :data-source="bin" row-key="id" size="small" :pagination="{ pageSize: 20, hideOnSinglePage: true, size: 'small' }">
        <template #bodyCell="{ column, record }">
          <template v-if="column.key === 'what'">{{ tableNames[record.table as TableName] ?? record.table }}</template>
          <bdi v-else-if="column.key === 'name'">{{ record.record.name ?? record.record.catId }}</bdi>
          <span v-else-if="column.key === 'at'" class="mute small">{{ when(record.at) }}</span>
          <Button v-else size="small" @click="restore(record as Binned)">Restore</Button>
        </template>
      </Table>
    </section>
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
        <Checkbox v-model:checked="remove">Also take out what the backup does not have</Checkbox>
      </template>
    </Modal>
  </div>
</template>

<style scoped>
.safety {
  display: grid;
  grid-template-columns: 1fr 1.1fr 1fr;
  height: 100%;
}
.column {
  min-height: 0;
  padding: 16px;
  overflow-y: auto;
}
.column + .column {
  border-left: 1px solid var(--line);
}
h1 {
  margin-bottom: 6px;
  font-size: 15px;
  color: var(--text);
}
.tools {
  margin: 8px 0;
}
.journal {
  margin: 8px 0 0;
  padding: 0;
  list-style: none;
}
.journal li {
  display: grid;
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
}
.undone {
  opacity: 0.6;
}
.part {
  display: grid;
  grid-template-columns: 90px minmax(0, 1fr) auto;
  align-items: center;
  gap: 8px;
  margin-top: 2px;
}
.values {
  overflow-wrap: anywhere;
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
</style>
