<script setup lang="ts">
import { tagChange, type Binned, type Change, type TableName, additionOf, removalOf } from '@core/library';
import { Button, Table } from 'ant-design-vue';
import { computed } from 'vue';
import { useLibrary } from '../stores/library';
import { catalogue } from '../stores/workers';

/** What was deleted, and the way back. */
const library = useLibrary();
const when = (at: number) => new Date(at).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });
const tableNames: Partial<Record<TableName, string>> = {
  pulls: 'Pull',
  tags: 'Tag',
  stamps: 'Stamp',
  recipes: 'Recipe',
  shortNames: 'Short name',
  categories: 'Category',
  scenes: 'Scene',
};
const bin = computed(() => [...library.bin].sort((a, b) => b.at - a.at));
async function restore(b: Binned): Promise<void> {
  const changes: (Change | undefined)[] = [
    additionOf(b.table, b.record),
    ...(b.rows ?? []).map((r): Change => additionOf(r.table, r.record)),
    removalOf('bin', b),
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
    library.bin.map((b) => removalOf('bin', b)),
  );
}
const binColumns = [
  { title: 'What', key: 'what', width: 110 },
  { title: 'Name', key: 'name' },
  { title: 'Deleted', key: 'at', width: 170 },
  { title: '', key: 'do', width: 90 },
];
</script>

<template>
  <section aria-label="Bin">
    <div class="tools">
      <h1>Bin</h1>
      <span class="push" /><Button size="small" :disabled="bin.length === 0" @click="emptyBin">Empty it</Button>
    </div>
    <p v-if="bin.length === 0" class="mute">Deleted pulls, tags, stamps, recipes and scenes wait here.</p>
    <Table v-else :columns="binColumns" :data-source="bin" row-key="id" size="small" :pagination="{ pageSize: 20, hideOnSinglePage: true, size: 'small' }">
      <template #bodyCell="{ column, record }">
        <template v-if="column.key === 'what'">{{ tableNames[record.table as TableName] ?? record.table }}</template>
        <bdi v-else-if="column.key === 'name'">{{ record.record.name ?? record.record.catId }}</bdi>
        <span v-else-if="column.key === 'at'" class="mute small">{{ when(record.at) }}</span>
        <Button v-else size="small" @click="restore(record as Binned)">Restore</Button>
      </template>
    </Table>
  </section>
</template>

<style scoped>
h1 {
  font-size: 15px;
  color: var(--text);
}
.tools {
  margin: 14px 0 8px;
}
</style>
