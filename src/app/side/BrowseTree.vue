<script setup lang="ts">
import { DownOutlined, PushpinOutlined, RightOutlined } from '@ant-design/icons-vue';
import { type Folder } from '@core/library';
import { canFacet } from '@core/search';
import { Button } from 'ant-design-vue';
import { computed, nextTick, ref, shallowRef, useTemplateRef, watch } from 'vue';
import { count } from '../shared/controls/format';
import { useValueName } from '../shared/list/useValueName';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { usePrefs } from '../stores/prefs';
import { usePulls } from '../stores/pulls';
import { searchOf, wide } from '../stores/view';
import { catalogue } from '../stores/workers';
import FieldSelect from '../shared/controls/FieldSelect.vue';
import { byLabel, fieldOptions } from '../shared/controls/fields';

/** The library as a tree: the folders of all roots, or the values of any fields, one inside of the other in the order chosen. */
interface Branch {
  key: string;
  title: string;
  count: number;
  isLeaf: boolean;
  children?: Branch[];
  /** Of a tree of folders. */
  folder?: Folder;
  /** Of a tree of fields: the values down to here. */
  path?: [key: string, value: string][];
}

const find = useFind();
const library = useLibrary();
const prefs = usePrefs();
const pulls = usePulls();
const valueName = useValueName();
const tree = useTemplateRef('tree');
const branches = shallowRef<Branch[]>([]);
/** Branches that are unfolded. */
const open = shallowRef<ReadonlySet<string>>(new Set());
const VALUES = 400;

const options = fieldOptions(canFacet).sort(byLabel);
const byFolders = computed(() => prefs.treeKeys.length === 0);

async function folderTree(): Promise<Branch[]> {
  const roots: Branch[] = library.roots.map((r) => ({ key: `${r.id}/`, title: r.name, count: 0, isLeaf: true, folder: { rootId: r.id, folder: '' } }));
  const byKey = new Map(roots.map((r) => [r.key, r]));
  for (const { rootId, folder, count: sounds } of await catalogue.folders()) {
    let at = byKey.get(`${rootId}/`);
    if (!at) continue;
    at.count += sounds;
    let path = '';
    for (const part of folder === '' ? [] : folder.split('/')) {
      path = path ? `${path}/${part}` : part;
      const key = `${rootId}/${path}`;
      let next = byKey.get(key);
      if (!next) {
        next = { key, title: part, count: 0, isLeaf: true, folder: { rootId, folder: path } };
        byKey.set(key, next);
        (at.children ??= []).push(next);
        at.isLeaf = false;
      }
      next.count += sounds;
      at = next;
    }
  }
  return roots.filter((r) => r.count > 0);
}

/** The values of the next field among the sounds that have those of the branch. */
async function valuesBelow(path: [string, string][]): Promise<Branch[]> {
  const key = prefs.treeKeys[path.length];
  const facets = Object.fromEntries(path.map(([k, value]) => [k, [value]]));
  const { values } = await catalogue.values(searchOf({ ...wide(), facets }), key, '', VALUES);
  const made = values.map(({ value, count: sounds }): Branch => {
    const own: [string, string][] = [...path, [key, value]];
    return { key: JSON.stringify(own), title: valueName(key, value), count: sounds, isLeaf: own.length === prefs.treeKeys.length, path: own };
  });
  return made.sort((a, b) => a.title.localeCompare(b.title, undefined, { numeric: true }));
}

let newest = 0;
async function renew(): Promise<void> {
  const own = ++newest;
  const made = byFolders.value ? await folderTree() : await valuesBelow([]);
  if (own !== newest) return;
  branches.value = made;
  // What lay below a value may be another by now: it is asked for when it is unfolded again.
  if (!byFolders.value) open.value = new Set();
}
watch(
  () => [prefs.treeKeys.join(), library.roots],
  () => {
    open.value = new Set();
    void renew();
  },
  { immediate: true },
);
let stale: ReturnType<typeof setTimeout> | undefined;
watch(
  () => find.answer.total,
  () => {
    clearTimeout(stale);
    stale = setTimeout(() => void renew(), 1000);
  },
);

const chosen = computed(() => {
  const { under, facets } = find.view;
  if (byFolders.value) return under && `${under.rootId}/${under.folder}`;
  const path = prefs.treeKeys.flatMap((key) => (facets[key]?.length === 1 ? [[key, facets[key][0]]] : []));
  return path.length > 0 ? JSON.stringify(path) : undefined;
});
function choose({ key, folder, path }: Branch): void {
  const off = chosen.value === key;
  if (folder) return find.go({ under: off ? undefined : folder, pullId: undefined, intakeId: undefined, soundId: undefined });
  const own = Object.fromEntries(prefs.treeKeys.map((k, i) => [k, !off && path![i] ? [path![i][1]] : []]));
  find.go({ facets: { ...find.view.facets, ...own }, pullId: undefined, intakeId: undefined, soundId: undefined });
}

