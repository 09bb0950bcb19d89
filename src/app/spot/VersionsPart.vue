<script setup lang="ts">
import { differencesOf, frameToSample, sampleToFrame, timecodeAt, type Difference, type Version } from '@core/scene';
import { RATE } from '@platform/index';
import { Button, Input, Tooltip } from 'ant-design-vue';
import { computed, ref, watch } from 'vue';
import { useCommands, withKey } from '../shared/controls/commands';
import { things } from '../shared/controls/format';
import NameInPlace from '../shared/controls/NameInPlace.vue';
import { useTransport } from '../stores/transport';
import { useScene } from '../stores/scene';
import { compare, keepVersion, nextName, removeVersion, renameVersion, returnTo, takeOver } from '../stores/versions';

/** States of the scene that were kept: heard against each other at the same instant, told apart, returned to. */
const scene = useScene();
const transport = useTransport();
const name = ref('');
/** The version whose differences from now are listed. */
const openId = ref<number>();
const open = computed(() => scene.versions.find((v) => v.id === openId.value));
const renaming = ref<number>();
const when = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeStyle: 'short' });

watch(
  () => scene.current?.id,
  () => {
    openId.value = undefined;
    renaming.value = undefined;
  },
);

function moved(by: number): string {
  const frames = sampleToFrame(Math.abs(by), scene.rate, RATE);
  const whole = frames > 0 && frameToSample(frames, scene.rate, RATE) === Math.abs(by);
  const amount = whole ? things(frames, 'frame') : `${((Math.abs(by) / RATE) * 1000).toFixed(1)} ms`;
  return `moved ${amount} ${by > 0 ? 'later' : 'earlier'}`;
}
const differences = computed(() => (open.value ? differencesOf(scene.state, open.value, RATE, moved) : []));
const at = (d: Difference) => (d.at === undefined || !scene.current ? '' : timecodeAt(scene.current, sampleToFrame(d.at, scene.rate, RATE)));

async function keep(): Promise<void> {
  await keepVersion(name.value.trim() || nextName());
  name.value = '';
}
/** To where it stands, and selected where it stands now. */
function go(d: Difference): void {
  if (d.at !== undefined) transport.seek(frameToSample(sampleToFrame(d.at, scene.rate, RATE), scene.rate, RATE));
  if (d.of === 'cue' && scene.cues.some((c) => c.id === d.id)) scene.select(d.id);
}
function toggle(version: Version): void {
  openId.value = openId.value === version.id ? undefined : version.id;
}
async function named(version: Version, to: string): Promise<void> {
  renaming.value = undefined;
  await renameVersion(version, to);
}
/** What is compared with by key: the version that is open, or the newest. */
const other = () => open.value ?? scene.versions[0];
const swap = () => compare(scene.comparing ? undefined : other());

useCommands('The scene', [{ label: 'Hear the version, or now', keys: ['c'], run: swap, enabled: () => scene.versions.length > 0 }]);
</script>

<template>
  <section class="part" aria-label="Versions">
    <form class="tools" @submit.prevent="keep">
      <Input v-model:value="name" size="small" :placeholder="nextName()" :maxlength="200" aria-label="Name of the version" />
      <Button size="small" html-type="submit" :disabled="!scene.current">Keep the scene as it is</Button>
    </form>
    <ul class="listing">
      <li v-for="version in scene.versions" :key="version.id" class="version" :class="{ heard: scene.comparing?.id === version.id }">
        <div class="row">
          <NameInPlace v-if="renaming === version.id" :name="version.name" @named="(name) => named(version, name)" @leave="renaming = undefined" />
          <button
            v-else
            class="plain cut"
            :aria-expanded="openId === version.id"
            :title="version.name"
            @click="toggle(version)"
            @dblclick="renaming = version.id"
          >
            {{ version.name }} <span class="mute small">{{ when.format(version.at) }}, {{ things(version.cues.length, 'cue') }}</span>
          </button>
          <Tooltip placement="bottomLeft" :title="withKey('Heard at the same instant, without a gap', 'Hear the version, or now')"
            ><Button
              size="small"
              :type="scene.comparing?.id === version.id ? 'primary' : 'default'"
              :aria-pressed="scene.comparing?.id === version.id"
              :aria-label="`Hear ${version.name}`"
              @click="compare(scene.comparing?.id === version.id ? undefined : version)"
              >{{ scene.comparing?.id === version.id ? 'Hear now' : 'Hear it' }}</Button
            ></Tooltip
          >
          <Tooltip placement="bottomLeft" title="The scene becomes what it was; Ctrl Z takes that back"
            ><Button size="small" :aria-label="`Return to ${version.name}`" @click="returnTo(version)">Return</Button></Tooltip
          >
        </div>
        <div v-if="openId === version.id" class="inside">
          <p class="mute small">
            {{ differences.length === 0 ? 'Nothing is other than now.' : `Against now, in ${version.name}:` }}
            <Button size="small" type="link" @click="renaming = version.id">Rename</Button>
            <Button size="small" type="link" danger :aria-label="`Remove ${version.name}`" @click="removeVersion(version)">Remove</Button>
          </p>
          <div v-for="d in differences" :key="`${d.of}${d.id}`" class="difference">
            <button class="plain cut" :title="`${d.name}: ${d.changes.join(', ')}`" @click="go(d)">
              <span class="mono mute">{{ at(d) || d.of }}</span> {{ d.name }} <span class="glass">{{ d.changes.join(', ') }}</span>
            </button>
            <Button size="small" type="text" :aria-label="`Take ${d.name} from ${version.name}`" @click="takeOver(version, d)">Take over</Button>
          </div>
        </div>
      </li>
      <li v-if="scene.versions.length === 0" class="mute none">No version is kept yet. Keep the scene as it is, change it, and hear one against the other.</li>
    </ul>
  </section>
</template>

<style scoped>
.part {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  gap: 8px;
  min-height: 0;
}
.version {
  padding: 3px 0;
  border-bottom: 1px solid var(--line);
}
.heard {
  box-shadow: inset 2px 0 0 var(--amber);
}
.row,
.difference,
.tools {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto auto;
  gap: 6px;
  align-items: center;
}
.difference {
  grid-template-columns: minmax(0, 1fr) auto;
}
.tools {
  grid-template-columns: minmax(0, 1fr) auto;
}
.inside {
  padding: 0 0 6px 6px;
}
.inside p {
  margin: 0;
}
.small {
  font-size: 12px;
}
.none {
  margin: 6px 4px;
  font-size: 12.5px;
}
</style>
