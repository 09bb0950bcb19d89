<script setup lang="ts">
import { ColumnHeightOutlined, MenuFoldOutlined, MenuUnfoldOutlined } from '@ant-design/icons-vue';
import { useDebounceFn, useMediaQuery } from '@vueuse/core';
import { Button, Tooltip } from 'ant-design-vue';
import { computed, defineAsyncComponent, ref, watch } from 'vue';
import AuditionBar from '../shared/listen/AuditionBar.vue';
import OpenSound from '../shared/sound/OpenSound.vue';
import SideColumn from '../side/SideColumn.vue';
import TakeDialog from '../shared/take/TakeDialog.vue';
import SoundList from '../shared/list/SoundList.vue';
import { useCarried } from '../shared/take/useCarried';
import { useWalk } from '../shared/list/useWalk';
import { tell } from '../shell/notice';
import { useAudition } from '../stores/audition';
import { useBuilds } from '../stores/builds';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { usePrefs } from '../stores/prefs';
import { usePulls } from '../stores/pulls';
import { narrowingIn, narrows } from '../stores/view';
import { useCommands, withKey } from '../shared/controls/commands';
import SoundDetails from '../shared/sound/SoundDetails.vue';
import AlikeButton from './AlikeButton.vue';
import FacetColumn from './FacetColumn.vue';
import MemberNote from './MemberNote.vue';
import NearMisses from './NearMisses.vue';
import QueryLine from './QueryLine.vue';
import RowMenu from './RowMenu.vue';
import WhereSwitch from './WhereSwitch.vue';
import WordList from './WordList.vue';
import { useAlike } from './useAlike';

const Plot = defineAsyncComponent(() => import('./PlotPanel.vue'));
const find = useFind();
const builds = useBuilds();
const library = useLibrary();
const audition = useAudition();
const prefs = usePrefs();
const pulls = usePulls();
const { chooseAt, playThrough, hold, spot, takeOut, inPull, pick, setAside } = useWalk(() => (find.view.soundId === undefined ? [] : [find.view.soundId]));

// A reload comes back to the same sound; it waits, silent.
watch(
  () => [library.ready, find.view.soundId] as const,
  async ([ready, id]) => {
    if (!ready || id === undefined || audition.sound?.id === id) return;
    const [sound] = await library.need([id]);
    if (sound && find.view.soundId === id && audition.sound?.id !== id) audition.choose(sound, false);
  },
  { immediate: true },
);

