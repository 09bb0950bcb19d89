<script setup lang="ts">
import { anchorOf, type Layer } from '@core/build';
import { fadeForms, fullShape, type FadeForm } from '@core/audio';
import type { Scene } from '@core/scene';
import { RATE } from '@platform/index';
import { Button, Select, Tooltip } from 'ant-design-vue';
import { computed } from 'vue';
import { withKey } from '../shared/controls/commands';
import { capital } from '../shared/controls/format';
import NumberBox from '../shared/controls/NumberBox.vue';
import PopPanel from '../shared/controls/PopPanel.vue';
import PlaceDot from '../shared/mix/PlaceDot.vue';
import ShapeFields from '../shared/sound/ShapeFields.vue';
import SoundPick from '../shared/sound/SoundPick.vue';
import { useBuilds } from '../stores/builds';
import { useHands } from '../stores/hands';
import { useLibrary } from '../stores/library';
import { useScene } from '../stores/scene';
import { turnTrack } from '../stores/tracks';
import { useTrials } from '../stores/trials';
import LayerKeys from './LayerKeys.vue';
import LayerWave from './LayerWave.vue';

/** An opened layer: its sound with the part that is played, and all that is done to it before it meets its effects. */
const props = defineProps<{ build: Scene; layer: Layer }>();
const emit = defineEmits<{ step: [by: 1 | -1] }>();
const builds = useBuilds();
const hands = useHands();
const scene = useScene();
const library = useLibrary();
const trials = useTrials();

const cue = computed(() => props.layer.cues.find((c) => c.id === scene.cueId) ?? props.layer.cues[0]);
const sound = computed(() => library.sounds.get(cue.value.soundId));
const shape = computed(() => fullShape(cue.value.shape));
const late = computed(() => ((cue.value.at - anchorOf(props.build)) / RATE) * 1000);
const forms = fadeForms.map((value) => ({ value, label: capital(value) }));
const fades = { fadeIn: 'Fade-in', fadeOut: 'Fade-out' } as const;
</script>

<template>
  <div class="panel" role="group" :aria-label="`Layer ${layer.track.name}`">
    <LayerWave v-if="sound" :sound="sound" :cue="cue" />
    <p v-else class="mute">Its sound is not in the library any more.</p>
    <div class="tools line">
      <label :data-moves="`layer ${layer.track.id} later`"
        >Later by
        <NumberBox
          :value="Math.round(late * 1000) / 1000"
          :min="-60000"
          :max="60000"
          unit="ms"
          aria-label="Later by, ms"
          class="wide"
          @set="(ms) => builds.offset(layer, ms)"
      /></label>
      <PopPanel placement="bottomLeft">
        <template #panel>
          <div class="shape" role="group" aria-label="Shape of the layer">
            <ShapeFields :shape="shape" :channels="sound?.format.channels ?? 2" @set="(change) => hands.shape(change)" />
          </div>
        </template>
        <Button :data-moves="`layer ${layer.track.id} pitch`" title="Point at it and press V to leave the pitch to chance" size="small"
          >Direction, pitch and channels …</Button
        >
      </PopPanel>
      <label
        >Fades
        <NumberBox
          v-for="(name, side) in fades"
          :key="side"
          :value="Math.round(cue[side] * 1000)"
          :min="0"
          :max="600000"
          :aria-label="`${name} of the layer, ms`"
          class="number"
          @set="(ms) => hands.fade(side, ms / 1000)"
        />
        ms</label
      >
      <Select
        size="small"
        :value="cue.shape?.fade ?? 'straight'"
        :options="forms"
        aria-label="Form of the fades"
        class="form"
        @change="(fade) => hands.shape({ fade: fade as FadeForm })"
      />
      <label :data-moves="`line ${layer.track.id} place`"
        >Place <PlaceDot :place="layer.track.place ?? 0" :gain="layer.track.gain" :name="layer.track.name" @set="(place) => turnTrack(layer.track, { place })"
      /></label>
      <LayerKeys :layer="layer" />
    </div>
    <div class="tools line">
      <Tooltip :title="withKey('The one before in its place', 'The sound before in its place')"
        ><Button size="small" aria-label="The sound before in its place" @click="emit('step', -1)">‹</Button></Tooltip
      >
      <Tooltip :title="withKey('Another one in its place, with its anchor on the line', 'Another sound in its place')"
        ><Button size="small" aria-label="Another sound in its place" @click="emit('step', 1)">›</Button></Tooltip
      >
      <template v-if="trials.trying">
        <span class="mute"
          >trying <strong>{{ cue.name }}</strong></span
        >
        <Button size="small" type="primary" @click="trials.keep()">Keep it</Button>
        <Button size="small" @click="trials.drop()">Back to what was there</Button>
      </template>
      <template v-else>
        <SoundPick
          label="Another sound for this layer"
          :sound="sound"
          placeholder="Type words of a sound"
          @pick="(s) => trials.tryOut(new Map([[cue.id, s]]))"
        />
        <SoundPick
          label="A further sound, of which strokes take turns"
          placeholder="Add one that strokes take turns with"
          @pick="(s) => builds.addTo(layer, [s])"
        />
      </template>
    </div>
    <ul v-if="layer.cues.length > 1" class="sounds" aria-label="Sounds of the layer">
      <li v-for="(own, i) in layer.cues" :key="own.id">
        <button class="plain" :aria-pressed="own.id === cue.id" @click="scene.select(own.id)">{{ own.name }}</button>
        <span v-if="i === 0" class="mute small">heard first</span>
        <Button v-else type="link" size="small" @click="builds.hearFirst(layer, own)">Hear it first</Button>
        <Button type="link" size="small" danger :aria-label="`Take ${own.name} out of the layer`" @click="builds.takeOut(layer, own)">Take out</Button>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.panel {
  display: grid;
  grid-column: 1 / -1;
  gap: 8px;
  padding: 8px 16px 10px 20px;
  border-bottom: 1px solid var(--line);
  background: var(--raft);
  box-shadow: inset 3px 0 0 var(--sky);
}
.line {
  flex-wrap: wrap;
  row-gap: 6px;
}
label {
  display: flex;
  gap: 6px;
  align-items: center;
  white-space: nowrap;
}
.wide {
  width: 130px;
}
.number {
  width: 70px;
}
.form {
  width: 118px;
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
.sounds {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.sounds [aria-pressed='true'] {
  font-weight: 650;
}
</style>
