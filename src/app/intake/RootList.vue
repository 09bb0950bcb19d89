<script setup lang="ts">
import { FolderAddOutlined } from '@ant-design/icons-vue';
import type { RootRecord, RootWork } from '@platform/index';
import { Alert, Button, Dropdown, Menu, MenuItem, Progress, Tooltip } from 'ant-design-vue';
import { computed, ref, watch } from 'vue';
import { RouterLink, useRouter } from 'vue-router';
import { count, things, timeLeft } from '../shared/controls/format';
import FullPath from '../shared/controls/FullPath.vue';
import { tell } from '../shell/notice';
import { useBackups } from '../stores/backups';
import { useIntake } from '../stores/intake';
import { useLibrary } from '../stores/library';
import { catalogue } from '../stores/workers';
import { arrivalText } from './arrivals';

const intake = useIntake();
const backups = useBackups();
const library = useLibrary();
const router = useRouter();
const fileInput = ref<HTMLInputElement>();
const folderInput = ref<HTMLInputElement>();
const keepsHandles = 'showDirectoryPicker' in window;

const inRoot = ref(new Map<number, number>());
watch([() => library.revision, () => library.roots], async () => (inRoot.value = new Map(await catalogue.countByRoot())), { immediate: true });
const arrivals = computed(() => [...library.intakes].filter((i) => arrivalText(i) !== '').sort((a, b) => b.started - a.started));
const kinds = {
  server: 'Read from its folder by the Cormorant server',
  picked: 'Read from where it is',
  copied: 'Copied into the browser',
  team: 'A library of the team',
};

function status(w: RootWork): string {
  if (w.phase === 'Waiting') return 'Waits for its turn';
  if (w.phase === 'In another tab') return 'Another tab is taking this in';
  if (w.phase === 'Looking') return w.total > 0 ? `Looking for sounds: ${count(w.total)} so far` : 'Looking for sounds';
  if (w.counting)
    return `${w.phase}: ${count(w.done)} of ${count(w.total)} found so far${w.rate > 0 ? `, ${count(Math.max(1, Math.round(w.rate)))} a second` : ''}`;
  const speed = w.rate > 0 ? `, ${count(Math.max(1, Math.round(w.rate)))} a second, ${timeLeft((w.total - w.done) / w.rate)}` : '';
  return `${w.phase}: ${count(w.done)} of ${count(w.total)}${speed}`;
}
const percent = (w: RootWork) => (w.total === 0 ? 0 : Math.floor((w.done / w.total) * 100));

function rest(root: RootRecord): string {
  if (root.removed)
    return { kept: 'Taken out; its sounds stay in the lists', hidden: 'Taken out; its sounds are hidden', retired: 'Taken out; its sounds are retired' }[
      root.removed
    ];
  if (root.kind === 'team') return root.team?.list === undefined ? 'Kept in step with the team' : 'Heard by a list of the team';
  if (root.halt === 'paused') return 'Paused';
  if (root.halt === 'cancelled') return 'Cancelled; what was read is kept';
  if (!intake.isOffered(root)) return 'Out of reach: the server was started without it. Start it with this folder, or reconnect it.';
  if (intake.current.has(root.id)) return 'Up to date';
  return intake.works.size > 0 ? 'Searchable; measured next' : '';
}

async function pick(what: string, picker: () => Promise<(FileSystemDirectoryHandle | FileSystemFileHandle)[]>): Promise<void> {
  try {
    await intake.addHandles(await picker());
  } catch (error) {
    if ((error as Error).name !== 'AbortError') tell.error(`The ${what} could not be added: ${(error as Error).message}`);
  }
}

function addFolder(): void {
  const { showDirectoryPicker: picker } = window;
  if (!picker) return folderInput.value?.click();
  void pick('folder', async () => [await picker({ id: 'sounds', mode: 'read' })]);
}

function addFiles(): void {
  const { showOpenFilePicker: picker } = window;
  if (!picker) return fileInput.value?.click();
  void pick('files', () => picker({ multiple: true }));
}

function copied(event: Event): void {
  const input = event.target as HTMLInputElement;
  void intake.addCopies([...(input.files ?? [])]);
}

function showArrivals(intakeId: number): void {
  void router.push({ name: 'find', query: { intake: String(intakeId) } });
}
const rootName = (id: number) => library.rootById.get(id)?.name ?? 'A folder that was taken out';
const problemsIn = (id: number) => library.problems.filter((p) => p.rootId === id).length;
</script>