const taking = ref(false);
const open = computed(() => (find.view.soundId === undefined ? undefined : library.sounds.get(find.view.soundId)));
/** The open sound as it is heard: what is being set of its shape goes along. */
const heard = computed(() => (audition.sound?.id === open.value?.id ? audition.sound : open.value));
useCarried(() => heard.value);
const details = computed(() => (prefs.details ? open.value : undefined));
/** Zoomed in or narrow, the list comes first and the side columns stand beside it when asked for. */
const roomy = useMediaQuery('(min-width: 1000px)');
const unfolded = ref(false);
const side = computed(() => prefs.side && (roomy.value || unfolded.value));
const facets = computed(() => prefs.facets && (roomy.value || unfolded.value));
function foldSides(): void {
  if (!roomy.value) unfolded.value = !unfolded.value;
  else prefs.facets = prefs.side = !prefs.side;
}
const columns = computed(() => [side.value && '196px', 'minmax(0, 1fr)', details.value ? '340px' : facets.value && '236px'].filter(Boolean).join(' '));
/** The pull that is shown, and whether it is in the order in which its rows stand. */
const listed = computed(() => pulls.byId(find.view.pullId));
const byHand = computed(() => (listed.value && !listed.value.live && !find.view.sort && !narrows(find.view) ? listed.value : undefined));
const question = computed(() => JSON.stringify([narrowingIn(find.view), find.view.trail, find.view.sort]));
/** What is said of rows: how they differ from what they are like, and what is noted on them in the list. */
const remarks = computed(() => {
  const notes = Object.entries(listed.value?.notes ?? {}).map(([id, note]) => [Number(id), note] as const);
  const { soundId } = find.view;
  // Of a row that has not the very words it is said why it is there, as soon as one is on it.
  const reason = soundId !== undefined && farther(find.index) ? find.reasons.get(soundId) : undefined;
  return new Map([...find.differences, ...notes, ...(reason ? [[soundId!, reason] as const] : [])]);
});
const farther = (index: number) => find.answer.bands.findLast((band) => band.at <= index)?.kind !== 'words' && find.answer.bands.length > 0;
watch(
  () => [find.view.soundId, find.answer.bands] as const,
  ([id]) => id !== undefined && farther(find.index) && void find.askWhy(id),
);
/** Asked for where the pointer rests, not for all rows that it passes. */
const rest = useDebounceFn((id: number) => find.askWhy(id), 250);
async function why(): Promise<void> {
  if (find.view.soundId !== undefined) tell.info((await find.askWhy(find.view.soundId)) || 'Nothing was asked for by words.');
}
const plot = ref(false);
const words = ref(false);
const hear = (id: number) => void chooseAt(find.answer.ids.indexOf(id), true);
/** Shows the takes behind a row, or puts them back. */
function unfold(id: number, to?: boolean): void {
  const group = library.sounds.get(id)?.fields.takeGroup as string | undefined;
  if (group !== undefined) find.unfold(group, to ?? !find.openedGroups.includes(group));
}
const alike = useAlike();
const unfoldCurrent = (to: boolean) => open.value && unfold(open.value.id, to);
useCommands('The view', [
  { label: 'Details of the sound', keys: ['Alt+Enter'], run: () => (prefs.details = !prefs.details) },
  { label: 'Fold or unfold the side columns', keys: ['Shift+s'], run: foldSides },
  { label: 'Rows of one line or two', keys: ['Shift+c'], run: () => (prefs.compact = !prefs.compact) },
  { label: 'Plot of the results', keys: ['p'], run: () => (plot.value = !plot.value) },
  { label: 'Why this row is here', purpose: 'Finding', keys: ['z'], run: () => void why(), enabled: () => find.view.soundId !== undefined },
  { label: 'Words of this library', purpose: 'Finding', keys: ['w'], run: () => (words.value = true) },
  { label: 'Fold takes into one row', purpose: 'Going through the list', keys: ['g'], run: () => find.go({ fold: find.view.fold ? undefined : true }) },
  {
    label: 'Show the takes of this row',
    purpose: 'Going through the list',
    keys: ['ArrowRight'],
    run: () => unfoldCurrent(true),
    enabled: () => find.view.fold === true,
  },
  {
    label: 'Fold the takes of this row',
    purpose: 'Going through the list',
    keys: ['ArrowLeft'],
    run: () => unfoldCurrent(false),
    enabled: () => find.view.fold === true,
  },
]);
</script>

