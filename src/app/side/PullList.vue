<script setup lang="ts">
import { DownOutlined, FolderOutlined, TeamOutlined, MoreOutlined, PlusOutlined, RightOutlined } from '@ant-design/icons-vue';
import type { Pull } from '@core/library';
import { AutoComplete, Button, Dropdown, Form, FormItem, Input, Menu, Modal, Tooltip } from 'ant-design-vue';
import type { ItemType } from 'ant-design-vue';
import { useLocalStorage } from '@vueuse/core';
import { computed, reactive, ref, useTemplateRef } from 'vue';
import { droppedSounds } from '../shared/take/drag';
import { count } from '../shared/controls/format';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { usePulls } from '../stores/pulls';
import ComparePulls from './ComparePulls.vue';
import { useCounts } from './useCounts';

/** The pulls in their folders, with all that can be done with a list as a whole. */
const find = useFind();
const library = useLibrary();
const pulls = usePulls();
const file = useTemplateRef('file');
const closed = useLocalStorage<string[]>('closed-shelves', []);
/** What is asked for by name: a new pull's, another one's, or the folder of lists it goes to. */
const asking = reactive({ what: '' as '' | 'new' | 'rename' | 'move', pullId: undefined as number | undefined, text: '' });
const compared = ref<{ first: number; second: number }>();

const MINE = 'application/x-cormorant-pull';

interface Line {
  key: string;
  depth: number;
  shelf?: string;
  name: string;
  pull?: Pull;
}
/** Folders of lists and the lists in them, as lines; what is in a closed one is left out. */
const lines = computed<Line[]>(() => {
  const made: Line[] = [];
  const add = (within: string, depth: number) => {
    for (const shelf of pulls.shelves) {
      const cut = shelf.lastIndexOf('/');
      if ((cut < 0 ? '' : shelf.slice(0, cut)) !== within) continue;
      made.push({ key: `shelf ${shelf}`, depth, shelf, name: shelf.slice(cut + 1) });
      if (!closed.value.includes(shelf)) add(shelf, depth + 1);
    }
    for (const pull of pulls.all) if ((pull.shelf ?? '') === within) made.push({ key: `pull ${pull.id}`, depth, name: pull.name, pull });
  };
  add('', 0);
  return made;
});

const inFolders = useCounts(() => pulls.all.filter((p) => p.live).map(({ id }) => ({ id, search: { text: '', pullId: id } })));
function countOf(pull: Pull): string {
  const n = pull.live ? inFolders.value.get(pull.id) : pull.soundIds.length;
  return n === undefined ? '' : count(n);
}
function toggle(shelf: string): void {
  closed.value = closed.value.includes(shelf) ? closed.value.filter((s) => s !== shelf) : [...closed.value, shelf];
}
function show(pull: Pull): void {
  find.begin({ pullId: pull.id });
}
function remove(pull: Pull): void {
  void pulls.remove(pull);
  if (find.view.pullId === pull.id) find.go({ pullId: undefined, soundId: undefined });
}

const others = (pull: Pull) => pulls.all.filter((p) => p.id !== pull.id);
const menuOf = (pull: Pull): ItemType[] => [
  { key: 'rename', label: 'Rename …' },
  { key: 'move', label: 'Move to a folder of lists …' },
  { key: 'duplicate', label: 'Duplicate' },
  {
    key: 'merge',
    label: 'Add all of it to',
    disabled: !others(pull).some((p) => !p.live),
    children: others(pull).flatMap((p) => (p.live ? [] : [{ key: `merge ${p.id}`, label: p.name }])),
  },
  {
    key: 'compare',
    label: 'Compare with',
    disabled: others(pull).length === 0,
    children: others(pull).map((p) => ({ key: `compare ${p.id}`, label: p.name })),
  },
  { key: 'file', label: 'Save as a file' },
  { type: 'divider' },
  { key: 'remove', label: 'Remove; its sounds stay in the library' },
];
function act(pull: Pull, key: string): void {
  const [what, id] = key.split(' ');
  const other = pulls.byId(Number(id));
  if (what === 'rename') ask('rename', pull);
  else if (what === 'move') ask('move', pull);
  else if (what === 'duplicate') void pulls.duplicate(pull);
  else if (what === 'file') void pulls.saveFile(pull);
  else if (what === 'remove') remove(pull);
  else if (other && what === 'merge') void pulls.merge(pull, other);
  else if (other && what === 'compare') compared.value = { first: pull.id, second: other.id };
}

function ask(what: 'new' | 'rename' | 'move', pull?: Pull): void {
  Object.assign(asking, { what, pullId: pull?.id, text: what === 'rename' ? pull?.name : what === 'move' ? (pull?.shelf ?? '') : '' });
}
const titles = { '': '', new: 'Keep the tray as a pull', rename: 'Rename the pull', move: 'Move to a folder of lists' };
async function answered(): Promise<void> {
  const { what, pullId } = asking;
  const text = asking.text.trim();
  const pull = pulls.byId(pullId);
  if (what !== 'move' && !text) return;
  asking.what = '';
  if (what === 'new') await pulls.keepTray(text);
  else if (pull && what === 'rename') await pulls.rename(pull, text);
  else if (pull && what === 'move') await pulls.move(pull, text);
}

