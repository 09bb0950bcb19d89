<script setup lang="ts">
import { HolderOutlined, PushpinOutlined, SettingOutlined } from '@ant-design/icons-vue';
import { fieldOf, fields } from '@core/library';
import { Button, Drawer, Input, Select, Tooltip } from 'ant-design-vue';
import { computed, ref } from 'vue';
import { VueDraggable } from 'vue-draggable-plus';
import MenuSelect from '../shared/controls/MenuSelect.vue';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { usePrefs, usualView, type TableView } from '../stores/prefs';
import { asOption, foreign } from '../shared/controls/fields';

/** Which fields stand in the label table, in which order, under which name. */
const prefs = usePrefs();
const find = useFind();
const library = useLibrary();
const open = ref(false);
const name = ref('');

const shown = computed({
  get: () => prefs.tableView.columns,
  set: (columns) => (prefs.tableView.columns = columns),
});
/** Languages that sounds on screen are described in. */
const languages = computed(() => [...new Set([...library.sounds.values()].flatMap((s) => Object.keys(s.fields).filter((k) => k.includes('@'))))]);
const others = computed(() => {
  const there = new Set(shown.value.map((c) => c.key));
  const keys = [...fields.map((f) => f.key), ...languages.value, ...foreign.map((o) => o.value)];
  return [...new Set(keys)].filter((k) => !there.has(k) && k !== 'takeGroup').map(asOption);
});
const views = computed(() => [usualView, ...prefs.tableViews].map((v) => ({ value: v.name, label: v.name })));

const add = (key: string) => (shown.value = [...shown.value, { key, width: 140 }]);
const remove = (key: string) => (shown.value = shown.value.filter((c) => c.key !== key));
const pin = (key: string) => (shown.value = shown.value.map((c) => (c.key === key ? { ...c, pinned: !c.pinned } : c)));
function moveBy(key: string, by: number): void {
  const all = [...shown.value];
  const at = all.findIndex((c) => c.key === key);
  const to = at + by;
  if (to < 0 || to >= all.length) return;
  [all[at], all[to]] = [all[to], all[at]];
  shown.value = all;
}
const copy = (view: TableView): TableView => JSON.parse(JSON.stringify(view)) as TableView;
function show(wanted: string): void {
  const view = [usualView, ...prefs.tableViews].find((v) => v.name === wanted);
  if (!view) return;
  prefs.tableView = copy(view);
  find.go({ sort: view.sort });
}
function keep(): void {
  const text = name.value.trim();
  if (!text || text === usualView.name) return;
  prefs.tableView = { ...copy(prefs.tableView), name: text };
  prefs.tableViews = [...prefs.tableViews.filter((v) => v.name !== text), copy(prefs.tableView)];
  name.value = '';
}
function forget(): void {
  prefs.tableViews = prefs.tableViews.filter((v) => v.name !== prefs.tableView.name);
  prefs.tableView = copy(usualView);
}
</script>

<template>
  <Tooltip title="Columns of the table" placement="left">
    <Button size="large" aria-label="Choose columns" @click="open = true"
      ><template #icon><SettingOutlined /></template
    ></Button>
  </Tooltip>
  <Drawer v-model:open="open" title="Columns" width="340">
    <label for="table-view" class="mute">View</label>
    <div class="line">
      <Select id="table-view" :value="prefs.tableView.name" :options="views" class="grow" @change="(v: unknown) => show(String(v))" />
      <Button :disabled="prefs.tableView.name === usualView.name" @click="forget">Forget</Button>
    </div>
    <div class="line">
      <Input v-model:value="name" placeholder="Keep as a view called" aria-label="Name of the view" @press-enter="keep" />
      <Button :disabled="!name.trim()" @click="keep">Keep</Button>
    </div>
    <VueDraggable v-model="shown" handle=".handle" tag="ul" class="list">
      <li v-for="c in shown" :key="c.key" class="line">
        <HolderOutlined class="handle" aria-hidden="true" />
        <span class="grow cut">{{ fieldOf(c.key).label }}</span>
        <Button size="small" type="text" :aria-label="`Move ${fieldOf(c.key).label} up`" @click="moveBy(c.key, -1)">↑</Button>
        <Button size="small" type="text" :aria-label="`Move ${fieldOf(c.key).label} down`" @click="moveBy(c.key, 1)">↓</Button>
        <Tooltip title="Keep in place while the others scroll">
          <Button
            size="small"
            type="text"
            :aria-pressed="c.pinned === true"
            :aria-label="`Pin ${fieldOf(c.key).label}`"
            :class="{ on: c.pinned }"
            @click="pin(c.key)"
          >
            <PushpinOutlined />
          </Button>
        </Tooltip>
        <Button size="small" type="text" :aria-label="`Take ${fieldOf(c.key).label} out`" @click="remove(c.key)">×</Button>
      </li>
    </VueDraggable>
    <label for="add-column" class="mute">Add a column</label>
    <MenuSelect id="add-column" label="Add a column" placeholder="Any field" :options="others" class="wide" @pick="add" />
  </Drawer>
</template>

<style scoped>
.line {
  display: flex;
  align-items: center;
  gap: 6px;
  margin: 6px 0;
}
.list {
  margin: 12px 0;
  padding: 0;
  list-style: none;
}
.grow {
  flex: 1;
}
.wide {
  width: 100%;
}
.handle {
  cursor: grab;
  color: var(--faint);
}
.on {
  color: var(--amber);
}
</style>
