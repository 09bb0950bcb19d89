<script setup lang="ts">
import { Button } from 'ant-design-vue';
import { useScene } from '../stores/scene';

/** Nothing to deliver yet. */
const scene = useScene();
</script>

<template>
  <div class="empty">
    <strong>{{ scene.current ? 'The scene has no cues yet' : 'There is no scene yet' }}</strong>
    <span>Spot sounds first; then the mix, the edit list, the timeline and the credits are made here.</span>
    <RouterLink to="/spot"><Button type="primary">Go to Spot</Button></RouterLink>
  </div>
</template>
