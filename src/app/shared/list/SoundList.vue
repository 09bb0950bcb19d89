<script setup lang="ts">
import type { Sound } from '@core/library';
import { fieldOf, lengthOf, nameOf } from '@core/library';
import { categoryName } from '@core/suggest';
import { useElementSize } from '@vueuse/core';
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue';
import { useAudition } from '../../stores/audition';
import { useLibrary } from '../../stores/library';
import { usePrefs } from '../../stores/prefs';
import ContourView from './ContourView.vue';
import SortHead from './SortHead.vue';
import { bringsSounds, dragSounds, droppedSounds } from '../take/drag';
import { count as shownCount, seconds, things } from '../controls/format';
import { useRowWindow } from './useRowWindow';

const props = defineProps<{
  ids: Uint32Array | number[];
  /** Rows in all, where some are still on their way. */
  count?: number;
  /** How many takes each row stands for. */
  takes?: Uint32Array;
  /** What is said of single rows, by the sound's id. */
  remarks?: Pick<ReadonlyMap<number, string>, 'get'>;
  /** Why single rows are listed, as far as that was asked for, by the sound's id. */
  reasons?: ReadonlyMap<number, string>;
  /** Rows with which a part of the list begins. */
  headings?: readonly { at: number; text: string; count: number }[];
  currentId?: number;
  /** Ids of selected rows, where several may be. */
  selected?: ReadonlySet<number>;
  /** Whether the current row opens; its content is the default slot. */
  opens?: boolean;
  sort?: { key: string; down: boolean };
  label: string;
  /** What is asked for: while it stays the same, the list stays where it is. */
  question?: string;
  /** Whether rows are put in order by hand. */
  reorders?: boolean;
}>();
const emit = defineEmits<{
  choose: [id: number, event: MouseEvent];
  sort: [key: string];
  act: [id: number];
  unfold: [id: number];
  /** A row is pointed at. */
  point: [id: number];
  /** Rows dropped before another one, or behind the last. */
  place: [ids: number[], before: number | undefined];
}>();

const library = useLibrary();
const audition = useAudition();
const prefs = usePrefs();
const scroller = useTemplateRef('scroller');
const ruler = useTemplateRef('ruler');
const { width: rulerWidth } = useElementSize(ruler);
const { width: inner } = useElementSize(scroller);
/** The scroll bar's width, which the head has to leave free to stay in line. */
const gutter = computed(() => (inner.value > 0 && scroller.value ? scroller.value.offsetWidth - scroller.value.clientWidth : 0));

const ROW = 46;
const COMPACT = 32;
const rowHeight = computed(() => (prefs.compact ? COMPACT : ROW));
const OPENED = 158;
const HEADING = 26;
/** Rows fetched before they come into sight: two screens. */
const AHEAD = 36;
const PLUMB = 0.42;
const SPAN = 5.4;
const pixelsPerSecond = computed(() => Math.max(30, rulerWidth.value / SPAN));
const contour = computed(() => ({ width: rulerWidth.value, height: rowHeight.value }));
const seconds0 = [-2, -1, 1, 2, 3];

const currentIndex = computed(() => (props.currentId === undefined ? -1 : props.ids.indexOf(props.currentId)));
const isOpen = (index: number) => props.opens === true && index === currentIndex.value;

const { rows, total, reveal } = useRowWindow(scroller, () => ({
  count: props.count ?? props.ids.length,
  height: rowHeight.value,
  opened: props.opens && currentIndex.value >= 0 ? { index: currentIndex.value, extra: OPENED } : undefined,
  headings: props.headings?.length ? { rows: props.headings.map((h) => h.at), extra: HEADING } : undefined,
}));
const headingOf = computed(() => new Map(props.headings?.map((h) => [h.at, h])));
/** What each row in sight shows; a row whose labels are on their way is as empty as it is high, not another kind of row. */
const listed = computed(() =>
  rows.value.map((row) => {
    const id = props.ids[row.index];
    const sound = library.sounds.get(id);
    const said = { remark: props.remarks?.get(id), reason: props.reasons?.get(id) };
    return { ...row, ...said, id, sound, takes: props.takes?.[row.index] ?? 1, heading: headingOf.value.get(row.index) };
  }),
);

