<script setup lang="ts">
import { MAIN } from '@core/engine';
import { treeOf } from '@core/scene';
import { Button, Checkbox, Tooltip } from 'ant-design-vue';
import { computed, onMounted, onUnmounted } from 'vue';
import { useCommands, withKey } from '../shared/controls/commands';
import { useCurves } from '../stores/curves';
import { useMix } from '../stores/mix';
import { useScene } from '../stores/scene';
import EffectPanel from '../shared/mix/EffectPanel.vue';
import ControllersPanel from './ControllersPanel.vue';
import MixRow from './MixRow.vue';

/** All lines of the scene as they flow into one another. */
const mix = useMix();
const scene = useScene();
const curves = useCurves();
const rows = computed(() => treeOf(scene.lines));
onMounted(() => (mix.watching = true));
onUnmounted(() => (mix.watching = false));
const chosenOn = (lineId: number) => (mix.chosen?.lineId === lineId ? mix.chosen : undefined);

useCommands('The scene', [
  {
    label: 'Hear the scene with or without the chosen effect',
    keys: ['Shift+q'],
    run: () => mix.chosen && void mix.flip(mix.chosen),
    enabled: () => !!mix.chosen,
  },
  { label: 'Record what hands do, or not', keys: ['Shift+r'], run: () => (curves.recording = !curves.recording) },
  { label: 'Add a bus', keys: ['Shift+b'], run: () => void mix.addBus() },
]);
</script>

<template>
  <section class="mix" aria-label="Mix">
    <div class="lines" role="list" aria-label="Lines">
      <div class="head mute" aria-hidden="true">
        <span>Flows into</span><span /><span>Level, and the highest of three seconds</span><span>Gain</span><span>Place</span><span>Effect line</span>
      </div>
      <MixRow :depth="0" />
      <div v-if="chosenOn(MAIN)" role="listitem" class="opened"><EffectPanel :effect="chosenOn(MAIN)!" /></div>
      <template v-for="{ track, depth } in rows" :key="track.id">
        <MixRow :track="track" :depth="depth + 1" />
        <div v-if="chosenOn(track.id)" role="listitem" class="opened"><EffectPanel :effect="chosenOn(track.id)!" /></div>
      </template>
    </div>
    <div class="tools foot">
      <Button size="small" @click="scene.addTrack()">Add a track</Button>
      <Button size="small" @click="mix.addBus()">Add a bus</Button>
      <Tooltip
        :title="
          withKey(
            'While the scene runs, gains, places and values of effects follow your hand from then on; on stop it becomes a curve',
            'Record what hands do, or not',
          )
        "
        ><Checkbox v-model:checked="curves.recording">Record what hands do</Checkbox></Tooltip
      >
      <ControllersPanel />
    </div>
  </section>
</template>

<style scoped>
.mix {
  min-height: 0;
  overflow-y: auto;
  border-top: 1px solid var(--line);
}
.lines {
  display: grid;
  grid-template-columns: minmax(150px, 210px) 56px minmax(120px, 300px) 74px 84px minmax(200px, 1fr);
  column-gap: 12px;
  padding-left: 14px;
}
.head {
  display: grid;
  grid-template-columns: subgrid;
  grid-column: 1 / -1;
  padding: 6px;
  border-bottom: 1px solid var(--line);
  font-size: 12px;
}
.opened {
  grid-column: 1 / -1;
  margin-left: -14px;
}
.foot {
  padding: 10px 20px;
}
</style>
