<script setup lang="ts">
import { nameOf, TRAY } from '@core/library';
import { padEndings, type Pad } from '@core/scene';
import { Button, Checkbox, Input, Segmented, Select, Tooltip } from 'ant-design-vue';
import { computed, onUnmounted, ref, watch } from 'vue';
import { useCommands, withKey } from '../shared/controls/commands';
import { things } from '../shared/controls/format';
import NumberBox from '../shared/controls/NumberBox.vue';
import PopPanel from '../shared/controls/PopPanel.vue';
import { bringsSounds, droppedSounds } from '../shared/take/drag';
import PadSounds from './PadSounds.vue';
import { useAudition } from '../stores/audition';
import { useInstrument } from '../stores/instrument';
import { padNames, usePerforming } from '../stores/performing';
import { usePrefs } from '../stores/prefs';
import { usePulls } from '../stores/pulls';
import { useScene } from '../stores/scene';
import ReactionTest from './ReactionTest.vue';
import TakesList from './TakesList.vue';

/** Sounds played by hand to the picture: eight pads on the keys of the middle row, what each holds, and the passes that were played. */
const scene = useScene();
const performing = usePerforming();
const pulls = usePulls();
const prefs = usePrefs();
const audition = useAudition();
const instrument = useInstrument();
performing.used = true;
// Where pads are not seen, letters mean what they mean there.
onUnmounted(() => {
  performing.arm(false);
  performing.learning = undefined;
});

const view = ref<'pads' | 'takes'>('pads');
const views = computed(() => [
  { value: 'pads', label: 'Pads' },
  { value: 'takes', label: performing.takes.length > 0 ? `Takes (${performing.takes.length})` : 'Takes' },
]);
const slot = ref(0);
const pad = computed(() => performing.pads[slot.value]);
const testing = ref(false);

const held = (of: Pad): number => performing.pools.get(of.slot)?.length ?? 0;
/** What a pad plays, in words. */
function titleOf({ source }: Pad): string {
  if (source.by === 'hand') return source.soundIds.length === 0 ? 'Empty' : 'By hand';
  if (source.by === 'query') return source.text || 'A query';
  return source.pullId === TRAY ? 'The tray' : (pulls.all.find((p) => p.id === source.pullId)?.name ?? 'A pull that is gone');
}

const sources = computed(() => [
  { value: 'hand', label: 'by hand' },
  { value: 'query', label: 'by a query' },
  ...pulls.all.map((p) => ({ value: `pull ${p.id}`, label: p.id === TRAY ? 'The tray' : p.name, title: p.name })),
]);
const source = computed(() => (pad.value.source.by === 'pull' ? `pull ${pad.value.source.pullId}` : pad.value.source.by));
const set = (label: string, after: Partial<Pad>) => void performing.setPad(`${label} of pad ${padNames[slot.value]}`, slot.value, after);
function chooseSource(value: string): void {
  const [by, id] = value.split(' ');
  if (by === 'pull') set('Change the sounds', { source: { by, pullId: Number(id) } });
  else set('Change the sounds', { source: by === 'query' ? { by, text: '' } : { by: 'hand', soundIds: [] } });
}
const query = ref('');
watch(
  pad,
  ({ source: now }) => {
    if (now.by === 'query') query.value = now.text;
  },
  { immediate: true },
);
function ask(): void {
  if (pad.value.source.by === 'query' && query.value.trim() !== pad.value.source.text)
    set('Change the sounds', { source: { by: 'query', text: query.value.trim().slice(0, 1000) } });
}
/** Shows what another pad is set to; a query that was typed and not taken yet is its own. */
function choose(on: number): void {
  ask();
  slot.value = on;
}
/** Puts sounds on a pad by hand, behind those that are there. */
function put(onto: number, ids: readonly number[]): void {
  const { source: now } = performing.pads[onto];
  const there = now.by === 'hand' ? now.soundIds : [];
  const soundIds = [...new Set([...there, ...ids])];
  void performing.setPad(`Put ${things(soundIds.length - there.length, 'sound')} on pad ${padNames[onto]}`, onto, { source: { by: 'hand', soundIds } });
}
const onTracks = computed(() => [{ value: 0, label: 'the chosen track' }, ...scene.tracks.map((t) => ({ value: t.id, label: t.name, title: t.name }))]);
const trackOf = (of: Pad) => scene.tracks.find((t) => t.id === of.trackId)?.name ?? '';
const endings: { value: Pad['ends']; label: string; title: string }[] = padEndings.map((value) => {
  const label = { lasting: 'long ones end with the key', all: 'all end with the key', none: 'all sound to their end' }[value];
  return { value, label, title: label };
});