/** The chosen folder, which may be kept. */
const folderHere = computed(() => lines.value.find((l) => l.branch.key === chosen.value && l.branch.folder)?.branch);

/** The branches that are to be seen, one below the other. */
interface Line {
  branch: Branch;
  level: number;
  parent?: string;
}
const lines = computed<Line[]>(() => {
  const flat = (list: readonly Branch[], level: number, parent?: string): Line[] =>
    list.flatMap((branch) => {
      const below = open.value.has(branch.key) && branch.children ? flat(branch.children, level + 1, branch.key) : [];
      return [{ branch, level, parent }, ...below];
    });
  return flat(branches.value, 1);
});
/** Where the keys are. */
const at = ref<string>();
const here = computed(() => (lines.value.some((l) => l.branch.key === at.value) ? at.value : lines.value[0]?.branch.key));

async function unfold(branch: Branch, to: boolean): Promise<void> {
  if (branch.isLeaf) return;
  if (to && !branch.children) {
    branch.children = await valuesBelow(branch.path ?? []);
    branches.value = [...branches.value];
  }
  const next = new Set(open.value);
  if (to) next.add(branch.key);
  else next.delete(branch.key);
  open.value = next;
}
function goTo(key: string | undefined): void {
  if (key === undefined) return;
  at.value = key;
  void nextTick(() => tree.value?.querySelector<HTMLElement>('[tabindex="0"]')?.focus());
}
/** The keys of a tree: up and down, into and out of branches. */
function key(event: KeyboardEvent, { branch, parent }: Line): void {
  const index = lines.value.findIndex((l) => l.branch.key === branch.key);
  const unfolded = open.value.has(branch.key);
  if (event.key === 'ArrowDown') goTo(lines.value[index + 1]?.branch.key);
  else if (event.key === 'ArrowUp') goTo(lines.value[index - 1]?.branch.key);
  else if (event.key === 'Home') goTo(lines.value[0].branch.key);
  else if (event.key === 'End') goTo(lines.value[lines.value.length - 1].branch.key);
  else if (event.key === 'ArrowRight' && unfolded) goTo(branch.children?.[0]?.key);
  else if (event.key === 'ArrowRight') void unfold(branch, true);
  else if (event.key === 'ArrowLeft' && unfolded) void unfold(branch, false);
  else if (event.key === 'ArrowLeft') goTo(parent);
  else if (event.key === 'Enter' || event.key === ' ') choose(branch);
  else return;
  event.preventDefault();
  event.stopPropagation();
}
</script>

<template>
  <FieldSelect
    v-model:value="prefs.treeKeys"
    class="levels"
    mode="multiple"
    :options="options"
    placeholder="Folders; or fields, in order"
    aria-label="Levels of the tree"
  />
  <p v-if="branches.length === 0" class="mute hint">Nothing to browse yet: add a folder at Intake.</p>
  <div v-else ref="tree" class="tree" role="tree" :aria-label="byFolders ? 'Folders' : 'Values'">
    <div
      v-for="line in lines"
      :key="line.branch.key"
      class="branch line-button"
      role="treeitem"
      :aria-level="line.level"
      :aria-expanded="line.branch.isLeaf ? undefined : open.has(line.branch.key)"
      :aria-selected="chosen === line.branch.key"
      :aria-label="`${line.branch.title}, ${count(line.branch.count)}`"
      :class="{ here: chosen === line.branch.key }"
      :style="{ paddingLeft: `${line.level * 12 - 8}px` }"
      :tabindex="line.branch.key === here ? 0 : -1"
      @click="((at = line.branch.key), choose(line.branch))"
      @dblclick="unfold(line.branch, !open.has(line.branch.key))"
      @keydown="key($event, line)"
    >
      <span class="arrow mute" aria-hidden="true" @click.stop="unfold(line.branch, !open.has(line.branch.key))">
        <DownOutlined v-if="open.has(line.branch.key)" /><RightOutlined v-else-if="!line.branch.isLeaf" />
      </span>
      <span class="cut" :title="line.branch.title"
        ><bdi>{{ line.branch.title }}</bdi></span
      >
      <span class="count">{{ count(line.branch.count) }}</span>
    </div>
  </div>
  <Button v-if="folderHere" size="small" class="keep" @click="pulls.keepFolder(folderHere.title, folderHere.folder!)">
    <template #icon><PushpinOutlined /></template>Keep among the pulls
  </Button>
</template>

<style scoped>
.levels {
  width: 100%;
  margin: 8px 0;
}
.tree {
  margin: 0 -4px;
}
.branch {
  display: flex;
  align-items: center;
  gap: 4px;
  cursor: pointer;
}
.branch .cut {
  flex: 1;
}
.here {
  background: var(--raft2);
}
.arrow {
  flex: none;
  width: 14px;
  font-size: 10px;
}
.keep {
  align-self: start;
  margin: 8px 4px;
}
.hint {
  font-size: 12px;
}
</style>
