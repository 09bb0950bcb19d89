<script setup lang="ts">
import { nameOf, type Sound } from '@core/library';
import { Alert, Button, Progress, Tooltip } from 'ant-design-vue';
import { computed, ref, shallowRef } from 'vue';
import QueryLine from '../find/QueryLine.vue';
import AuditionBar from '../shared/listen/AuditionBar.vue';
import { useCommands, withKey } from '../shared/controls/commands';
import { count, seconds, things } from '../shared/controls/format';
import NumberBox from '../shared/controls/NumberBox.vue';
import { tell } from '../shell/notice';
import { useAudition } from '../stores/audition';
import { fileWork } from '../stores/file-work';
import { useLabels } from '../stores/labels';
import { useSlices } from '../stores/slices';
import { catalogue } from '../stores/workers';
import ReelWave from './ReelWave.vue';
import ScopeBar from './ScopeBar.vue';
import SliceKeepBar from './SliceKeepBar.vue';
import SliceRows from './SliceRows.vue';
import SliceSettingsLine from './SliceSettingsLine.vue';

const cut = useSlices();
const labels = useLabels();
const audition = useAudition();
/** Sounds of a list that are shorter are no reels; one that was selected is one in any case. Seconds */
const shortest = ref(20);
/** Of a longer list reels have to be selected. */
const MOST = 5000;
const outcome = shallowRef<{ written: number; failed: { path: string; reason: string }[]; stopped?: string }>();

async function read(): Promise<void> {
  outcome.value = undefined;
  const { ids } = labels;
  if (ids.length > MOST)
    return tell.info(`Select the reels, or narrow the list: it has ${count(ids.length)} sounds, and more than ${count(MOST)} are not looked through`);
  const all = await catalogue.sounds(ids);
  const chosen = labels.scopeNow === 'selected';
  const reels = all.filter((s) => !s.excerpt && (chosen || s.format.frames >= shortest.value * s.format.rate));
  if (reels.length === 0)
    return tell.info(chosen ? 'What is selected are parts of reels already' : `No sound of this list is longer than ${shortest.value} seconds`);
  await cut.read(reels);
}

const draft = computed(() => cut.current);
const slice = computed(() => draft.value?.slices[cut.row]);
/** The reel with one slice as its region: all slices of a reel are played out of the same samples. */
const asRegion = (): Sound | undefined => {
  if (!draft.value || !slice.value) return undefined;
  const { start, end, anchor } = slice.value;
  const { reel } = draft.value;
  return { ...reel, marks: { ...reel.marks, anchor, region: { start, end } } };
};
function play(): void {
  const sound = asRegion();
  if (sound) audition.choose(sound, true);
}
function choose(at: number): void {
  const last = (draft.value?.slices.length ?? 0) - 1;
  const next = Math.max(0, Math.min(last, at));
  if (next === cut.row && at !== cut.row) return;
  cut.row = next;
  play();
}
function toggle(): void {
  if (audition.playing) audition.stop();
  else play();
}
/** The reel plays on, whatever its slices are. */
function playOn(frame: number): void {
  if (!draft.value) return;
  const { region: _, ...marks } = draft.value.reel.marks;
  audition.choose({ ...draft.value.reel, marks }, false);
  audition.play(Math.max(0, Math.min(draft.value.reel.format.frames - 1, frame)));
}
const here = () => Math.round(audition.sound?.id === draft.value?.reel.id ? audition.frame : (slice.value?.start ?? 0));
const step = (edge: 'start' | 'end', by: number) => {
  if (slice.value) void cut.setEdge(cut.row, edge, slice.value[edge] + Math.round(by * draft.value!.reel.format.rate));
};
async function split(): Promise<void> {
  if (!(await cut.split(cut.row, here()))) tell.info('Play into the slice first: it is split where it sounds, or where it was stopped');
}
async function slicedByHand(): Promise<void> {
  const { start, end } = cut.hand ?? {};
  if (start === undefined) return;
  cut.hand = undefined;
  await cut.add(start, end ?? here());
}
const any = () => slice.value !== undefined;