/** Rows that come into sight next, if the list moves on as it did last. */
let firstShown = 0;
function ahead(shown: readonly { index: number }[]): number[] {
  const first = shown[0]?.index ?? 0;
  const from = first < firstShown ? first - AHEAD : (shown.at(-1)?.index ?? 0) + 1;
  firstShown = first;
  return Array.from(props.ids.slice(Math.max(0, from), Math.max(0, from + AHEAD)));
}
watch(
  [rows, () => props.ids, () => library.revision],
  () => {
    const shown = rows.value.map((r) => props.ids[r.index]).filter((id) => id !== undefined);
    library.shown = shown;
    // What the next turn of the wheel brings into sight is fetched along.
    const near = [...shown, ...ahead(rows.value)];
    void library.need(near);
    void library.needPeaks(near);
  },
  { immediate: true },
);

/** The row that is to be brought into view as soon as it is listed. */
let wanted = props.currentId;
let asked = props.question;
watch(
  () => props.currentId,
  (id) => (wanted = id),
);
watch(
  [() => props.ids, currentIndex],
  (_, before) => {
    const fresh = props.question !== asked;
    asked = props.question;
    if (wanted !== undefined && currentIndex.value >= 0) {
      wanted = undefined;
      void nextTick(() => reveal(currentIndex.value));
    } else if (fresh) {
      // Another question begins at its best answer, wherever the row that one was on stands now.
      wanted = undefined;
      if (scroller.value) scroller.value.scrollTop = 0;
    } else if (before && Math.abs(currentIndex.value - (before[1] ?? -1)) === 1) void nextTick(() => reveal(currentIndex.value));
  },
  { immediate: true, flush: 'post' },
);

const under = (s: Sound) =>
  [s.fields.catId ? categoryName(s.fields.catId as string) : (s.fields.folder as string), s.fields.library].filter(Boolean).join(' · ');
const origin = (s: Sound, key: string) => `${fieldOf(key).label}: ${String(s.fields[key] ?? 'none')}${s.from[key] ? ` (from ${s.from[key]})` : ''}`;
const sounds = (id: number) => audition.sound?.id === id;

const licence = (s: Sound | undefined) => s && String(s.fields.licence ?? 'none').replace(/ \d\.\d$/, '');

const lit = (id: number) => sounds(id) && (audition.playing || props.opens);

/** Dragging a selected row takes all selected ones along. */
function drag(event: DragEvent, id: number): void {
  const taken = props.selected?.has(id) ? [...props.selected] : [id];
  const { carried } = audition;
  dragSounds(event, taken, taken.length === 1 && carried?.id === id ? carried : undefined);
}

/** The row before which what is dragged would land. */
const landing = ref(-1);
function over(event: DragEvent, index: number): void {
  if (!props.reorders || !bringsSounds(event)) return;
  event.preventDefault();
  const { top, height } = (event.currentTarget as HTMLElement).getBoundingClientRect();
  landing.value = event.clientY > top + height / 2 ? index + 1 : index;
}
function land(event: DragEvent): void {
  const ids = droppedSounds(event);
  const at = landing.value;
  landing.value = -1;
  if (props.reorders && ids && at >= 0) emit('place', ids, props.ids[at]);
}

const heads = [
  { key: 'fxName', label: 'Sound' },
  { key: 'length', label: 'Length' },
  { key: 'channels', label: 'Ch' },
  { key: 'licence', label: 'Licence' },
];

defineExpose({ focus: () => scroller.value?.focus() });
</script>

