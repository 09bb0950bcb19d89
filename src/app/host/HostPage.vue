<script setup lang="ts">
import { frameRate, frameToSample, toTimecode } from '@core/scene';
import type { HostAction, HostItem, HostState, HostTransport } from '@core/schemas';
import { HostLink, type HostConnection } from '@platform/elsewhere/host';
import { useEventListener, useElementSize, usePreferredDark, useRafFn } from '@vueuse/core';
import { Alert, Button, ConfigProvider, Select } from 'ant-design-vue';
import { computed, onMounted, onUnmounted, ref, shallowRef, watch, watchEffect } from 'vue';
import { repairAria } from '../shared/controls/repairAria';
import { antdTheme } from '../theme/antd';
import { paint } from '../theme/tokens';
import SessionFoot from './SessionFoot.vue';
import { Sounding } from './sounding';

/** A stand-in for a workstation: tracks, what lies on them, a cursor, a range and a transport. Plain on purpose. */
const SOUNDS = 'application/x-cormorant-sounds';

const dark = usePreferredDark();
const theme = computed(() => antdTheme(dark.value ? 'dark' : 'light'));
watchEffect(() => paint(dark.value ? 'dark' : 'light'));

const base = new URL('.', location.href).href;
const connection = ref<HostConnection>('connecting');
const state = shallowRef<HostState>();
const transport = shallowRef<HostTransport>();
const fault = ref('');
const link = new HostLink(base, 'the host itself', {
  connection: (now) => (connection.value = now),
  state: (now) => {
    link.rate = now.rate;
    state.value = now;
  },
  transport: (now) => (transport.value = now),
  wanted: () => undefined,
});
onMounted(() => {
  repairAria(document.body);
  link.connect();
});
onUnmounted(() => link.close());

async function act(action: HostAction): Promise<void> {
  try {
    await link.act(action);
    fault.value = '';
  } catch (error) {
    fault.value = (error as Error).message;
  }
}

// Where it is
const here = ref(0);
useRafFn(() => {
  const known = link.positionAt(performance.now());
  here.value = known?.playing ? known.at : (state.value?.cursor ?? 0);
});
const rate = computed(() => state.value?.rate ?? 48_000);
const fps = computed(() => frameRate(state.value?.fps ?? '24'));
const perFrame = computed(() => frameToSample(1000, fps.value, rate.value) / 1000);
const timecode = (sample: number) => toTimecode((state.value?.startFrame ?? 0) + Math.floor(sample / perFrame.value + 1e-6), fps.value);
const isPlaying = computed(() => transport.value?.playing ?? false);
/** Where it was asked to go, until it is there: keys may be quicker. */
let goal: number | undefined;
async function locate(to: number): Promise<void> {
  const at = (goal = Math.max(0, Math.round(to)));
  await act({ do: 'locate', at });
  if (goal === at) goal = undefined;
}

// What is heard
const sounding = new Sounding(base);
watch([transport, () => state.value?.items], () => {
  if (!isPlaying.value || !state.value) return sounding.stop();
  void sounding.play(state.value, () => {
    const known = link.positionAt(performance.now());
    return known?.playing ? known.at : undefined;
  });
});

// What is in sight
const seconds = ref(30);
const from = ref(0);
const spans = [5, 10, 30, 60, 300, 1800].map((value) => ({ value, label: value < 60 ? `${value} s` : `${value / 60} min` }));
const sight = ref<HTMLElement>();
const { width } = useElementSize(sight);
const perPixel = computed(() => (seconds.value * rate.value) / Math.max(1, width.value));
const left = (sample: number) => `${(sample - from.value) / perPixel.value}px`;
const wide = (samples: number) => `${Math.max(2, samples / perPixel.value)}px`;
const sampleAt = (event: { clientX: number }) =>
  Math.max(0, Math.round(from.value + (event.clientX - sight.value!.getBoundingClientRect().left) * perPixel.value));
