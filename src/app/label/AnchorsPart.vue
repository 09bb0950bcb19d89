<script setup lang="ts">
import { nameOf, type CutSlice, type Sound } from '@core/library';
import { anchorReasons } from '@core/suggest';
import type { AnchorDecision, AnchorRow } from '@platform/index';
import { Button, Checkbox, Slider, Tooltip } from 'ant-design-vue';
import { computed, ref, shallowRef, watch } from 'vue';
import QueryLine from '../find/QueryLine.vue';
import AuditionBar from '../shared/listen/AuditionBar.vue';
import { useCommands, withKey } from '../shared/controls/commands';
import { count, things } from '../shared/controls/format';
import SoundList from '../shared/list/SoundList.vue';
import { tell } from '../shell/notice';
import { useAudition } from '../stores/audition';
import { useFind } from '../stores/find';
import { useIntake } from '../stores/intake';
import { useLabels } from '../stores/labels';
import { useLibrary } from '../stores/library';
import { useLoose } from '../stores/loose';
import { usePrefs } from '../stores/prefs';
import { useScene } from '../stores/scene';
import { catalogue, viewer } from '../stores/workers';
import ReelWave from './ReelWave.vue';
import ScopeBar from './ScopeBar.vue';

const find = useFind();
const labels = useLabels();
const library = useLibrary();
const intake = useIntake();
const audition = useAudition();
const loose = useLoose();
const prefs = usePrefs();
const scene = useScene();

const rows = shallowRef<AnchorRow[]>([]);
const unknown = shallowRef<number[]>([]);
const begun = ref(false);
const at = ref(0);
const level = ref(90);
const clicks = ref(true);
/** Where anchors were moved that nobody decided on yet. */
const placed = shallowRef<ReadonlyMap<number, number>>(new Map());
/** Seconds that are seen around the anchor. */
const SEEN = 1.2;

let newest = 0;
async function begin(): Promise<void> {
  const mine = ++newest;
  const found = await labels.run((l, report) => l.reviewAnchors(labels.ids, report));
  if (!found || mine !== newest) return;
  rows.value = found.rows;
  unknown.value = found.unknown;
  begun.value = true;
  at.value = Math.max(0, Math.min(at.value, found.rows.length - 1));
}
watch(
  () => [find.answer.ids, labels.scopeNow] as const,
  ([ids], old) => {
    if (old && ids.length === old[0].length && ids.every((id, i) => id === old[0][i])) return;
    void begin();
  },
  { immediate: true },
);
// Undo, or another tab, may have taken decisions back.
watch(
  () => library.undoState.redo,
  (redo) => {
    if (redo !== undefined && begun.value) void begin();
  },
);

const current = computed(() => rows.value[at.value]);
const sound = computed(() => current.value && library.sounds.get(current.value.id));
const frame = computed(() => placed.value.get(current.value?.id ?? 0) ?? current.value?.frame ?? 0);
const ids = computed(() => rows.value.map((r) => r.id));
const byId = computed(() => new Map(rows.value.map((r) => [r.id, r])));
/** Of the rows in sight alone: there may be a hundred thousand. */
const remarks = computed(() => {
  const found = byId.value;
  return {
    get: (id: number) => {
      const { sure, kind } = found.get(id) ?? {};
      return sure === undefined ? undefined : `${Math.round(sure * 100)} % sure, ${kind}`;
    },
  };
});
const above = computed(() => rows.value.filter((r) => r.sure * 100 >= level.value));
const whole = computed<CutSlice[]>(() => (sound.value ? [{ start: 0, end: sound.value.format.frames, anchor: frame.value }] : []));
const onsets = shallowRef<ArrayLike<number>>([]);
watch(
  sound,
  async (now) => {
    if (!now) return;
    const [facts] = await catalogue.facts([now.id]);
    if (sound.value?.id === now.id) onsets.value = facts?.onsets ?? [];
  },
  { immediate: true },
);

async function go(index: number, sounding = prefs.playOnMove): Promise<void> {
  at.value = Math.max(0, Math.min(rows.value.length - 1, index));
  const { id } = current.value ?? {};
  if (id === undefined) return;
  const [own] = await library.need([id]);
  if (!own || current.value?.id !== id) return;
  audition.choose(own, sounding);
  audition.prepare(await library.need(ids.value.slice(at.value + 1, at.value + 3)));
}

