<script setup lang="ts">
import type { PictureUse, WriteHow, WriteOutcome, WriteRow } from '@platform/index';
import { whyNotWritten } from '@platform/index';
import { Button, Checkbox, Select } from 'ant-design-vue';
import { computed, ref, shallowRef, watch } from 'vue';
import QueryLine from '../find/QueryLine.vue';
import { useCommands } from '../shared/controls/commands';
import FileRunBar from '../shared/controls/FileRunBar.vue';
import OutcomeAlert from '../shared/controls/OutcomeAlert.vue';
import { bytes, count, things } from '../shared/controls/format';
import VirtualRows from '../shared/list/VirtualRows.vue';
import { tell } from '../shell/notice';
import { cancelFiles, fileWork, planFiles, restFiles, writeFiles } from '../stores/file-work';
import { useLabels } from '../stores/labels';
import { useLibrary } from '../stores/library';
import { catalogue } from '../stores/workers';
import { useSlices } from '../stores/slices';
import ArtworkPick from './ArtworkPick.vue';
import ScopeBar from './ScopeBar.vue';
import SlicePlace from './SlicePlace.vue';

const labels = useLabels();
const library = useLibrary();
const slices = useSlices();
const how = ref({ labels: true, names: true });
const picture = shallowRef<PictureUse>();
const wanted = (): WriteHow => ({ ...how.value, ...(picture.value ? { picture: picture.value } : {}) });
const rows = shallowRef<WriteRow[]>();
const outcome = shallowRef<WriteOutcome>();
const show = ref<'change' | 'cannot' | 'nothing'>('change');
const at = ref(0);
/** What was planned is no plan any more once somebody changed something, or the list is another one. What is measured changes no plan. */
const stale = ref(false);
let planned: readonly number[] | undefined;
const otherList = () => planned?.length !== labels.ids.length || planned.some((id, i) => id !== labels.ids[i]);
watch(
  () => [library.undoState, how.value.labels, how.value.names, picture.value],
  () => (stale.value ||= planned !== undefined),
);
watch(
  () => labels.ids,
  () => (stale.value ||= planned !== undefined && otherList()),
);

const changing = (row: WriteRow) => row.how !== 'nothing' && row.how !== 'cannot';
const lists = computed(() => {
  const all = rows.value ?? [];
  return {
    change: all.filter(changing),
    cannot: all.filter((r) => r.how === 'cannot'),
    nothing: all.filter((r) => r.how === 'nothing'),
  };
});
const listed = computed(() => lists.value[show.value]);
const current = computed(() => listed.value[at.value]);
const shows = computed(() => [
  { value: 'change', label: `Files that change (${count(lists.value.change.length)})` },
  { value: 'cannot', label: `Files that cannot be written (${count(lists.value.cannot.length)})` },
  { value: 'nothing', label: `Files that have it all (${count(lists.value.nothing.length)})` },
]);
const sum = (list: readonly WriteRow[]) => list.reduce((total, r) => total + r.bytes, 0);
const inPlace = computed(() => lists.value.change.filter((r) => r.how === 'inPlace'));
const anew = computed(() => lists.value.change.filter((r) => r.how === 'anew'));
const renamed = computed(() => lists.value.change.filter((r) => r.name !== undefined));
const ways: Record<WriteRow['how'], string> = {
  inPlace: 'in place',
  anew: 'written anew',
  name: 'name alone',
  nothing: 'has it all',
  cannot: 'cannot',
};
const fileOf = (path: string) => path.slice(path.lastIndexOf('/') + 1);
/** What changes, in a few words. */
const gist = (row: WriteRow) => row.reason ?? [...(row.name ? ['File name'] : []), ...row.changes.map((c) => c.label)].join(', ');

async function plan(): Promise<void> {
  outcome.value = undefined;
  try {
    const { ids } = labels;
    const made = await planFiles(ids, wanted());
    if (!made) return;
    rows.value = made;
    planned = ids;
    stale.value = false;
    at.value = 0;
    show.value = lists.value.change.length > 0 || lists.value.cannot.length === 0 ? 'change' : 'cannot';
  } catch (error) {
    tell.error(`The files could not be looked at: ${(error as Error).message}`);
  }
}

/** Browsers ask for picked folders once, and in a click only. */
async function allowed(ids: readonly number[]): Promise<boolean> {
  const sounds = await catalogue.sounds([...ids]);
  for (const id of new Set(sounds.map((s) => s.rootId))) {
    const root = library.roots.find((r) => r.id === id);
    const why = root && (await whyNotWritten(root, 'asking'));
    if (why !== undefined) {
      tell.error(`${root!.name}: ${why}.`);
      return false;
    }
  }
  return true;
}

