<script setup lang="ts">
import { CaretRightFilled, PauseOutlined } from '@ant-design/icons-vue';
import { anchorOf } from '@core/build';
import { MAIN } from '@core/engine';
import { RATE } from '@platform/index';
import { Button, Checkbox, Tooltip } from 'ant-design-vue';
import { computed, onBeforeUnmount, onMounted, onUnmounted, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import { useCommands, withKey } from '../shared/controls/commands';
import { LOUDEST } from '@core/scene';
import { signed, things } from '../shared/controls/format';
import NameInPlace from '../shared/controls/NameInPlace.vue';
import NumberBox from '../shared/controls/NumberBox.vue';
import KeyboardStrip from '../shared/listen/KeyboardStrip.vue';
import Meter from '../shared/listen/Meter.vue';
import EffectChips from '../shared/mix/EffectChips.vue';
import EffectPanel from '../shared/mix/EffectPanel.vue';
import SoundPick from '../shared/sound/SoundPick.vue';
import { bringsSounds, droppedSounds } from '../shared/take/drag';
import { useBuilds } from '../stores/builds';
import { useLibrary } from '../stores/library';
import { useMix } from '../stores/mix';
import { usePasses } from '../stores/passes';
import { useScene } from '../stores/scene';
import { renameScene } from '../stores/scenes';
import { removeTrack } from '../stores/tracks';
import { useTransport } from '../stores/transport';
import { useTrials } from '../stores/trials';
import BuildMenu from './BuildMenu.vue';
import KeepButton from './KeepButton.vue';
import LayerPanel from './LayerPanel.vue';
import LayerRow from './LayerRow.vue';
import MoverRows from './MoverRows.vue';
import PartSwitch from './PartSwitch.vue';
import SessionButton from './SessionButton.vue';
import PassBar from './PassBar.vue';
import PlayedBy from './PlayedBy.vue';
import WhereItIs from './WhereItIs.vue';
import { useExchange } from './useExchange';

/** One sound from several: layers on one anchor, each with its line of effects, played through, round and round, or by keys. */
const builds = useBuilds();
const scene = useScene();
const mix = useMix();
const passes = usePasses();
const library = useLibrary();
const transport = useTransport();
const trials = useTrials();
const router = useRouter();
const exchange = useExchange();

builds.enter();
// Before the next stage begins: that works on the scene.
onBeforeUnmount(() => {
  builds.leave();
  mix.watching = false;
  mix.chosenId = undefined;
  void library.undoIn('library');
});
/** A build that opens stands on its anchor. */
function stand(): void {
  if (scene.work === 'build' && scene.current && !transport.playing) transport.run(false, anchorOf(scene.current), null);
}
onMounted(() => {
  mix.watching = true;
  // Behind what is seen first: the engine takes a moment to start.
  requestAnimationFrame(() =>
    setTimeout(() => {
      scene.use();
      stand();
    }),
  );
});
watch(
  () => scene.scope,
  (of) => void library.undoIn(of),
  { immediate: true },
);
watch(() => scene.current?.id, stand);
// What is drawn and said of sounds has to be known of them.
watch(
  () => builds.layers.flatMap((l) => l.cues.map((c) => c.soundId)),
  (ids) => {
    void library.need(ids);
    void library.needPeaks(ids);
  },
  { immediate: true },
);

const naming = ref(false);
async function named(name: string): Promise<void> {
  naming.value = false;
  if (scene.current) await renameScene(scene.current, name);
}

// The scale that all layers share
/** Where the line of anchors is: as far in as what lies before it needs, as shares of the width. */
const [EARLIEST, LATEST] = [0.12, 0.88];
/** Of what is drawn; the rest is room. */
const ROOM = 0.94;
const contourWidth = ref(480);
const seconds = computed(() => ({ before: Math.max(0, -builds.span.start) / RATE, after: Math.max(0.2, builds.span.end / RATE) }));
const plumb = computed(() => {
  const { before, after } = seconds.value;
  return Math.max(EARLIEST, Math.min(LATEST, before / (before + after)));
});
const pixelsPerSecond = computed(() => {
  const { before, after } = seconds.value;
  const left = before > 0 ? (plumb.value * contourWidth.value) / before : Infinity;
  return ROOM * Math.min(left, ((1 - plumb.value) * contourWidth.value) / after);
});
/** Half of what the name of a time needs, pixels. */
const HALF = 26;
/** Times that stand above the layers: round ones, far enough apart. */
const STEPS = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 60, 120];
const ticks = computed(() => {
  const step = STEPS.find((s) => s * pixelsPerSecond.value > 64) ?? 300;
  const from = Math.ceil(-(plumb.value * contourWidth.value) / pixelsPerSecond.value / step);
  const to = Math.floor(((1 - plumb.value) * contourWidth.value) / pixelsPerSecond.value / step);
  const all = Array.from({ length: Math.max(0, to - from + 1) }, (_, i) => Number(((from + i) * step).toFixed(3)));
  const x = (s: number) => plumb.value * contourWidth.value + s * pixelsPerSecond.value;
  return all.filter((s) => s !== 0 && x(s) > HALF && x(s) < contourWidth.value - HALF);
});
const leftOf = (s: number) => `${plumb.value * contourWidth.value + s * pixelsPerSecond.value}px`;
const ruler = ref<HTMLElement>();
let sized: ResizeObserver | undefined;
watch(ruler, (element) => {
  sized?.disconnect();
  if (!element) return;
  sized = new ResizeObserver(() => (contourWidth.value = element.clientWidth));
  sized.observe(element);
});
onUnmounted(() => sized?.disconnect());