function scroll(event: WheelEvent): void {
  from.value = Math.max(0, from.value + (event.deltaX + event.deltaY) * perPixel.value);
}
const ticks = computed(() => {
  const every = [1, 5, 10, 60, 300].find((s) => (s * rate.value) / perPixel.value > 90) ?? 600;
  const first = Math.ceil(from.value / rate.value / every) * every;
  return Array.from({ length: Math.ceil(seconds.value / every) + 1 }, (_, i) => (first + i * every) * rate.value);
});

// The ruler: a click locates, a drag selects a range
const dragged = ref<{ start: number; end: number }>();
const range = computed(() => dragged.value ?? state.value?.range);
function hold(event: PointerEvent, move: (sample: number, event: PointerEvent) => void, done: (moved: boolean) => void): void {
  const target = event.currentTarget as HTMLElement;
  target.setPointerCapture(event.pointerId);
  const at = event.clientX;
  let moved = false;
  const stop = new AbortController();
  target.addEventListener(
    'pointermove',
    (e) => {
      moved ||= Math.abs(e.clientX - at) > 3;
      if (moved) move(sampleAt(e), e);
    },
    stop,
  );
  const end = () => {
    stop.abort();
    done(moved);
  };
  target.addEventListener('pointerup', end, stop);
  target.addEventListener('pointercancel', end, stop);
}
function rule(event: PointerEvent): void {
  const begun = sampleAt(event);
  hold(
    event,
    (at) => (dragged.value = { start: Math.min(begun, at), end: Math.max(begun + 1, at) }),
    (moved) => {
      if (moved && dragged.value) void act({ do: 'range', range: dragged.value });
      else void locate(begun);
      dragged.value = undefined;
    },
  );
}

// Items: moved, and pulled at their edges as far as their files go
const chosen = ref<number>();
const held = shallowRef<HostItem>();
const items = computed(() => state.value?.items.map((i) => (held.value?.id === i.id ? held.value : i)) ?? []);
const on = (track: number) => items.value.filter((i) => i.track === track);
const EDGE = 7;
function pulled(item: HostItem, edge: 'start' | 'end', by: number): HostItem {
  if (edge === 'end') return { ...item, length: Math.min(item.frames - item.from, Math.max(1, item.length + by)) };
  const moved = Math.max(-item.from, -item.at, Math.min(item.length - 1, by));
  return { ...item, at: item.at + moved, from: item.from + moved, length: item.length - moved };
}
function settle(was: HostItem, now: HostItem): void {
  const { id, at, track, from: begin, length } = now;
  if (length !== was.length || begin !== was.from) void act({ do: 'trim', item: id, at, from: begin, length });
  else if (at !== was.at || track !== was.track) void act({ do: 'move', item: id, at, track });
}
function grab(event: PointerEvent, item: HostItem): void {
  chosen.value = item.id;
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
  const edge = event.clientX - box.left < EDGE ? 'start' : box.right - event.clientX < EDGE ? 'end' : undefined;
  const begun = sampleAt(event);
  hold(
    event,
    (at, e) => {
      if (edge) return void (held.value = pulled(item, edge, at - begun));
      const lane = document.elementsFromPoint(e.clientX, e.clientY).find((el) => el instanceof HTMLElement && el.dataset.track);
      const track = Number((lane as HTMLElement | undefined)?.dataset.track ?? item.track);
      held.value = { ...item, at: Math.max(0, item.at + at - begun), track };
    },
    () => {
      if (held.value) settle(item, held.value);
      held.value = undefined;
    },
  );
}
function nudge(event: KeyboardEvent): void {
  const item = items.value.find((i) => i.id === chosen.value);
  const by = Math.round(perFrame.value) * (event.key === 'ArrowLeft' ? -1 : 1);
  event.preventDefault();
  if (item && event.altKey) settle(item, pulled(item, event.shiftKey ? 'start' : 'end', by));
  else if (item && event.shiftKey) settle(item, { ...item, at: Math.max(0, item.at + by) });
  else void locate((goal ?? state.value?.cursor ?? 0) + by);
}