async function write(): Promise<void> {
  const ids = lists.value.change.map((r) => r.id);
  if (!(await allowed(ids))) return;
  try {
    const done = await writeFiles(ids, wanted());
    outcome.value = done;
    rows.value = planned = undefined;
    const left = done.failed.length > 0 ? `; ${things(done.failed.length, 'file')} stayed as before` : '';
    tell.done(`${things(done.written, 'file')} written${left}. Ctrl Z brings the old bytes back`);
  } catch (error) {
    tell.error(`Nothing was written: ${(error as Error).message}`);
  }
}

/** Sounds that are parts of longer files: they have no file to write into, and may get one. */
const parts = computed(() => lists.value.cannot.filter((r) => r.part));
async function makeParts(): Promise<void> {
  const root = library.roots.find((r) => r.id === slices.target.rootId);
  const why = root ? await whyNotWritten(root, 'asking').catch((e: Error) => e.message) : 'choose where they go';
  if (why !== undefined) return tell.error(`${root?.name ?? 'Nothing was made'}: ${why}.`);
  try {
    const { failed, ...done } = await slices.makeParts(parts.value.map((r) => r.id));
    outcome.value = { ...done, failed: failed.map((f) => ({ id: 0, ...f })) };
    rows.value = planned = undefined;
    tell.done(`${things(done.written, 'file')} made. Ctrl Z takes them back`);
  } catch (error) {
    tell.error(`Nothing was made: ${(error as Error).message}`);
  }
}

const writing = computed(() => fileWork.what !== '' && fileWork.what !== 'plan');
const rate = computed(() => {
  const gone = (performance.now() - fileWork.started) / 1000;
  return fileWork.bytes > 0 && gone > 0.5 ? `${bytes(fileWork.bytes / gone)} a second` : '';
});
const doing: Record<string, string> = {
  plan: 'Looking at',
  write: 'Writing',
  undone: 'Putting back',
  done: 'Writing again',
  settle: 'Finding out about',
};

const step = (by: number) => (at.value = Math.max(0, Math.min(listed.value.length - 1, at.value + by)));
useCommands('Labelling', [
  { label: 'Look what writing files would change', keys: ['Ctrl+Enter'], run: () => void plan(), enabled: () => fileWork.what === '' },
  { label: 'Next file', keys: ['ArrowDown'], run: () => void step(1), enabled: () => listed.value.length > 0 },
  { label: 'Previous file', keys: ['ArrowUp'], run: () => void step(-1), enabled: () => listed.value.length > 0 },
]);
</script>