<template>
  <div class="stage">
    <div class="columns" :style="{ gridTemplateColumns: columns }">
      <SideColumn v-if="side" />
      <section class="work" aria-label="Sounds">
        <QueryLine>
          <template #before><WhereSwitch /></template>
          <template #more>
            <Tooltip :title="withKey('The results on two measured axes', 'Plot of the results')">
              <Button size="small" aria-label="Plot of the results" :aria-pressed="plot" :class="{ on: plot }" @click="plot = !plot">Plot</Button>
            </Tooltip>
          </template>
        </QueryLine>
        <Plot v-if="plot" @choose="hear" @close="plot = false" />
        <RowMenu
          v-if="find.answer.ids.length > 0"
          @choose="(id) => chooseAt(find.answer.ids.indexOf(id), false)"
          @alike="alike.ofSound()"
          @hold="hold()"
          @aside="setAside()"
        >
          <SoundList
            :ids="find.answer.ids"
            :count="find.answer.count"
            :takes="find.answer.takes"
            :remarks="remarks"
            :reasons="find.reasons"
            :headings="find.headings"
            :reorders="byHand !== undefined"
            :current-id="find.view.soundId"
            :question="question"
            :sort="find.view.sort"
            opens
            label="Sounds"
            @unfold="unfold"
            @point="rest"
            @choose="hear"
            @sort="find.sortBy"
            @place="(ids, before) => byHand && pulls.place(byHand, ids, before)"
          >
            <OpenSound v-if="open" :key="open.id" :sound="open" @tray="hold([open.id])" @spot="spot()" @layer="builds.add([open])" @take="taking = true"
              ><MemberNote v-if="listed && !listed.live" :key="open.id" :pull="listed" :sound="open"
            /></OpenSound>
          </SoundList>
        </RowMenu>
        <div v-else-if="find.answered && library.ready" class="empty">
          <template v-if="find.answer.total === 0">
            <strong>There are no sounds yet</strong>
            <span>Add a folder of sounds; nothing in it will be changed.</span>
            <RouterLink to="/intake"><Button type="primary">Go to Intake</Button></RouterLink>
          </template>
          <template v-else-if="inPull() && !find.narrowed">
            <strong>This list is empty</strong>
            <span>Open a sound and press T to hold it in the tray, or drag rows onto a pull.</span>
          </template>
          <template v-else>
            <strong>Nothing matches</strong>
            <span>Try fewer or shorter words; creak* finds everything that begins with creak.</span>
            <NearMisses />
            <Button @click="find.widen()">Show all</Button>
          </template>
        </div>
      </section>
      <SoundDetails v-if="details" :sound="details" @close="prefs.details = false" />
      <FacetColumn v-else-if="facets" />
    </div>
    <TakeDialog v-model:open="taking" :sound="heard" :listed="find.answer.ids" />
    <AuditionBar :through="playThrough">
      <Tooltip v-if="inPull()" :title="withKey('Take it out of this list; the library keeps it', 'Take out of this list')">
        <Button size="small" :disabled="find.view.soundId === undefined" @click="takeOut">Take out</Button>
      </Tooltip>
      <Tooltip :title="withKey('A sound of this list at random, none twice until all were picked', 'Random pick')">
        <Button size="small" :disabled="find.answer.count === 0" @click="pick">Random pick</Button>
      </Tooltip>
      <AlikeButton />
      <Tooltip :title="withKey('The words of this library, with what they find and mean', 'Words of this library')">
        <Button size="small" @click="words = true">Words</Button>
      </Tooltip>
      <Tooltip :title="withKey('One row for all takes of a sound; the arrow keys right and left open and close it', 'Fold takes into one row')">
        <Button
          size="small"
          :aria-pressed="find.view.fold === true"
          :class="{ on: find.view.fold }"
          @click="find.go({ fold: find.view.fold ? undefined : true })"
          >Fold takes</Button
        >
      </Tooltip>
      <Tooltip :title="withKey('Rows of one line or two', 'Rows of one line or two')">
        <Button size="small" aria-label="Rows of one line or two" :aria-pressed="prefs.compact" @click="prefs.compact = !prefs.compact">
          <template #icon><ColumnHeightOutlined /></template>
        </Button>
      </Tooltip>
      <Tooltip :title="withKey('Fold or unfold the side columns', 'Fold or unfold the side columns')">
        <Button size="small" aria-label="Fold or unfold the side columns" @click="foldSides">
          <template #icon><MenuFoldOutlined v-if="side" /><MenuUnfoldOutlined v-else /></template>
        </Button>
      </Tooltip>
    </AuditionBar>
    <WordList v-model:open="words" />
  </div>
</template>

<style scoped>
.on {
  border-color: var(--glass);
  color: var(--glass);
}
</style>
