<script setup lang="ts">
import { fieldOf, mayPropose, nameOf, type Sound } from '@core/library';
import type { Decision, ReviewRow } from '@platform/index';
import { categoryName, categoryOf } from '@core/suggest';
import { Alert, Button, CheckboxGroup, Slider, Tooltip } from 'ant-design-vue';
import { computed, ref, shallowRef, useTemplateRef, watch } from 'vue';
import QueryLine from '../find/QueryLine.vue';
import AuditionBar from '../shared/listen/AuditionBar.vue';
import { useCommands, withKey } from '../shared/controls/commands';
import { count, things } from '../shared/controls/format';
import VirtualRows from '../shared/list/VirtualRows.vue';
import { tell } from '../shell/notice';
import { useAudition } from '../stores/audition';
import { useFind } from '../stores/find';
import { useLabels } from '../stores/labels';
import { useLibrary } from '../stores/library';
import { usePrefs } from '../stores/prefs';
import CategoryPicker from './CategoryPicker.vue';
import ScopeBar from './ScopeBar.vue';

const library = useLibrary();
const labels = useLabels();
const find = useFind();
const audition = useAudition();
const prefs = usePrefs();

const rows = shallowRef<ReviewRow[]>([]);
const begun = ref(false);
const at = ref(0);
const level = ref(80);
const picker = useTemplateRef<{ focus: () => void }>('picker');
const skipped = ref(new Set<number>());
/** Fields whose proposals go along with the category. */
const along = ref<string[]>(['fxName', 'keywords', 'take', 'kind', 'material', 'distance']);
const alongOptions = ['fxName', 'keywords', 'take', 'kind', 'material', 'distance'].map((value) => ({ value, label: fieldOf(value).label }));

const sure = (row: ReviewRow) => row.ranked[0]?.probability ?? 0;
/** Least doubtful last: what needs a person comes first, skipped rows at the end. */
function ordered(list: readonly ReviewRow[]): ReviewRow[] {
  return [...list].sort((a, b) => Number(skipped.value.has(a.id)) - Number(skipped.value.has(b.id)) || sure(a) - sure(b) || a.id - b.id);
}

