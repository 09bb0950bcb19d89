<script setup lang="ts">
import { PushpinOutlined } from '@ant-design/icons-vue';
import { fields } from '@core/library';
import { canFacet, type Folder } from '@core/search';
import { useElementSize } from '@vueuse/core';
import { Button, Select, Tooltip, Tree } from 'ant-design-vue';
import { computed, ref, shallowRef, useTemplateRef, watch } from 'vue';
import { count } from '../shared/format';
import { useValueName } from '../shared/useValueName';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { usePrefs } from '../stores/prefs';
import { usePulls } from '../stores/pulls';
import { searchOf, wide } from '../stores/view';
import { catalogue } from '../stores/workers';

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
const box = useTemplateRef('box');
const { height } = useElementSize(box);
const branches = shallowRef<Branch[]>([]);
const expanded = ref<string[]>([]);
const VALUES = 400;

const options = fields
  .filter(canFacet)
  .map((f) => ({ value: f.key, label: f.label }))
  .sort((a, b) => a.label.localeCompare(b.label));
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

let turn = 0;
async function renew(): Promise<void> {
  const own = ++turn;
  const made = byFolders.value ? await folderTree() : await valuesBelow([]);
  if (own !== turn) return;
  branches.value = made;
}
watch(
  () => [prefs.treeKeys.join(), library.roots],
  () => {
    expanded.value = [];
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

async function load(node: object): Promise<void> {
  const branch = (node as { dataRef: Branch }).dataRef;
  if (branch.children || !branch.path) return;
  branch.children = await valuesBelow(branch.path);
  branches.value = [...branches.value];
}

const chosen = computed(() => {
  const { under, facets } = find.view;
  if (byFolders.value) return under ? [`${under.rootId}/${under.folder}`] : [];
  const path = prefs.treeKeys.flatMap((key) => (facets[key]?.length === 1 ? [[key, facets[key][0]]] : []));
  return path.length > 0 ? [JSON.stringify(path)] : [];
});
function choose(_keys: unknown, { node }: { node: object }): void {
  const { key, folder, path } = (node as { dataRef: Branch }).dataRef;
  const off = chosen.value.includes(key);
  if (folder) return find.go({ under: off ? undefined : folder, pullId: undefined, intakeId: undefined, soundId: undefined });
  const own = Object.fromEntries(prefs.treeKeys.map((k, i) => [k, !off && path![i] ? [path![i][1]] : []]));
  find.go({ facets: { ...find.view.facets, ...own }, pullId: undefined, intakeId: undefined, soundId: undefined });
}
</script>

<template>
  <Select
    v-model:value="prefs.treeKeys"
    class="levels"
    mode="multiple"
    size="small"
    :options="options"
    option-filter-prop="label"
    placeholder="Folders; or fields, in order"
    aria-label="Levels of the tree"
  />
  <div ref="box" class="tree">
    <p v-if="branches.length === 0" class="mute hint">Nothing to browse yet: add a folder at Intake.</p>
    <Tree
      v-else-if="height > 0"
      :key="prefs.treeKeys.join()"
      v-model:expanded-keys="expanded"
      block-node
      :height="height"
      :tree-data="branches"
      :load-data="byFolders ? undefined : load"
      :selected-keys="chosen"
      :aria-label="byFolders ? 'Folders' : 'Values'"
      @select="choose"
    >
      <template #title="branch">
        <span class="branch">
          <span class="cut" :title="branch.title"
            ><bdi>{{ branch.title }}</bdi></span
          >
          <Tooltip v-if="branch.folder" title="Let this folder stand among the pulls"
            ><Button
              class="pin"
              type="text"
              size="small"
              tabindex="-1"
              :aria-label="`Keep the folder ${branch.title} among the pulls`"
              @click.stop="pulls.keepFolder(branch.title, branch.folder)"
              ><template #icon><PushpinOutlined /></template></Button
          ></Tooltip>
          <span class="count">{{ count(branch.count) }}</span>
        </span>
      </template>
    </Tree>
  </div>
</template>

<style scoped>
.levels {
  width: 100%;
  margin: 8px 0;
}
.tree {
  flex: 1;
  min-height: 0;
  overflow: hidden;
}
.tree :deep(.ant-tree) {
  background: none;
  font-size: 12.5px;
}
.tree :deep(.ant-tree-node-content-wrapper) {
  min-width: 0;
}
.branch {
  display: flex;
  align-items: center;
  gap: 4px;
}
.branch .cut {
  flex: 1;
}
.pin {
  width: 20px;
  height: 20px;
  opacity: 0;
}
.branch:hover .pin {
  opacity: 1;
}
.hint {
  font-size: 12px;
}
</style>
