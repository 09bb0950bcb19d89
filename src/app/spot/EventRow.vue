<script setup lang="ts">
import { sampleToFrame, timecodeAt } from '@core/scene';
import { placeOf, type Sight } from '@core/timeline';
import { RATE } from '@platform/index';
import { computed } from 'vue';
import { usePictureEvents, type SceneEvent } from '../stores/events';
import { useScene } from '../stores/scene';
import { useTransport } from '../stores/transport';

/** The events of the picture over its film, cuts larger than movement: the stronger, the fuller the mark. A click goes there. */
const props = defineProps<{ sight: Sight }>();
const scene = useScene();
const transport = useTransport();
const events = usePictureEvents();
/** Marks that are nearer to one another than this are one. Pixels */
const NEAR = 5;

const isCut = ({ kind }: SceneEvent) => kind === 'cut' || kind === 'dissolve';
const inSight = computed(() => {
  const shown: { event: SceneEvent; x: number }[] = [];
  for (const event of events.events) {
    const x = placeOf(props.sight, event.at);
    if (x < -10 || x > props.sight.width + 10) continue;
    const last = shown.at(-1);
    if (!last || x - last.x >= NEAR) shown.push({ event, x });
    // Of those in one place a cut is what is seen, else the strongest.
    else if (isCut(event) ? !isCut(last.event) : !isCut(last.event) && event.strength > last.event.strength) shown[shown.length - 1] = { event, x };
  }
  return shown;
});
/** Where in the picture something is, in words. */
function placeInWords({ x, y }: { x: number; y: number }): string {
  const across = x < 0.36 ? 'left' : x > 0.64 ? 'right' : '';
  const down = y < 0.36 ? 'upper' : y > 0.64 ? 'lower' : '';
  return [down, across].filter(Boolean).join(' ') || 'middle';
}
const kinds = { cut: 'Cut', dissolve: 'Dissolve', peak: 'Movement sets in', stop: 'Movement rests' };
function say({ kind, at, name: called, place, strength }: SceneEvent): string {
  const where = place ? `, ${placeInWords(place)}` : '';
  const name = `${kinds[kind]}${called ? ` to ${called}` : ''}${where}`;
  const when = scene.current ? ` at ${timecodeAt(scene.current, sampleToFrame(at, scene.rate, RATE))}` : '';
  return `${name}${when}${place ? `, strength ${Math.round(100 * strength)} %` : ''}`;
}
const full = (event: SceneEvent) => (isCut(event) ? 0.35 + 0.65 * Math.min(1, event.strength * 3) : Math.max(0.2, 2 * event.strength - 0.6));
</script>

<template>
  <div role="group" aria-label="Events of the picture">
    <button
      v-for="{ event, x } in inSight"
      :key="`${event.kind} ${event.at}`"
      :aria-label="say(event)"
      :title="say(event)"
      :class="event.kind"
      :style="{ left: `${x}px`, '--full': full(event) }"
      @click.stop="transport.seek(event.at)"
    />
  </div>
</template>

<style scoped>
button {
  --size: 9px;
  position: absolute;
  z-index: 2;
  top: 25.5px;
  width: var(--size);
  height: var(--size);
  padding: 0;
  border: 1px solid var(--sky);
  background: color-mix(in srgb, var(--sky) calc(var(--full) * 100%), var(--deep));
  transform: translate(-50%, -50%) rotate(45deg);
  cursor: pointer;
}
.dissolve {
  border-style: dashed;
}
.peak,
.stop {
  --size: 6px;
}
/* What stops is hollow. */
.stop {
  background: var(--deep);
}
button::after {
  content: '';
  position: absolute;
  inset: -5px;
}
</style>
