<script setup lang="ts">
import { CloseOutlined } from '@ant-design/icons-vue';
import { Button } from 'ant-design-vue';
import { computed } from 'vue';
import { things } from '../shared/controls/format';
import MenuSelect from '../shared/controls/MenuSelect.vue';
import { useCurves } from '../stores/curves';
import { useScene } from '../stores/scene';
import TrackHead from './TrackHead.vue';

/** The heads of the tracks. Apart from the lanes, as these are drawn anew whenever what is in sight moves. */
defineProps<{
  /** Of tracks by their ids, those that were near what is in sight so far: of the others there is the name alone. */ near: ReadonlySet<number>;
}>();
const scene = useScene();
const curves = useCurves();
/** Curves of lines that have no lane of their own. */
const offered = computed(() =>
  curves.others.flatMap((line) =>
    curves.of(line).map((curve, i) => {
      const label = `${line.name}: ${curve.name}${curve.points.length > 0 ? `, ${things(curve.points.length, 'point')}` : ''}`;
      return { value: `${line.id} ${i}`, label, title: label };
    }),
  ),
);
function show(picked: string): void {
  const [id, i] = picked.split(' ').map(Number);
  const line = curves.others.find((l) => l.id === id);
  if (line) curves.show(line, curves.of(line)[i]);
}
</script>

<template>
  <div class="heads">
    <div class="ruler" />
    <div class="film mute">Picture</div>
    <div v-for="track in scene.tracks" :key="track.id" class="track">
      <TrackHead v-if="near.has(track.id)" :track="track" />
      <span v-else class="cut far">{{ track.name }}</span>
    </div>
    <div v-for="line in curves.beside" :key="`line ${line.id}`" class="track line">
      <span class="cut">{{ line.name }}</span>
      <Button size="small" type="text" :aria-label="`Put the curve of ${line.name} away`" @click="curves.show(line, undefined)">
        <template #icon><CloseOutlined /></template>
      </Button>
    </div>
    <MenuSelect class="pick" size="small" label="Curve of the main line or a bus" placeholder="Curve of …" :options="offered" @pick="show" />
    <Button type="text" size="small" class="more" @click="scene.addTrack()">Add a track</Button>
  </div>
</template>

<style scoped>
.ruler {
  height: 20px;
}
.film {
  height: 52px;
  border-bottom: 1px solid var(--line);
}
.track {
  height: 44px;
  border-bottom: 1px solid var(--line);
}
.heads {
  border-right: 1px solid var(--line);
  background: var(--deep);
}
.heads .film {
  padding: 10px 14px;
  font-size: 12px;
}
.far {
  display: block;
  padding: 2px 8px 2px 14px;
  font-size: 13px;
}
.line {
  display: flex;
  align-items: center;
  justify-content: space-between;
  padding: 0 8px 0 14px;
  color: var(--mute);
  font-size: 13px;
}
.pick {
  display: block;
  width: 132px;
  margin: 6px 8px 0;
}
.more {
  margin: 4px 6px;
  color: var(--mute);
}
</style>