<template>
  <div
    class="list"
    role="grid"
    :aria-label="label"
    :aria-rowcount="(props.count ?? ids.length) + 1"
    aria-colcount="5"
    :aria-multiselectable="selected !== undefined"
  >
    <div role="rowgroup">
      <div class="row head" role="row" aria-rowindex="1" :style="{ marginRight: `${gutter}px` }">
        <span role="columnheader"><span class="unseen">Heard</span></span>
        <SortHead :column="heads[0].key" :label="heads[0].label" :sort="sort" @sort="(key) => emit('sort', key)" />
        <span ref="ruler" role="columnheader" class="ruler mono">
          <span class="unseen">Contour</span>
          <span v-for="s in seconds0" :key="s" class="tick" aria-hidden="true" :style="{ left: `${rulerWidth * PLUMB + s * pixelsPerSecond}px` }"
            >{{ s > 0 ? '+' : '' }}{{ s }} s</span
          >
          <span class="tick plumb" aria-hidden="true" :style="{ left: `${rulerWidth * PLUMB}px` }">anchor</span>
        </span>
        <SortHead
          v-for="head in heads.slice(1)"
          :key="head.key"
          class="end"
          :column="head.key"
          :label="head.label"
          :sort="sort"
          @sort="(key) => emit('sort', key)"
        />
      </div>
    </div>
    <div ref="scroller" class="scroll" role="rowgroup" tabindex="0" :aria-label="`${label}, ${things(props.count ?? ids.length, 'row')}`">
      <div role="presentation" :style="{ height: `${total}px`, position: 'relative' }">
        <div
          v-for="item in listed"
          :key="item.key"
          class="item"
          role="presentation"
          :class="{ current: item.index === currentIndex, selected: selected?.has(item.id) }"
          :style="{ transform: `translateY(${item.top}px)` }"
        >
          <div v-if="item.heading" class="heading" role="row">
            <span role="gridcell" aria-colspan="6" class="cut" :title="item.heading.text"
              >{{ item.heading.text }} <span class="mono mute">{{ shownCount(item.heading.count) }}</span></span
            >
          </div>
          <div
            class="row"
            role="row"
            :aria-rowindex="item.index + 2"
            :aria-selected="selected ? selected.has(item.id) : item.index === currentIndex"
            draggable="true"
            :data-sound="item.id"
            :class="{ compact: prefs.compact, before: landing === item.index, behind: landing === ids.length && item.index === ids.length - 1 }"
            @pointerenter="emit('point', item.id)"
            @dragstart="drag($event, item.id)"
            @dragover="over($event, item.index)"
            @dragleave="landing = -1"
            @drop="land"
            @click="emit('choose', item.id, $event)"
            @dblclick="emit('act', item.id)"
          >
            <span role="gridcell" class="dot" :class="{ heard: item.sound?.fields.heard }" :title="item.sound?.fields.heard ? 'Heard' : 'Not heard yet'">
              <span class="unseen">{{ item.sound?.fields.heard ? 'heard' : 'not heard' }}</span>
            </span>
            <span role="gridcell" class="name" :class="{ loading: !item.sound }">
              <span class="cut title" :title="item.reason || (item.sound && origin(item.sound, 'fxName'))"
                ><span v-if="item.sound && library.absence(item.sound)" class="gone">{{ `${library.absence(item.sound)} ` }}</span
                >{{ item.sound && nameOf(item.sound) }}</span
              >
              <span class="cut mute small" :title="item.sound && origin(item.sound, 'catId')"
                ><button v-if="item.takes > 1" class="takes" @click.stop="emit('unfold', item.id)">{{ item.takes }} takes</button
                ><span v-if="item.remark" class="remark" :title="item.remark">{{ item.remark }} · </span>{{ item.sound && under(item.sound) }}</span
              >
            </span>
            <span role="gridcell" class="wave">
              <ContourView :sound="item.sound" :lit="lit(item.id)" :plumb="PLUMB" :pixels-per-second="pixelsPerSecond" :size="contour" />
            </span>
            <span role="gridcell" class="mono end mute">{{ item.sound && seconds(lengthOf(item.sound)) }}</span>
            <span role="gridcell" class="mono end mute">{{ item.sound?.format.channels }}</span>
            <span role="gridcell" class="end">
              <span :class="item.sound?.fields.licence ? 'licence' : 'mute small'" :title="item.sound && origin(item.sound, 'licence')">{{
                licence(item.sound)
              }}</span>
            </span>
          </div>
          <div v-if="isOpen(item.index)" class="opened" role="row" :aria-rowindex="item.index + 2">
            <div role="gridcell" aria-colspan="6"><slot /></div>
          </div>
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.list {
  display: grid;
  grid-template-rows: 26px minmax(0, 1fr);
  height: 100%;
  min-height: 0;
}
.row {
  display: grid;
  grid-template-columns: 30px minmax(150px, 0.62fr) minmax(220px, 1fr) 62px 36px 86px;
  align-items: center;
  height: 46px;
  padding-right: 12px;
  cursor: default;
  /* What changes inside of a row moves nothing outside of it. */
  contain: layout style;
}
.compact {
  height: 32px;
}
/* One line: the name, and behind it as much as there is room for. */
.compact .name {
  grid-template-columns: minmax(0, max-content) minmax(0, 1fr);
  align-items: baseline;
  gap: 8px;
}
.head {
  height: 26px;
  border-bottom: 1px solid var(--line);
  border-top: 1px solid var(--line);
  color: var(--mute);
  font-size: 12px;
}
.ruler {
  position: relative;
  height: 100%;
  overflow: hidden;
}
.tick {
  position: absolute;
  top: 5px;
  transform: translateX(-50%);
  color: var(--mute);
}
.plumb {
  color: var(--amber);
}
.scroll {
  overflow-y: scroll;
  contain: strict;
}
.scroll:focus-visible {
  outline: none;
}
.scroll:focus-visible .current {
  box-shadow: inset 3px 0 var(--sky);
}
.item {
  position: absolute;
  left: 0;
  right: 0;
  border-bottom: 1px solid var(--line);
}
.item:hover {
  background: color-mix(in srgb, var(--raft) 50%, transparent);
}
.heading {
  display: flex;
  align-items: center;
  height: 26px;
  padding: 0 12px 0 30px;
  background: var(--bed);
  border-bottom: 1px solid var(--line);
  color: var(--mute);
  font-size: 12.5px;
}
.before {
  box-shadow: inset 0 2px var(--amber);
}
.behind {
  box-shadow: inset 0 -2px var(--amber);
}
.selected {
  background: var(--raft2);
}
.current {
  background: var(--raft);
}
.current .title {
  color: var(--bone);
  font-weight: 650;
}
.dot::before {
  content: '';
  display: block;
  width: 7px;
  height: 7px;
  margin: 0 auto;
  border-radius: 50%;
  border: 1.5px solid var(--faint);
}
.heard::before {
  border-color: var(--glass);
  background: var(--glass);
}
.name {
  display: grid;
  min-width: 0;
  padding-right: 10px;
}
.takes {
  margin-right: 6px;
  padding: 0 6px;
  border: 1px solid var(--line);
  border-radius: 5px;
  background: none;
  color: var(--glass);
  font-size: 12px;
  cursor: pointer;
}
.remark {
  color: var(--sky);
}
.gone {
  color: var(--coral);
  font-size: 12px;
}
.small {
  font-size: 12px;
}
.wave {
  height: 100%;
  min-width: 0;
}
.end {
  text-align: right;
  font-size: 13px;
}
.licence {
  padding: 1px 6px;
  border: 1px solid var(--line);
  border-radius: 5px;
  font-size: 12px;
  color: var(--mute);
}
.loading .title {
  width: 45%;
  height: 12px;
  border-radius: 3px;
  background: var(--raft);
}
</style>