// Sounds of another page, let go of over a track
function over(event: DragEvent): void {
  if (!event.dataTransfer?.types.includes(SOUNDS)) return;
  event.preventDefault();
  event.dataTransfer.dropEffect = 'copy';
}
function drop(event: DragEvent, track: number): void {
  if (!event.dataTransfer?.types.includes(SOUNDS)) return;
  event.preventDefault();
  link.want(track, sampleAt(event));
}

const last = computed(() => state.value?.steps.at(-1));
const undo = () => last.value && void act({ do: 'undo' });
const toggle = () => void act({ do: isPlaying.value ? 'stop' : 'play' });
const remove = () => chosen.value !== undefined && void act({ do: 'remove', items: [chosen.value] });
function select(by: number): void {
  const tracks = state.value?.tracks ?? [];
  const next = tracks[tracks.findIndex((t) => t.id === state.value?.selected) + by];
  if (next) void act({ do: 'select', track: next.id });
}
useEventListener(window, 'keydown', (event) => {
  if (event.target instanceof Element && event.target.closest('input, [role="combobox"], [role="option"]')) return;
  // A button that has the focus is pressed by Space, as everywhere; an item has nothing to press.
  if (event.key === ' ' && event.target instanceof Element && event.target.closest('button:not([data-item])')) return;
  const keys: Record<string, () => void> = {
    ' ': toggle,
    Delete: remove,
    Escape: () => void act({ do: 'range', range: null }),
    ArrowUp: () => select(-1),
    ArrowDown: () => select(1),
    Home: () => void locate(0),
  };
  if (event.key === 'ArrowLeft' || event.key === 'ArrowRight') return nudge(event);
  const isUndo = (event.ctrlKey || event.metaKey) && event.key === 'z';
  const run = isUndo ? undo : event.ctrlKey || event.metaKey ? undefined : keys[event.key];
  if (!run) return;
  event.preventDefault();
  run();
});
// One that was clicked gives the keys back to the page.
useEventListener(window, 'click', (event) => {
  if (event.detail > 0 && event.target instanceof Element) event.target.closest<HTMLElement>('button:not([data-item])')?.blur();
});
const colours: Record<string, string> = { sky: 'var(--sky)', coral: 'var(--coral)', moss: 'var(--moss)', plum: 'var(--plum)' };
const said: Record<HostConnection, string> = {
  connecting: 'Connecting …',
  connected: '',
  gone: 'The session is out of reach. It is tried again by itself.',
  newer: 'The session is of a newer version than this page. Load the page anew.',
};
const handles = ({ from: before, frames, length }: HostItem) =>
  `${(before / rate.value).toFixed(2)} s before, ${((frames - before - length) / rate.value).toFixed(2)} s behind`;
const tip = (item: HostItem) => `${item.name}, from ${timecode(item.at)}, ${(item.length / rate.value).toFixed(2)} s; more of its file: ${handles(item)}`;
</script>

