<script setup lang="ts">
import { changeOf, fieldOf, stampable, textOf, valueFrom, type FieldValue, type Stamp } from '@core/library';
import { checkedFile, validators, type StampFile } from '@core/schemas';
import { Button, Input, Select, Tooltip } from 'ant-design-vue';
import { computed, ref } from 'vue';
import { droppedSounds } from '../shared/take/drag';
import FilePick from '../shared/controls/FilePick.vue';
import { things } from '../shared/controls/format';
import { save } from '../shared/take/save';
import { tell } from '../shell/notice';
import { useFind } from '../stores/find';
import { useLabels } from '../stores/labels';
import { useLibrary } from '../stores/library';
import { catalogue } from '../stores/workers';
import { useStamps } from './useStamps';
import FieldSelect from '../shared/controls/FieldSelect.vue';
import { writable } from '../shared/controls/fields';

const library = useLibrary();
const labels = useLabels();
const find = useFind();
const stamps = useStamps();
const name = ref('');
const adding = ref<Record<number, string | undefined>>({});

const tagNames = computed(() => new Map(library.tags.map((t) => [t.id, t.name])));
const shown = (stamp: Stamp, key: string) => textOf(fieldOf(key), stamp.values[key], tagNames.value);
const keyOptions = Array.from({ length: 9 }, (_, i) => ({ value: i + 1, label: `Ctrl Alt ${i + 1}` }));
const rootOptions = computed(() => library.roots.map((r) => ({ value: r.id, label: r.name })));

async function make(values: Record<string, FieldValue>, called: string): Promise<void> {
  const [id] = await catalogue.newIds('stamps', 1);
  await library.edit(`Make the stamp ${called}`, [{ table: 'stamps', id, after: { id, name: called, values } }]);
}
/** A stamp with what the current sound has. */
async function fromSound(): Promise<void> {
  const id = find.view.soundId ?? [...labels.selected][0];
  const [sound] = id === undefined ? [] : await catalogue.sounds([id]);
  if (!sound) return tell.info('Select a sound in the table first');
  const keys = stampable(sound).filter((k) => !['fxName', 'take', 'plannedName'].includes(k));
  await make(Object.fromEntries(keys.map((k) => [k, sound.fields[k]])), name.value.trim() || `Like ${String(sound.fields.fxName ?? sound.fields.file)}`);
  name.value = '';
}
async function empty(): Promise<void> {
  await make({}, name.value.trim() || 'New stamp');
  name.value = '';
}
const patch = (stamp: Stamp, what: string, after: Record<string, unknown>) => library.edit(what, [changeOf('stamps', stamp, after)]);

async function setValue(stamp: Stamp, key: string, text: string): Promise<void> {
  const field = fieldOf(key);
  const typed = valueFrom(field, text);
  if ('fault' in typed) return tell.error(typed.fault);
  let value: FieldValue | undefined;
  if ('tagNames' in typed) {
    const known = new Map(library.tags.map((t) => [t.name.toLowerCase(), t.id]));
    const unknown = typed.tagNames.find((n) => !known.has(n.toLowerCase()));
    if (unknown) return tell.error(`There is no tag ${unknown}; make it under Tags first`);
    value = typed.tagNames.map((n) => known.get(n.toLowerCase())!);
  } else value = typed.value;
  const { [key]: _, ...rest } = stamp.values;
  await patch(stamp, `Edit the stamp ${stamp.name}`, { values: value === undefined ? rest : { ...rest, [key]: value } });
}
async function take(stamp: Stamp, key: string): Promise<void> {
  const { [key]: _, ...rest } = stamp.values;
  await patch(stamp, `Edit the stamp ${stamp.name}`, { values: rest });
}
/** One key belongs to one stamp. */
async function setKey(stamp: Stamp, key: number | undefined): Promise<void> {
  const other = library.stamps.find((s) => s.key === key && s.id !== stamp.id && key !== undefined);
  await library.edit(`Set the key of ${stamp.name}`, [other && changeOf('stamps', other, { key: undefined }), changeOf('stamps', stamp, { key })]);
}
function drop(event: DragEvent, stamp: Stamp): void {
  const ids = droppedSounds(event);
  if (ids) void stamps.put(stamp, ids);
}
function saveAll(): void {
  const file: StampFile = {
    format: 'cormorant-stamps',
    version: 1,
    stamps: library.stamps.map((s) => ({ name: s.name, values: Object.fromEntries(Object.keys(s.values).map((k) => [k, shown(s, k)])) })),
  };
  save(JSON.stringify(file, null, 2), 'application/json', 'Stamps.json');
}
async function load(file: File): Promise<void> {
  try {
    const { stamps: read } = checkedFile<StampFile>(await file.text(), validators.stampFile, file.name);
    const ids = await catalogue.newIds('stamps', read.length);
    const known = new Map(library.tags.map((t) => [t.name.toLowerCase(), t.id]));
    const changes = read.map((s, i) => {
      const values: Record<string, FieldValue> = {};
      for (const [key, text] of Object.entries(s.values)) {
        const typed = valueFrom(fieldOf(key), text);
        if ('fault' in typed) throw new Error(`${file.name}, ${s.name}: ${typed.fault}`);
        if ('tagNames' in typed) values[key] = typed.tagNames.flatMap((n) => known.get(n.toLowerCase()) ?? []);
        else if (typed.value !== undefined) values[key] = typed.value;
      }
      return { table: 'stamps' as const, id: ids[i], after: { id: ids[i], name: s.name, values } };
    });
    await library.edit(`Read ${things(read.length, 'stamp')} from ${file.name}`, changes);
  } catch (error) {
    tell.error((error as Error).message);
  }
}
</script>