useCommands('Labelling', [
  { label: 'Read the reels and cut them', keys: ['Ctrl+Enter'], run: () => void read(), enabled: () => !cut.busy.reading },
  { label: 'Next slice', keys: ['ArrowDown'], run: () => choose(cut.row + 1), enabled: any },
  { label: 'Previous slice', keys: ['ArrowUp'], run: () => choose(cut.row - 1), enabled: any },
  { label: 'Play or stop', keys: ['Space'], run: toggle, enabled: any },
  { label: 'Play the reel on from here', keys: ['p'], run: () => playOn(here()), enabled: () => draft.value !== undefined },
  { label: 'Start of the slice earlier by 10 ms', keys: ['ArrowLeft'], run: () => step('start', -0.01), enabled: any },
  { label: 'Start of the slice later by 10 ms', keys: ['ArrowRight'], run: () => step('start', 0.01), enabled: any },
  { label: 'End of the slice earlier by 10 ms', keys: ['Alt+ArrowLeft'], run: () => step('end', -0.01), enabled: any },
  { label: 'End of the slice later by 10 ms', keys: ['Alt+ArrowRight'], run: () => step('end', 0.01), enabled: any },
  { label: 'Start of the slice earlier by 1 ms', keys: ['Shift+ArrowLeft'], run: () => step('start', -0.001), enabled: any },
  { label: 'Start of the slice later by 1 ms', keys: ['Shift+ArrowRight'], run: () => step('start', 0.001), enabled: any },
  { label: 'Split the slice where it sounds', keys: ['x'], run: () => void split(), enabled: any },
  { label: 'Join the slice with the next one', keys: ['g'], run: () => void cut.join(cut.row), enabled: any },
  { label: 'Drop the slice', keys: ['Delete'], run: () => cut.drop(cut.row), enabled: any },
  { label: 'An announcement, or a take', keys: ['w'], run: () => cut.alter(cut.row, { spoken: slice.value?.spoken ? undefined : true }), enabled: any },
  { label: 'Set in', keys: ['i'], run: () => void (cut.hand = { start: here() }), enabled: () => draft.value !== undefined },
  {
    label: 'Set out',
    keys: ['o'],
    run: () => cut.hand && here() > cut.hand.start && (cut.hand = { ...cut.hand, end: here() }),
    enabled: () => cut.hand !== undefined,
  },
  { label: 'Make a slice from in to out', keys: ['n'], run: () => void slicedByHand(), enabled: () => cut.hand !== undefined },
  { label: 'Take back the last change of slices', keys: ['Ctrl+z'], run: cut.back, enabled: () => (draft.value?.past.length ?? 0) > 0 },
]);
</script>

