<script setup lang="ts">
import { fieldOf, languageOf, shownNumber, textOf, type Field, type Sound } from '@core/library';
import { categoryName } from '@core/suggest';
import { Rate } from 'ant-design-vue';
import { useEventListener } from '@vueuse/core';
import Papa from 'papaparse';
import { computed, nextTick, ref, useTemplateRef } from 'vue';
import { useCommands } from '../shared/controls/commands';
import { dragSounds } from '../shared/take/drag';
import { things } from '../shared/controls/format';
import { useSameValue } from '../shared/list/useSameValue';
import SortHead from '../shared/list/SortHead.vue';
import VirtualRows from '../shared/list/VirtualRows.vue';
import { tell } from '../shell/notice';
import { useFind } from '../stores/find';
import { useLabels } from '../stores/labels';
import { useLibrary } from '../stores/library';
import { usePrefs, type TableColumn } from '../stores/prefs';
import { catalogue } from '../stores/workers';
import CellEditor from './CellEditor.vue';

const emit = defineEmits<{ choose: [id: number, event: MouseEvent] }>();

const find = useFind();
const library = useLibrary();
const labels = useLabels();
const prefs = usePrefs();
const rowsView = useTemplateRef<{ element: HTMLElement | null }>('rowsView');

/** The column the keys are in, and where the block of columns began. */
const column = ref(0);
const columnFrom = ref(0);
const editing = ref<{ id: number; key: string }>();
const NARROW = 60;

/** Pinned columns come first. */
const columns = computed<TableColumn[]>(() => {
  const all = prefs.tableView.columns;
  return [...all.filter((c) => c.pinned), ...all.filter((c) => !c.pinned)];
});
const width = computed(() => columns.value.reduce((sum, c) => sum + c.width, 0) + 8);
const offsets = computed(() => {
  let left = 0;
  return columns.value.map((c) => (c.pinned ? (left += c.width) - c.width : undefined));
});
const field = (key: string): Field => fieldOf(key);
const tagNames = computed(() => new Map(library.tags.map((t) => [t.id, t.name])));
const block = computed(() => [Math.min(column.value, columnFrom.value), Math.max(column.value, columnFrom.value)]);
const inBlock = (c: number) => c >= block.value[0] && c <= block.value[1];

const ids = computed(() => find.answer.ids);
const sound = (index: number): Sound | undefined => library.sounds.get(ids.value[index]);

function shown(s: Sound, key: string): string {
  const f = field(key);
  const value = s.fields[key];
  if (value === undefined) return '';
  if (key === 'catId') return [...new Set([String(value), categoryName(String(value))])].join(' · ');
  if (f.type === 'number') return shownNumber(f, value as number);
  return textOf(f, value, tagNames.value).replace(/\n/g, ' ');
}
const origin = (s: Sound, key: string) => {
  const text = shown(s, key);
  return text ? `${text}\n${field(key).label}, from ${s.from[key] ?? 'an earlier version'}` : `${field(key).label}: none`;
};

function need(rows: readonly number[]): void {
  const shownIds = rows.map((i) => ids.value[i]).filter((id) => id !== undefined);
  library.shown = shownIds;
  void library.need(shownIds);
}

function press(event: MouseEvent, id: number, c: number): void {
  if (event.shiftKey) column.value = c;
  else column.value = columnFrom.value = c;
  emit('choose', id, event);
}

function startEditing(id = find.view.soundId, c = column.value): void {
  const key = columns.value[c]?.key;
  if (id === undefined || !key) return;
  if (!field(key).edited) return tell.info(`${field(key).label} is not edited by hand`);
  editing.value = { id, key };
}

/** Back to the table, so that the keys work on. */
function stopEditing(): void {
  editing.value = undefined;
  void nextTick(() => rowsView.value?.element?.focus());
}

/** Puts texts into cells as one edit. */
async function put(rows: { id: number; texts: Record<string, string> }[], label: string): Promise<void> {
  const result = await labels.run((l) => l.putTexts(rows, label, prefs.keepVendor));
  if (!result) return;
  if (result.faults.length > 0) tell.error(`${things(result.faults.length, 'cell')} stay as they were. ${result.faults[0].message}`);
  else if (result.changed > 1) tell.done(`${label}; Ctrl Z takes it back`);
}

async function keep(text: string): Promise<void> {
  const at = editing.value;
  stopEditing();
  if (!at) return;
  await put([{ id: at.id, texts: { [at.key]: text } }], `Edit ${field(at.key).label.toLowerCase()} of a sound`);
}

/** Selected rows in the order of the list. */
const block0 = () => Array.from(ids.value).filter((id) => labels.selected.has(id));
const keysOfBlock = () => columns.value.slice(block.value[0], block.value[1] + 1).map((c) => c.key);

async function copyBlock(): Promise<string> {
  const rows = await catalogue.sounds(block0());
  const keys = keysOfBlock();
  return Papa.unparse(
    rows.map((s) => keys.map((k) => textOf(field(k), s.fields[k], tagNames.value))),
    { delimiter: '\t', newline: '\n' },
  );
}