<template>
  <div class="page">
    <div class="tools">
      <Input v-model:value="name" placeholder="Name of the stamp" aria-label="Name of the stamp" class="name" />
      <Button type="primary" :disabled="find.view.soundId === undefined" @click="fromSound">From the current sound</Button>
      <Button @click="empty">Empty stamp</Button>
      <span class="push" />
      <FilePick label="Read a file" accept=".json" @pick="load" />
      <Button :disabled="library.stamps.length === 0" @click="saveAll">Save as a file</Button>
    </div>
    <div v-if="library.stamps.length === 0" class="empty">
      <strong>There are no stamps yet</strong>
      <span>Label one sound well, select it, and make a stamp of it: others get the same values with one key.</span>
    </div>
    <article v-for="stamp in library.stamps" :key="stamp.id" :aria-label="stamp.name" class="stamp" @dragover.prevent @drop="drop($event, stamp)">
      <header class="tools">
        <Input
          :value="stamp.name"
          size="small"
          class="name"
          :aria-label="`Name of ${stamp.name}`"
          @change="(e: { target: { value?: string } }) => e.target.value && patch(stamp, 'Rename a stamp', { name: e.target.value })"
        />
        <Select
          size="small"
          class="key"
          allow-clear
          placeholder="No key"
          :aria-label="`Key of ${stamp.name}`"
          :value="stamp.key"
          :options="keyOptions"
          @change="(k: unknown) => setKey(stamp, k as number | undefined)"
        />
        <Select
          size="small"
          mode="multiple"
          class="roots"
          placeholder="Put on new sounds of…"
          :aria-label="`Folders whose new sounds get ${stamp.name}`"
          :value="stamp.rootIds ?? []"
          :options="rootOptions"
          @change="(r: unknown) => patch(stamp, `Set the folders of ${stamp.name}`, { rootIds: r as number[] })"
        />
        <span class="push" />
        <Tooltip title="Or drag rows here">
          <Button size="small" :disabled="labels.selected.size === 0" @click="stamps.put(stamp, [...labels.selected])"
            >Put on {{ things(labels.selected.size, 'selected sound') }}</Button
          >
        </Tooltip>
        <Button size="small" @click="library.discard('stamps', stamp)">Delete</Button>
      </header>
      <div v-for="key in Object.keys(stamp.values)" :key="key" class="value">
        <label :for="`s-${stamp.id}-${key}`" class="mute">{{ fieldOf(key).label }}</label>
        <Input
          :id="`s-${stamp.id}-${key}`"
          :default-value="shown(stamp, key)"
          size="small"
          @blur="(e: FocusEvent) => (e.target as HTMLInputElement).value !== shown(stamp, key) && setValue(stamp, key, (e.target as HTMLInputElement).value)"
          @press-enter="(e: KeyboardEvent) => (e.target as HTMLInputElement).blur()"
        />
        <Button size="small" type="text" :aria-label="`Leave ${fieldOf(key).label} out`" @click="take(stamp, key)">×</Button>
      </div>
      <div class="value">
        <FieldSelect
          v-model:value="adding[stamp.id]"
          placeholder="Add a field"
          :aria-label="`Add a field to ${stamp.name}`"
          :options="writable.filter((o) => !(o.value in stamp.values))"
        />
        <Input
          v-if="adding[stamp.id]"
          size="small"
          placeholder="Value, then Enter"
          :aria-label="`Value of the new field`"
          @press-enter="(e: KeyboardEvent) => (setValue(stamp, adding[stamp.id]!, (e.target as HTMLInputElement).value), (adding[stamp.id] = undefined))"
        />
      </div>
    </article>
  </div>
</template>

<style scoped>
.tools {
  margin-bottom: 12px;
}
.name {
  width: 200px;
}
.key {
  width: 120px;
}
.roots {
  min-width: 200px;
}
.stamp {
  margin-bottom: 16px;
  padding: 12px;
  border: 1px solid var(--line);
  border-radius: 8px;
}
.value {
  display: grid;
  grid-template-columns: 150px minmax(0, 1fr) 30px;
  align-items: center;
  gap: 8px;
  margin-top: 4px;
}
.empty {
  height: 300px;
}
</style>
