<script setup lang="ts">
import { fadeForms, fullShape, type FadeForm } from '@core/audio';
import { frameToSample, sampleToFrame, timecodeAt } from '@core/scene';
import { GAINS } from '@core/timeline';
import { RATE } from '@platform/index';
import { Button, Checkbox, Select, Tooltip } from 'ant-design-vue';
import { computed } from 'vue';
import { useRouter } from 'vue-router';
import { withKey } from '../shared/controls/commands';
import { capital, things } from '../shared/controls/format';
import ColourPick from '../shared/controls/ColourPick.vue';
import NumberBox from '../shared/controls/NumberBox.vue';
import PopPanel from '../shared/controls/PopPanel.vue';
import ShapeFields from '../shared/sound/ShapeFields.vue';
import { useBuilds } from '../stores/builds';
import { useHands } from '../stores/hands';
import { useLibrary } from '../stores/library';
import { useScene } from '../stores/scene';
import { compare } from '../stores/versions';
import PlaceField from './PlaceField.vue';

/** What is selected, by number: everything that hands do on the lanes. */
const scene = useScene();
const hands = useHands();
const cue = computed(() => scene.cue);
const shape = computed(() => fullShape(cue.value?.shape));
const library = useLibrary();
const builds = useBuilds();
const router = useRouter();
/** Of the sound of the cue; two until that is known. */
const channels = computed(() => (cue.value && library.sounds.get(cue.value.soundId)?.format.channels) ?? 2);
const several = computed(() => hands.selected.size > 1);
const frame = computed(() => (cue.value ? sampleToFrame(cue.value.at, scene.rate, RATE) : 0));
/** Milliseconds behind the frame. */
const rest = computed(() => (cue.value ? ((cue.value.at - frameToSample(frame.value, scene.rate, RATE)) / RATE) * 1000 : 0));
const at = computed(() => (scene.current ? timecodeAt(scene.current, frame.value) : ''));
const forms = fadeForms.map((value) => ({ value, label: capital(value) }));
async function build(): Promise<void> {
  if (await builds.ofCues(hands.chosen)) await router.push({ name: 'build' });
}
const fades = { fadeIn: 'Fade-in', fadeOut: 'Fade-out' } as const;
</script>

<template>
  <div class="tools line" role="group" aria-label="Selected cues">
    <template v-if="cue">
      <span class="cut name" :title="cue.name">{{ several ? things(hands.selected.size, 'cue') : cue.name }}</span>
      <span class="mono glass" aria-label="Anchor of the cue"
        >{{ at }}<span v-if="Math.abs(rest) >= 0.5" class="mute"> +{{ Math.round(rest) }} ms</span></span
      >
      <Tooltip title="A frame earlier (Alt ←)"><Button size="small" @click="hands.move(-frameToSample(1, scene.rate, RATE))">−1 frame</Button></Tooltip>
      <Tooltip title="A frame later (Alt →)"><Button size="small" @click="hands.move(frameToSample(1, scene.rate, RATE))">+1 frame</Button></Tooltip>
      <label
        >Gain
        <NumberBox
          :value="cue.gain"
          :min="GAINS.least"
          :max="GAINS.most"
          :step="0.5"
          :precision="1"
          aria-label="Gain of the cue, dB"
          class="number"
          @set="(gain) => (several ? hands.gain(gain - cue!.gain) : hands.set('Gain of', { gain }))"
        />
        dB</label
      >
      <label
        >Fades
        <NumberBox
          v-for="(name, side) in fades"
          :key="side"
          :value="Math.round(cue[side] * 1000)"
          :min="0"
          :max="600000"
          :aria-label="`${name} of the cue, ms`"
          class="number"
          @set="(ms) => hands.fade(side, ms / 1000)"
        />
        ms</label
      >
      <PopPanel placement="bottomLeft">
        <template #panel><PlaceField /></template>
        <Button size="small">Place …</Button>
      </PopPanel>
      <PopPanel placement="bottomLeft">
        <template #panel>
          <div class="shape" role="group" aria-label="Shape">
            <ShapeFields :shape="shape" :channels="channels" @set="(change) => hands.shape(change)" />
            <label for="cue-form">Fades run</label>
            <Select
              id="cue-form"
              class="wide"
              size="small"
              :value="cue.shape?.fade ?? 'straight'"
              :options="forms"
              aria-label="Form of the fades"
              @change="(fade) => hands.shape({ fade: fade as FadeForm })"
            />
            <label for="cue-colour">Colour</label>
            <ColourPick id="cue-colour" class="wide" :value="cue.colour" label="Colour of the cue" @set="(colour) => hands.set('Colour of', { colour })" />
          </div>
        </template>
        <Button size="small">Shape …</Button>
      </PopPanel>
      <Tooltip :title="withKey('Silent, and kept', 'Mute the cue')"
        ><Button size="small" :aria-pressed="cue.mute" @click="hands.mute()">{{ cue.mute ? 'Unmute' : 'Mute' }}</Button></Tooltip
      >
      <Tooltip :title="withKey('It stays as it is', 'Lock or unlock the cue')"
        ><Button size="small" :aria-pressed="cue.locked === true" @click="hands.lock()">{{ cue.locked ? 'Unlock' : 'Lock' }}</Button></Tooltip
      >
      <Tooltip title="A build with what is selected for its layers, each as it stands here"><Button size="small" @click="build">Build from it</Button></Tooltip>
      <Tooltip :title="withKey('Out of the scene', 'Remove the cue')"><Button size="small" @click="hands.remove()">Remove</Button></Tooltip>
    </template>
    <template v-else-if="scene.comparing">
      <span
        >You see and hear <strong>{{ scene.comparing.name }}</strong>; nothing can be changed meanwhile.</span
      >
      <Tooltip :title="withKey('The scene as it is', 'Hear the version, or now')"
        ><Button size="small" type="primary" @click="compare(undefined)">Go back to now</Button></Tooltip
      >
    </template>
    <span v-else class="mute">No cue is selected. Drag a cue to move it, its edges to trim it, its corners to fade it; draw a box to select several.</span>
    <span class="push" />
    <Tooltip title="What is dragged lands on frames, anchors and edges; Shift holds that off"
      ><Checkbox v-model:checked="hands.snapping">Snap</Checkbox></Tooltip
    >
  </div>
</template>

<style scoped>
.line {
  min-height: 38px;
  flex-wrap: wrap;
  padding: 4px 14px;
  border-top: 1px solid var(--line);
  font-size: 13px;
  white-space: nowrap;
}
.name {
  max-width: 200px;
}
label {
  display: flex;
  align-items: center;
  gap: 6px;
}
.number {
  width: 66px;
}
.shape {
  display: grid;
  grid-template-columns: 76px 160px 150px;
  gap: 8px 12px;
  align-items: center;
}
.shape :deep(.ant-input-number-group-wrapper) {
  width: 100%;
}
.wide {
  grid-column: 2 / -1;
}
</style>