/** One cell goes into every selected cell; a block goes in from the first selected row on. */
async function pasteBlock(text: string): Promise<void> {
  const cells = Papa.parse<string[]>(text.replace(/\r?\n$/, ''), { delimiter: '\t' }).data;
  const rows = block0();
  if (cells.length === 0 || rows.length === 0) return;
  const single = cells.length === 1 && cells[0].length === 1;
  const first = ids.value.indexOf(rows[0]);
  const targets = single || rows.length > 1 ? rows : Array.from(ids.value.slice(first, first + cells.length));
  const keys = single ? keysOfBlock() : columns.value.slice(block.value[0], block.value[0] + cells[0].length).map((c) => c.key);
  const open = keys.filter((k) => field(k).edited);
  if (open.length === 0) return tell.info('These columns are not edited by hand');
  const made = targets.map((id, r) => {
    const line = cells[r % cells.length];
    return { id, texts: Object.fromEntries(open.map((k) => [k, (single ? line[0] : line[keys.indexOf(k)]) ?? ''])) };
  });
  await put(made, `Paste into ${things(made.length, 'sound')}`);
}

const same = useSameValue();
/** Lists the sounds that share the value of the current cell; of a list its first. */
function lookForCell(): void {
  const key = columns.value[column.value]?.key;
  const current = find.view.soundId === undefined ? undefined : library.sounds.get(find.view.soundId);
  const [value] = key && current ? same.valuesOf(key, current.fields[key]) : [];
  if (value) same.look(value);
  else tell.info('This cell has nothing to look for');
}

/** The first selected row's values go to the others. */
async function fillDown(): Promise<void> {
  const rows = block0();
  if (rows.length < 2) return tell.info('Select several rows; the first one fills the others');
  const [first] = await catalogue.sounds([rows[0]]);
  const open = keysOfBlock().filter((k) => field(k).edited);
  if (!first || open.length === 0) return tell.info('This column is not edited by hand');
  const texts = Object.fromEntries(open.map((k) => [k, textOf(field(k), first.fields[k], tagNames.value)]));
  await put(
    rows.slice(1).map((id) => ({ id, texts })),
    `Fill ${things(rows.length - 1, 'sound')} from the first`,
  );
}

const elsewhere = (event: Event) => event.target instanceof HTMLElement && event.target.closest('input, textarea, [contenteditable], [role="dialog"]');
useEventListener(document, 'copy', (event) => {
  if (elsewhere(event) || labels.selected.size === 0 || !document.getSelection()?.isCollapsed) return;
  event.preventDefault();
  // The clipboard of the event closes before the rows are here.
  void copyBlock().then((text) => navigator.clipboard.writeText(text).then(() => tell.done(`${things(labels.selected.size, 'row')} copied`)));
});
useEventListener(document, 'paste', (event) => {
  const text = event.clipboardData?.getData('text/plain');
  if (elsewhere(event) || !text || labels.selected.size === 0) return;
  event.preventDefault();
  void pasteBlock(text);
});

function move(by: number, extend: boolean): void {
  column.value = Math.max(0, Math.min(columns.value.length - 1, column.value + by));
  if (!extend) columnFrom.value = column.value;
  const cell = columns.value.slice(0, column.value).reduce((sum, c) => sum + c.width, 0);
  const view = rowsView.value?.element;
  const pinned = columns.value.filter((c) => c.pinned).reduce((sum, c) => sum + c.width, 0);
  if (!view || columns.value[column.value].pinned) return;
  if (cell - pinned < view.scrollLeft) view.scrollLeft = cell - pinned;
  else if (cell + columns.value[column.value].width > view.scrollLeft + view.clientWidth)
    view.scrollLeft = cell + columns.value[column.value].width - view.clientWidth;
}
useCommands('Labelling', [
  { label: 'Find sounds with the value of this cell', keys: ['f'], run: lookForCell, enabled: () => find.view.soundId !== undefined },
  { label: 'Edit the cell', keys: ['Enter', 'F2'], run: () => startEditing() },
  { label: 'Next column', keys: ['ArrowRight'], run: () => move(1, false) },
  { label: 'Previous column', keys: ['ArrowLeft'], run: () => move(-1, false) },
  { label: 'Extend the block to the right', keys: ['Shift+ArrowRight'], run: () => move(1, true) },
  { label: 'Extend the block to the left', keys: ['Shift+ArrowLeft'], run: () => move(-1, true) },
  { label: 'Fill the selected rows from the first', keys: ['Ctrl+d'], run: () => void fillDown() },
]);

