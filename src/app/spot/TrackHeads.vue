<script setup lang="ts">
import { Button } from 'ant-design-vue';
import { useScene } from '../stores/scene';
import TrackHead from './TrackHead.vue';

/** The heads of the tracks. Apart from the lanes, as these are drawn anew whenever what is in sight moves. */
defineProps<{
  /** Of tracks by their ids, those that were near what is in sight so far: of the others there is the name alone. */ near: ReadonlySet<number>;
}>();
const scene = useScene();
</script>

<template>
  <div class="heads">
    <div class="ruler" />
    <div class="film mute">Picture</div>
    <div v-for="track in scene.tracks" :key="track.id" class="track">
      <TrackHead v-if="near.has(track.id)" :track="track" />
      <span v-else class="cut far">{{ track.name }}</span>
    </div>
    <Button type="text" size="small" class="more" @click="scene.addTrack()">Add a track</Button>
  </div>
</template>

<style scoped>
.ruler {
  height: 20px;
}
.film {
  height: 40px;
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
.more {
  margin: 4px 6px;
  color: var(--mute);
}
</style>
