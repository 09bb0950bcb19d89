<script setup lang="ts">
import type { Sound } from '@core/library';
import { lengthOf, nameOf } from '@core/library';
import type { Deal } from '@core/scene';
import { categoryName } from '@core/suggest';
import { Button, Input, Select, Tooltip } from 'ant-design-vue';
import { computed, ref, shallowRef } from 'vue';
import ContourView from '../shared/list/ContourView.vue';
import { dragSounds } from '../shared/take/drag';
import { useCommands, withKey } from '../shared/controls/commands';
import { seconds, things } from '../shared/controls/format';
import { useAudition } from '../stores/audition';
import { useTransport } from '../stores/transport';
import { useHands } from '../stores/hands';
import { usePlacing, type Landing } from '../stores/placing';
import { usePrefs } from '../stores/prefs';
import { useScene } from '../stores/scene';
import { useTrials } from '../stores/trials';
import PoolFilter from './PoolFilter.vue';
import { usePool } from '../shared/list/usePool';

/** Sounds to stand in for the selected cues, or to place where none is selected: the picture need not be left to find them. */
const scene = useScene();
const audition = useAudition();
const transport = useTransport();
const prefs = usePrefs();
const hands = useHands();
const trials = useTrials();
const placing = usePlacing();
const pool = usePool();
const { list, headings, query } = pool;
const search = ref<{ focus: () => void; blur: () => void }>();
const several = computed(() => hands.selected.size > 1);
/** Sounds that are taken along when the next ones are placed. */
const picked = shallowRef<ReadonlySet<number>>(new Set());
const landingNames: Record<Landing, string> = {
  playhead: 'on the playhead',
  marker: 'on the next marker',
  cut: 'on the next cut',
  event: 'on the next event of the picture',
  hit: 'ending at the next hit',
};
const landings = Object.entries(landingNames).map(([value, label]) => ({ value, label }));
const wayNames = [
  { value: 'behind', label: 'one behind another' },
  { value: 'tracks', label: 'each on its own track' },
  { value: 'layers', label: 'all on one anchor' },
];

/** What is chosen takes the place of the selected cue. */
const exchanging = computed(() => scene.cue !== undefined);
const current = computed(() => (exchanging.value ? trials.now(scene.cue!) : (scene.pending[0]?.soundId ?? audition.sound?.id)));
const index = computed(() => list.value.findIndex((s) => s.id === current.value));

function take(sound: Sound | undefined): void {
  if (!sound) return;
  if (exchanging.value) trials.tryOut(new Map([[scene.cue!.id, sound]]));
  else if (transport.playing) void placing.hear(sound);
  // While the scene runs it is heard in the mix, at its instant; stopped, it is heard by itself.
  audition.choose(sound, !transport.playing && (scene.cue !== undefined || prefs.playOnMove));
  audition.prepare(list.value.slice(index.value + 1, index.value + 3));
}
function click(event: MouseEvent, sound: Sound): void {
  if (event.ctrlKey || event.metaKey) pick(sound.id);
  else take(sound);
}
function pick(id: number | undefined): void {
  if (id === undefined) return;
  const next = new Set(picked.value);
  if (!next.delete(id)) next.add(id);
  picked.value = next;
}

/** What the hand asked for, in its order: it may be faster than the list. */
let hand: Promise<void> = Promise.resolve();

/** The step is taken in the list that belongs to the cue; for several cues, each takes a step in a list of its own. */
function step(by: 1 | -1): void {
  hand = hand.then(async () => {
    await pool.settled();
    if (several.value && exchanging.value) await deal({ by });
    else take(list.value[Math.max(0, Math.min(list.value.length - 1, index.value + by))]);
  });
}
const deal = (how: Deal) => trials.dealOut(how, pool.poolOf);
/** In turn: a key pressed quickly begins where the last one ended. */
const dealt = (how: Deal) => (hand = hand.then(() => deal(how)));

