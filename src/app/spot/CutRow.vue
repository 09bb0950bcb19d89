<script setup lang="ts">
import { sampleToFrame, timecodeAt } from '@core/scene';
import { placeOf, type Sight } from '@core/timeline';
import { RATE } from '@platform/index';
import { computed } from 'vue';
import { useCuts, type SceneCut } from '../stores/cuts';
import { useScene } from '../stores/scene';
import { useTransport } from '../stores/transport';

/** The cuts of the picture over its film: the more changes there, the fuller the mark. A click goes there. */
const props = defineProps<{ sight: Sight }>();
const scene = useScene();
const transport = useTransport();
const cuts = useCuts();
/** Marks that are nearer to one another than this are one. Pixels */
const NEAR = 5;

const inSight = computed(() => {
  let last = -Infinity;
  return cuts.cuts
    .map((cut) => ({ cut, x: placeOf(props.sight, cut.at) }))
    .filter(({ x }) => {
      if (x < -10 || x > props.sight.width + 10 || x - last < NEAR) return false;
      last = x;
      return true;
    });
});
function say({ kind, at, name: called }: SceneCut): string {
  const name = `${kind === 'cut' ? 'Cut' : 'Dissolve'}${called ? ` to ${called}` : ''}`;
  return scene.current ? `${name} at ${timecodeAt(scene.current, sampleToFrame(at, scene.rate, RATE))}` : name;
}
</script>

<template>
  <div role="group" aria-label="Cuts of the picture">
    <button
      v-for="{ cut, x } in inSight"
      :key="cut.at"
      :aria-label="say(cut)"
      :title="say(cut)"
      :class="cut.kind"
      :style="{ left: `${x}px`, '--full': 0.35 + 0.65 * Math.min(1, cut.strength * 3) }"
      @click.stop="transport.seek(cut.at)"
    />
  </div>
</template>

<style scoped>
button {
  position: absolute;
  z-index: 2;
  top: 21px;
  width: 9px;
  height: 9px;
  padding: 0;
  border: 1px solid var(--bone);
  background: color-mix(in srgb, var(--bone) calc(var(--full) * 100%), var(--deep));
  transform: translateX(-4.5px) rotate(45deg);
  cursor: pointer;
}
.dissolve {
  border-style: dashed;
}
button::after {
  content: '';
  position: absolute;
  inset: -5px;
}
</style>