/** Drags the border of a column head. */
function size(event: PointerEvent, key: string): void {
  const from = event.clientX;
  const start = prefs.tableView.columns.find((c) => c.key === key)!.width;
  const drag = (e: PointerEvent) => {
    prefs.tableView.columns = prefs.tableView.columns.map((c) => (c.key === key ? { ...c, width: Math.max(NARROW, Math.round(start + e.clientX - from)) } : c));
  };
  addEventListener('pointermove', drag);
  addEventListener('pointerup', () => removeEventListener('pointermove', drag), { once: true });
}
function sort(key: string): void {
  find.sortBy(key);
  prefs.tableView.sort = find.view.sort;
}
const sortable = (key: string) => field(key).sorted && !languageOf(key).language;

function drag(event: DragEvent, id: number): void {
  const taken = labels.selected.has(id) ? [...labels.selected] : [id];
  dragSounds(event, taken);
}
</script>

<template>
  <div class="table">
    <VirtualRows ref="rowsView" :count="ids.length" label="Sounds to label" :width="width" :current="find.index" @show="need">
      <template #head>
        <div class="row head" role="row" aria-rowindex="1">
          <SortHead
            v-for="(c, i) in columns"
            :key="c.key"
            class="cell"
            :class="{ pinned: c.pinned }"
            :column="c.key"
            :label="field(c.key).label"
            :sort="find.view.sort"
            :sortable="sortable(c.key)"
            :style="{ width: `${c.width}px`, left: c.pinned ? `${offsets[i]}px` : undefined }"
            @sort="sort"
          >
            <span class="grip" @pointerdown.prevent="size($event, c.key)" />
          </SortHead>
        </div>
      </template>
      <template #default="{ index }">
        <div
          class="row"
          role="row"
          :aria-rowindex="index + 2"
          :aria-selected="labels.selected.has(ids[index])"
          :class="{ selected: labels.selected.has(ids[index]), current: index === find.index }"
          draggable="true"
          @dragstart="drag($event, ids[index])"
        >
          <template v-if="sound(index)">
            <span
              v-for="(c, i) in columns"
              :key="c.key"
              role="gridcell"
              class="cell"
              :class="{
                pinned: c.pinned,
                block: labels.selected.has(ids[index]) && inBlock(i),
                here: index === find.index && i === column,
                open: field(c.key).edited,
                guessed: ['name', 'folder', 'suggested'].includes(sound(index)!.from[c.key]),
              }"
              :style="{ width: `${c.width}px`, left: c.pinned ? `${offsets[i]}px` : undefined }"
              @click="press($event, ids[index], i)"
              @dblclick="startEditing(ids[index], i)"
            >
              <CellEditor
                v-if="editing?.id === ids[index] && editing.key === c.key"
                :sound="sound(index)!"
                :field-key="c.key"
                @keep="keep"
                @leave="stopEditing"
                @click.stop
                @dblclick.stop
              />
              <Rate
                v-else-if="field(c.key).type === 'stars' && sound(index)!.fields[c.key]"
                :value="Number(sound(index)!.fields[c.key])"
                disabled
                class="rate"
                :aria-label="`${sound(index)!.fields[c.key]} stars`"
              />
              <bdi v-else class="cut" :class="{ mono: field(c.key).type === 'number' }" :title="origin(sound(index)!, c.key)">{{
                shown(sound(index)!, c.key)
              }}</bdi>
            </span>
          </template>
          <span v-else role="gridcell" class="cell mute">…</span>
        </div>
      </template>
    </VirtualRows>
    <div v-if="ids.length === 0" class="empty">
      <strong>Nothing is listed</strong>
      <span>Change the query above, or add a folder in Intake.</span>
    </div>
  </div>
</template>

<style scoped>
.table {
  position: relative;
  min-height: 0;
}
.row {
  display: flex;
  height: 100%;
  min-width: 100%;
  border-bottom: 1px solid var(--line);
  cursor: default;
}
.head {
  height: 28px;
  color: var(--mute);
  font-size: 12px;
}
.cell {
  position: relative;
  display: flex;
  flex: 0 0 auto;
  align-items: center;
  min-width: 0;
  padding: 0 8px;
  overflow: hidden;
  font-size: 13px;
  background: var(--bed);
}
.pinned {
  position: sticky;
  z-index: 2;
  border-right: 1px solid var(--line);
}
.row:hover .cell {
  background: color-mix(in srgb, var(--raft) 60%, var(--bed));
}
.selected .cell,
.selected:hover .cell {
  background: var(--raft2);
}
.selected .block {
  box-shadow: inset 0 0 0 1px color-mix(in srgb, var(--glass) 55%, transparent);
}
.current .here {
  box-shadow: inset 0 0 0 2px var(--glass);
}
.current .cell:first-child {
  color: var(--bone);
  font-weight: 600;
}
.guessed {
  color: var(--mute);
}
.grip {
  position: absolute;
  top: 0;
  right: 0;
  width: 7px;
  height: 100%;
  cursor: col-resize;
}
.rate {
  font-size: 12px;
  white-space: nowrap;
}
.table > .empty {
  position: absolute;
  inset: 40px 0 0;
  height: auto;
}
</style>