const chosen = computed<Sound[]>(() => {
  const all = list.value.filter((s) => picked.value.has(s.id));
  return all.length > 0 ? all : audition.sound ? [audition.sound] : [];
});
async function place(): Promise<void> {
  await placing.place(chosen.value);
  picked.value = new Set();
}
async function act(): Promise<void> {
  // Enter right behind a step means the alternate of that step, and must never place another cue.
  await hand;
  if (scene.trial.size > 0) await trials.keep();
  else if (scene.pending.length > 0) await placing.keep();
  else await place();
}
function drop(): void {
  trials.drop();
  placing.drop();
}
function drag(event: DragEvent, sound: Sound): void {
  dragSounds(event, picked.value.has(sound.id) ? chosen.value.map((s) => s.id) : [sound.id]);
}

useCommands('Using a sound', [
  { label: 'Next alternate', keys: ['n', 'ArrowDown'], run: () => step(1) },
  { label: 'Previous alternate', keys: ['Shift+n', 'ArrowUp'], run: () => step(-1) },
  { label: 'Other sounds at random', keys: ['h'], run: () => void dealt({ random: Math.random }), enabled: () => scene.cue !== undefined },
  { label: 'A step softer', keys: ['<'], run: () => void dealt({ force: 'softer' }), enabled: () => scene.cue !== undefined },
  { label: 'A step harder', keys: ['>'], run: () => void dealt({ force: 'harder' }), enabled: () => scene.cue !== undefined },
  { label: 'Take along, or leave', keys: ['t'], run: () => pick(current.value) },
  { label: 'Spot at playhead, or keep the alternate', keys: ['Enter'], run: () => void act() },
  { label: 'Place it as a layer on the selected cue', keys: ['Shift+Enter'], run: () => void layer(), enabled: () => scene.cue !== undefined },
  { label: 'End the cue at the next hit', keys: ['e'], run: () => void placing.endAtNext(), enabled: () => scene.cue !== undefined },
  { label: 'Search sounds to place', keys: ['/'], run: () => search.value?.focus() },
]);

/** The sound that is chosen joins the cue, on its anchor, in place of taking its place. */
async function layer(): Promise<void> {
  await hand;
  const [of, sound] = [scene.cue, audition.sound];
  if (!of || !sound) return;
  trials.drop();
  await placing.place([sound], of.at, of.trackId);
}
</script>