<template>
  <ConfigProvider :theme="theme" :auto-insert-space-in-button="false">
    <div v-if="!state" class="empty" role="status">{{ said[connection] }}</div>
    <div v-else class="session">
      <header>
        <h1>{{ state.name }}</h1>
        <span class="mute">{{ state.rate / 1000 }} kHz, {{ state.bits }} bit, {{ state.fps }} frames a second</span>
        <Button size="small" @click="toggle">{{ isPlaying ? 'Stop' : 'Play' }}</Button>
        <output class="mono time" role="timer" aria-label="Time">{{ timecode(here) }}</output>
        <span v-if="range" class="mute"
          >Range <span class="mono">{{ timecode(range.start) }}</span> to <span class="mono">{{ timecode(range.end) }}</span>,
          <span class="mono">{{ ((range.end - range.start) / rate).toFixed(2) }} s</span></span
        >
        <Button v-if="state.range" size="small" @click="act({ do: 'range', range: null })">No range</Button>
        <span class="end">
          <Button size="small" :disabled="!last" :title="last && `${last.label}, by ${last.by}`" @click="undo">Take back</Button>
          <Select v-model:value="seconds" size="small" :options="spans" aria-label="Time in sight" />
        </span>
      </header>
      <Alert v-if="fault || said[connection]" type="warning" banner :message="fault || said[connection]" />
      <div class="ground" @wheel.prevent="scroll">
        <div class="corner mute">Tracks</div>
        <div ref="sight" class="ruler" role="group" aria-label="Time" @pointerdown="rule">
          <span v-for="tick in ticks" :key="tick" class="tick mono" :style="{ left: left(tick) }">{{ timecode(tick) }}</span>
          <span v-if="range" class="range" :style="{ left: left(range.start), width: wide(range.end - range.start) }"></span>
        </div>
        <template v-for="track in state.tracks" :key="track.id">
          <button
            type="button"
            class="name cut"
            :class="{ selected: track.id === state.selected }"
            :aria-pressed="track.id === state.selected"
            @click="act({ do: 'select', track: track.id })"
          >
            {{ track.name }}
          </button>
          <div class="lane" role="group" :aria-label="`Track ${track.name}`" :data-track="track.id" @dragover="over" @drop="drop($event, track.id)">
            <button
              v-for="item in on(track.id)"
              :key="item.id"
              type="button"
              class="item"
              :class="{ chosen: item.id === chosen }"
              :style="{ left: left(item.at), width: wide(item.length), '--own': colours[item.colour ?? ''] }"
              :data-item="item.id"
              :aria-label="tip(item)"
              :title="tip(item)"
              @pointerdown="grab($event, item)"
              @focus="chosen = item.id"
            >
              <span class="cut">{{ item.name }}</span>
            </button>
            <span v-if="range" class="range" :style="{ left: left(range.start), width: wide(range.end - range.start) }"></span>
            <span class="cursor" :style="{ left: left(here) }"></span>
          </div>
        </template>
      </div>
      <SessionFoot :state="state" @act="act" />
    </div>
  </ConfigProvider>
</template>

<style scoped>
.session {
  display: grid;
  grid-template-rows: auto auto minmax(0, 1fr) auto;
  height: 100%;
  min-width: 720px;
}
.empty {
  display: grid;
  place-items: center;
  height: 100%;
}
header {
  display: flex;
  flex-wrap: wrap;
  grid-row: 1;
  gap: 16px;
  align-items: center;
  padding: 8px 16px;
  background: var(--raft);
}
h1 {
  color: var(--text);
  font-size: 15px;
}
.mute {
  color: var(--mute);
}
.time {
  color: var(--bone);
  font-size: 18px;
}
.end {
  display: flex;
  gap: 8px;
  margin-left: auto;
}
.ground {
  grid-row: 3;
  display: grid;
  grid-template-columns: 150px minmax(0, 1fr);
  grid-auto-rows: 44px;
  grid-template-rows: 28px;
  align-content: start;
  overflow: hidden auto;
}
.corner {
  padding: 5px 16px;
}
.ruler,
.lane {
  position: relative;
  overflow: hidden;
  border-bottom: 1px solid var(--line);
}
.ruler {
  cursor: text;
  touch-action: none;
}
.tick {
  position: absolute;
  padding: 6px 0 6px 4px;
  border-left: 1px solid var(--line);
  color: var(--mute);
  font-size: 11px;
  pointer-events: none;
}
.name {
  padding: 0 16px;
  border: 0;
  border-bottom: 1px solid var(--line);
  background: none;
  text-align: left;
}
.name.selected {
  background: var(--raft2);
  color: var(--bone);
  font-weight: 600;
}
.item {
  position: absolute;
  top: 4px;
  bottom: 4px;
  padding: 0 6px;
  border: 1px solid var(--own, var(--mute));
  border-radius: 0;
  background: var(--raft2);
  font-size: 12px;
  text-align: left;
  touch-action: none;
  cursor: grab;
}
.item span {
  display: block;
  pointer-events: none;
}
.item.chosen {
  outline: 2px solid var(--bone);
}
.range {
  position: absolute;
  inset: 0 auto 0 auto;
  background: var(--glass);
  opacity: 0.18;
  pointer-events: none;
}
.cursor {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 1px;
  background: var(--bone);
  pointer-events: none;
}
</style>
