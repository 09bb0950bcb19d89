<script setup lang="ts">
import { changeOf, mergeTags, removeTag, splitTag, tagByName, tagChange, type Tag } from '@core/library';
import { Button, Input, Modal, Select, Table } from 'ant-design-vue';
import { computed, nextTick, ref, shallowRef, watch } from 'vue';
import { useRouter } from 'vue-router';
import { count, things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useFind } from '../stores/find';
import { useLabels } from '../stores/labels';
import { useLibrary } from '../stores/library';
import { catalogue } from '../stores/workers';

const library = useLibrary();
const labels = useLabels();
const find = useFind();
const router = useRouter();
const counts = shallowRef(new Map<number, number>());
const chosen = ref<number[]>([]);
const text = ref('');
const naming = ref<number>();
const name = ref('');
const splitting = ref<Tag>();
const parts = ref<string[]>([]);
const mergeInto = ref<number>();
const making = ref('');

watch(
  () => library.revision,
  async () => (counts.value = new Map(await catalogue.tagCounts())),
  { immediate: true },
);
const rows = computed(() => {
  const wanted = text.value.trim().toLowerCase();
  return library.tags
    .filter((t) => t.name.toLowerCase().includes(wanted))
    .map((t) => ({ ...t, count: counts.value.get(t.id) ?? 0 }))
    .sort((a, b) => b.count - a.count || a.name.localeCompare(b.name));
});
const tagOf = (id: number) => library.tags.find((t) => t.id === id)!;

async function make(): Promise<void> {
  const wanted = making.value.trim();
  making.value = '';
  if (!wanted) return;
  if (tagByName(library.tags).has(wanted.toLocaleLowerCase())) return tell.info(`${wanted} is there already`);
  const [id] = await catalogue.newIds('tags', 1);
  await library.edit(`Make the tag ${wanted}`, [{ table: 'tags', id, after: { id, name: wanted } }]);
}

async function startNaming(tag: Tag): Promise<void> {
  naming.value = tag.id;
  name.value = tag.name;
  await nextTick();
  document.getElementById(`tag-${tag.id}`)?.focus();
}
async function rename(tag: Tag): Promise<void> {
  const wanted = name.value.trim();
  if (naming.value !== tag.id) return;
  naming.value = undefined;
  if (!wanted || wanted === tag.name) return;
  const there = tagByName(library.tags).get(wanted.toLocaleLowerCase());
  if (there && there.id !== tag.id) return tell.error(`There is a tag ${there.name} already. Choose both and merge them.`);
  await library.edit(`Rename the tag ${tag.name} to ${wanted}`, [changeOf('tags', tag, { name: wanted })]);
}

async function merge(): Promise<void> {
  const into = tagOf(mergeInto.value ?? chosen.value[0]);
  const others = chosen.value.filter((id) => id !== into.id).map(tagOf);
  const sounds = await catalogue.tagged(others.map((t) => t.id));
  chosen.value = [];
  mergeInto.value = undefined;
  const label = `Merge ${others.map((t) => t.name).join(', ')} into ${into.name}`;
  if (await library.edit(label, mergeTags(into, others, sounds))) tell.done(`${label}: ${things(sounds.length, 'sound')}`);
}
async function split(): Promise<void> {
  const tag = splitting.value!;
  const wanted = parts.value.map((p) => p.trim()).filter(Boolean);
  splitting.value = undefined;
  if (wanted.length < 2) return tell.info('Splitting needs two names or more');
  const [sounds, ids] = await Promise.all([catalogue.tagged([tag.id]), catalogue.newIds('tags', wanted.length)]);
  await library.edit(`Split the tag ${tag.name}`, splitTag(tag, wanted, library.tags, sounds, ids));
}
async function remove(ids: readonly number[]): Promise<void> {
  chosen.value = [];
  for (const id of ids) {
    const tag = tagOf(id);
    const sounds = await catalogue.tagged([id]);
    const off = removeTag(tag, sounds).filter((c) => c.table === 'sounds');
    await library.discard('tags', tag, off, { soundIds: sounds.map((s) => s.id) });
  }
  tell.done(`${things(ids.length, 'tag')} deleted; the bin keeps ${ids.length === 1 ? 'it' : 'them'}`);
}
/** Puts a tag on the selected sounds, or takes it off when all have it. */
async function toggle(tag: Tag): Promise<void> {
  const sounds = await catalogue.sounds([...labels.selected]);
  if (sounds.length === 0) return tell.info('Select sounds in the table first');
  const has = (s: (typeof sounds)[number]) => ((s.fields.tags as number[] | undefined) ?? []).includes(tag.id);
  const all = sounds.every(has);
  const label = `${all ? 'Take' : 'Put'} ${tag.name} ${all ? 'off' : 'on'} ${things(sounds.length, 'sound')}`;
  const next = (s: (typeof sounds)[number]) => {
    const own = ((s.fields.tags as number[] | undefined) ?? []).filter((id) => id !== tag.id);
    return all ? own : [...own, tag.id];
  };
  if (
    await library.edit(
      label,
      sounds.map((s) => tagChange(s, next(s))),
    )
  )
    tell.done(label);
}
function show(tag: Tag): void {
  find.go({ text: `tag:"${tag.name.replace(/"/g, '')}"`, facets: {}, pullId: undefined, intakeId: undefined });
  void router.push({ name: 'label', query: { q: `tag:"${tag.name.replace(/"/g, '')}"` } });
}
const columns = [
  { title: 'Tag', key: 'name' },
  { title: 'Sounds', key: 'count', width: 100, align: 'right' as const },
  { title: '', key: 'do', width: 360 },
];
</script>