async function read(): Promise<void> {
  for (const one of file.value?.files ?? []) {
    const id = await pulls.readFile(one);
    if (id !== undefined) find.begin({ pullId: id });
  }
  if (file.value) file.value.value = '';
}

function drop(event: DragEvent, line: Line): void {
  const sounds = droppedSounds(event);
  const mine = pulls.byId(Number(event.dataTransfer?.getData(MINE) || NaN));
  if (sounds && line.pull) void pulls.add(line.pull, sounds);
  else if (mine) void pulls.move(mine, line.shelf ?? line.pull?.shelf ?? '');
}
const more: ItemType[] = [
  { key: 'file', label: 'Read a pull file …' },
  { key: 'top', label: 'Show all lists' },
];
function head(key: string): void {
  if (key === 'file') file.value?.click();
  else closed.value = [];
}
</script>

<template>
  <input ref="file" type="file" hidden multiple accept=".json" aria-label="Pull files" @change="read" />
  <div class="heading">
    <h2>Pulls</h2>
    <span>
      <Tooltip title="Keep the tray as a pull"
        ><Button type="text" size="small" aria-label="Keep the tray as a pull" @click="ask('new')"
          ><template #icon><PlusOutlined /></template></Button
      ></Tooltip>
      <Dropdown :trigger="['click']">
        <Button type="text" size="small" aria-label="More for pulls"
          ><template #icon><MoreOutlined /></template
        ></Button>
        <template #overlay><Menu :items="more" @click="({ key }) => head(String(key))" /></template>
      </Dropdown>
    </span>
  </div>
  <p v-if="lines.length === 0" class="hint">Hold sounds in the tray, then keep them here under a name.</p>
  <div
    v-for="line in lines"
    :key="line.key"
    class="line"
    :style="{ paddingLeft: `${line.depth * 12}px` }"
    :draggable="line.pull !== undefined"
    @dragstart="line.pull && $event.dataTransfer?.setData(MINE, String(line.pull.id))"
    @dragover.prevent
    @drop="drop($event, line)"
  >
    <button v-if="line.shelf !== undefined" class="line-button" :aria-expanded="!closed.includes(line.shelf)" @click="toggle(line.shelf)">
      <span class="cut mute" :title="line.shelf"
        ><span class="arrow" aria-hidden="true"><RightOutlined v-if="closed.includes(line.shelf)" /><DownOutlined v-else /></span> {{ line.name }}</span
      >
    </button>
    <template v-else-if="line.pull">
      <button class="line-button" :class="{ here: find.view.pullId === line.pull.id }" @click="show(line.pull)">
        <span class="cut" :title="line.name"
          ><FolderOutlined v-if="line.pull.live" class="mute" aria-label="Folder of a root," /><TeamOutlined
            v-if="line.pull.team"
            class="mute"
            aria-label="Shared with the team,"
          />
          {{ line.name }}</span
        >
        <span class="count">{{ countOf(line.pull) }}</span>
      </button>
      <Dropdown :trigger="['click']">
        <Button class="menu" type="text" size="small" :aria-label="`What to do with the pull ${line.name}`"
          ><template #icon><MoreOutlined /></template
        ></Button>
        <template #overlay><Menu :items="menuOf(line.pull)" @click="({ key }) => act(line.pull!, String(key))" /></template>
      </Dropdown>
    </template>
  </div>
  <Modal :open="asking.what !== ''" :title="titles[asking.what]" ok-text="Keep" width="420px" destroy-on-close @ok="answered" @cancel="asking.what = ''">
    <Form layout="vertical" @submit.prevent="answered">
      <FormItem v-if="asking.what === 'move'" label="Folder of lists" extra="A new name makes it; “/” puts one inside of another; empty is the top.">
        <AutoComplete v-model:value="asking.text" autofocus :options="pulls.shelves.map((value) => ({ value }))" aria-label="Folder of lists" />
      </FormItem>
      <FormItem v-else label="Name of the pull">
        <Input v-model:value="asking.text" autofocus aria-label="Name of the pull" @press-enter="answered" />
      </FormItem>
    </Form>
    <p v-if="asking.what === 'new'" class="mute">{{ count(library.tray?.soundIds.length ?? 0) }} sounds are held in the tray.</p>
  </Modal>
  <ComparePulls v-if="compared" :first="compared.first" :second="compared.second" @close="compared = undefined" />
</template>

<style scoped>
.arrow {
  font-size: 10px;
}
/* In the place of the count, so that counts stand in one column. */
.menu {
  position: absolute;
  right: 2px;
  background: var(--raft2);
  opacity: 0;
}
.line:hover .menu,
.menu:focus-visible {
  opacity: 1;
}
.hint {
  margin: 4px 8px;
  font-size: 12px;
  color: var(--mute);
}
</style>
