<script setup lang="ts">
import { patches, patchNames, type PatchName } from '@core/synth';
import { Button, Dropdown, Menu, Select, Tooltip } from 'ant-design-vue';
import { useElementSize } from '@vueuse/core';
import { computed, nextTick, onBeforeUnmount, useTemplateRef, watch } from 'vue';
import { useCommands, withKey } from '../shared/controls/commands';
import { things } from '../shared/controls/format';
import AuditionBar from '../shared/listen/AuditionBar.vue';
import { tell } from '../shell/notice';
import { useAudition } from '../stores/audition';
import { useBuilds } from '../stores/builds';
import { useLibrary } from '../stores/library';
import { useMaking } from '../stores/making';
import { usePerforming } from '../stores/performing';
import { useScene } from '../stores/scene';
import KeepRolls from './KeepRolls.vue';
import PartSwitch from './PartSwitch.vue';
import RollRow from './RollRow.vue';
import ValueRow from './ValueRow.vue';

/** Sounds made from nothing: a family is rolled, what is good is locked, what is left is rolled again, and the best are kept. */
const making = useMaking();
const audition = useAudition();
const builds = useBuilds();
const library = useLibrary();
const performing = usePerforming();
const scene = useScene();

making.enter();
onBeforeUnmount(() => making.leave());
void library.undoIn('library');

const families = patchNames.map((value) => ({ value, label: patches[value].name, title: patches[value].name }));
const keepDialog = useTemplateRef<InstanceType<typeof KeepRolls>>('keepDialog');
const rows = useTemplateRef<HTMLElement>('rows');
watch(
  () => [making.index, making.at] as const,
  async () => {
    await nextTick();
    rows.value?.querySelector('[aria-current="true"]')?.scrollIntoView({ block: 'nearest' });
  },
);

// The scale that all rows share: the longest just fits.
const { width } = useElementSize(() => rows.value?.querySelector('.line') as HTMLElement | null);
const spans = computed(() =>
  making.rolls.flatMap((roll) => {
    const sound = making.madeAs(roll)?.sound;
    if (!sound) return [];
    const first = sound.marks.anchor / sound.format.rate;
    return [{ before: first, after: roll.values.length - first }];
  }),
);
const before = computed(() => Math.max(0.001, ...spans.value.map((s) => s.before)));
const after = computed(() => Math.max(0.001, ...spans.value.map((s) => s.after)));
const plumb = computed(() => Math.max(0.04, Math.min(0.96, before.value / (before.value + after.value))));
const pixelsPerSecond = computed(() => {
  const room = 0.96 * Math.max(100, width.value || 400);
  return Math.min((plumb.value * room) / before.value, ((1 - plumb.value) * room) / after.value);
});

const where = computed(() => `${making.at + 1} of ${making.lists.length}, ${making.list?.how ?? ''}`);
const waiting = computed(() => making.rolls.filter((r) => !making.madeAs(r)).length);

async function asLayer(): Promise<void> {
  const { sounds, failure } = await making.keep(making.meant);
  if (sounds.length > 0) await builds.add(sounds);
  if (failure !== undefined) tell.error(`Not kept: ${failure}`);
}
async function ontoPad({ key }: { key: string | number }): Promise<void> {
  const slot = Number(key);
  const { sounds, failure } = await making.keep(making.meant);
  if (failure !== undefined) tell.error(`Not kept: ${failure}`);
  if (sounds.length === 0) return;
  const pad = performing.pads[slot];
  const own = pad.source.by === 'hand' ? pad.source.soundIds : [];
  await performing.setPad(`Fill pad ${slot + 1}`, slot, { source: { by: 'hand', soundIds: [...own, ...sounds.map((s) => s.id)] } });
  tell.done(`${things(sounds.length, 'sound')} on pad ${slot + 1} of ${scene.spotted?.name}`);
}
const hasTwo = () => making.marked.size === 2;
useCommands('The build', [
  { label: 'Play or stop', purpose: 'Listening', keys: ['Space'], run: () => (audition.sound ? audition.goDown() : making.hear()) },
  { label: 'Roll again what is not locked', keys: ['r'], run: making.roll },
  { label: 'Next roll', keys: ['ArrowDown'], run: () => making.choose(making.index + 1) },
  { label: 'Roll before', keys: ['ArrowUp'], run: () => making.choose(making.index - 1) },
  { label: 'The list of rolls before', keys: ['Alt+ArrowLeft'], run: () => void making.walk(-1), enabled: () => making.at > 0 },
  { label: 'The list of rolls after', keys: ['Alt+ArrowRight'], run: () => void making.walk(1), enabled: () => making.at < making.lists.length - 1 },
  { label: 'Mark the roll, or not', keys: ['x'], run: () => making.mark(making.index) },
  { label: 'Mix the two that are marked', keys: ['m'], run: making.between, enabled: hasTwo },
  { label: 'Other chance in the same numbers', keys: ['n'], run: making.reseed },
  { label: 'As it was rolled', keys: ['Escape'], run: making.asRolled, enabled: () => making.isTurned },
  { label: 'Add it to the build as a layer', keys: ['j'], run: () => void asLayer() },
  { label: 'Keep it as a sound', keys: ['Ctrl+Enter'], run: () => keepDialog.value?.show() },
]);
</script>

