<script setup lang="ts">
import { Button, Progress } from 'ant-design-vue';
import OutcomeAlert from '../controls/OutcomeAlert.vue';
import { useTeam } from '../../stores/team';

/** What is under way with the team's server, and what came of it. */
const team = useTeam();
</script>

<template>
  <div v-if="team.work" class="work" role="status">
    <span class="mute">{{ team.work.what }}</span>
    <Progress :percent="Math.floor(100 * team.work.share)" size="small" class="share" :aria-label="team.work.what" />
    <bdi class="mute small cut">{{ team.work.current }}</bdi>
    <Button size="small" :disabled="team.work.ending" @click="team.end()">{{ team.work.ending ? 'Ending' : 'Cancel' }}</Button>
  </div>
  <OutcomeAlert v-else-if="team.outcome" :message="team.outcome.message" :failed="team.outcome.left" />
</template>

<style scoped>
.work {
  display: flex;
  gap: 10px;
  align-items: center;
}
.share {
  flex: 0 0 200px;
  margin: 0;
}
.work > .cut {
  flex: 1;
}
</style>