function takeOff(id: number): void {
  const { source: now } = pad.value;
  if (now.by === 'hand') set('Take a sound', { source: { by: 'hand', soundIds: now.soundIds.filter((s) => s !== id) } });
}
function dropped(event: DragEvent, onto: number): void {
  event.preventDefault();
  const ids = droppedSounds(event);
  if (ids) put(onto, ids);
}
/** A pad is struck by the pointer while armed; else it is chosen. */
function down(event: PointerEvent, on: number): void {
  choose(on);
  if (performing.armed) performing.strike(on, `pointer ${event.pointerId}`, event.timeStamp);
}
const up = (event: PointerEvent) => performing.lift(`pointer ${event.pointerId}`, event.timeStamp);

const reaction = computed(() => {
  const { reaction: own, withoutReaction } = prefs;
  if (!own) return 'Reaction …';
  return withoutReaction ? `Reaction ${Math.round(own.median)} ms` : 'Reaction kept';
});

useCommands('The scene', [{ label: 'Play the pads by keys, or not', keys: ['y'], run: () => performing.arm(!performing.armed) }]);
</script>

<template>
  <section class="part" aria-label="Pads">
    <div class="tools">
      <Tooltip placement="topLeft" :title="withKey('While armed, A S D F J K L ; play; Escape ends that', 'Play the pads by keys, or not')"
        ><Button size="small" :type="performing.armed ? 'primary' : 'default'" :aria-pressed="performing.armed" @click="performing.arm(!performing.armed)">{{
          performing.armed ? 'Armed' : 'Arm the keys'
        }}</Button></Tooltip
      >
      <span class="mute small cut" role="status">{{
        performing.pass
          ? `${things(performing.pass.length, 'stroke')}; the pass is kept when the picture stops`
          : performing.armed
            ? 'Space runs the picture; strokes become cues'
            : ''
      }}</span>
      <PopPanel placement="bottomRight">
        <template #panel>
          <div class="pop">
            <Checkbox v-model:checked="prefs.withoutReaction" :disabled="!prefs.reaction">Take my reaction out of what I play</Checkbox>
            <Button size="small" @click="testing = true">{{ prefs.reaction ? 'Measure again …' : 'Measure it …' }}</Button>
          </div>
        </template>
        <Button size="small" :title="prefs.reaction ? `Give or take ${Math.round(prefs.reaction.spread)} ms` : 'Not measured yet'">{{ reaction }}</Button>
      </PopPanel>
      <Segmented v-model:value="view" size="small" :options="views" aria-label="Pads or takes" />
    </div>
    <TakesList v-if="view === 'takes'" />
    <div v-else class="body">
      <ul class="pads" aria-label="Pads">
        <li v-for="p in performing.pads" :key="p.slot">
          <button
            class="pad"
            :class="{ chosen: p.slot === slot, struck: performing.down.has(p.slot) }"
            :aria-pressed="p.slot === slot"
            @pointerdown="down($event, p.slot)"
            @pointerup="up"
            @pointercancel="up"
            @pointerleave="up"
            @keydown.enter="choose(p.slot)"
            @dragover="(e) => bringsSounds(e) && e.preventDefault()"
            @drop="dropped($event, p.slot)"
          >
            <span class="unseen">Pad </span><kbd>{{ padNames[p.slot] }}</kbd>
            <span class="cut" :class="{ mute: held(p) === 0 }">{{ titleOf(p) }}</span>
            <span class="mute small cut">{{ trackOf(p) }}</span>
            <span class="mono mute small">{{ held(p) || '' }}<span v-if="held(p) > 0" class="unseen"> sounds</span></span>
          </button>
        </li>
      </ul>
      <div class="settings" role="group" :aria-label="`Pad ${padNames[slot]}`">
        <span class="mute small">Filled</span>
        <Select size="small" :value="source" :options="sources" aria-label="How the pad is filled" @change="(v) => chooseSource(String(v))" />
        <Input
          v-if="pad.source.by === 'query'"
          v-model:value="query"
          size="small"
          placeholder="As in Find, such as step wood force:>60"
          aria-label="Query of the pad"
          :maxlength="1000"
          @press-enter="ask"
          @blur="ask"
        />
        <template v-else-if="pad.source.by === 'hand'">
          <Button
            size="small"
            :disabled="!audition.sound"
            :title="audition.sound ? nameOf(audition.sound) : 'Choose a sound first, or drag sounds onto a pad'"
            @click="audition.sound && put(slot, [audition.sound.id])"
            >Put the current sound on it</Button
          >
        </template>
        <PadSounds
          v-if="held(pad) > 0"
          :sounds="performing.pools.get(slot) ?? []"
          :by-hand="pad.source.by === 'hand'"
          @off="takeOff"
          @empty="set('Take all sounds', { source: { by: 'hand', soundIds: [] } })"
        />
        <span class="break" />
        <span class="mute small">Onto</span>
        <Select
          size="small"
          :value="trackOf(pad) ? pad.trackId : 0"
          :options="onTracks"
          aria-label="Track of the pad"
          @change="(v) => set('Change the track', { trackId: Number(v) || undefined })"
        />
        <Select
          size="small"
          class="ends"
          :value="pad.ends"
          :options="endings"
          aria-label="What ends with the key"
          @change="(v) => set('Change the end', { ends: v as Pad['ends'] })"
        />
        <span class="break" />
        <span class="mute small">Soft</span>
        <NumberBox
          class="number"
          :value="pad.gain.least"
          :min="-60"
          :max="24"
          unit="dB"
          aria-label="Gain of the softest stroke"
          @set="(least) => set('Change the gain', { gain: { ...pad.gain, least } })"
        />
        <span class="mute small">hard</span>
        <NumberBox
          class="number"
          :value="pad.gain.most"
          :min="-60"
          :max="24"
          unit="dB"
          aria-label="Gain of the hardest stroke"
          @set="(most) => set('Change the gain', { gain: { ...pad.gain, most } })"
        />
        <Tooltip title="How hard the sounds themselves hit, from 0 to 100. Of what is left, a harder stroke takes a harder hit."
          ><Checkbox :checked="pad.force !== undefined" @change="set('Change the force', { force: pad.force ? undefined : { least: 0, most: 100 } })"
            >Force</Checkbox
          ></Tooltip
        >
        <template v-if="pad.force">
          <NumberBox
            class="short"
            :value="pad.force.least"
            :min="0"
            :max="100"
            aria-label="Least force"
            @set="(least) => set('Change the force', { force: { ...pad.force!, least } })"
          />
          <NumberBox
            class="short"
            :value="pad.force.most"
            :min="0"
            :max="100"
            aria-label="Most force"
            @set="(most) => set('Change the force', { force: { ...pad.force!, most } })"
          />
        </template>
        <Tooltip v-if="instrument.state === 'ready'" title="Which key of the instrument plays this pad"
          ><Button size="small" @click="performing.learning = performing.learning === slot ? undefined : slot">{{
            performing.learning === slot ? 'Strike its key' : `MIDI key ${performing.noteOf(slot)}`
          }}</Button></Tooltip
        >
        <Button v-else size="small" type="link" :disabled="instrument.state === 'asking'" @click="instrument.listen()">Use MIDI</Button>
      </div>
    </div>
    <ReactionTest v-model:open="testing" />
  </section>
