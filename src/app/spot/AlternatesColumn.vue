<script setup lang="ts">
import type { Sound } from '@core/library';
import { lengthOf, nameOf, TRAY } from '@core/library';
import { rankAlternates } from '@core/scene';
import { categoryName } from '@core/suggest';
import { Button, Input, Tooltip } from 'ant-design-vue';
import { computed, ref, shallowRef, watch } from 'vue';
import { bandTitle } from '../shared/list/bands';
import ContourView from '../shared/list/ContourView.vue';
import { useCommands, withKey } from '../shared/controls/commands';
import { seconds } from '../shared/controls/format';
import { useAudition } from '../stores/audition';
import { useLibrary } from '../stores/library';
import { usePrefs } from '../stores/prefs';
import { useScene } from '../stores/scene';
import { catalogue } from '../stores/workers';

const scene = useScene();
const library = useLibrary();
const audition = useAudition();
const prefs = usePrefs();
const query = ref('');
const list = shallowRef<Sound[]>([]);
/** What stands above the first sound of a band, by its id. */
const headings = shallowRef(new Map<number, string>());
const SHOWN = 100;
const search = ref<{ focus: () => void; blur: () => void }>();

/** For a cue: sounds of its category, or what the query finds. For none: what the tray holds, or what the query finds. */
let listing: Promise<void> = Promise.resolve();
watch(
  () => [scene.cue?.id, query.value, library.revision] as const,
  () => void (listing = fill()),
  { immediate: true },
);

async function fill(): Promise<void> {
  const text = query.value.trim();
  const { cue } = scene;
  const own = cue && (await library.need([cue.soundId]))[0];
  const catId = own?.fields.catId as string | undefined;
  const facets: Record<string, string[]> = cue && !text && catId ? { catId: [catId] } : {};
  const pullId = !cue && !text ? TRAY : undefined;
  const { ids, bands } = await catalogue.rows({ text, facets, pullId });
  const sounds = await library.need([...ids.slice(0, SHOWN)]);
  // What was typed decides its own order; of a whole category the likeliest come first.
  const rest = own && !text ? rankAlternates(own, sounds) : sounds.filter((s) => s.id !== own?.id);
  if (scene.cue?.id !== cue?.id || query.value.trim() !== text) return;
  list.value = own ? [own, ...rest] : rest;
  const several = /\S\s+\S/.test(text);
  const listed = new Set(rest.map((s) => s.id));
  headings.value = new Map(
    bands.flatMap((band, i) => {
      const first = ids.subarray(band.at, bands[i + 1]?.at).find((id) => listed.has(id));
      return first === undefined ? [] : [[first, bandTitle(band, several)] as const];
    }),
  );
  void library.needPeaks(sounds.map((s) => s.id));
}
watch(
  () => scene.cueId,
  () => (query.value = ''),
);

const current = computed(() => (scene.cue ? (scene.trial?.sound.id ?? scene.cue.soundId) : audition.sound?.id));
const index = computed(() => list.value.findIndex((s) => s.id === current.value));

function take(sound: Sound | undefined): void {
  if (!sound) return;
  if (scene.cue) scene.tryOut(sound);
  // While the scene runs the alternate is heard in its place; stopped, it is heard by itself.
  audition.choose(sound, scene.cue ? !audition.scenePlaying : prefs.playOnMove);
  audition.prepare(list.value.slice(index.value + 1, index.value + 3));
}

/** What the hand asked for, in its order: it may be faster than the list. */
let hand: Promise<void> = Promise.resolve();

/** The step is taken in the list that belongs to the cue. */
function step(by: number): void {
  hand = hand.then(async () => {
    await listing;
    take(list.value[Math.max(0, Math.min(list.value.length - 1, index.value + by))]);
  });
}

async function act(): Promise<void> {
  // Enter right behind a step means the alternate of that step, and must never place another cue.
  await hand;
  if (scene.trial) await scene.keepTrial();
  else await scene.spot(audition.sound);
}

useCommands('Using a sound', [
  { label: 'Next alternate', keys: ['n', 'ArrowDown'], run: () => step(1) },
  { label: 'Previous alternate', keys: ['Shift+n', 'ArrowUp'], run: () => step(-1) },
  { label: 'Spot at playhead, or keep the alternate', keys: ['Enter'], run: () => void act() },
  { label: 'Search sounds to place', keys: ['/'], run: () => search.value?.focus() },
]);
</script>

<template>
  <section class="alternates" :aria-label="scene.cue ? 'Alternates' : 'Sounds to place'">
    <div class="top">
      <h2 class="cut" :title="scene.cue?.name">
        {{ scene.cue ? `Alternates for “${scene.cue.name}”` : query ? 'Sounds to place' : 'In the tray' }}
      </h2>
      <span v-if="scene.trial" class="trying">trying</span>
    </div>
    <Input
      ref="search"
      v-model:value="query"
      size="small"
      :placeholder="scene.cue ? 'Same category, or type a query' : 'The tray, or type a query'"
      aria-label="Query for sounds to place"
      spellcheck="false"
      @press-enter="search?.blur()"
      @keydown.down.prevent="step(1)"
      @keydown.up.prevent="step(-1)"
      @keydown.esc="query ? (query = '') : search?.blur()"
    />
    <div class="rows" role="listbox" :aria-label="scene.cue ? 'Alternates' : 'Sounds to place'" tabindex="0">
      <template v-for="sound in list" :key="sound.id">
        <div v-if="headings.get(sound.id)" class="heading small mute" role="presentation">{{ headings.get(sound.id) }}</div>
        <div class="row" role="option" :aria-selected="sound.id === current" :class="{ current: sound.id === current }" @click="take(sound)" @dblclick="act">
          <span class="name">
            <span class="cut" :title="nameOf(sound)">{{ nameOf(sound) }}</span>
            <span class="cut small mute">{{ sound.fields.catId ? categoryName(sound.fields.catId as string) : sound.fields.library }}</span>
          </span>
          <ContourView :sound="sound" :lit="sound.id === current" :plumb="0.35" :pixels-per-second="64" />
          <span class="mono mute small">{{ seconds(lengthOf(sound)) }}</span>
        </div>
      </template>
      <p v-if="list.length === 0" class="mute none">
        {{
          query ? 'Nothing matches.' : scene.cue ? 'No other sound has its category; type a query.' : 'The tray is empty: type a query, or hold sounds in Find.'
        }}
      </p>
    </div>
    <div class="acts">
      <template v-if="scene.trial">
        <Tooltip :title="withKey('The new sound stays', 'Spot at playhead, or keep the alternate')"
          ><Button size="small" type="primary" @click="scene.keepTrial()">Keep this one</Button></Tooltip
        >
        <Tooltip title="The old sound comes back (Escape)"><Button size="small" @click="scene.dropTrial()">Return to the old one</Button></Tooltip>
      </template>
    </div>
  </section>
</template>

<style scoped>
.alternates {
  display: grid;
  grid-template-rows: auto auto minmax(0, 1fr) auto;
  gap: 8px;
  padding: 12px 14px 8px;
}
.top {
  display: flex;
  justify-content: space-between;
  gap: 12px;
}
.trying {
  font-size: 12px;
  color: var(--amber);
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
  gap: 8px;
  min-height: 4px;
}
.none {
  margin: 8px 4px;
  font-size: 12.5px;
}
</style>