<template>
  <div class="stage">
    <div class="label-part">
      <QueryLine />
      <div class="tools top">
        <ScopeBar />
        <template v-if="labels.scopeNow === 'list'"
          ><span class="mute">longer than</span
          ><NumberBox class="box" :value="shortest" :min="0" :max="3600" unit="s" aria-label="Shortest reel" @set="(v) => (shortest = v)"
        /></template>
        <span class="push" />
        <template v-if="cut.busy.reading">
          <span class="mute small">Reading</span>
          <Progress :percent="Math.round(cut.busy.share * 100)" size="small" class="share" aria-label="Reading reels" />
          <bdi class="mute small cut now">{{ cut.busy.current }}</bdi>
          <Button size="small" @click="cut.cancel">Cancel</Button>
        </template>
        <Tooltip :title="withKey('Reads the reels and finds their takes; nothing is kept yet', 'Read the reels and cut them')">
          <Button :type="cut.list.length > 0 ? 'default' : 'primary'" :disabled="cut.busy.reading" @click="read">Find the takes</Button>
        </Tooltip>
      </div>
      <Alert
        v-if="outcome"
        class="outcome"
        :type="outcome.stopped || outcome.failed.length > 0 ? 'warning' : 'success'"
        :message="`${things(outcome.written, 'sound')} cut${outcome.stopped ? `. It ended early: ${outcome.stopped}` : ''}.`"
      >
        <template v-if="outcome.failed.length > 0" #description
          ><div v-for="f in outcome.failed.slice(0, 20)" :key="f.path">
            <bdi>{{ f.path }}</bdi>: {{ f.reason }}
          </div></template
        >
      </Alert>
      <template v-if="draft">
        <SliceSettingsLine />
        <div class="panes">
          <ul class="reels" role="listbox" aria-label="Reels">
            <li v-for="d in cut.list" :key="d.reel.id" role="presentation">
              <button
                class="line-button"
                role="option"
                :aria-selected="d.reel.id === cut.currentId"
                :class="{ here: d.reel.id === cut.currentId }"
                @click="cut.choose(d.reel.id)"
              >
                <bdi class="cut">{{ nameOf(d.reel) }}</bdi>
                <span class="count">{{
                  d.fault ? 'unread' : d.share < 1 && !d.peaks ? `${Math.round(d.share * 100)} %` : `${d.touched ? '✎ ' : ''}${d.slices.length}`
                }}</span>
              </button>
              <p v-if="d.fault" class="bad small">{{ d.fault }}</p>
            </li>
          </ul>
          <div class="reel">
            <div class="whole">
              <ReelWave
                :key="draft.reel.id"
                :reel="draft.reel"
                :peaks="draft.peaks"
                :slices="draft.slices"
                :current="cut.row"
                :hand="cut.hand"
                :within="cut.within"
                @choose="choose"
                @play="playOn"
                @edge="cut.setEdge"
                @anchor="(at, frame) => cut.alter(at, { anchor: frame, placed: true })"
              />
            </div>
            <div v-if="draft.slices.length === 0" class="empty">
              <strong>{{ draft.peaks ? 'No take stands out of its silence' : 'This reel is being read' }}</strong>
              <span v-if="draft.peaks">Let silence begin further down, or cut it by hand: P plays it, I sets in, O sets out, N makes a slice.</span>
            </div>
            <SliceRows v-else :draft="draft" @choose="choose">
              <div class="close">
                <div class="closer">
                  <ReelWave
                    close
                    :reel="draft.reel"
                    :peaks="draft.peaks"
                    :slices="draft.slices"
                    :current="cut.row"
                    :within="cut.within"
                    @choose="choose"
                    @play="playOn"
                    @edge="cut.setEdge"
                    @anchor="(at, frame) => cut.alter(at, { anchor: frame, placed: true })"
                  />
                </div>
                <div v-if="slice" class="tools buttons">
                  <span class="mono small mute"
                    >{{ seconds(slice.start / draft.reel.format.rate) }} – {{ seconds(slice.end / draft.reel.format.rate) }} s, anchor
                    {{ ((slice.anchor - slice.start) / draft.reel.format.rate).toFixed(3) }} s</span
                  >
                  <span class="push" />
                  <Button size="small" :title="withKey('Two slices, from where it sounds or was stopped', 'Split the slice where it sounds')" @click="split"
                    >Split here</Button
                  >
                  <Button size="small" :title="withKey('One slice with what lies between', 'Join the slice with the next one')" @click="cut.join(cut.row)"
                    >Join with next</Button
                  >
                  <Button
                    size="small"
                    :title="withKey('What somebody says of the takes to come, or a take', 'An announcement, or a take')"
                    @click="cut.alter(cut.row, { spoken: slice.spoken ? undefined : true })"
                    >{{ slice.spoken ? 'It is a take' : 'It is an announcement' }}</Button
                  >
                  <Button size="small" :title="withKey('It becomes no sound', 'Drop the slice')" @click="cut.drop(cut.row)">Drop</Button>
                </div>
              </div>
            </SliceRows>
          </div>
        </div>
        <SliceKeepBar @done="(o) => (outcome = o)" />
        <div v-if="fileWork.what === 'write'" class="tools" role="status">
          <span class="mute">Writing</span><Progress :percent="Math.round(fileWork.share * 100)" size="small" class="share" aria-label="Writing slices" />
          <bdi class="mute small cut now">{{ fileWork.current }}</bdi>
        </div>
      </template>
      <div v-else-if="!cut.busy.reading && !outcome" class="empty">
        <strong>Cut long recordings into takes</strong>
        <span
          >Choose reels by the query or by selecting them, and have their takes found. You see and hear every slice, move, split, join and name it; only then
          they become sounds, and Ctrl Z takes all of it back.</span
        >
      </div>
    </div>
    <AuditionBar
      ><span v-if="draft" class="mute">{{ things(draft.slices.length, 'slice') }} of {{ nameOf(draft.reel) }}</span></AuditionBar
    >
  </div>
</template>

<style scoped>
.label-part {
  min-height: 0;
}
.top,
.keep,
.sentence,
.buttons {
  white-space: nowrap;
}
.sentence {
  flex-wrap: wrap;
  row-gap: 6px;
}
.box {
  width: 92px;
}
.short {
  width: 64px;
}
.share {
  flex: 0 0 140px;
  margin: 0;
}
.now {
  max-width: 240px;
}
.outcome {
  margin: 0 16px 8px;
}
.panes {
  flex: 1;
  display: grid;
  grid-template-columns: 210px minmax(0, 1fr);
  min-height: 0;
  border-top: 1px solid var(--line);
}
.reels {
  margin: 0;
  padding: 8px;
  overflow-y: auto;
  list-style: none;
  border-right: 1px solid var(--line);
  background: var(--deep);
}
.here {
  background: var(--raft2);
}
.reel {
  display: grid;
  grid-template-rows: 116px minmax(0, 1fr);
  min-height: 0;
  min-width: 0;
}
.whole {
  border-bottom: 1px solid var(--line);
}
.close {
  display: grid;
  grid-template-rows: 110px auto;
  height: 150px;
  padding: 0 16px 6px 46px;
  background: var(--raft);
}
.closer {
  min-width: 0;
}
.keep {
  flex-wrap: wrap;
  row-gap: 6px;
  padding: 8px 16px;
  border-top: 1px solid var(--line);
}
.pattern {
  width: 170px;
}
.folder {
  width: 130px;
}
</style>