<template>
  <div class="page">
    <section class="add" aria-label="Add sounds">
      <FolderAddOutlined class="icon" />
      <div class="words">
        <strong>Drop folders or files anywhere on this window</strong>
        <span class="mute small">They stay where they are, and nothing in them is changed.</span>
      </div>
      <Button type="primary" @click="addFolder">Add a folder</Button>
      <Button @click="addFiles">Add files</Button>
    </section>
    <p v-if="!keepsHandles" class="mute">
      This browser cannot keep a folder open: what you add is copied into it. To leave files where they are, start Cormorant with
      <span class="mono">npm start -- FOLDER</span>.
    </p>
    <input ref="folderInput" type="file" webkitdirectory multiple hidden aria-label="Folder of sounds" @change="copied" />
    <input
      ref="fileInput"
      type="file"
      multiple
      hidden
      accept=".wav,.bwf,.rf64,.aif,.aiff,.aifc,.flac,.ogg,.opus,.mp3,.m4a"
      aria-label="Sound files"
      @change="copied"
    />

    <section aria-label="Roots">
      <h2>Folders in the library</h2>
      <p v-if="library.roots.length === 0" class="mute none">None yet. What you add can be searched within seconds, and is measured in the background.</p>
      <ul class="roots">
        <li v-for="root in library.roots" :key="root.id">
          <div class="root">
            <div class="names">
              <span class="cut name" :title="root.name">{{ root.name }}</span>
              <span v-if="root.place" class="mute small"><FullPath :root="root" /></span>
              <span v-else class="mute small">{{ kinds[root.kind] }}</span>
            </div>
            <span class="mono counted">{{ things(inRoot.get(root.id) ?? 0, 'sound') }}</span>
            <template v-if="intake.works.get(root.id)">
              <div class="progress">
                <Progress :percent="percent(intake.works.get(root.id)!)" size="small" status="active" :aria-label="`Intake of ${root.name}`" />
                <span class="small mute mono">{{ status(intake.works.get(root.id)!) }}</span>
                <span class="small faint cut" aria-hidden="true">{{ intake.works.get(root.id)!.current }}&nbsp;</span>
              </div>
              <div class="acts">
                <Tooltip title="Goes on when you say so, also after a reload"
                  ><Button size="small" :aria-label="`Pause ${root.name}`" @click="intake.halt(root, 'paused')">Pause</Button></Tooltip
                >
                <Button size="small" :aria-label="`Cancel ${root.name}`" @click="intake.halt(root, 'cancelled')">Cancel</Button>
              </div>
            </template>
            <template v-else>
              <span class="progress mute small">
                <span>{{ rest(root) }}</span>
                <RouterLink v-if="problemsIn(root.id) > 0" class="warn" to="/intake/problems">{{ things(problemsIn(root.id), 'problem') }}</RouterLink>
              </span>
              <div class="acts">
                <Button v-if="root.removed" size="small" :aria-label="`Put ${root.name} back`" @click="intake.putBack(root)">Put back</Button>
                <RouterLink v-else-if="!intake.isOffered(root)" to="/intake/missing"><Button size="small">Reconnect</Button></RouterLink>
                <Button v-else-if="root.halt" size="small" :aria-label="`Go on with ${root.name}`" @click="intake.scan(root)">Go on</Button>
                <RouterLink v-else-if="root.kind === 'team'" to="/intake/team"><Button size="small" tabindex="-1">Team</Button></RouterLink>
                <Button v-else size="small" :aria-label="`Look again in ${root.name}`" @click="intake.scan(root)">Look again</Button>
                <Dropdown v-if="!root.removed" :trigger="['click']">
                  <Button size="small" :aria-label="`Take out ${root.name}`">Take out</Button>
                  <template #overlay>
                    <Menu @click="({ key }: { key: string | number }) => intake.takeOut(root, key as 'kept' | 'hidden' | 'retired')">
                      <MenuItem key="kept">Keep its sounds in the lists</MenuItem>
                      <MenuItem key="hidden">Hide its sounds for now</MenuItem>
                      <MenuItem key="retired">Retire its sounds</MenuItem>
                    </Menu>
                  </template>
                </Dropdown>
              </div>
            </template>
          </div>
          <Alert v-if="intake.unavailable.get(root.id)" type="error" banner :message="intake.unavailable.get(root.id)!.reason">
            <template #action>
              <Button v-if="intake.unavailable.get(root.id)!.askAgain" size="small" @click="intake.allowAgain(root)">Allow again</Button>
              <template v-else>
                <Button size="small" @click="intake.scan(root)">Try again</Button>
                <Button v-if="intake.unavailable.get(root.id)!.emptied" size="small" @click="intake.scan(root, true)">They are gone</Button>
              </template>
            </template>
          </Alert>
        </li>
      </ul>
    </section>

    <p v-if="backups.persistent === false && library.roots.length > 0" class="mute small">
      Labels, lists and scenes are kept in this browser, which may throw them away when the disk runs low, unless it has promised not to.
      <Button size="small" type="link" class="inline" @click="backups.persist()">Ask it to keep them</Button>
    </p>

    <section v-if="arrivals.length > 0" aria-label="Arrivals">
      <h2>Arrivals</h2>
      <ul class="arrivals">
        <li v-for="i in arrivals.slice(0, 12)" :key="i.id">
          <button class="line-button" @click="showArrivals(i.id)">
            <span class="mono small when">{{ new Date(i.started).toLocaleString() }}</span>
            <span class="cut">{{ rootName(i.rootId) }}</span>
            <span class="count">{{ arrivalText(i) }}</span>
          </button>
        </li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
section {
  margin-bottom: 26px;
}
h2 {
  margin-bottom: 6px;
}
.add {
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 14px 16px;
  border: 1px dashed var(--faint);
  border-radius: 8px;
}
.icon {
  font-size: 22px;
  color: var(--glass);
}
.words {
  display: grid;
  flex: 1;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
p.small {
  margin: -14px 0 26px;
}
.inline {
  height: auto;
  padding: 0;
  font-size: 12px;
}
.none {
  margin: 0;
}
.roots > li {
  border-top: 1px solid var(--line);
}
.roots > li:last-child {
  border-bottom: 1px solid var(--line);
}
.root {
  display: grid;
  grid-template-columns: minmax(200px, 1.3fr) 110px minmax(220px, 1.2fr) auto;
  align-items: center;
  gap: 16px;
  min-height: 56px;
}
.acts {
  display: flex;
  gap: 8px;
  justify-content: end;
}
.names,
.progress {
  display: grid;
  min-width: 0;
}
.progress :deep(.ant-progress) {
  margin: 0;
}
.name {
  font-weight: 600;
}
.small {
  font-size: 12px;
}
.faint {
  color: var(--mute);
  opacity: 0.75;
}
.counted {
  text-align: right;
  color: var(--glass);
}
.when {
  color: var(--mute);
  min-width: 168px;
}
.warn {
  color: var(--coral);
}
</style>