<template>
  <section class="part" :aria-label="exchanging ? 'Alternates' : 'Sounds to place'">
    <div class="tools">
      <Input
        ref="search"
        v-model:value="query"
        size="small"
        class="query"
        :placeholder="pool.source.value === 'own' ? (scene.cue ? 'Its category, or type a query' : 'The tray, or type a query') : 'Type a query'"
        aria-label="Query for sounds to place"
        spellcheck="false"
        @press-enter="search?.blur()"
        @keydown.down.prevent="step(1)"
        @keydown.up.prevent="step(-1)"
        @keydown.esc="query ? (query = '') : search?.blur()"
      />
      <Select
        v-model:value="pool.source.value"
        size="small"
        class="source"
        :options="pool.sources.value"
        aria-label="Where they come from"
        :dropdown-match-select-width="false"
      />
    </div>
    <div class="rows" data-keys="screen" role="listbox" :aria-label="exchanging ? 'Alternates' : 'Sounds to place'" aria-multiselectable="true" tabindex="0">
      <template v-for="sound in list" :key="sound.id">
        <div v-if="headings.get(sound.id)" class="heading small mute" role="presentation">{{ headings.get(sound.id) }}</div>
        <div
          class="row"
          role="option"
          draggable="true"
          :aria-selected="sound.id === current || picked.has(sound.id)"
          :class="{ current: sound.id === current, picked: picked.has(sound.id) }"
          @click="click($event, sound)"
          @dblclick="act"
          @dragstart="drag($event, sound)"
        >
          <span class="name">
            <span class="cut" :title="nameOf(sound)">{{ nameOf(sound) }}</span>
            <span class="cut small mute"
              >{{ sound.fields.catId ? categoryName(sound.fields.catId as string) : sound.fields.library
              }}<span v-if="scene.cue?.tried?.includes(sound.id)"> · tried here</span></span
            >
          </span>
          <ContourView :sound="sound" :lit="sound.id === current" :plumb="0.35" :pixels-per-second="64" />
          <span class="mono mute small">{{ seconds(lengthOf(sound)) }}</span>
        </div>
      </template>
      <p v-if="list.length === 0" class="mute none">{{ pool.nothing.value }}</p>
    </div>
    <div class="acts">
      <template v-if="trials.trying">
        <Tooltip :title="withKey('The new sound stays', 'Spot at playhead, or keep the alternate')"
          ><Button size="small" type="primary" @click="act">{{ scene.trial.size > 1 ? `Keep all ${scene.trial.size}` : 'Keep this one' }}</Button></Tooltip
        >
        <Tooltip title="As it was before (Escape)"
          ><Button size="small" @click="drop">{{ scene.trial.size > 0 ? 'Return to the old' : 'Leave it out' }}</Button></Tooltip
        >
      </template>
      <template v-if="exchanging">
        <Tooltip :title="withKey('Each gets another sound, no two the same', 'Other sounds at random')"
          ><Button size="small" @click="dealt({ random: Math.random })">Shuffle</Button></Tooltip
        >
        <Tooltip :title="withKey('The next one that hits less hard', 'A step softer')"
          ><Button size="small" @click="dealt({ force: 'softer' })">Softer</Button></Tooltip
        >
        <Tooltip :title="withKey('The next one that hits harder', 'A step harder')"
          ><Button size="small" @click="dealt({ force: 'harder' })">Harder</Button></Tooltip
        >
        <PoolFilter />
        <Tooltip :title="withKey('It joins the cue, on its anchor', 'Place it as a layer on the selected cue')"
          ><Button size="small" :disabled="!audition.sound" @click="layer">Layer</Button></Tooltip
        >
      </template>
      <template v-else-if="!trials.trying">
        <Button size="small" :disabled="chosen.length === 0" @click="place">{{
          picked.size > 1 ? `Place ${things(picked.size, 'sound')}` : 'Place it'
        }}</Button>
        <Select
          v-model:value="placing.landing"
          size="small"
          class="landing"
          :options="landings"
          aria-label="Where it lands"
          :dropdown-match-select-width="false"
        />
        <Select
          v-if="picked.size > 1"
          v-model:value="placing.way"
          size="small"
          class="landing"
          :options="wayNames"
          aria-label="How several are placed"
          :dropdown-match-select-width="false"
        />
      </template>
    </div>
  </section>
</template>

<style scoped>
.part {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  grid-template-rows: auto minmax(0, 1fr) auto;
  gap: 8px;
  min-height: 0;
}
.tools {
  display: flex;
  gap: 8px;
}
.query {
  flex: 1 1 0;
  min-width: 0;
}
.source,
.landing {
  width: 150px;
}
.picked {
  box-shadow: inset 2px 0 0 var(--amber);
}
.rows {
  min-height: 0;
  overflow-y: auto;
}
.row {
  display: grid;
  grid-template-columns: minmax(120px, 1fr) 190px 44px;
  align-items: center;
  height: 38px;
  padding: 0 6px;
  border-bottom: 1px solid var(--line);
  cursor: default;
}
.row:hover {
  background: var(--raft);
}
.current {
  border-radius: 5px;
  background: var(--raft2);
}
.name {
  display: grid;
  min-width: 0;
  padding-right: 8px;
  font-size: 13px;
  line-height: 1.2;
}
.small {
  font-size: 12px;
  text-align: right;
}
.name .small {
  text-align: left;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  min-height: 4px;
}
.none {
  margin: 8px 4px;
  font-size: 12.5px;
}
</style>
