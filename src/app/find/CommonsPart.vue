<script setup lang="ts">
import type { OpenAsk } from '@core/elsewhere';
import { Alert, Button, Checkbox, Input, Select, Tooltip } from 'ant-design-vue';
import { computed, onMounted, onUnmounted, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import AuditionBar from '../shared/listen/AuditionBar.vue';
import SoundList from '../shared/list/SoundList.vue';
import { useCommands, withKey } from '../shared/controls/commands';
import { things } from '../shared/controls/format';
import { jobNames } from '../shared/controls/jobs';
import { useAudition } from '../stores/audition';
import { useCommons } from '../stores/commons';
import { useFind } from '../stores/find';
import { usePrefs } from '../stores/prefs';
import { useScene } from '../stores/scene';
import CommonsFacets from './CommonsFacets.vue';
import OpenedCommons from './OpenedCommons.vue';
import WhereSwitch from './WhereSwitch.vue';

/** Open sounds that others share, by the query of Find: heard as they come, fetched with their licence. */
const commons = useCommons();
const find = useFind();
const prefs = usePrefs();
const audition = useAudition();
const scene = useScene();
const router = useRouter();
const input = ref<{ focus: (o?: { cursor: 'all' }) => void; blur: () => void }>();

onMounted(() => (commons.isShown = true));
onUnmounted(() => (commons.isShown = false));

const index = computed(() => (commons.currentId === undefined ? -1 : commons.ids.indexOf(commons.currentId)));
function chooseAt(at: number, sounding?: boolean): void {
  const { ids } = commons;
  if (ids.length === 0) return;
  if (at >= ids.length - 1 && commons.hasMore) void commons.more();
  void commons.choose(ids[Math.max(0, Math.min(ids.length - 1, at))], sounding);
}
const walk = (by: number) => chooseAt(index.value < 0 ? 0 : index.value + by);

/** What is said of each row: what speaks against it, and whether it is in the library already. */
const remarks = computed(
  () => new Map([...commons.items].map(([id, item]) => [id, commons.fetched.has(item.id) ? 'In the library' : commons.against(item)] as const)),
);
const told = computed(() => (commons.page ? `${things(commons.page.total, 'sound')}` : ''));
const orders: { value: OpenAsk['order']; label: string; title: string }[] = [
  { value: 'fit', label: 'Best first', title: 'Best first' },
  { value: 'newest', label: 'Newest first', title: 'Newest first' },
  { value: 'longest', label: 'Longest first', title: 'Longest first' },
  { value: 'shortest', label: 'Shortest first', title: 'Shortest first' },
];
const bands = { meant: 'Close in meaning', some: 'Some of the words' };
const headings = computed(() => (commons.band === 'all' ? [] : [{ at: 0, text: bands[commons.band], count: commons.page?.total ?? 0 }]));
const question = computed(() => JSON.stringify([find.view.text, commons.chosen, commons.onlyFree, prefs.job, commons.like?.code]));
// A row of another question is none of this one.
watch(
  () => commons.ids,
  (ids) => {
    if (commons.currentId !== undefined && !ids.includes(commons.currentId)) commons.currentId = undefined;
  },
);

/** Fetches the current one, and puts it where it is wanted. */
async function fetchAndSpot(): Promise<void> {
  if (!commons.current) return;
  const sound = await commons.fetch(commons.current, 'original');
  if (!sound) return;
  await scene.spot(sound);
  await router.push({ name: 'spot' });
}
function likeThis(): void {
  const { current } = commons;
  if (current) commons.like = { code: current.like, name: current.title };
}

const isOn = () => commons.current !== undefined;
useCommands('Going through the list', [
  { label: 'Next sound', keys: ['ArrowDown'], run: () => walk(1), inText: true },
  { label: 'Previous sound', keys: ['ArrowUp'], run: () => walk(-1), inText: true },
  { label: 'A page further', keys: ['PageDown'], run: () => walk(10) },
  { label: 'A page back', keys: ['PageUp'], run: () => walk(-10) },
  { label: 'First sound', keys: ['Home'], run: () => chooseAt(0) },
  { label: 'Last sound', keys: ['End'], run: () => chooseAt(commons.ids.length - 1) },
  { label: 'Play or stop', purpose: 'Listening', keys: ['Space'], run: () => audition.goDown() },
  { label: 'Stop', purpose: 'Listening', keys: ['k'], run: () => audition.stop() },
  { label: 'Go to the query', purpose: 'Finding', keys: ['/'], run: () => input.value?.focus({ cursor: 'all' }) },
  { label: 'Find what is like this in the commons', purpose: 'Finding', keys: ['e'], run: likeThis, enabled: isOn },
  {
    label: 'Fetch the original into the library',
    purpose: 'Using a sound',
    keys: ['Ctrl+Enter'],
    run: () => commons.current && void commons.fetch(commons.current, 'original'),
    enabled: isOn,
  },
  {
    label: 'Fetch it and spot it',
    purpose: 'Using a sound',
    keys: ['Shift+Enter'],
    run: () => void fetchAndSpot(),
    enabled: isOn,
  },
]);
</script>

<template>
  <div class="stage">
    <div class="columns">
      <section class="work" aria-label="Open sounds">
        <div class="tools asks">
          <WhereSwitch />
          <Input
            ref="input"
            :value="find.view.text"
            size="large"
            placeholder="Words, -door, length:<2s"
            aria-label="Query"
            spellcheck="false"
            autocomplete="off"
            @update:value="(text: string) => find.drift({ text })"
            @press-enter="input?.blur()"
            @keydown.esc="find.view.text ? find.drift({ text: '' }) : input?.blur()"
          >
            <template #suffix
              ><span class="mono mute small" role="status" :aria-busy="commons.busy">{{ told }}</span></template
            >
          </Input>
        </div>
        <div class="tools under">
          <span class="mute">To be used</span>
          <Select v-model:value="prefs.job" size="small" :options="jobNames" aria-label="What the mix is made for" class="job" />
          <Checkbox v-model:checked="commons.onlyFree">Only what may be used so</Checkbox>
          <span v-if="commons.like" class="chip"
            ><span class="cut" :title="commons.like.name">Like {{ commons.like.name }}</span>
            <Button type="link" size="small" aria-label="Not by likeness any more" @click="commons.like = undefined">×</Button></span
          >
          <span class="push" />
          <Button v-if="commons.hasMore" size="small" :disabled="commons.busy" :title="`${commons.ids.length} are listed`" @click="commons.more()"
            >Show more</Button
          >
          <Select v-model:value="commons.chosen.order" size="small" :options="orders" aria-label="Order" class="order" />
        </div>
        <Alert
          v-if="commons.asked.left.length > 0"
          class="note"
          type="info"
          banner
          :show-icon="false"
          :message="`Not asked there: ${commons.asked.left.join(', ')}. The commons knows words, -words, OR between words, licence, author and length.`"
        />
        <Alert
          v-if="commons.waiting > 0"
          class="note"
          type="info"
          banner
          :show-icon="false"
          :message="`The commons asks to wait ${things(commons.waiting, 'second')} …`"
        />
        <Alert v-if="commons.failure" class="note" type="warning" banner :message="commons.failure">
          <template #action><Button size="small" @click="commons.search()">Ask again</Button></template>
        </Alert>
        <SoundList
          v-if="commons.ids.length > 0"
          :ids="commons.ids"
          :count="commons.ids.length"
          :remarks="remarks"
          :headings="headings"
          :current-id="commons.currentId"
          :question="question"
          opens
          label="Open sounds"
          @choose="(id) => commons.choose(id, true)"
        >
          <OpenedCommons v-if="commons.current" :key="commons.current.id" :item="commons.current" @like="likeThis" @spot="fetchAndSpot()" />
        </SoundList>
        <div v-else-if="!commons.busy && !commons.failure" class="empty">
          <strong>Nothing there</strong>
          <span v-if="commons.onlyFree">Try fewer words, or look among all licences.</span>
          <span v-else>Try fewer or other words.</span>
          <Button v-if="commons.onlyFree" @click="commons.onlyFree = false">Look among all licences</Button>
        </div>
      </section>
      <CommonsFacets />
    </div>
    <AuditionBar>
      <Tooltip :title="withKey('With its author, licence and source', 'Fetch the original into the library')">
        <Button
          size="small"
          :disabled="!commons.current || commons.fetched.has(commons.current.id)"
          @click="commons.current && commons.fetch(commons.current, 'original')"
          >Fetch the original</Button
        >
      </Tooltip>
    </AuditionBar>
  </div>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) 236px;
}
.asks {
  gap: 8px;
  padding: 12px 12px 4px;
}
.under {
  flex-wrap: wrap;
  gap: 4px 10px;
  min-height: 28px;
  padding: 0 12px 6px;
}
.job {
  width: 210px;
}
.order {
  width: 130px;
}
.note {
  margin: 0 12px 8px;
  border-radius: 6px;
  font-size: 12.5px;
}
.chip {
  display: inline-flex;
  align-items: center;
  max-width: 210px;
  padding-left: 8px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--raft2);
  font-size: 12.5px;
}
</style>
