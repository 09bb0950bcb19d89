<script setup lang="ts">
import { excerptName, excerptOf, type NamedRegion, type Sound } from '@core/library';
import { ColumnWidthOutlined, DeleteOutlined } from '@ant-design/icons-vue';
import { Button, Input, Select } from 'ant-design-vue';
import { computed, ref } from 'vue';
import { useAudition } from '../../stores/audition';
import { useIntake } from '../../stores/intake';
import { useLibrary } from '../../stores/library';
import { snaps, usePrefs } from '../../stores/prefs';
import { catalogue } from '../../stores/workers';
import { tell } from '../../shell/notice';
import { useCommands, withKey } from '../controls/commands';
import { seconds } from '../controls/format';
import PopPanel from '../controls/PopPanel.vue';
import { useMarks } from './useMarks';

/** The regions that are kept of a sound: chosen, named, taken out; and what edges are drawn to. */
const props = defineProps<{ sound: Sound }>();

const audition = useAudition();
const library = useLibrary();
const intake = useIntake();
const prefs = usePrefs();
const keep = useMarks(() => props.sound);
const name = ref('');
const kept = computed(() => props.sound.marks.regions ?? []);
const current = computed(() => props.sound.marks.region);
const isCurrent = (r: NamedRegion) => r.start === current.value?.start && r.end === current.value.end;
const time = (frame: number) => seconds(frame / props.sound.format.rate);
const free = computed(() => current.value && !kept.value.some(isCurrent));

const keepAll = (label: string, regions: NamedRegion[]) =>
  keep(label, { 'marks.regions': regions.length > 0 ? regions.map((r) => ({ ...r })).sort((a, b) => a.start - b.start) : undefined });

function add(): void {
  if (!current.value) return;
  const { start, end } = current.value;
  void keepAll('Keep a region', [...kept.value, { name: name.value.trim() || `Region ${kept.value.length + 1}`, start, end }]);
  name.value = '';
}
async function choose({ start, end }: NamedRegion): Promise<void> {
  await keep('Region', { 'marks.region': { start, end } });
  audition.play();
}
function rename(region: NamedRegion, to: string): void {
  const next = to.trim();
  if (next && next !== region.name)
    void keepAll(
      'Rename a region',
      kept.value.map((r) => (r === region ? { ...r, name: next } : r)),
    );
}
function remove(region: NamedRegion): void {
  void keepAll(
    'Take out a region',
    kept.value.filter((r) => r !== region),
  );
}
/** Makes a sound of the region; nothing is written. */
async function cut(): Promise<void> {
  if (!current.value) return;
  const own = excerptName(props.sound, current.value);
  const [id] = await catalogue.newIds('sounds', 1);
  const after = JSON.parse(JSON.stringify(excerptOf(props.sound, current.value, own, Date.now()))) as Omit<Sound, 'id'>;
  if (!(await library.edit(`Cut ${own}`, [{ table: 'sounds', id, after }]))) return;
  tell.done(`${own} is a sound of its own now; nothing is written. Ctrl Z takes it back`);
  void intake.measure([id]);
}
/** Goes to the kept region before or behind the current one, and plays it. */
function step(by: number): void {
  const at = kept.value.findIndex(isCurrent);
  const { length } = kept.value;
  const next = kept.value[at < 0 ? (by > 0 ? 0 : length - 1) : (at + by + length) % length];
  if (next) void choose(next);
}
const some = () => kept.value.length > 0;
useCommands('The waveform', [
  { label: 'Keep the region under a name', keys: ['Shift+i'], run: add, enabled: () => free.value === true },
  { label: 'Cut the region as a sound of its own', keys: ['c'], run: () => void cut(), enabled: () => current.value !== undefined },
  { label: 'Next kept region', keys: [']'], run: () => step(1), enabled: some },
  { label: 'Kept region before', keys: ['['], run: () => step(-1), enabled: some },
  {
    label: 'The loop of the file as region',
    keys: [],
    run: () => void keep('Region', { 'marks.region': { ...props.sound.marks.loop! } }),
    enabled: () => props.sound.marks.loop !== undefined,
  },
]);
</script>

<template>
  <PopPanel placement="bottomLeft">
    <template #panel>
      <div class="regions" role="group" aria-label="Regions">
        <p v-if="kept.length === 0 && !current" class="mute">Drag over the waveform, or set in and out (I, O); then keep that region here under a name.</p>
        <ul v-if="kept.length > 0">
          <li v-for="region in kept" :key="`${region.start} ${region.end} ${region.name}`" :class="{ here: isCurrent(region) }">
            <Input
              size="small"
              :default-value="region.name"
              :aria-label="`Name of the region at ${time(region.start)} seconds`"
              @blur="(e) => rename(region, (e.target as HTMLInputElement).value)"
              @press-enter="(e) => rename(region, (e.target as HTMLInputElement).value)"
            />
            <span class="mono small">{{ time(region.start) }} – {{ time(region.end) }} s</span>
            <Button size="small" :aria-label="`Play ${region.name}`" @click="choose(region)">Play</Button>
            <Button size="small" type="text" :aria-label="`Take out ${region.name}`" @click="remove(region)"
              ><template #icon><DeleteOutlined /></template
            ></Button>
          </li>
        </ul>
        <div v-if="free" class="line">
          <Input v-model:value="name" size="small" aria-label="Name of the region" :placeholder="`Region ${kept.length + 1}`" @press-enter="add" />
          <Button size="small" @click="add">Keep this region</Button>
        </div>
        <Button
          v-if="current"
          size="small"
          :title="withKey('A sound of the library that is this part of the file; nothing is written', 'Cut the region as a sound of its own')"
          @click="cut"
          >Cut it as a sound of its own</Button
        >
        <div class="line">
          <label for="snap">Edges are drawn to</label>
          <Select id="snap" v-model:value="prefs.snap" size="small" aria-label="Edges are drawn to" :options="snaps.map((s) => ({ value: s, label: s }))" />
        </div>
      </div>
    </template>
    <Button
      size="small"
      :class="{ on: kept.length > 0 }"
      :aria-label="kept.length > 0 ? `Regions, ${kept.length} kept` : 'Regions'"
      title="Regions that are kept, and what edges are drawn to (Shift I keeps one, [ and ] step through them)"
      ><template #icon><ColumnWidthOutlined /></template
    ></Button>
  </PopPanel>
</template>

<style scoped>
.regions {
  display: grid;
  gap: 10px;
  width: 420px;
}
p,
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
ul {
  max-height: 220px;
  overflow-y: auto;
}
li {
  display: grid;
  grid-template-columns: 1fr auto auto auto;
  align-items: center;
  gap: 8px;
  padding: 3px 0 3px 6px;
  border-left: 2px solid transparent;
}
.here {
  border-left-color: var(--amber);
}
.line {
  display: flex;
  align-items: center;
  gap: 8px;
}
.line :deep(.ant-select) {
  width: 150px;
}
.on {
  border-color: var(--glass);
  color: var(--glass);
}
</style>