const summary = computed(() => {
  const { layers, span } = builds;
  if (layers.length === 0) return 'no layers yet';
  const length = (span.end - span.start) / RATE;
  const own = mix.isFresh ? mix.measured?.levels : undefined;
  const loud = own && Number.isFinite(own.loudness) ? `, ${signed(own.loudness, 1)} LUFS, ${signed(own.truePeak, 1)} dBTP` : '';
  return `${things(layers.length, 'layer')} on one anchor, ${length.toFixed(1)} s${loud}`;
});

// Layers
const opened = computed(() => builds.layers.find((l) => l.cues.some((c) => c.id === scene.cueId)));
function open(index: number): void {
  const layer = builds.layers[index];
  if (layer) scene.select(layer === opened.value ? undefined : layer.cues[0].id);
}
function walk(by: 1 | -1): void {
  const { layers } = builds;
  const now = opened.value ? layers.indexOf(opened.value) : by > 0 ? -1 : layers.length;
  const next = layers[Math.max(0, Math.min(layers.length - 1, now + by))];
  if (next) scene.select(next.cues[0].id);
}
const chosenOn = (lineId: number) => (mix.chosen?.lineId === lineId ? mix.chosen : undefined);
async function dropped(event: DragEvent): Promise<void> {
  const ids = droppedSounds(event);
  if (ids) await builds.add(await library.need(ids));
}
function escape(): void {
  if (trials.trying) exchange.drop();
  else if (mix.chosenId !== undefined) mix.chosenId = undefined;
  else scene.select(undefined);
}
async function toScene(): Promise<void> {
  if (await builds.toScene()) await router.push({ name: 'spot' });
}