<template>
  <div class="page">
    <div class="tools">
      <Input v-model:value="text" placeholder="Find a tag" aria-label="Find a tag" allow-clear class="find" />
      <Input v-model:value="making" placeholder="New tag" aria-label="New tag" class="find" @press-enter="make" />
      <Button :disabled="!making.trim()" @click="make">Make</Button>
      <span class="push" />
      <template v-if="chosen.length > 1">
        <label for="merge-into" class="mute">Merge into</label>
        <Select
          id="merge-into"
          v-model:value="mergeInto"
          class="find"
          :options="chosen.map((id) => ({ value: id, label: tagOf(id).name }))"
          :placeholder="tagOf(chosen[0]).name"
        />
        <Button type="primary" @click="merge">Merge {{ chosen.length }} tags</Button>
      </template>
      <Button v-if="chosen.length > 0" @click="remove(chosen)">Delete {{ chosen.length }}</Button>
    </div>
    <div v-if="library.tags.length === 0" class="empty">
      <strong>There are no tags yet</strong>
      <span>Make one here, or type one into a sound's tags in the table. Emoji are welcome.</span>
    </div>
    <Table
      v-else
      :columns="columns"
      :data-source="rows"
      row-key="id"
      size="small"
      :pagination="{ pageSize: 100, hideOnSinglePage: true, size: 'small', showSizeChanger: false }"
      :row-selection="{ selectedRowKeys: chosen, onChange: (keys: (string | number)[]) => (chosen = keys as number[]) }"
    >
      <template #bodyCell="{ column, record }">
        <template v-if="column.key === 'name'">
          <Input
            v-if="naming === record.id"
            :id="`tag-${record.id}`"
            v-model:value="name"
            size="small"
            aria-label="New name of the tag"
            @press-enter="rename(record as Tag)"
            @blur="rename(record as Tag)"
            @keydown.esc="naming = undefined"
          />
          <bdi v-else class="tag">{{ record.name }}</bdi>
        </template>
        <span v-else-if="column.key === 'count'" class="mono">{{ count(record.count) }}</span>
        <div v-else class="do">
          <Button size="small" @click="show(record as Tag)">Show</Button>
          <Button size="small" @click="startNaming(record as Tag)">Rename</Button>
          <Button size="small" @click="((splitting = record as Tag), (parts = record.name.split(/[/,&+]| and /).map((p: string) => p.trim())))">Split</Button>
          <Button size="small" :disabled="labels.selected.size === 0" @click="toggle(record as Tag)">On selected ({{ labels.selected.size }})</Button>
          <Button size="small" @click="remove([record.id])">Delete</Button>
        </div>
      </template>
    </Table>
    <Modal :open="splitting !== undefined" :title="`Split ${splitting?.name ?? ''}`" ok-text="Split" @ok="split" @cancel="splitting = undefined">
      <p>Sounds that have it get these tags instead:</p>
      <Select v-model:value="parts" mode="tags" :open="false" class="wide" aria-label="Names of the parts" placeholder="Type a name, Enter adds it" />
    </Modal>
  </div>
</template>

<style scoped>
.tools {
  margin-bottom: 12px;
}
.find {
  width: 170px;
}
.do {
  display: flex;
  gap: 6px;
}
.tag {
  padding: 2px 8px;
  border: 1px solid var(--line);
  border-radius: 6px;
}
.wide {
  width: 100%;
}
.empty {
  height: 300px;
}
</style>