<template>
  <div class="label-part">
    <div class="tools">
      <ScopeBar />
      <Checkbox v-model:checked="how.labels">Labels</Checkbox>
      <Checkbox v-model:checked="how.names">Planned file names</Checkbox>
      <ArtworkPick v-model="picture" />
      <span class="push" />
      <Button :type="rows && !stale ? 'default' : 'primary'" :disabled="fileWork.what !== '' || !(how.labels || how.names || picture)" @click="plan">{{
        rows ? 'Look again' : 'Look what would change'
      }}</Button>
      <Button v-if="rows && !stale" type="primary" :disabled="fileWork.what !== '' || lists.change.length === 0" @click="write"
        >Write {{ things(lists.change.length, 'file') }}</Button
      >
    </div>
    <QueryLine />
    <FileRunBar v-if="fileWork.what !== ''" :what="doing[fileWork.what]" :work="fileWork" :rate="rate" :uncounted="!writing">
      <Button v-if="fileWork.what === 'write'" size="small" @click="restFiles(!fileWork.paused)">{{ fileWork.paused ? 'Go on' : 'Pause' }}</Button>
      <Button v-if="fileWork.what === 'write' || fileWork.what === 'plan'" size="small" @click="cancelFiles">{{
        writing ? 'Stop after this file' : 'Cancel'
      }}</Button>
    </FileRunBar>
    <div v-if="outcome" class="tools">
      <OutcomeAlert
        class="outcome"
        :stopped="outcome.stopped"
        :failed="outcome.failed"
        :message="
          `${things(outcome.written, 'file')} written` +
          (outcome.failed.length > 0 ? `, ${things(outcome.failed.length, 'file')} left as before` : '') +
          (outcome.stopped ? `. It ended early: ${outcome.stopped}` : '') +
          '.'
        "
      />
    </div>
    <div v-if="rows && parts.length > 0 && !stale" class="tools" role="group" aria-label="Parts of longer files">
      <span>{{ things(parts.length, 'sound') }} of these {{ parts.length === 1 ? 'is a part' : 'are parts' }} of longer files.</span>
      <span class="mute">Make files of them in</span>
      <SlicePlace />
      <Button size="small" :disabled="fileWork.what !== ''" @click="makeParts">Make {{ things(parts.length, 'file') }}</Button>
    </div>
    <template v-if="rows">
      <div class="tools">
        <Select v-model:value="show" :options="shows" size="small" class="which" aria-label="Files to show" @change="at = 0" />
        <span v-if="stale" class="caution" role="status">Something changed since; look again before you write.</span>
        <span v-else role="status">
          <span class="mono glass">{{ count(inPlace.length) }}</span> in place ({{ bytes(sum(inPlace)) }}),
          <span class="mono">{{ count(anew.length) }}</span> written anew ({{ bytes(sum(anew)) }}), <span class="mono">{{ count(renamed.length) }}</span> get
          another name
        </span>
      </div>
      <div class="panes">
        <VirtualRows :count="listed.length" :current="at" label="What writing would change" class="rows" @show="() => undefined">
          <template #head>
            <div class="list-row row head" role="row">
              <span role="columnheader">File</span><span role="columnheader">{{ show === 'cannot' ? 'Why not' : 'What changes' }}</span
              ><span role="columnheader">How</span><span role="columnheader" class="end">Written</span>
            </div>
          </template>
          <template #default="{ index }">
            <div
              v-if="listed[index]"
              class="list-row row"
              role="row"
              :aria-rowindex="index + 2"
              :aria-selected="index === at"
              :class="{ current: index === at }"
              @click="at = index"
            >
              <bdi role="gridcell" class="cut" :title="listed[index].path">{{ fileOf(listed[index].path) }}</bdi>
              <span role="gridcell" class="cut" :class="listed[index].reason ? 'bad' : 'mute'" :title="gist(listed[index])">{{ gist(listed[index]) }}</span>
              <span role="gridcell" class="mute">{{ ways[listed[index].how] }}</span>
              <span role="gridcell" class="mono end">{{ listed[index].bytes > 0 ? bytes(listed[index].bytes) : '' }}</span>
            </div>
          </template>
        </VirtualRows>
        <aside v-if="current" class="side" aria-label="Before and after of the file">
          <h1 class="cut">
            <bdi>{{ fileOf(current.path) }}</bdi>
          </h1>
          <p class="mute small">
            <bdi>{{ current.path }}</bdi>
          </p>
          <p v-if="current.reason" class="bad">{{ current.reason }}</p>
          <dl class="changes">
            <template v-if="current.name">
              <dt>File name</dt>
              <dd>
                <s class="mute"
                  ><bdi>{{ fileOf(current.path) }}</bdi></s
                >
                <bdi>{{ current.name }}</bdi>
              </dd>
            </template>
            <template v-for="c in current.changes" :key="c.key">
              <dt>{{ c.label }}</dt>
              <dd>
                <s v-if="c.before && c.before !== c.after" class="mute"
                  ><bdi>{{ c.before }}</bdi></s
                >
                <bdi v-if="c.after">{{ c.after }}</bdi>
                <span v-else class="mute">taken out</span>
                <div v-if="c.before === c.after" class="mute small">put where the file lacks it, too</div>
              </dd>
            </template>
          </dl>
          <ul v-if="current.notes.length > 0" class="notes small caution">
            <li v-for="note in current.notes" :key="note">{{ note }}</li>
          </ul>
          <p v-if="changing(current) && current.how !== 'name'" class="mute small">
            {{ current.how === 'inPlace' ? 'Its audio stays where it is in the file.' : 'The file is written beside the old one, and then takes its place.' }}
          </p>
        </aside>
        <aside v-else class="side mute">
          {{ show === 'change' ? 'All of these files say what the library says.' : 'None.' }}
        </aside>
      </div>
    </template>
    <div v-else-if="fileWork.what === '' && !outcome" class="empty">
      <strong>Put the library’s labels into the files themselves</strong>
      <span
        >Nothing is written before you have seen what would change, file by file. Audio stays the same to the bit, and Ctrl Z brings every file back as it
        was.</span
      >
    </div>
  </div>
</template>

<style scoped>
.tools {
  white-space: nowrap;
}
.outcome {
  width: 100%;
}
.which {
  width: 300px;
}
.notes {
  margin: 0;
  padding-left: 18px;
  white-space: normal;
}
.panes {
  flex: 1;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 360px;
  min-height: 0;
  border-top: 1px solid var(--line);
}
.row {
  grid-template-columns: minmax(0, 1.1fr) minmax(0, 1.3fr) 100px 90px;
}
.row:hover {
  background: color-mix(in srgb, var(--raft) 50%, transparent);
}
.current,
.current:hover {
  background: var(--raft2);
}
.side {
  padding: 16px 14px;
  overflow-y: auto;
  border-left: 1px solid var(--line);
}
.side h1 {
  margin: 0;
  font-size: 15px;
}
.caution {
  color: var(--amber);
}
.changes {
  margin: 14px 0;
  font-size: 13px;
}
.changes dt {
  margin-top: 10px;
  color: var(--mute);
  font-size: 12px;
}
.changes dd {
  margin: 0;
  overflow-wrap: anywhere;
}
</style>