function record(): void {
  if (passes.isRecording) passes.stop();
  else passes.record();
}
const withLayer = () => opened.value !== undefined;
function takeOut(): void {
  if (mix.chosen) void mix.remove(mix.chosen);
  else if (opened.value) void removeTrack(opened.value.track);
}
const nudge = (ms: number) => {
  const layer = opened.value;
  if (layer && scene.current) void builds.offset(layer, ((layer.cues[0].at - anchorOf(scene.current)) / RATE) * 1000 + ms);
};
useCommands('The build', [
  { label: 'Play or stop the build', keys: ['Space'], run: () => builds.toggle() },
  { label: 'Go round and round, or once', keys: ['r'], run: () => (builds.looping = !builds.looping) },
  { label: 'Next layer', keys: ['ArrowDown'], run: () => walk(1) },
  { label: 'Layer before', keys: ['ArrowUp'], run: () => walk(-1) },
  { label: 'Another sound in its place', keys: ['n'], run: () => exchange.step(1), enabled: withLayer },
  { label: 'The sound before in its place', keys: ['Shift+n'], run: () => exchange.step(-1), enabled: withLayer },
  { label: 'Keep the sound that is tried', keys: ['Enter'], run: exchange.keep, enabled: () => trials.trying },
  { label: 'Back, or close what is open', keys: ['Escape'], run: escape },
  { label: 'Move the layer a millisecond back', keys: ['Alt+ArrowLeft'], run: () => nudge(-1), enabled: withLayer },
  { label: 'Move the layer a millisecond on', keys: ['Alt+ArrowRight'], run: () => nudge(1), enabled: withLayer },
  { label: 'Take out the opened effect, or the layer', keys: ['Delete', 'Backspace'], run: takeOut, enabled: () => !!mix.chosen || withLayer() },
  { label: 'Duplicate the layer', keys: ['Ctrl+d'], run: () => opened.value && void builds.duplicate(opened.value), enabled: withLayer },
  {
    label: 'Hear it without the chosen effect, or with it',
    keys: ['q'],
    run: () => mix.chosen && void mix.flip(mix.chosen),
    enabled: () => !!mix.chosen,
  },
  { label: 'Record what is played, or stop', keys: ['Shift+r'], run: record, enabled: () => builds.isPlayed && builds.layers.length > 0 },
  { label: 'Play the build by keys, or the current sound', keys: ['Shift+k'], run: () => (builds.isPlayed = !builds.isPlayed) },
]);
</script>