<template>
  <div class="stage">
    <div class="headed">
      <header class="tools stage-head">
        <h1>{{ making.patch.name }}</h1>
        <span class="mute cut">{{ making.patch.what }}</span>
        <span class="push" />
        <PartSwitch />
        <Tooltip :title="withKey('Kept where sounds go that are made here, and added to the build that was open last', 'Add it to the build as a layer')">
          <Button size="small" :disabled="making.busy || !making.chosen" @click="asLayer">As a layer</Button>
        </Tooltip>
        <Dropdown v-if="scene.spotted" :trigger="['click']" :disabled="making.busy">
          <Button size="small">Onto a pad …</Button>
          <template #overlay>
            <Menu aria-label="Pad that they go onto" @click="ontoPad">
              <Menu.Item v-for="pad in performing.pads" :key="pad.slot">Pad {{ pad.slot + 1 }} of {{ scene.spotted.name }}</Menu.Item>
            </Menu>
          </template>
        </Dropdown>
        <Tooltip :title="withKey('New sounds in the library, with what they were made by', 'Keep it as a sound')">
          <Button size="small" type="primary" :disabled="!making.chosen" @click="keepDialog?.show()">
            {{ making.meant.length > 1 ? `Keep ${making.meant.length} sounds` : 'Keep as a sound' }}
          </Button>
        </Tooltip>
      </header>
      <div class="halves">
        <section class="numbers" aria-label="Numbers">
          <div class="tools">
            <label for="made-family" class="mute">Family</label>
            <Select
              id="made-family"
              size="small"
              :value="making.family"
              :options="families"
              aria-label="Family"
              class="family"
              @change="(name) => making.setFamily(name as PatchName)"
            />
            <span class="push" />
            <Tooltip :title="withKey('Thirty others; what is locked stays', 'Roll again what is not locked')">
              <Button size="small" @click="making.roll">Roll</Button>
            </Tooltip>
          </div>
          <template v-if="making.chosen">
            <ValueRow
              v-for="spec in making.patch.values"
              :key="spec.key"
              :spec="spec"
              :value="making.chosen.values[spec.key]"
              :locked="making.locked.has(spec.key)"
              @turn="(value) => making.turn(spec.key, value)"
              @lock="making.lock(spec.key)"
            />
          </template>
          <div class="tools below">
            <Tooltip :title="withKey('The numbers stay; only what chance does within them changes', 'Other chance in the same numbers')">
              <Button size="small" @click="making.reseed">Other chance</Button>
            </Tooltip>
            <Button size="small" :disabled="!making.isTurned" @click="making.asRolled">As it was rolled</Button>
          </div>
        </section>
        <section class="rolls" aria-label="Lists of rolls">
          <div class="tools over">
            <Tooltip :title="withKey('Back through the lists', 'The list of rolls before')">
              <Button size="small" aria-label="The list before" :disabled="making.at <= 0" @click="making.walk(-1)">←</Button>
            </Tooltip>
            <Tooltip :title="withKey('On through the lists', 'The list of rolls after')">
              <Button size="small" aria-label="The list after" :disabled="making.at >= making.lists.length - 1" @click="making.walk(1)">→</Button>
            </Tooltip>
            <span class="mute cut" aria-label="Which list">List {{ where }}</span>
            <span v-if="waiting > 0" class="mute small">{{ things(waiting, 'sound') }} still being made</span>
            <span class="push" />
            <span class="mute small">{{ making.marked.size > 0 ? `${making.marked.size} marked` : '' }}</span>
            <Tooltip :title="withKey('Thirty that lie between two: mark both first', 'Mix the two that are marked')">
              <Button size="small" :disabled="!hasTwo()" @click="making.between">Mix the two</Button>
            </Tooltip>
          </div>
          <div ref="rows" class="rows" role="list" aria-label="Rolls">
            <RollRow v-for="(roll, i) in making.rolls" :key="i" :roll="roll" :index="i" :plumb="plumb" :pixels-per-second="pixelsPerSecond" />
          </div>
        </section>
      </div>
      <KeepRolls ref="keepDialog" />
    </div>
    <AuditionBar />
  </div>
</template>

<style scoped>
.halves {
  display: grid;
  grid-template-columns: 400px minmax(0, 1fr);
  min-height: 0;
  border-top: 1px solid var(--line);
}
.numbers {
  min-height: 0;
  padding: 12px 16px 12px 20px;
  border-right: 1px solid var(--line);
  overflow-y: auto;
}
.numbers > .tools {
  margin-bottom: 8px;
}
.numbers > .below {
  margin-top: 12px;
}
.family {
  width: 150px;
}
.rolls {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  min-height: 0;
}
.over {
  min-height: 40px;
  padding: 0 16px;
  border-bottom: 1px solid var(--line);
}
.rows {
  overflow-y: auto;
}
</style>
