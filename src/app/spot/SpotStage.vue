<script setup lang="ts">
import { CaretRightFilled, PauseOutlined } from '@ant-design/icons-vue';
import { nameOf } from '@core/library';
import { curveAt, frameToSample, withPoint } from '@core/scene';
import { RATE } from '@platform/index';
import { Button, Segmented, Tooltip } from 'ant-design-vue';
import { computed, onBeforeUnmount, onMounted, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { useCommands, withKey } from '../shared/controls/commands';
import Meter from '../shared/listen/Meter.vue';
import { useAudition } from '../stores/audition';
import { useTransport } from '../stores/transport';
import { useLibrary } from '../stores/library';
import { useCurves } from '../stores/curves';
import { useControllers } from '../stores/controllers';
import { usePictureEvents } from '../stores/events';
import { useScene } from '../stores/scene';
import { useHands } from '../stores/hands';
import { usePlacing } from '../stores/placing';
import { addMarker, toMarker } from '../stores/markers';
import { clearLoop, loopCue, setLoop } from '../stores/rounds';
import { useTrials } from '../stores/trials';
import { compare } from '../stores/versions';
import CueLine from './CueLine.vue';
import MixPart from './MixPart.vue';
import MixSight from './MixSight.vue';
import PictureView from './PictureView.vue';
import SideColumn from './SideColumn.vue';
import SceneMenu from './SceneMenu.vue';
import TimeLine from './TimeLine.vue';

const scene = useScene();
const library = useLibrary();
const audition = useAudition();
const transport = useTransport();
const hands = useHands();
const placing = usePlacing();
const trials = useTrials();
const events = usePictureEvents();
// It listens whichever part is open.
useControllers();
const route = useRoute();
const router = useRouter();

// What was done in the scene is taken back here, and what was done in the library elsewhere.
watch(
  () => scene.scope,
  (of) => void library.undoIn(of),
  { immediate: true },
);
// Before the next stage begins, which may say otherwise.
onBeforeUnmount(() => void library.undoIn('library'));
// Behind what is seen first: the engine takes a moment to start.
onMounted(() => requestAnimationFrame(() => setTimeout(() => scene.use())));
/** Where the URL would have the playhead; it can go there once there is a scene. */
const wanted = Number(route.query.frame ?? NaN);
let arrived = !Number.isInteger(wanted);
watch(
  () => scene.current !== undefined,
  (there) => {
    if (!there || arrived) return;
    arrived = true;
    scene.seekFrame(wanted);
  },
  { immediate: true },
);
// The playhead stands in the URL when it rests, so that a reload or a shared link returns to it.
watch(
  () => [scene.frame, transport.playing] as const,
  ([frame, playing]) => {
    if (arrived && !playing && route.name === 'spot' && route.query.frame !== String(frame))
      void router.replace({ name: 'spot', params: route.params, query: { frame: String(frame) } });
  },
);

/** Cues on their lanes, or the lines that they flow through. */
const isMix = computed(() => route.params.part === 'mix');
const views = [
  { value: 'timeline', label: 'Timeline' },
  { value: 'mix', label: 'Mix' },
];
const show = (part: string) => void router.push({ name: 'spot', params: { part: part === 'mix' ? 'mix' : '' }, query: route.query });

const withCue = () => hands.selected.size > 0;
const aFrame = () => frameToSample(1, scene.rate, RATE);

/** The nearest anchor before or after the playhead, on any track. */
function toCue(direction: 1 | -1): void {
  const sorted = [...scene.cues].sort((a, b) => direction * (a.at - b.at));
  const next = sorted.find((c) => direction * (c.at - transport.position) > 1);
  if (!next) return;
  void scene.select(next.id);
  transport.seek(next.at);
}

/** From what is tried, to what is selected, to the scene as it is. */
function escape(): void {
  if (scene.trial.size > 0) trials.drop();
  else if (scene.pending.length > 0) placing.drop();
  else if (scene.comparing && !scene.cue) compare(undefined);
  else void hands.letGo();
}

function trackBy(by: number): void {
  const tracks = scene.tracks;
  const at = tracks.findIndex((t) => t.id === scene.track?.id);
  const next = tracks[Math.max(0, Math.min(tracks.length - 1, at + by))];
  if (next) scene.trackId = next.id;
}

const curves = useCurves();
const drawn = () => (scene.track ? curves.shownOn(scene.track) : undefined);
function drawGain(): void {
  if (scene.track) curves.show(scene.track, drawn() ? undefined : curves.of(scene.track)[0]);
}
async function setPoint(): Promise<void> {
  const curve = drawn();
  if (!curve || scene.isHeld()) return;
  const at = scene.playheadSample;
  const points = withPoint(curve.points, { at, value: curveAt(curve.points, at, curve.still) });
  await curves.keep(`Set a point of ${curve.name} on ${scene.track?.name}`, curve, points);
}

useCommands('The scene', [
  { label: 'Play or stop the scene', keys: ['Space'], run: () => scene.toggle() },
  { label: 'A frame back', keys: [','], run: () => scene.step(-1) },
  { label: 'A frame on', keys: ['.'], run: () => scene.step(1) },
  { label: 'A second back', keys: ['Shift+ArrowLeft'], run: () => scene.step(-scene.rate.nominal) },
  { label: 'A second on', keys: ['Shift+ArrowRight'], run: () => scene.step(scene.rate.nominal) },
  { label: 'Run forward, and faster with each stroke', keys: ['l'], run: () => scene.shuttle(1) },
  { label: 'Run backward, and faster with each stroke', keys: ['j'], run: () => scene.shuttle(-1) },
  { label: 'Run forward slowly', keys: ['Shift+l'], run: () => scene.shuttle(1, true) },
  { label: 'Run backward slowly', keys: ['Shift+j'], run: () => scene.shuttle(-1, true) },
  { label: 'Stop', keys: ['k'], run: () => transport.playing && scene.toggle() },
  { label: 'To the start', keys: ['Home'], run: () => scene.seekFrame(0) },
  { label: 'Set in', keys: ['i'], run: () => void setLoop('start') },
  { label: 'Set out', keys: ['o'], run: () => void setLoop('end') },
  {
    label: 'Return to the old sound, or select nothing',
    keys: ['Escape'],
    run: escape,
  },
  { label: 'Go round the selected cue', keys: ['r'], run: loopCue, enabled: () => scene.cue !== undefined },
  { label: 'Set a marker', keys: ['Shift+m'], run: () => void addMarker() },
  { label: 'To the next marker', keys: ['}'], run: () => void toMarker(1) },
  { label: 'To the marker before', keys: ['{'], run: () => void toMarker(-1) },
  { label: 'To the next event of the picture', keys: ['u'], run: () => events.go(1) },
  { label: 'To the event before', keys: ['Shift+u'], run: () => events.go(-1) },
  { label: 'To the next cue', keys: [']'], run: () => toCue(1) },
  { label: 'To the cue before', keys: ['['], run: () => toCue(-1) },
  {
    label: 'Move the cue a frame back',
    keys: ['Alt+ArrowLeft'],
    run: () => void hands.move(-aFrame()),
    enabled: withCue,
  },
  {
    label: 'Move the cue a frame on',
    keys: ['Alt+ArrowRight'],
    run: () => void hands.move(aFrame()),
    enabled: withCue,
  },
  {
    label: 'Louder by 1 dB',
    keys: ['Alt+ArrowUp'],
    run: () => void hands.gain(1),
    enabled: withCue,
  },
  {
    label: 'Softer by 1 dB',
    keys: ['Alt+ArrowDown'],
    run: () => void hands.gain(-1),
    enabled: withCue,
  },
  {
    label: 'Mute the cue',
    keys: ['m'],
    run: () => void hands.mute(),
    enabled: withCue,
  },
  { label: 'Remove the cue', keys: ['Delete', 'Backspace'], run: () => void hands.remove(), enabled: withCue },
  { label: 'Move the cue a millisecond back', keys: ['Alt+Shift+ArrowLeft'], run: () => void hands.move(-RATE / 1000), enabled: withCue },
  { label: 'Move the cue a millisecond on', keys: ['Alt+Shift+ArrowRight'], run: () => void hands.move(RATE / 1000), enabled: withCue },
  { label: 'Move the cue a sample back', keys: ['Alt+,'], run: () => void hands.move(-1), enabled: withCue },
  { label: 'Move the cue a sample on', keys: ['Alt+.'], run: () => void hands.move(1), enabled: withCue },
  { label: 'Cut in two at the playhead', keys: ['x'], run: () => void hands.cut() },
  { label: 'Begin the cue at the playhead', keys: ['('], run: () => void hands.trim('start', transport.position), enabled: withCue },
  { label: 'End the cue at the playhead', keys: [')'], run: () => void hands.trim('end', transport.position), enabled: withCue },
  { label: 'Cross-fade what overlaps', keys: ['w'], run: () => void hands.crossFade() },
  { label: 'Lock or unlock the cue', keys: ['q'], run: () => void hands.lock(), enabled: withCue },
  { label: 'Duplicate the cue behind itself', keys: ['Ctrl+d'], run: () => void hands.duplicate(), enabled: withCue },
  { label: 'Copy the cue', keys: ['Ctrl+c'], run: () => hands.copy(), enabled: withCue },
  { label: 'Paste at the playhead', keys: ['Ctrl+v'], run: () => void hands.paste(), enabled: () => hands.copied.length > 0 },
  { label: 'Select all cues', keys: ['Ctrl+a'], run: () => void hands.select(scene.cues.map((c) => c.id)) },
  {
    label: 'Select the cues of the track',
    keys: ['Ctrl+Shift+a'],
    run: () => void hands.select(scene.cues.filter((c) => c.trackId === scene.track?.id).map((c) => c.id)),
  },
  { label: 'Snap to frames, anchors and edges', keys: ['g'], run: () => (hands.snapping = !hands.snapping) },
  { label: 'Draw the gain of the track on its lane, or not', keys: ['v'], run: drawGain, enabled: () => !isMix.value },
  { label: 'Set a point of the curve at the playhead', keys: ['z'], run: () => void setPoint(), enabled: () => drawn() !== undefined },
  { label: 'The timeline, or the mix', keys: ['b'], run: () => show(isMix.value ? 'timeline' : 'mix') },
  { label: 'Track above', keys: ['Shift+ArrowUp'], run: () => trackBy(-1) },
  { label: 'Track below', keys: ['Shift+ArrowDown'], run: () => trackBy(1) },
]);
</script>

<template>
  <div class="stage">
    <div v-if="!scene.current" class="empty">
      <strong>There is no scene yet</strong>
      <span>Make one and choose its picture, or spot a sound in Find: a scene is made for it.</span>
      <Button type="primary" @click="scene.create('Untitled scene')">Make a scene</Button>
    </div>
    <div v-else class="spot" :class="{ mixing: isMix }">
      <div class="columns upper">
        <PictureView>
          <Segmented size="small" :value="isMix ? 'mix' : 'timeline'" :options="views" aria-label="Timeline or mix" @change="(v) => show(String(v))" />
          <span v-if="scene.current.loop" class="mute loop">
            in and out are set
            <Button type="link" size="small" @click="clearLoop">Clear</Button>
          </span>
        </PictureView>
        <MixSight v-if="isMix" />
        <SideColumn v-else />
      </div>
      <MixPart v-if="isMix" />
      <template v-else>
        <CueLine />
        <TimeLine />
      </template>
    </div>
    <footer class="bar" aria-label="Scene">
      <Tooltip :title="withKey('Play or stop', 'Play or stop the scene')">
        <Button type="primary" shape="circle" :aria-label="transport.playing ? 'Stop' : 'Play'" :disabled="!scene.current" @click="scene.toggle()">
          <template #icon><PauseOutlined v-if="transport.playing" /><CaretRightFilled v-else /></template>
        </Button>
      </Tooltip>
      <Tooltip :title="audition.sound ? `${nameOf(audition.sound)}: its anchor lands on the playhead` : 'Choose a sound first'">
        <Button :disabled="!audition.sound" @click="scene.spot(audition.sound)">Spot at playhead</Button>
      </Tooltip>
      <SceneMenu />
      <Meter class="push" />
    </footer>
  </div>
</template>

<style scoped>
.spot {
  display: grid;
  grid-template-rows: minmax(0, 1.05fr) auto minmax(0, 1fr);
  min-height: 0;
}
.upper {
  /* The left one is no narrower than what stands under the picture. */
  grid-template-columns: minmax(max-content, 1.25fr) minmax(0, 1fr);
}
/* The lines need the room that the picture leaves. */
.mixing {
  grid-template-rows: 224px minmax(0, 1fr);
}
.mixing .upper {
  grid-template-columns: minmax(max-content, 1fr) minmax(0, 1fr);
}
.loop {
  font-size: 12px;
}
/* On a small or much enlarged page everything stands below one another, and nothing is cut off. */
@media (max-width: 860px) {
  .spot {
    grid-template-rows: auto auto minmax(260px, auto);
    overflow-y: auto;
  }
  .upper {
    grid-template-columns: minmax(0, 1fr);
    grid-template-rows: 280px 320px;
  }
}
</style>