</template>

<style scoped>
.part,
.body {
  display: grid;
  gap: 8px;
  min-height: 0;
}
.part {
  grid-template-rows: auto minmax(0, 1fr);
}
.body {
  grid-template-rows: auto auto;
  align-content: start;
  overflow-y: auto;
}
.tools {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) auto auto;
  gap: 8px;
  align-items: center;
}
.pads {
  /* The left hand's keys, then the right one's. */
  display: grid;
  grid-template: repeat(4, auto) / repeat(2, minmax(0, 1fr));
  grid-auto-flow: column;
  column-gap: 16px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.pad {
  display: grid;
  grid-template-columns: 22px minmax(0, 1fr) minmax(0, 70px) 26px;
  gap: 10px;
  align-items: center;
  width: 100%;
  height: 28px;
  padding: 0 8px;
  border: 0;
  border-bottom: 1px solid var(--line);
  background: none;
  color: var(--text);
  font: inherit;
  text-align: left;
  cursor: pointer;
  touch-action: none;
}
.pad > .mono {
  text-align: right;
}
.pad kbd {
  display: grid;
  place-items: center;
  width: 20px;
  height: 20px;
  border: 1px solid var(--line);
  border-radius: 4px;
  font-size: 12px;
}
.chosen {
  background: var(--raft2);
}
.struck kbd {
  border-color: var(--amber);
  background: var(--amber);
  color: var(--onAmber);
}
.settings {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 8px;
  align-items: center;
}
.settings .ant-select {
  width: 150px;
}
.settings .ends {
  width: 200px;
}
.settings .ant-input {
  flex: 1 1 180px;
  width: auto;
}
.number {
  width: 96px;
}
.short {
  width: 60px;
}
.break {
  flex-basis: 100%;
  height: 0;
}
.small {
  font-size: 12px;
}
.pop {
  display: grid;
  gap: 8px;
}
</style>