/** Plays a moment around the anchor again and again, with a click on it. */
async function against(): Promise<void> {
  const item = sound.value && library.loadable(sound.value);
  if (!item || !sound.value) return;
  try {
    const wav = await viewer().against({ sound: { ...item.sound }, root: { ...item.root } }, frame.value);
    await loose.hear(new File([wav], `${nameOf(sound.value)} against a click.wav`));
  } catch (error) {
    tell.error(`${nameOf(sound.value)} cannot be played: ${(error as Error).message}`);
  }
}
function move(to: number): void {
  if (!current.value || !sound.value) return;
  const next = Math.max(0, Math.min(sound.value.format.frames - 1, Math.round(to)));
  placed.value = new Map(placed.value).set(current.value.id, next);
  if (clicks.value) void against();
}
const rate = computed(() => sound.value?.format.rate ?? 48_000);
const nudge = (seconds: number) => move(frame.value + seconds * rate.value);
const sceneFrame = computed(() => scene.rate.den / scene.rate.num);
/** The next onset from where the anchor is; the end of the list leaves it where it is. */
function toOnset(by: 1 | -1): void {
  const list = Array.from(onsets.value);
  const to = by > 0 ? list.find((o) => o > frame.value + 1) : list.findLast((o) => o < frame.value - 1);
  if (to === undefined) tell.info(by > 0 ? 'No onset comes after this one' : 'No onset comes before this one');
  else move(to);
}

async function decide(chosen: readonly AnchorRow[], label: string): Promise<boolean> {
  const decisions = chosen.map(({ id, frame: suggested }): AnchorDecision => ({ id, frame: placed.value.get(id) ?? suggested, placed: placed.value.has(id) }));
  const kept = await labels.run((l) => l.decideAnchors(decisions, label));
  if (kept === undefined) return false;
  const gone = new Set(chosen.map((r) => r.id));
  rows.value = rows.value.filter((r) => !gone.has(r.id));
  placed.value = new Map([...placed.value].filter(([id]) => !gone.has(id)));
  return true;
}
async function accept(): Promise<void> {
  const row = current.value;
  if (!row) return;
  const place = at.value;
  if (await decide([row], `Anchor of ${sound.value ? nameOf(sound.value) : 'a sound'}`)) await go(Math.min(place, rows.value.length - 1));
}
async function acceptAbove(): Promise<void> {
  const chosen = above.value;
  const label = `Accept ${things(chosen.length, 'anchor')}`;
  if (await decide(chosen, label)) tell.done(`${label}; Ctrl Z takes them back`);
}
async function skip(): Promise<void> {
  const row = current.value;
  if (!row) return;
  rows.value = [...rows.value.filter((r) => r.id !== row.id), row];
  await go(at.value);
}
async function measure(): Promise<void> {
  const missing = [...unknown.value];
  unknown.value = [];
  await intake.measure(missing);
  await begin();
}

const any = () => current.value !== undefined;
useCommands('Labelling', [
  { label: 'Accept the anchor', keys: ['Enter'], run: () => void accept(), enabled: any },
  { label: 'Accept all anchors above the level', keys: ['Shift+Enter'], run: () => void acceptAbove(), enabled: any },
  { label: 'Skip', keys: ['s'], run: () => void skip(), enabled: any },
  { label: 'Next sound', keys: ['ArrowDown'], run: () => void go(at.value + 1), enabled: any },
  { label: 'Previous sound', keys: ['ArrowUp'], run: () => void go(at.value - 1), enabled: any },
  { label: 'Play or stop', keys: ['Space'], run: () => (audition.playing ? audition.stop() : void go(at.value, true)), enabled: any },
  { label: 'Hear the anchor against a click', keys: ['c'], run: () => void against(), enabled: any },
  { label: 'Anchor earlier by 1 ms', keys: ['ArrowLeft'], run: () => nudge(-0.001), enabled: any },
  { label: 'Anchor later by 1 ms', keys: ['ArrowRight'], run: () => nudge(0.001), enabled: any },
  { label: 'Anchor earlier by a sample', keys: ['Shift+ArrowLeft'], run: () => move(frame.value - 1), enabled: any },
  { label: 'Anchor later by a sample', keys: ['Shift+ArrowRight'], run: () => move(frame.value + 1), enabled: any },
  { label: 'Anchor earlier by a frame of the scene', keys: ['Alt+ArrowLeft'], run: () => nudge(-sceneFrame.value), enabled: any },
  { label: 'Anchor later by a frame of the scene', keys: ['Alt+ArrowRight'], run: () => nudge(sceneFrame.value), enabled: any },
  { label: 'Anchor to the onset before', keys: ['Ctrl+ArrowLeft'], run: () => toOnset(-1), enabled: any },
  { label: 'Anchor to the next onset', keys: ['Ctrl+ArrowRight'], run: () => toOnset(1), enabled: any },
]);
const seen = (s: Sound) => `${(frame.value / s.format.rate).toFixed(4)} s`;
</script>

