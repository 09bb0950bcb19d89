<script setup lang="ts">
import type { Problem } from '@platform/index';
import { Button, Input, Table } from 'ant-design-vue';
import Papa from 'papaparse';
import { computed, ref } from 'vue';
import { things } from '../shared/controls/format';
import { save } from '../shared/take/save';
import { useIntake } from '../stores/intake';
import { useLibrary } from '../stores/library';

const intake = useIntake();
const library = useLibrary();
const text = ref('');
const chosen = ref<number[]>([]);

const rootName = (id: number) => library.rootById.get(id)?.name ?? '';
const shown = computed(() => {
  const wanted = text.value.trim().toLowerCase();
  return library.problems.filter((p) => `${p.path} ${p.reason} ${rootName(p.rootId)}`.toLowerCase().includes(wanted));
});
const meant = computed(() => (chosen.value.length > 0 ? chosen.value : shown.value.map((p) => p.id)));

function saveList(): void {
  const rows = shown.value.map((p) => ({
    Folder: rootName(p.rootId),
    File: p.path,
    Problem: p.reason,
    Seen: new Date(p.at).toISOString(),
  }));
  save(Papa.unparse(rows, { escapeFormulae: true, newline: '\r\n' }), 'text/csv', 'Problems.csv');
}

async function retry(): Promise<void> {
  const ids = meant.value;
  chosen.value = [];
  await intake.retry(ids);
}

const by = (key: (p: Problem) => string) => (a: Problem, b: Problem) => (key(a) < key(b) ? -1 : 1);
const columns = [
  { title: 'File', key: 'path', ellipsis: true, sorter: by((p) => p.path) },
  { title: 'What is wrong', key: 'reason', sorter: by((p) => p.reason) },
  { title: 'In', key: 'root', width: 180, ellipsis: true, sorter: by((p) => rootName(p.rootId)) },
];
</script>

<template>
  <div class="page">
    <section aria-label="Problems">
      <div v-if="library.problems.length === 0" class="empty">
        <strong>Every file could be read</strong>
        <span>Files that cannot be read or measured are listed here, each with its reason; the others go on.</span>
      </div>
      <template v-else>
        <div class="title">
          <h1>{{ things(library.problems.length, 'file') }} could not be read</h1>
          <Input v-model:value="text" class="filter" size="small" allow-clear placeholder="Filter by name or reason" aria-label="Filter problems" />
          <Button size="small" @click="saveList">Save as CSV</Button>
          <Button size="small" type="primary" @click="retry">{{ chosen.length > 0 ? `Try ${things(chosen.length, 'file')} again` : 'Try all again' }}</Button>
        </div>
        <p class="mute small">A file that changes on disk is tried again by itself.</p>
        <Table
          :columns="columns"
          :data-source="shown"
          :pagination="{ pageSize: 50, hideOnSinglePage: true, size: 'small', showSizeChanger: false }"
          :row-selection="{ selectedRowKeys: chosen, onChange: (keys: (string | number)[]) => (chosen = keys as number[]) }"
          :locale="{ emptyText: 'No problem matches the filter' }"
          size="small"
          row-key="id"
        >
          <template #bodyCell="{ column, record }">
            <template v-if="column.key === 'root'">{{ rootName((record as Problem).rootId) }}</template>
            <template v-else-if="column.key === 'reason'">{{ (record as Problem).reason }}</template>
            <bdi v-else :title="(record as Problem).path">{{ (record as Problem).path }}</bdi>
          </template>
        </Table>
      </template>
    </section>
  </div>
</template>

<style scoped>
.title {
  display: flex;
  align-items: center;
  gap: 10px;
}
h1 {
  flex: 1;
  margin: 0;
  font-size: 16px;
  color: var(--text);
}
.filter {
  width: 240px;
}
.small {
  margin: 4px 0 10px;
  font-size: 12px;
}
.empty {
  height: 300px;
}
</style>
