<script setup lang="ts">
import { Button } from 'ant-design-vue';
import { ref, watchEffect } from 'vue';
import { useScene } from '../stores/scene';
import TrackHead from './TrackHead.vue';

/** The heads of the tracks. Apart from the lanes, as these are drawn anew whenever what is in sight moves. */
const scene = useScene();
/** So many heads are there at once; the others follow, a few with each frame, so that a large scene opens at once. */
const ready = ref(10);
watchEffect(() => {
  if (ready.value < scene.tracks.length) requestAnimationFrame(() => (ready.value += 4));
});
</script>

<template>
  <div class="heads">
    <div class="ruler" />
    <div class="film mute">Picture</div>
    <div v-for="(track, i) in scene.tracks" :key="track.id" class="track">
      <TrackHead v-if="i < ready" :track="track" />
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
.more {
  margin: 4px 6px;
  color: var(--mute);
}
</style>