<template>
  <div class="stage">
    <div class="label-part">
      <QueryLine />
      <div class="tools line">
        <ScopeBar />
        <span class="mute">Accept all from</span>
        <span class="level" data-slider-label="Level"><Slider v-model:value="level" :min="30" :max="99" :tip-formatter="(n?: number) => `${n} % sure`" /></span>
        <span class="mono">{{ level }} %</span>
        <Tooltip :title="withKey('Accept all from this level on, as one step', 'Accept all anchors above the level')">
          <Button type="primary" size="small" :disabled="above.length === 0" @click="acceptAbove">Accept {{ count(above.length) }}</Button>
        </Tooltip>
        <span class="push" />
        <template v-if="unknown.length > 0">
          <span class="mute small">{{ things(unknown.length, 'sound') }} without a suggestion</span>
          <Button size="small" @click="measure">Measure them</Button>
        </template>
        <Checkbox v-model:checked="clicks">Hear every move against a click</Checkbox>
      </div>
      <div v-if="begun && rows.length === 0" class="empty">
        <strong>Every anchor of this list is decided on</strong>
        <span>Those that were set by hand or read from files stay as they are. Change the query above to go through others.</span>
      </div>
      <SoundList
        v-else
        class="rows"
        :ids="ids"
        :remarks="remarks"
        :current-id="current?.id"
        opens
        label="Anchors to decide on"
        @choose="(id) => go(ids.indexOf(id))"
      >
        <div v-if="sound && current" class="open">
          <div class="close">
            <ReelWave
              :key="sound.id"
              :around="SEEN"
              :reel="sound"
              :peaks="library.peaks.get(sound.id)"
              :slices="whole"
              :current="0"
              :within="(_a, _e, f) => f"
              @play="(f) => audition.play(f)"
              @anchor="(_i, f) => move(f)"
            />
          </div>
          <div class="tools buttons">
            <span class="mono">{{ seen(sound) }}</span>
            <span class="mute small cut" :title="anchorReasons[current.kind]">{{
              placed.has(current.id) ? 'placed by hand' : `${Math.round(current.sure * 100)} % sure: ${anchorReasons[current.kind]}`
            }}</span>
            <span class="push" />
            <Button
              size="small"
              :title="withKey('By a millisecond; Shift: a sample, Alt: a frame of the scene', 'Anchor earlier by 1 ms')"
              @click="nudge(-0.001)"
              >Earlier</Button
            >
            <Button size="small" :title="withKey('By a millisecond; Shift: a sample, Alt: a frame of the scene', 'Anchor later by 1 ms')" @click="nudge(0.001)"
              >Later</Button
            >
            <Button size="small" :title="withKey('To where the event before begins', 'Anchor to the onset before')" @click="toOnset(-1)">Onset before</Button>
            <Button size="small" :title="withKey('To where the next event begins', 'Anchor to the next onset')" @click="toOnset(1)">Next onset</Button>
            <Button
              size="small"
              :title="withKey('A moment around it, three times, with a click on the anchor', 'Hear the anchor against a click')"
              @click="against"
              >Against a click</Button
            >
            <Button size="small" :title="withKey('Later', 'Skip')" @click="skip">Skip</Button>
            <Button size="small" type="primary" :title="withKey('It is where it belongs', 'Accept the anchor')" @click="accept">Accept</Button>
          </div>
        </div>
      </SoundList>
    </div>
    <AuditionBar
      ><span class="mute">{{ things(rows.length, 'anchor') }} to decide on</span></AuditionBar
    >
  </div>
</template>

<style scoped>
.label-part {
  min-height: 0;
}
.line,
.buttons {
  white-space: nowrap;
}
.level {
  flex: 0 1 160px;
  min-width: 80px;
}
.rows {
  flex: 1;
}
.open {
  display: grid;
  grid-template-rows: 112px auto;
  gap: 6px;
  padding: 2px 12px 8px 34px;
}
.close {
  min-width: 0;
}
</style>