let newest = 0;
async function begin(): Promise<void> {
  const mine = ++newest;
  const found = await labels.run((l, report) => l.beginReview(labels.ids, report));
  if (!found || mine !== newest) return;
  rows.value = ordered(found);
  begun.value = true;
  at.value = Math.min(at.value, Math.max(0, found.length - 1));
}
watch(
  () => [find.answer.ids, labels.scopeNow] as const,
  ([ids], old) => {
    // Deciding changes the sounds, not the list; the rows are kept up to date by what the decision answers.
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
const sound = (row: ReviewRow | undefined): Sound | undefined => row && library.sounds.get(row.id);
watch(
  current,
  async (row) => {
    if (!row) return;
    const [own] = await library.need([row.id]);
    if (own && current.value?.id === row.id) audition.choose(own, prefs.playOnMove && begun.value && moved);
    const next = rows.value.slice(at.value + 1, at.value + 3).map((r) => r.id);
    audition.prepare(await library.need(next));
  },
  { immediate: true },
);
let moved = false;
function go(index: number): void {
  moved = true;
  at.value = Math.max(0, Math.min(rows.value.length - 1, index));
}
const need = (shown: readonly number[]) => void library.need(shown.map((i) => rows.value[i]?.id).filter((id) => id !== undefined));

const above = computed(() => rows.value.filter((r) => sure(r) * 100 >= level.value && r.ranked.length > 0));
const expected = computed(() => {
  const { length } = above.value;
  return length === 0 ? 0 : (100 * above.value.reduce((sum, r) => sum + 1 - sure(r), 0)) / length;
});

/** Takes decided rows out, and takes over what the decision made of the others. */
function settle(decided: readonly number[], changed: readonly ReviewRow[]): void {
  const gone = new Set(decided);
  const fresh = new Map(changed.map((r) => [r.id, r]));
  const left = rows.value.filter((r) => !gone.has(r.id)).map((r) => fresh.get(r.id) ?? r);
  // The order only moves behind the current row, so that nothing jumps under the hand.
  rows.value = [...left.slice(0, at.value), ...ordered(left.slice(at.value))];
  at.value = Math.max(0, Math.min(rows.value.length - 1, at.value));
}

async function decide(decisions: Decision[], label: string): Promise<boolean> {
  const plain = JSON.parse(JSON.stringify(decisions)) as Decision[];
  const changed = await labels.run((l) => l.decide(plain, label));
  if (!changed) return false;
  settle(
    decisions.map((d) => d.id),
    changed,
  );
  return true;
}
function accept(): void {
  const row = current.value;
  const first = row?.ranked[0];
  if (!row || !first) return openChoices();
  moved = true;
  void decide([{ id: row.id, catId: first.catId, corrected: false, fields: along.value }], `Accept ${categoryName(first.catId)}`);
}
function choose(catId: string | undefined): void {
  const row = current.value;
  if (!row || !catId) return;
  (document.activeElement as HTMLElement | null)?.blur();
  moved = true;
  void decide([{ id: row.id, catId, corrected: true, fields: along.value }], `Choose ${categoryName(catId)}`);
}
function skip(): void {
  const row = current.value;
  if (!row) return;
  moved = true;
  skipped.value = new Set([...skipped.value, row.id]);
  const left = rows.value.filter((r) => r.id !== row.id);
  rows.value = [...left, row];
}
async function acceptAbove(): Promise<void> {
  const chosen = above.value;
  const label = `Accept ${things(chosen.length, 'suggestion')}`;
  const decisions = chosen.map((r) => ({ id: r.id, catId: r.ranked[0].catId, corrected: false, fields: along.value }));
  if (await decide(decisions, label)) tell.done(`${label}; Ctrl Z takes them back`);
}
/** Another guess than the first counts as chosen by hand. */
function pick(place: number): void {
  const row = current.value;
  const guess = row?.ranked[place];
  if (!guess) return;
  if (place === 0) accept();
  else choose(guess.catId);
}
/** What is typed right behind the key lands in the picker: it is always there. */
const openChoices = () => picker.value?.focus();

useCommands('Labelling', [
  { label: 'Accept the suggestion', keys: ['Enter'], run: accept },
  { label: 'Choose another category', keys: ['c'], run: openChoices },
  { label: 'Skip', keys: ['s'], run: skip },
  ...[1, 2, 3, 4, 5].map((n) => ({ label: `Take suggestion ${n}`, keys: [String(n)], run: () => pick(n - 1) })),
  { label: 'Next sound', keys: ['ArrowDown'], run: () => go(at.value + 1) },
  { label: 'Previous sound', keys: ['ArrowUp'], run: () => go(at.value - 1) },
  { label: 'Accept all above the level', keys: ['Shift+Enter'], run: () => void acceptAbove() },
  { label: 'Play or stop', keys: ['Space'], run: () => audition.toggle() },
]);
const percent = (p: number) => `${Math.round(p * 100)} %`;
const shownProposals = (row: ReviewRow, s: Sound) =>
  Object.entries(row.proposals)
    .filter(([key]) => along.value.includes(key) && mayPropose(s, key))
    .map(([key, p]) => ({
      key,
      label: fieldOf(key).label,
      before: s.fields[key] === undefined ? '' : String(s.fields[key]),
      after: Array.isArray(p.value) ? p.value.join(', ') : String(p.value),
      reason: p.reason,
    }));
</script>

<template>
  <div class="stage">
    <div class="columns review">
      <section class="work" aria-label="Sounds without a category">
        <QueryLine />
        <div class="tools">
          <ScopeBar />
          <span class="mute">Accept all from</span>
          <span class="level" data-slider-label="Level">
            <Slider v-model:value="level" :min="30" :max="97" :tip-formatter="(n?: number) => `${n} % sure`" />
          </span>
          <span class="mono">{{ level }} %</span>
          <Tooltip :title="withKey('Accept all from this level on', 'Accept all above the level')">
            <Button type="primary" size="small" :disabled="above.length === 0" @click="acceptAbove">Accept {{ count(above.length) }}</Button>
          </Tooltip>
          <span class="mute" role="status">expect about {{ expected.toFixed(expected < 10 ? 1 : 0) }} % wrong</span>
        </div>
        <div v-if="begun && rows.length === 0" class="empty">
          <strong>Every sound of this list has a category</strong>
          <span>Change the query above to review other sounds, or go on with recipes and file names.</span>
        </div>
        <VirtualRows v-else :count="rows.length" :row-height="46" :current="at" label="Sounds to decide on" @show="need">
          <template #head>
            <div class="list-row row head" role="row">
              <span role="columnheader">Sound</span><span role="columnheader">Would be</span><span role="columnheader" class="end">Sure</span
              ><span role="columnheader">Why</span>
            </div>
          </template>
          <template #default="{ index }">
            <div
              v-if="rows[index]"
              class="list-row row"
              role="row"
              :aria-rowindex="index + 2"
              :aria-selected="index === at"
              :class="{ current: index === at, skipped: skipped.has(rows[index].id) }"
              @click="go(index)"
            >
              <span role="gridcell" class="two"
                ><bdi class="cut title">{{ sound(rows[index])?.fields.file ?? '' }}</bdi
                ><bdi class="cut mute small">{{ sound(rows[index])?.fields.folder ?? '' }}</bdi></span
              >
              <span role="gridcell" class="cut">{{ rows[index].ranked[0] ? categoryName(rows[index].ranked[0].catId) : 'No idea' }}</span>
              <span role="gridcell" class="mono end"
                ><span class="meter" aria-hidden="true"><span :style="{ width: `${sure(rows[index]) * 100}%` }" /></span>{{ percent(sure(rows[index])) }}</span
              >
              <span role="gridcell" class="cut mute small" :title="rows[index].ranked[0]?.reason">{{
                rows[index].ranked[0]?.reason ?? 'no word of it is known'
              }}</span>
            </div>
          </template>
        </VirtualRows>
      </section>
      <aside v-if="current && sound(current)" class="side" aria-label="Suggestion">
        <h1 class="cut">
          <bdi>{{ nameOf(sound(current)!) }}</bdi>
        </h1>
        <p class="mute small cut">
          <bdi>{{ sound(current)!.path }}</bdi>
        </p>
        <ol class="guesses">
          <li v-for="(guess, i) in current.ranked.slice(0, 5)" :key="guess.catId">
            <button class="line-button guess" :class="{ first: i === 0 }" @click="pick(i)">
              <kbd class="mono">{{ i + 1 }}</kbd>
              <span
                ><span class="name">{{ categoryName(guess.catId) }}</span
                ><span class="mute small why">{{ categoryOf(guess.catId)?.explanation }}</span
                ><span class="mute small why">{{ guess.reason }}</span></span
              >
              <span class="count">{{ percent(guess.probability) }}</span>
            </button>
          </li>
        </ol>
        <Alert v-if="current.ranked.length === 0" type="info" message="No word of its name says what it is. Listen, and choose a category." />
        <div class="buttons">
          <Tooltip title="Enter"><Button type="primary" :disabled="current.ranked.length === 0" @click="accept">Accept</Button></Tooltip>
          <Tooltip title="S"><Button @click="skip">Skip</Button></Tooltip>
        </div>
        <CategoryPicker :key="current.id" ref="picker" label="Another category" placeholder="Another category (C): any word for it" @choose="choose" />
        <h2>What goes along</h2>
        <CheckboxGroup v-model:value="along" :options="alongOptions" class="along" />
        <dl class="proposals">
          <template v-for="p in shownProposals(current, sound(current)!)" :key="p.key">
            <dt>{{ p.label }}</dt>
            <dd :title="p.reason">
              <s v-if="p.before" class="mute"
                ><bdi>{{ p.before }}</bdi></s
              >
              <bdi>{{ p.after }}</bdi>
            </dd>
          </template>
        </dl>
      </aside>
      <aside v-else class="side" />
    </div>
    <AuditionBar
      ><span class="mute">{{ things(rows.length, 'sound') }} to decide on</span></AuditionBar
    >
  </div>
</template>

<style scoped>
.review {
  grid-template-columns: minmax(0, 1fr) 340px;
}
.tools {
  gap: 10px;
  padding: 6px 16px;
  border-bottom: 1px solid var(--line);
  white-space: nowrap;
}
.level {
  flex: 0 1 180px;
  min-width: 80px;
}
.row {
  grid-template-columns: minmax(0, 1.1fr) minmax(0, 0.9fr) 110px minmax(0, 1.1fr);
}
.row:hover {
  background: color-mix(in srgb, var(--raft) 50%, transparent);
}
.current,
.current:hover {
  background: var(--raft2);
}
.current .title {
  color: var(--bone);
  font-weight: 650;
}
.skipped {
  opacity: 0.65;
}
.meter {
  display: inline-block;
  width: 46px;
  height: 4px;
  margin-right: 8px;
  border-radius: 2px;
  background: var(--line);
  vertical-align: middle;
}
.meter > span {
  display: block;
  height: 100%;
  border-radius: 2px;
  background: var(--glass);
}
.side {
  padding: 16px 14px;
  overflow-y: auto;
  background: var(--deep);
}
h1 {
  font-size: 16px;
  color: var(--bone);
}
p {
  margin: 2px 0 12px;
}
.guesses {
  margin: 0;
  padding: 0;
  list-style: none;
}
.guess {
  align-items: start;
  padding: 6px 8px;
}
.guess .name,
.why {
  display: block;
}
.first .name {
  color: var(--bone);
  font-weight: 650;
}
kbd {
  padding: 0 6px;
  border: 1px solid var(--line);
  border-radius: 5px;
  font-size: 12px;
}
.buttons {
  display: flex;
  gap: 8px;
  margin: 12px 0;
}
h2 {
  margin: 18px 0 8px;
}
.along {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
}
.proposals {
  display: grid;
  grid-template-columns: 84px minmax(0, 1fr);
  gap: 4px 8px;
  margin: 12px 0 0;
  font-size: 12.5px;
}
dt {
  color: var(--mute);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
</style>