<template>
  <div class="stage" @dragover="bringsSounds($event) && $event.preventDefault()" @drop.prevent="dropped">
    <div v-if="!scene.current" class="empty">
      <strong>There is no build yet</strong>
      <span>A build makes one sound of several: their anchors meet, and each goes through effects of its own.</span>
      <Button type="primary" @click="builds.create()">Make a build</Button>
      <span>Or open a sound in Find and press J; or drop sounds here.</span>
      <PartSwitch />
    </div>
    <div v-else class="headed">
      <header class="tools stage-head">
        <NameInPlace v-if="naming" :name="scene.current.name" class="naming" @named="named" @leave="naming = false" />
        <h1 v-else class="cut" :title="scene.current.name">{{ scene.current.name }}</h1>
        <span class="mute cut" aria-label="The build in figures">{{ summary }}</span>
        <span class="push" />
        <PartSwitch />
        <BuildMenu @rename="naming = true" />
        <Tooltip title="Its layers on tracks of the scene, with their effects; its anchor lands on the playhead">
          <Button size="small" :disabled="builds.layers.length === 0" @click="toScene()">Lay into the scene</Button>
        </Tooltip>
        <SessionButton />
        <KeepButton :build="scene.current" />
      </header>
      <div class="sight">
        <div class="layers" role="list" aria-label="Layers">
          <div class="titles mute" aria-hidden="true">
            <span class="first">Layer</span><span />
            <span ref="ruler" class="ruler">
              <span v-for="s in ticks" :key="s" class="tick mono" :style="{ left: leftOf(s) }">{{ signed(s, s % 1 === 0 ? 0 : 2) }} s</span>
              <span class="tick mono anchor" :style="{ left: leftOf(0) }">anchor</span>
            </span>
            <span>Effect line</span><span>Level</span>
          </div>
          <template v-for="(layer, i) in builds.layers" :key="layer.track.id">
            <LayerRow :build="scene.current" :layer="layer" :opened="layer === opened" :plumb="plumb" :pixels-per-second="pixelsPerSecond" @open="open(i)" />
            <div v-if="layer === opened" role="listitem" class="inner"><LayerPanel :build="scene.current" :layer="layer" @step="exchange.step" /></div>
            <div v-if="chosenOn(layer.track.id)" role="listitem" class="inner"><EffectPanel :effect="chosenOn(layer.track.id)!" /></div>
          </template>
          <div class="more" role="listitem">
            <span class="tools adding">
              <SoundPick label="Add a layer" placeholder="Add a layer: type words of a sound" @pick="(s) => builds.add([s])" />
              <span class="mute small">or drop sounds here</span>
            </span>
            <span class="tools all">
              <span class="mute all-name">All layers</span>
              <EffectChips :line-id="MAIN" name="all layers" />
            </span>
            <span class="tools level" :data-moves="`line ${MAIN} gain`">
              <NumberBox
                :value="Math.round(scene.main.gain * 10) / 10"
                :controls="false"
                :min="-60"
                :max="LOUDEST.main"
                :step="0.5"
                aria-label="Level of all layers, dB"
                class="gain mono"
                @set="(gain) => mix.turnMain({ gain })"
              />
              <span class="mute">dB</span>
            </span>
          </div>
          <div v-if="chosenOn(MAIN)" role="listitem" class="inner"><EffectPanel :effect="chosenOn(MAIN)!" /></div>
        </div>
        <MoverRows />
      </div>
    </div>
    <div>
      <PassBar v-if="passes.isRecording || passes.pass" />
      <KeyboardStrip v-if="builds.isPlayed" />
      <footer class="bar" aria-label="Build">
        <Tooltip :title="withKey('Play or stop', 'Play or stop the build')">
          <Button
            type="primary"
            shape="circle"
            :aria-label="transport.playing ? 'Stop' : 'Play'"
            :disabled="builds.layers.length === 0"
            @click="builds.toggle()"
          >
            <template #icon><PauseOutlined v-if="transport.playing" /><CaretRightFilled v-else /></template>
          </Button>
        </Tooltip>
        <WhereItIs :build="scene.current" />
        <Tooltip :title="withKey('From its first sample to its last, again and again', 'Go round and round, or once')">
          <Checkbox v-model:checked="builds.looping">Round and round</Checkbox>
        </Tooltip>
        <Tooltip :title="withKey('Keys of the computer and of MIDI strike the build, on every stage', 'Play the build by keys, or the current sound')">
          <Checkbox v-model:checked="builds.isPlayed" :disabled="!scene.current">Keys play it</Checkbox>
        </Tooltip>
        <template v-if="builds.isPlayed">
          <PlayedBy />
          <Tooltip :title="withKey('What keys play from now on, to be kept', 'Record what is played, or stop')">
            <Button size="small" :danger="passes.isRecording" :disabled="builds.layers.length === 0" @click="record">
              {{ passes.isRecording ? 'Stop recording' : 'Record' }}
            </Button>
          </Tooltip>
        </template>
        <Meter class="push" />
      </footer>
    </div>
  </div>
</template>

<style scoped>
.naming {
  width: 280px;
}
.layers {
  display: grid;
  grid-template-columns: minmax(180px, 240px) 56px minmax(200px, 1.4fr) minmax(180px, 1fr) 110px;
  grid-auto-rows: max-content;
  column-gap: 12px;
}
.sight {
  min-height: 0;
  overflow-y: auto;
}
.titles,
.more {
  display: grid;
  grid-template-columns: subgrid;
  grid-column: 1 / -1;
  align-items: center;
  border-bottom: 1px solid var(--line);
}
.titles {
  position: sticky;
  top: 0;
  z-index: 1;
  height: 28px;
  background: var(--bed);
  font-size: 12px;
}
.first {
  padding-left: 20px;
}
.ruler {
  position: relative;
  height: 100%;
  min-width: 0;
  overflow: hidden;
}
.tick {
  position: absolute;
  top: 6px;
  transform: translateX(-50%);
  white-space: nowrap;
}
.anchor {
  padding: 0 6px;
  background: var(--bed);
  color: var(--amber);
}
.inner {
  display: grid;
  grid-column: 1 / -1;
}
.more {
  min-height: 46px;
}
.adding {
  grid-column: 1 / 4;
  padding-left: 20px;
}
.all {
  min-width: 0;
}
.all-name {
  white-space: nowrap;
}
.level {
  padding-right: 16px;
}
.gain {
  width: 62px;
}
</style>
